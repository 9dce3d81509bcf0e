"""Own targets: copied, changed, told apart, kept as files, and the edited one is the one in use."""

import io
import zipfile

import numpy as np
import pytest

from asking import RAW, ended
from copper_sieve.core.color import encode_srgb_codes
from copper_sieve.core.target import read_target, write_target
from copper_sieve.files import encode, read_bytes
from copper_sieve.targets import shipped_targets


@pytest.fixture()
def own(client):
    made = client.post("/api/targets", json={"copy_of": "engine-orm-down"}).json()
    yield made
    client.delete(f"/api/targets/{made['key']}")


def changed(client, target: dict, **change) -> dict:
    answer = client.put(f"/api/targets/{target['key']}", json={"expects": target["version"], "target": {**target, **change}})
    assert answer.status_code == 200, answer.text
    return answer.json()


@pytest.mark.parametrize("key", shipped_targets())
def test_every_target_comes_back_from_its_file(key):
    target = shipped_targets()[key]
    assert read_target(write_target(target)) == target


def test_a_copy_is_ones_own_counts_its_versions_and_no_two_look_alike(client, own):
    rows = client.get("/api/targets").json()
    assert {row["target"]["key"]: row["is_own"] for row in rows} == {own["key"]: True, **dict.fromkeys(shipped_targets(), False)}
    assert own["title"] != shipped_targets()["engine-orm-down"].title and own["version"] == "1"
    again = client.post("/api/targets", json={"copy_of": own["key"], "title": own["title"].upper()})
    assert again.status_code == 409 and "look alike" in again.json()["detail"]
    second = client.post("/api/targets", json={"copy_of": "engine-orm-down"}).json()
    assert second["title"] != own["title"] and second["key"] != own["key"]
    client.delete(f"/api/targets/{second['key']}")
    new = changed(client, own, green="up")
    assert (new["version"], new["green"]) == ("2", "up")
    stale = client.put(f"/api/targets/{own['key']}", json={"expects": "1", "target": own})
    assert stale.status_code == 409
    assert client.put("/api/targets/gltf", json={"expects": "2.0", "target": own}).status_code == 404  # shipped ones stay


def test_a_table_that_does_not_hold_together_is_refused_and_nothing_changes(client, own):
    wrong = {**own, "files": [{**file, "depth": 16} for file in own["files"]]}  # TGA holds 8 bits
    answer = client.put(f"/api/targets/{own['key']}", json={"expects": own["version"], "target": wrong})
    assert answer.status_code == 422 and "Base color: TGA holds 8 bit, in 1, 3 or 4 channels" in answer.json()["detail"]
    assert client.get(f"/api/targets/{own['key']}/board").json()["files"][0]["depth"] == 8


def test_a_target_travels_as_one_file(client, own):
    text = client.get(f"/api/targets/{own['key']}/file").text
    assert text.startswith("schema = 1\n") and "[[files]]" in text
    headers = RAW
    twin = client.post("/api/targets/import", content=text, headers=headers)
    assert twin.status_code == 409  # its title is taken
    taken = client.post("/api/targets/import", content=text.replace(own["title"], "Seen elsewhere"), headers=headers)
    assert taken.status_code == 201 and taken.json()["key"] != own["key"]
    client.delete(f"/api/targets/{taken.json()['key']}")
    broken = client.post("/api/targets/import", content=text.replace('format = "tga"', 'format = "tgb"', 1), headers=headers)
    assert broken.status_code == 422 and "files.0.format" in broken.json()["detail"]


