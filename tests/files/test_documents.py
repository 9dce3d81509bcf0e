"""Material documents before the official tools of their standards, and the numbers that come out at their far end."""

import json
import shutil
import subprocess
from functools import cache
from pathlib import Path

import cv2
import MaterialX
import numpy as np
import OpenEXR
import pytest
from pxr import Sdf, Usd, UsdShade, UsdValidation

from copper_sieve.core.errors import TargetInvalid
from copper_sieve.core.recipe import Cache, Evaluation, Facts, Recipe, Source, TileFile, source_ref
from copper_sieve.core.target import Target, offered_documents, read_target, write_target
from copper_sieve.targets import shipped_target, shipped_targets
from copper_sieve.work import deliver, plan_delivery

WEB = Path(__file__).parents[2] / "web"
VALIDATE = """
const { validateBytes } = require("gltf-validator");
const fs = require("fs"), path = require("path"), file = process.argv[1];
const bytes = (name) => new Uint8Array(fs.readFileSync(path.join(path.dirname(file), name)));
const externalResourceFunction = async (uri) => bytes(decodeURIComponent(uri));
validateBytes(bytes(path.basename(file)), { uri: path.basename(file), externalResourceFunction })
  .then((report) => console.log(JSON.stringify(report)), (problem) => { console.error(problem); process.exit(1); });
"""
NAME = "Étoffe à carreaux"
FACTS = Facts(width=64, height=32, tile_size=0.4, rise=0.03, emissive_strength=4.0)
GREEN = {"normal": "up"}
COLORS, GRAYS = ("base_color", "emissive", "normal"), ("opacity", "metallic", "roughness", "occlusion", "height", "reflectance")
OWN = ("own_coat", "own_coat_roughness", "own_transmission", "own_sheen")
CODES = {
    key: np.random.default_rng(k).integers(30, 220, (32, 64, 3) if key in COLORS else (32, 64)).astype(np.uint8)
    for k, key in enumerate((*COLORS, *GRAYS, *OWN))
}


def delivered(folder: Path, target: Target, keys=tuple(CODES), worn=None, meshes=None, tiles=()) -> Path:
    """The document of a set with these masters, its files beside it; in tiles, all of which hold the same."""
    sources = {
        key: Source(
            sha256=f"{k:064x}", name=key, width=64, height=32, reads={"RGB" if key in COLORS else "L": key}, green=GREEN.get(key)
        )
        for k, key in enumerate(keys)
    }
    if tiles:
        sources = {
            key: source.model_copy(update={"tile": tiles[0], "beside": dict.fromkeys(tiles[1:], file_of(source))})
            for key, source in sources.items()
        }
    recipe = Recipe(facts=FACTS, sources=sources, masters={key: source_ref(key, key) for key in keys}, worn=worn)
    evaluation = Evaluation(recipe, None, lambda source: CODES[source.name], Cache(1 << 26), meshes=meshes)
    plan = plan_delivery(evaluation, target, NAME)
    deliver(evaluation, target, plan, folder)
    return folder / next(file.name for file in plan.files if file.kind == "document")


def file_of(source: Source) -> TileFile:
    return TileFile.model_validate({name: getattr(source, name) for name in TileFile.model_fields})


def changed(key: str, **fields: str) -> Target:
    """A shipped target as text, with some of it replaced."""
    text = write_target(shipped_target(key))
    for before, after in fields.values():
        assert before in text
        text = text.replace(before, after)
    return read_target(text)


def gltf_report(path: Path) -> dict:
    """What the official validator says of a file."""
    command = [shutil.which("node"), "-e", VALIDATE, str(path)]
    run = subprocess.run(command, cwd=WEB, capture_output=True, text=True)
    assert run.returncode == 0, run.stderr
    return json.loads(run.stdout)


def refuse_invalid(folder: Path) -> None:
    """Every document of a folder before the official tool of its standard."""
    for path in folder.iterdir():
        if path.suffix in (".gltf", ".glb"):
            assert [m for m in gltf_report(path)["issues"]["messages"] if m["severity"] < 2] == []  # errors and warnings
        elif path.suffix == ".mtlx":
            document = MaterialX.createDocument()
            MaterialX.readFromXmlFile(document, str(path))
            document.setDataLibrary(library())
            assert document.validate() == (True, "")
        elif path.suffix == ".usda":
            validators = UsdValidation.ValidationRegistry().GetOrLoadAllValidators()
            faults = UsdValidation.ValidationContext(validators).Validate(Usd.Stage.Open(str(path)))
            assert [fault.GetErrorAsString() for fault in faults] == []


def with_every_document(key: str) -> Target:
    """A shipped target that writes all the documents that its files can feed."""
    table = shipped_target(key).model_dump(mode="json", by_alias=True)
    table["documents"] = [document.model_dump(mode="json") for document in offered_documents(shipped_target(key))]
    return Target.model_validate(table)


