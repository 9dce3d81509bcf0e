"""Meshes over HTTP: checked as in the terminal, handed back as the screen draws them, refused with a word."""

from dataclasses import replace

import numpy as np

from asking import RAW
from copper_sieve.core.mesh.tangents import tangents, unlike_degrees
from copper_sieve.files.meshes import glb_of, mesh_from, obj_document
from shapes import box, torus


def bring(client, name: str, content: bytes, px: int = 2048):
    return client.post("/api/meshes", params={"name": name, "px": px}, content=content, headers=RAW)


def test_a_mesh_is_checked_and_each_material_handed_back_with_tangents(client):
    clasp = replace(box(), material=np.int32([0, 0, 1, 1, 1, 1]), materials=("Messing", "linen"), parts=("clasp_low",))
    answer = bring(client, "Schließe 1.obj", obj_document(clasp), px=64)
    assert answer.status_code == 201
    look = answer.json()
    assert look["materials"] == [{"name": "Messing", "triangles": 4}, {"name": "linen", "triangles": 8}]
    found = {one["id"]: one for one in look["findings"]}
    assert {"mesh-polygons", "mesh-margin"} <= found.keys() and found["mesh-margin"]["where"]
    path, name = f"/api/meshes/{look['sha256']}", look["name"]
    worn = mesh_from(client.get(f"{path}/worn", params={"name": name, "material": 1}).content, "worn.glb").shape
    assert len(worn.triangles) == 8
    assert unlike_degrees(worn.given_tangents[worn.triangles], tangents(worn)).max() < 0.01
    borders = client.get(f"{path}/borders", params={"name": name, "material": 0}).json()
    assert len(borders) == 8 and all(0 <= share <= 1 for piece in borders for share in piece)
    first = np.array(borders)[:, [0, 2]].min()
    assert abs(first - box().uv[:8, 0].min()) < 1e-4
    assert client.get(f"{path}/worn", params={"name": name, "material": 7}).status_code == 422


def test_a_mesh_without_uv_is_worn_all_the_same(client):
    look = bring(client, "bare.obj", obj_document(replace(torus(8, 6), uv=None))).json()
    assert not look["has_uv"] and look["findings"][0]["id"] == "mesh-no-uv"
    path = f"/api/meshes/{look['sha256']}"
    assert mesh_from(client.get(f"{path}/worn", params={"name": "bare.obj"}).content, "worn.glb").shape.uv is None
    assert client.get(f"{path}/borders", params={"name": "bare.obj"}).json() == []


def test_what_is_no_mesh_is_refused_and_not_kept(client):
    answer = bring(client, "cut off.glb", glb_of(box())[:-30])
    assert answer.status_code == 422 and answer.json()["code"] == "mesh-invalid" and "was cut off" in answer.json()["detail"]
    assert bring(client, "a.fbx", b"?").json()["detail"].startswith("a.fbx is of no format")
    assert client.get("/api/meshes/" + "0" * 64 + "/worn", params={"name": "a.obj"}).status_code == 404
