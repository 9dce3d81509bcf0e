"""The material document, before the official validator of its standard."""

import json
import shutil
import subprocess
from pathlib import Path

import numpy as np
import pytest

from copper_sieve.files import encode
from copper_sieve.files.documents import gltf_document

WEB = Path(__file__).parents[2] / "web"
VALIDATE = """
const { validateBytes } = require("gltf-validator");
const fs = require("fs"), path = require("path"), file = process.argv[1];
const bytes = (name) => new Uint8Array(fs.readFileSync(path.join(path.dirname(file), name)));
const externalResourceFunction = async (uri) => bytes(decodeURIComponent(uri));
validateBytes(bytes(path.basename(file)), { uri: path.basename(file), externalResourceFunction })
  .then((report) => console.log(JSON.stringify(report)), (problem) => { console.error(problem); process.exit(1); });
"""
SLOTS = ("baseColorTexture", "metallicRoughnessTexture", "normalTexture", "occlusionTexture", "emissiveTexture")


@pytest.mark.parametrize(("slots", "cut_out", "strength"), [(SLOTS, True, 4.0), (SLOTS[:1], False, 1.0), (SLOTS[:4], False, 1.0)])
def test_the_validator_finds_nothing(tmp_path, slots, cut_out, strength):
    names = {slot: f"Étoffe à carreaux_{slot}.png" for slot in slots}
    for name in names.values():
        (tmp_path / name).write_bytes(encode(np.full((32, 64, 4), 128, np.uint8), "png"))
    path = tmp_path / "Étoffe.gltf"
    path.write_bytes(gltf_document(name="Étoffe", images=names, aspect=0.5, cut_out=cut_out, emissive_strength=strength))
    run = subprocess.run([shutil.which("node"), "-e", VALIDATE, str(path)], cwd=WEB, capture_output=True, text=True)
    assert run.returncode == 0, run.stderr
    report = json.loads(run.stdout)
    assert report["issues"]["messages"] == []
    assert len(report["info"]["resources"]) == len(slots) + 1  # every image was opened, and the plane's buffer