@pytest.mark.parametrize("key", [key for key, target in shipped_targets().items() if offered_documents(target)])
def test_what_a_target_is_offered_can_be_added_as_it_is_and_is_valid(tmp_path, key):
    shipped = shipped_target(key)
    offered = offered_documents(shipped)
    carried = tuple(master for master in shipped.masters() if master in CODES)
    folder = delivered(tmp_path / "out", with_every_document(key), carried).parent
    refuse_invalid(folder)
    assert {document.kind for document in offered} <= {"gltf", "glb", "materialx", "usd", "obj", "mtl"}


@pytest.mark.parametrize("keys", [tuple(CODES), ("base_color",), ("base_color", "roughness", "normal", "opacity")])
def test_the_validator_of_gltf_finds_nothing(tmp_path, keys):
    path = delivered(tmp_path / "out", shipped_target("gltf"), keys)
    for suffix in (".gltf", ".glb"):
        report = gltf_report(path.with_suffix(suffix))
        assert report["issues"]["messages"] == []
        images = len(list(path.parent.glob("*.png")))
        assert len(report["info"]["resources"]) == images + 1  # every image was read, and the plane's buffer
    extensions = json.loads(path.read_bytes()).get("extensionsUsed", [])
    wanted = ["emissive_strength", "ior", "specular", "clearcoat", "transmission"] if keys == tuple(CODES) else []
    assert extensions == [f"KHR_materials_{name}" for name in wanted]


@cache
def library() -> MaterialX.Document:
    document = MaterialX.createDocument()
    MaterialX.loadLibraries(MaterialX.getDefaultDataLibraryFolders(), MaterialX.getDefaultDataSearchPath(), document)
    return document


TURNED = {"green": ('green = "up"', 'green = "down"')}
PACKED = {
    "roughness": (
        'L = {quantity = "roughness"}',
        """R = { quantity = "metallic" }
G = { quantity = "roughness", invert = true }
B = { quantity = "occlusion", range = [0.25, 1.0] }
A = { quantity = "opacity", range = [0.1, 0.9] }""",
    ),
}


def of_files(folder: Path, name: str, *, is_color: bool) -> np.ndarray:
    """(H, W, C) of a file as a renderer samples it: 0 to 1, linear."""
    if name.endswith(".exr"):
        return next(iter(OpenEXR.File(str(folder / name)).channels().values())).pixels[..., None].astype(np.float64)
    codes = cv2.imread(str(folder / name), cv2.IMREAD_UNCHANGED)
    codes = codes[..., None] if codes.ndim == 2 else codes[..., [2, 1, 0, 3][: codes.shape[2]]]
    values = codes / np.iinfo(codes.dtype).max
    return np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4) if is_color else values


def wanted(quantity: str) -> np.ndarray:
    """What an input must get, from the codes of the set."""
    unit = CODES[quantity] / 255
    if quantity in ("base_color", "emissive"):
        return np.where(unit <= 0.04045, unit / 12.92, ((unit + 0.055) / 1.055) ** 2.4)
    return {"normal": unit * 2 - 1, "height": (unit - 0.5) * 0.03 * 0.4, "reflectance": unit * 0.16}.get(quantity, unit)


MATERIALX_INPUTS = {
    "base_color": "base_color",
    "base_metalness": "metallic",
    "specular_roughness": "roughness",
    "emission_color": "emissive",
    "geometry_opacity": "opacity",
    "geometry_normal": "normal",
    "specular_ior": "reflectance",
    "displacement": "height",
    "coat_weight": "own_coat",
    "coat_roughness": "own_coat_roughness",
    "transmission_weight": "own_transmission",
    "fuzz_weight": "own_sheen",
}


def graph_values(folder: Path, graph: MaterialX.NodeGraph, name: str) -> np.ndarray:
    """What a node of the graph gives, by the specification of each kind of node."""
    node = graph.getNode(name)

    def fed(key: str) -> np.ndarray:
        found = node.getInput(key)
        if found.getNodeName():
            return graph_values(folder, graph, found.getNodeName())
        return np.array([float(v) for v in found.getValueString().split(",")])

    match node.getCategory():
        case "tiledimage":
            file = node.getInput("file")
            return of_files(folder, file.getValueString(), is_color=file.getColorSpace() == "srgb_texture")
        case "extract":
            return fed("in")[..., [int(node.getInput("index").getValueString())]]
        case "convert":
            return fed("in")[..., :3]
        case "multiply":
            return fed("in1") * fed("in2")
        case "add":
            return fed("in1") + fed("in2")
        case "subtract":
            return fed("in1") - fed("in2")
        case "divide":
            return fed("in1") / fed("in2")
        case "sqrt":
            return np.sqrt(fed("in"))
        case "normalmap":
            return fed("in") * 2 - 1
    raise AssertionError(node.getCategory())


