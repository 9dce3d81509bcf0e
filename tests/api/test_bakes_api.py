"""Meshes into sets, and bakes behind the screen: from files to a set whose maps come from its mesh."""

import io
import zipfile
from dataclasses import replace

import numpy as np
import pytest

from asking import RAW, ended, eventually
from copper_sieve.core.bake.islands import nearest_shown
from copper_sieve.core.mesh.made import joined
from copper_sieve.core.mesh.tangents import tangents, unlike_degrees
from copper_sieve.core.raster import Size
from copper_sieve.files import encode, read_bytes
from copper_sieve.files.meshes import mesh_from, obj_document
from shapes import box, tiled, torus

PROJECT = "the-salt-heron-wardrobe"


def bring(client, name, shape):
    answer = client.post("/api/meshes", params={"name": name}, content=obj_document(shape), headers=RAW)
    assert answer.status_code == 201, answer.text
    return answer.json()


def offered(look, **told):
    return {key: look[key] for key in ("sha256", "name", "print", "triangles", "materials", "parts")} | told


def wear(client, looks, sets=(), size=64):
    asked = {"meshes": [offered(look) for look in looks], "sets": list(sets)}
    planned = client.post(f"/api/projects/{PROJECT}/wearings/plan", json=asked)
    assert planned.status_code == 200, planned.text
    entries = [{"set_name": row["set_name"], "worn": row["worn"]} for row in planned.json()["sets"]]
    made = client.post(f"/api/projects/{PROJECT}/wearings", json={"sets": entries, "size": size})
    assert made.status_code == 201, made.text
    return planned.json(), made.json()


def baked(client, set_id):
    """The set's bake once it is over."""

    def over():
        found = client.get(f"/api/sets/{set_id}/bake").json()
        return None if found["state"] in ("waiting", "running") else found

    return eventually(over)


def change(client, made, **worn):
    now = client.get(f"/api/sets/{made['id']}").json()
    recipe = now["recipe"] | {"worn": now["recipe"]["worn"] | worn}
    answer = client.put(f"/api/sets/{made['id']}/recipe", json={"expects": now["head"], "recipe": recipe})
    assert answer.status_code == 200, answer.text
    return answer.json()


@pytest.fixture(scope="module")
def ring(client):
    """A set that is worn by a ring, and baked from a finer one."""
    low, high = bring(client, "Ring Ä_low.obj", torus(32, 16)), bring(client, "Ring Ä_high.obj", torus(128, 64, relief=0.02))
    planned, made = wear(client, [low, high])
    assert [row["set_name"] for row in planned["sets"]] == ["Ring Ä"] and planned["sets"][0]["is_new"]
    change(client, made[0], maps=["normal", "height", "occlusion", "curvature", "thickness", "position", "id"], rays=16)
    assert client.post(f"/api/sets/{made[0]['id']}/bakes", json={}).status_code == 202
    return made[0], baked(client, made[0]["id"])


def test_baked_maps_become_sources_of_the_set(client, ring):
    made, bake = ring
    assert bake["state"] == "done" and bake["problem"] is None and bake["share"] == 1
    assert {row["map"] for row in bake["trial"]} >= {"normal", "height", "id"}
    assert client.get(f"/api/originals/{bake['trial'][0]['sha256']}/thumbnail").status_code == 200
    now = client.get(f"/api/sets/{made['id']}").json()
    masters = {row["key"]: row for row in now["masters"]}
    given = masters["normal"]["given"]
    assert given["file"].endswith("_normal.png") and given["baked"]["map"] == "normal" and given["baked"]["stale"] == []
    assert all(masters[key]["given"]["baked"] for key in ("height", "occlusion", "curvature", "thickness", "position", "id"))
    facts = now["recipe"]["facts"]
    around = 2 * np.pi * np.sqrt(1.0 * 0.4)  # the width of a square map over a ring of radius 1 and tube 0.4
    assert facts["rise_from"] == "baked" and 0.03 / around < facts["rise"] < 0.06 / around
    found = [row["finding"]["id"] for row in client.get(f"/api/sets/{made['id']}/assay", params={"head": now["head"]}).json()]
    assert not {"baked-stale", "baked-missed", "height-against-normal"} & set(found)


def test_what_was_baked_before_is_called_so_until_it_is_baked_again(client, ring):
    made, _ = ring
    now = change(client, made, offset=5.0)
    stale = {row["key"]: row["given"]["baked"]["stale"] for row in now["masters"] if row["given"]}
    assert stale["normal"] == ["the offset is 5 % now, and was found by itself"] and stale["position"] == []
    rows = client.get(f"/api/sets/{made['id']}/assay", params={"head": now["head"]}).json()
    assert "baked-stale" in [row["finding"]["id"] for row in rows]
    client.post(f"/api/sets/{made['id']}/bakes", json={"maps": ["normal"]})
    assert baked(client, made["id"])["state"] == "done"
    after = client.get(f"/api/sets/{made['id']}").json()
    stale = {row["key"]: row["given"]["baked"]["stale"] for row in after["masters"] if row["given"]}
    assert stale["normal"] == [] and stale["occlusion"]
    client.post(f"/api/sets/{made['id']}/step", json={"expects": after["head"], "step": "undo"})
    before = client.get(f"/api/sets/{made['id']}").json()
    assert next(row for row in before["masters"] if row["key"] == "normal")["given"]["baked"]["stale"]
    change(client, made, offset=None)


