"""Sets made for a test, in the demo's project."""

from uuid import uuid4

import httpx
import numpy as np

from asking import RAW
from copper_sieve.files import encode

PROJECT = "the-salt-heron-wardrobe"


def make_set(
    server: httpx.Client, name: str, files: dict[str, np.ndarray], green: str | None = None, project: str = PROJECT
) -> dict:
    """A set with a name of its own, from codes by kind."""
    name = f"{name} {uuid4().hex[:6]}"
    entries = []
    for kind, codes in files.items():
        content = encode(codes, "png")
        look = server.post("/originals", params={"name": f"{name}_{kind}.png"}, content=content, headers=RAW).json()
        way = green if kind == "normal" else None
        entries.append({"sha256": look["sha256"], "name": look["name"], "kind": kind, "green": way})
    made = server.post(f"/projects/{project}/sets", json={"name": name, "entries": entries})
    assert made.status_code == 201, made.text
    return made.json()