@pytest.mark.parametrize("change", [{}, PACKED | TURNED])
def test_materialx_is_valid_and_its_graph_gives_the_masters(tmp_path, change):
    path = delivered(tmp_path / "out", changed("materialx", **change))
    document = MaterialX.createDocument()
    MaterialX.readFromXmlFile(document, str(path))
    document.setDataLibrary(library())
    assert document.validate() == (True, "")
    graph, surface = document.getNodeGraph("images"), document.getNode("surface")
    for output in graph.getOutputs():
        values = graph_values(path.parent, graph, output.getNodeName())
        quantity = MATERIALX_INPUTS[output.getName()]
        expected = wanted(quantity)
        if quantity == "reflectance":
            expected = (1 + np.sqrt(expected)) / (1 - np.sqrt(expected))
        if quantity == "height":
            values = values * float(document.getNode("relief").getInput("scale").getValueString())
        else:
            assert surface.getInput(output.getName()).getConnectedOutput().getName() == output.getName()
        np.testing.assert_allclose(values.squeeze(), expected, atol=0.008, err_msg=quantity)
    assert len(graph.getOutputs()) == len(MATERIALX_INPUTS)
    assert float(surface.getInput("emission_luminance").getValueString()) == 4


USD_INPUTS = {
    "diffuseColor": "base_color",
    "metallic": "metallic",
    "roughness": "roughness",
    "opacity": "opacity",
    "normal": "normal",
    "occlusion": "occlusion",
    "displacement": "height",
    "emissiveColor": "emissive",
    "clearcoat": "own_coat",
    "clearcoatRoughness": "own_coat_roughness",
}


@pytest.mark.parametrize("change", [{}, PACKED])
def test_usd_is_valid_and_its_textures_give_the_masters(tmp_path, change):
    path = delivered(tmp_path / "out", changed("usd-preview", **change))
    stage = Usd.Stage.Open(str(path))
    validators = UsdValidation.ValidationRegistry().GetOrLoadAllValidators()
    assert len(validators) > 10
    faults = UsdValidation.ValidationContext(validators).Validate(stage)
    assert [fault.GetErrorAsString() for fault in faults] == []
    surface = UsdShade.Shader(stage.GetPrimAtPath(stage.GetDefaultPrim().GetPath().AppendPath("Material/Surface")))
    for name, quantity in USD_INPUTS.items():
        source, channel, _ = surface.GetInput(name).GetConnectedSource()
        texture = UsdShade.Shader(source.GetPrim())
        space = texture.GetInput("sourceColorSpace").Get()
        asset = texture.GetInput("file").Get()
        assert isinstance(asset, Sdf.AssetPath) and Path(asset.resolvedPath).parent == path.parent
        inputs = {key: (texture.GetInput(key), plain) for key, plain in (("scale", [1] * 4), ("bias", [0] * 4))}
        scale, bias = (np.array(found.Get() if found else plain) for found, plain in inputs.values())
        values = of_files(path.parent, Path(asset.path).name, is_color=space == "sRGB")
        values = values * scale[: values.shape[2]] + bias[: values.shape[2]]
        values = values[..., :3] if channel == "rgb" else values[..., "rgba".index(channel)]
        gain = 4 if quantity == "emissive" else 1
        np.testing.assert_allclose(values, wanted(quantity) * gain, atol=0.008 * gain, err_msg=quantity)


WRONG = {
    "a file that is not there": ('occlusionTexture = "orm"', 'occlusionTexture = "ao"', "must name one of"),
    "an input nobody knows": ('occlusionTexture = "orm"', 'aoTexture = "orm"', "input of gltf must be one of"),
    "channels in another order": ('B = {quantity = "metallic"}', 'B = {quantity = "height"}', "needs B of metallic"),
    "green that points down": ('green = "up"', 'green = "down"', "needs green = 'up'"),
    "a format that the standard does not read": (
        'title = "Normal"\nword = "normal"',
        'title = "Normal"\nword = "normal"',
        "reads png, jpeg",
    ),
}


@pytest.mark.parametrize("case", WRONG)
def test_a_document_that_cannot_be_right_is_refused_with_the_reason(case):
    before, after, reason = WRONG[case]
    text = write_target(shipped_target("gltf"))
    assert before in text
    text = text.replace(before, after)
    if case.startswith("a format"):
        at = text.index('role = "normal"')
        text = text[:at] + text[at:].replace('format = "png"', 'format = "tga"', 1)
    with pytest.raises(TargetInvalid, match=reason):
        read_target(text)