def test_each_material_of_a_mesh_is_a_set_and_what_has_no_partner_is_told(client):
    parted = replace(box(), material=np.int32([0, 0, 1, 1, 1, 1]), materials=("Riegel Öse", "Riegel Stab"))
    looks = [
        bring(client, "Riegel_low.obj", parted),
        bring(client, "Kette_high.obj", torus(24, 12)),
        bring(client, "Riegel_cage.obj", parted),
    ]
    planned, made = wear(client, looks)
    assert [row["set_name"] for row in planned["sets"]] == ["Riegel Öse", "Riegel Stab"]
    assert [row["worn"]["material"] for row in planned["sets"]] == [0, 1]
    assert all(row["worn"]["cage"]["name"] == "Riegel_cage.obj" for row in planned["sets"])
    assert planned["alone"] == [{"name": "Kette_high.obj", "why": "there is no low mesh called Kette"}]
    again, same = wear(client, looks)
    assert not any(row["is_new"] for row in again["sets"]) and [row["id"] for row in same] == [row["id"] for row in made]


def test_one_file_may_hold_what_is_baked_to_and_what_is_baked_from(client):
    low, high = replace(torus(24, 12), parts=("Öse_low",)), replace(torus(64, 32, relief=0.02), parts=("Öse_high",))
    look = bring(client, "Szene.obj", joined([low, high]))
    assert look["is_both"] and "mesh-overlap" not in [found["id"] for found in look["findings"]]
    planned, made = wear(client, [look])
    assert planned["sets"][0]["worn"]["high"][0]["name"] == "Szene.obj"
    client.post(f"/api/sets/{made[0]['id']}/bakes", json={"maps": ["normal"]})
    bake = baked(client, made[0]["id"])
    assert bake["state"] == "done" and not bake["findings"], bake
    (glb,) = (content for name, content in delivered(client, made[0]["id"], "gltf").items() if name.endswith(".glb"))
    assert len(mesh_from(glb, "a.glb").shape.triangles) == len(low.triangles)


def test_a_bake_that_misses_most_stops_after_its_trial(client):
    low, high = (
        bring(client, "Knauf_low.obj", torus(24, 12)),
        bring(client, "Knauf_high.obj", replace(torus(32, 16), points=torus(32, 16).points + 9)),
    )
    _, made = wear(client, [low, high])
    client.post(f"/api/sets/{made[0]['id']}/bakes", json={})
    bake = baked(client, made[0]["id"])
    assert bake["state"] == "failed" and "trial" in bake["problem"] and bake["findings"]
    assert client.get(f"/api/sets/{made[0]['id']}").json()["recipe"]["sources"] == {}


def test_a_bake_can_be_stopped_and_changes_nothing(client):
    _, made = wear(client, [bring(client, "Reif_low.obj", torus(64, 32))], size=2048)
    change(client, made[0], maps=["occlusion", "thickness"], rays=4096)
    bake = client.post(f"/api/sets/{made[0]['id']}/bakes", json={}).json()
    assert client.post(f"/api/sets/{made[0]['id']}/bakes", json={}).status_code == 422
    client.post(f"/api/bakes/{bake['id']}/cancel")
    assert baked(client, made[0]["id"])["state"] == "cancelled"
    assert client.get(f"/api/sets/{made[0]['id']}").json()["recipe"]["sources"] == {}


def test_a_set_without_a_mesh_is_not_baked(client):
    first = client.get(f"/api/projects/{PROJECT}/sets").json()[0]
    answer = client.post(f"/api/sets/{first['id']}/bakes", json={})
    assert answer.status_code == 422 and "Bring a low mesh" in answer.json()["detail"]


def delivered(client, set_id, target):
    """The files of a set for a target, by the end of their names."""
    run = client.post(f"/api/projects/{PROJECT}/deliveries", json={"sets": [set_id], "targets": [target], "into": "new"}).json()
    now = ended(client, run)
    assert now["state"] == "done", now["problem"]
    with zipfile.ZipFile(io.BytesIO(client.get(f"/api/deliveries/{run['id']}/zip").content)) as whole:
        return {name.rpartition("/")[2]: whole.read(name) for name in whole.namelist()}