def test_what_was_edited_is_what_is_delivered_with_its_note(client, own):
    files = [file for file in own["files"] if file["role"] in ("base_color", "orm")]
    orm = {
        **files[1],
        "channels": {"R": {"quantity": "roughness"}, "G": {"constant": 0.25}, "B": {"quantity": "metallic", "invert": True}},
    }
    changed(client, own, files=[files[0], {**orm, "name": [{"part": "set"}, " packed"], "format": "png"}])
    codes = np.random.default_rng(5).integers(0, 256, (16, 16, 3)).astype(np.uint8)
    entries = []
    for kind, values in (("base_color", codes), ("roughness", codes[..., 0]), ("metallic", codes[..., 1])):
        look = client.post(
            "/api/originals", params={"name": f"Cummerbund_{kind}.png"}, content=encode(values, "png"), headers=RAW
        ).json()
        entries.append({"sha256": look["sha256"], "name": look["name"], "kind": kind})
    project = client.get("/api/projects").json()[0]["name"]
    answer = client.post(f"/api/projects/{project}/sets", json={"name": "Cummerbund", "entries": entries})
    assert answer.status_code == 201, answer.text
    made = answer.json()
    run = client.post(f"/api/projects/{project}/deliveries", json={"sets": [made["id"]], "targets": [own["key"]]}).json()
    run = ended(client, run)
    assert run["state"] == "done", run
    with zipfile.ZipFile(io.BytesIO(client.get(f"/api/deliveries/{run['id']}/zip").content)) as archive:
        inside = {name.split("/")[-1]: archive.read(name) for name in archive.namelist()}
    found = {name: read_bytes(content, name).codes for name, content in inside.items() if name.endswith((".png", ".tga"))}
    beside = inside[f"{own['key']} hand-over.md"].decode()
    packed = found["Cummerbund packed.png"]
    np.testing.assert_array_equal(packed, np.dstack([codes[..., 0], np.full((16, 16), 64), 255 - codes[..., 1]]))
    note = client.get(f"/api/deliveries/{run['id']}/note", params={"set": "Cummerbund", "target": own["key"], "form": "md"}).text
    assert note == beside and f"{own['key']} hand-over.html" in inside
    assert "Cummerbund packed.png" in note and "Green is always 0.25; Blue is metallic, inverted" in note
    client.delete(f"/api/sets/{made['id']}")


def test_a_targets_names_tell_its_files_apart(client):
    names = ["lamé_ORM.tga", "lamé_BC.png", "something.png"]
    rows = client.get("/api/targets/engine-orm-down/matches", params={"name": names}).json()
    assert [(row["set"], row["role"]) for row in rows] == [("lamé", "orm"), ("lamé", "base_color"), (None, None)]


def test_an_own_target_is_read_backwards_and_offered_its_documents(client, own):
    files = [{**file, "format": "png"} for file in own["files"]]
    files[2] = {
        **files[2],
        "channels": {"R": {"quantity": "gloss", "range": [1.0, 0.0]}, "G": {"quantity": "metallic"}, "B": {"constant": 0}},
    }
    made = changed(client, own, files=files)
    readings = {row["role"]: row for row in client.get("/api/readings").json() if row["key"] == made["key"]}
    assert readings["orm"]["reads"] == {"R": "gloss", "G": "metallic"} and readings["orm"]["spans"] == {"R": [1.0, 0.0]}
    assert readings["normal"]["green"] == "down"
    offered = client.get(f"/api/targets/{made['key']}/documents").json()
    assert [document["kind"] for document in offered] == ["gltf", "glb", "materialx", "usd", "obj", "mtl"]
    assert "metallicRoughnessTexture" not in offered[0]["inputs"] and offered[2]["inputs"]["base_metalness"] == "orm"
    written = changed(client, made, documents=offered[:2])
    assert [d["kind"] for d in client.get(f"/api/targets/{written['key']}/documents").json()] == [
        "materialx",
        "usd",
        "obj",
        "mtl",
    ]