def test_a_delivered_document_wears_the_baked_set_on_the_mesh(client, ring):
    made, _ = ring
    files = delivered(client, made["id"], "gltf")
    (glb,) = (content for name, content in files.items() if name.endswith(".glb"))
    worn = mesh_from(glb, "ring.glb").shape
    low = torus(32, 16)
    assert len(worn.triangles) == len(low.triangles) and worn.given_tangents is not None
    frame = tangents(worn)
    assert unlike_degrees(worn.given_tangents[worn.triangles], frame).max() < 0.01
    assert np.allclose(np.sort(worn.points[worn.faces].reshape(-1)), np.sort(low.at.reshape(-1)), atol=1e-6)
    scene = delivered(client, made["id"], "usd-preview")
    usd = next(content.decode() for name, content in scene.items() if name.endswith(".usda"))
    assert 'def Mesh "' in usd and usd.count("texCoord2f[] primvars:st ") == 1 and "float4[] primvars:tangents" in usd
    assert f"faceVertexCounts = [{', '.join(['3'] * len(low.triangles))}]" in usd
    note = next(content.decode() for name, content in files.items() if name.endswith(".md"))
    assert "Ring Ä_low.obj, in triangles, y up" in note and "goes on beyond the islands" in note


def test_delivered_maps_go_on_beyond_the_islands(client):
    """A color that nobody padded: at the fourth smaller map the two sides of a seam stay alike."""
    part = torus(32, 16)
    shrunk = replace(part, uv=part.uv * np.float32(0.7) + np.float32(0.15))
    _, made = wear(client, [bring(client, "Wulst_low.obj", shrunk)], size=1024)
    px = 1024
    inside = nearest_shown(shrunk, Size(px, px))
    y, x = np.mgrid[:px, :px]
    is_shown = (inside[0] == y) & (inside[1] == x)
    color = np.where(is_shown[..., None], np.uint8([200, 120, 60]), np.uint8(0))
    kept = client.post("/api/originals", params={"name": "Wulst_basecolor.png"}, content=encode(color, "png"), headers=RAW).json()
    now = client.get(f"/api/sets/{made[0]['id']}").json()
    entry = {"sha256": kept["sha256"], "name": kept["name"], "kind": "base_color"}
    grown = client.post(f"/api/sets/{made[0]['id']}/files", json={"expects": now["head"], "entries": [entry], "way": "add"})
    assert grown.status_code == 200, grown.text
    files = delivered(client, made[0]["id"], "gltf")
    codes = read_bytes(next(content for name, content in files.items() if "basecolor" in name), "a.png").codes[..., :3]
    assert (codes == np.uint8([200, 120, 60])).all()


def test_the_rise_of_a_baked_height_does_not_stay_with_another_height(client, ring):
    made, _ = ring
    now = client.get(f"/api/sets/{made['id']}").json()
    assert now["recipe"]["facts"]["rise_from"] == "baked"
    gray = np.random.default_rng(5).integers(0, 65535, (64, 64)).astype(np.uint16)
    kept = client.post("/api/originals", params={"name": "Ring_height.png"}, content=encode(gray, "png"), headers=RAW).json()
    entry = {"sha256": kept["sha256"], "name": kept["name"], "kind": "height"}
    asked = {"expects": now["head"], "entries": [entry], "way": "replace"}
    after = client.post(f"/api/sets/{made['id']}/files", json=asked).json()
    assert after["recipe"]["facts"]["rise_from"] == "assumed"
    client.post(f"/api/sets/{made['id']}/step", json={"expects": after["head"], "step": "undo"})


def test_a_mesh_in_tiles_makes_a_set_in_tiles_that_is_padded_tile_by_tile(client):
    low, high = tiled(torus(32, 16)), torus(128, 64, relief=0.02)
    low = replace(low, uv=low.uv * np.float32([0.5, 1]) + np.float32([0.5, 0]))  # a half of each tile lies free
    _, made = wear(client, [bring(client, "Spange_low.obj", low), bring(client, "Spange_high.obj", high)])
    change(client, made[0], maps=["normal", "height"])
    client.post(f"/api/sets/{made[0]['id']}/bakes", json={})
    bake = baked(client, made[0]["id"])
    assert bake["state"] == "done" and not bake["findings"], bake
    now = client.get(f"/api/sets/{made[0]['id']}").json()
    assert now["tiles"] == [1001, 1002], now["recipe"]["facts"]
    normal = now["recipe"]["sources"]["mesh_normal"]
    assert normal["name"] == "Spange_normal.1001.png" and normal["beside"]["1002"]["name"] == "Spange_normal.1002.png"
    written = delivered(client, made[0]["id"], "gltf")
    pictures = {name: read_bytes(content, name) for name, content in written.items() if name.endswith(".1002.png")}
    assert pictures, list(written)
    for picture in pictures.values():
        free = picture.codes[:, picture.width * 5 // 8 :].astype(int)
        assert (np.ptp(free, axis=1) == 0).all()  # it goes on as its border is
    borders = client.get(
        f"/api/meshes/{now['recipe']['worn']['low']['sha256']}/borders", params={"name": "Spange_low.obj", "tile": 1002}
    ).json()
    ends = np.array(borders)
    inside = ((ends >= 0) & (ends <= 1)).all(1)
    assert inside.any() and (ends[inside][:, [0, 2]].max() <= 0.5 + 1e-5)