def test_a_delivery_is_planned_smaller_and_without_what_nobody_wants(client):
    project = client.get("/api/projects").json()[0]["name"]
    made = client.get(f"/api/projects/{project}/sets").json()[0]
    unwanted = [{"set": made["id"], "target": "gltf", "role": role} for role in ("orm", "glb", "whole")]
    request = {"sets": [made["id"]], "targets": ["gltf"], "size": 32, "unwanted": unwanted}
    files = {f["role"]: f for f in client.post(f"/api/projects/{project}/plans", json=request).json()[0]["files"]}
    assert files["orm"]["left_out"] == files["whole"]["left_out"] == "unwanted" and files["normal"]["left_out"] is None
    assert (files["normal"]["width"], files["document"]["title"]) == (32, "Shows 2 images on a plane")
    every = [{"set": made["id"], "target": "gltf", "role": role} for role in files]
    refused = client.post(f"/api/projects/{project}/deliveries", json={**request, "unwanted": every})
    assert refused.status_code == 422 and "at least one file" in refused.json()["detail"]
    assert client.post(f"/api/projects/{project}/plans", json={**request, "size": 0}).status_code == 422


def test_kept_files_come_in_another_format_where_they_lay_with_what_was_lost(client):
    color = np.random.default_rng(61).integers(0, 256, (16, 16, 4)).astype(np.uint8)
    kept = client.post("/api/originals", params={"name": "kelp.png"}, content=encode(color, "png"), headers=RAW).json()
    files = [
        {"sha256": kept["sha256"], "name": "kelp_basecolor.png", "folder": "../../mer é/haut", "reads": {"RGB": "base_color"}},
        {"sha256": kept["sha256"], "name": "kelp_mask.png", "folder": "", "reads": {"R": "roughness"}},
    ]
    gone = {"sha256": "0" * 64, "name": "gone.png"}
    refused = client.post("/api/reformatted", json={"files": [*files, gone], "format": "exr"})
    assert refused.status_code == 422 and "gone.png is not kept here" in refused.json()["detail"]
    told = client.post("/api/reformatted", json={"files": files, "format": "exr"})
    assert told.status_code == 200 and "exr.zip" in told.headers["content-disposition"]
    with zipfile.ZipFile(io.BytesIO(told.content)) as archive:
        names = archive.namelist()
        assert names == ["mer é/haut/kelp_basecolor.exr", "kelp_mask.exr"]  # nothing was lost
        values = read_bytes(archive.read(names[1]), names[1]).codes
        assert np.array_equal(np.round(values * 255), color)  # data, as its channels say
        colors = read_bytes(archive.read(names[0]), names[0]).codes
        assert np.array_equal(encode_srgb_codes(colors[..., :3]), color[..., :3])
    lossy = client.post("/api/reformatted", json={"files": files[1:], "format": "jpeg"})
    with zipfile.ZipFile(io.BytesIO(lossy.content)) as archive:
        assert "its alpha was left out" in archive.read("what-changed.txt").decode()


def test_a_depth_that_a_format_has_not_is_refused(client):
    files = [{"sha256": "0" * 64, "name": "any.png"}]
    told = client.post("/api/reformatted", json={"files": files, "format": "tga", "stored": {"depth": 16, "sample": "uint"}})
    assert told.status_code == 422 and "tga holds 8 bit" in told.json()["detail"]


def test_what_floats_hold_stays_when_files_are_read_by_a_targets_table(client):
    rows = {"diffuse": "base_color", "specular": "specular", "normal": "normal"}
    files = [{"name": f"linen_{word}.exr", "channels": 3, "reads": {"RGB": key}} for word, key in rows.items()]
    files[2] |= {"spans": {"RGB": [-1, 1]}, "green": "up"}
    offers = client.post("/api/readings/offers", json={"files": files}).json()
    found = {one["name"]: one for one in next(one for one in offers if one["target"] == "film-specular")["files"]}
    assert found["linen_diffuse.exr"]["is_change"]  # it says diffuse, which is read as a color until then
    assert found["linen_normal.exr"]["spans"] == {"RGB": [-1, 1]} and not found["linen_normal.exr"]["is_change"]
