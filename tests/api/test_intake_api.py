"""Before a set is made and while it is shaped: source profiles, channels, the light test, moving, and places of findings."""

import io
import zipfile

import numpy as np

from asking import RAW, zipped
from copper_sieve.files import encode, read_bytes

PROJECT = "/api/projects/the-salt-heron-wardrobe"


def dropped(client, name: str, codes: np.ndarray, **query) -> dict:
    asked = {"name": name, **{key: value for key, value in query.items() if value is not None}}
    return client.post("/api/originals", params=asked, content=encode(codes, "png"), headers=RAW).json()


def entry(look: dict) -> dict:
    same = ("sha256", "name", "kind", "reads", "spans", "tiles")
    return {key: look[key] for key in same} | {"green": look["green"] if look["green"] in ("up", "down") else None}


def test_a_corrected_delivery_teaches_its_source_and_the_next_one_needs_no_word(client):
    shine = np.random.default_rng(70).integers(40, 200, (32, 32)).astype(np.uint8)
    first = [dropped(client, "Ulm-A.qq.png", shine), dropped(client, "Ulm-A.zz.png", 255 - shine)]
    assert [look["kind"] for look in first] == ["unknown", "unknown"]
    lesson = [
        entry(first[0]) | {"kind": "roughness", "reads": {"L": "gloss"}},
        entry(first[1]) | {"kind": "height", "reads": {"L": "height"}, "spans": {"L": [1.0, 0.0]}},
    ]
    learned = client.put("/api/profiles/Ulm", json={"sets": [lesson]}).json()
    assert set(learned["endings"]) == {".qq", ".zz"}
    match = client.post("/api/profiles/match", json={"names": ["Ulm-B.qq.png", "Ulm-B.zz.png"]}).json()
    assert match == [{"profile": "Ulm", "names": ["Ulm-B.qq.png", "Ulm-B.zz.png"]}]
    look = dropped(client, "Ulm-B.qq.png", shine[::-1], profile="Ulm")
    assert (look["reads"], look["set_name"], look["profile"]) == ({"L": "gloss"}, "Ulm-B", "Ulm")
    client.delete("/api/profiles/Ulm")
    assert client.post("/api/profiles/match", json={"names": ["Ulm-C.qq.png", "Ulm-C.zz.png"]}).json() == []
    missing = client.post("/api/originals", params={"name": "x.png", "profile": "Ulm"}, content=encode(shine, "png"), headers=RAW)
    assert missing.status_code == 404 and "Ulm" in missing.json()["detail"]


def test_a_file_is_taken_for_one_that_a_target_names(client):
    rows = {(row["target"], row["role"]): row for row in client.get("/api/readings").json()}
    specular = next(row for row in rows.values() if row["reads"] == {"RGB": "specular", "A": "gloss"})
    assert specular["role"] == "specular"
    orm = rows["Game engine, O·R·M packed, Y−", "orm"]
    assert orm["reads"] == {"R": "occlusion", "G": "roughness", "B": "metallic"} and orm["green"] is None


def test_channels_come_out_as_grays_and_go_in_by_name(client):
    codes = np.random.default_rng(71).integers(0, 256, (24, 40, 3)).astype(np.uint8)
    look = dropped(client, "Ulm drape packed.png", codes)
    words = ["R:roughness", "G:metallic", "B:occlusion"]
    answer = client.get(f"/api/originals/{look['sha256']}/grays", params={"name": look["name"], "word": words})
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        planes = {name: read_bytes(archive.read(name), name).codes for name in archive.namelist()}
    assert set(planes) == {f"Ulm drape packed_{word}.png" for word in ("roughness", "metallic", "occlusion")}
    np.testing.assert_array_equal(np.dstack(list(planes.values())), codes)
    body = {"name": "Ulm drape", "entries": [entry(look) | {"kind": "packed", "reads": {"R": "roughness", "B": "occlusion"}}]}
    made = client.post(f"{PROJECT}/sets", json=body).json()
    assert {m["key"]: m["origin"] for m in made["masters"]}["occlusion"] == "given"
    client.delete(f"/api/sets/{made['id']}")


def test_what_a_set_would_start_from_is_looked_at_before_it_is_made(client):
    color = np.random.default_rng(72).integers(60, 190, (64, 64, 3)).astype(np.uint8)
    body = {"name": "Ulm ahead", "entries": [entry(dropped(client, "Ulm ahead_photo.png", color))]}
    before = client.get(f"{PROJECT}/sets").json()
    ahead = client.post("/api/first-looks", json={**body, "view": "ahead", "seq": 2}).json()
    assert client.get(f"{PROJECT}/sets").json() == before
    assert client.post("/api/first-looks", json={**body, "view": "ahead", "seq": 1}).status_code == 204
    made = client.post(f"{PROJECT}/sets", json=body).json()
    assert (ahead["recipe"], ahead["tiles"]) == (made["recipe"], made["tiles"])
    assert ahead["recipe"]["facts"]["rise_from"] == "fitted"
    client.delete(f"/api/sets/{made['id']}")


def test_the_light_strip_shows_the_flanks_of_each_reading(client):
    """A mound of analytic slopes, stored Y+: read so, its upper flank is bright; read as Y−, its lower one."""
    x, y = np.meshgrid(np.linspace(-2, 2, 96), np.linspace(-2, 2, 96))
    bell = np.exp(-(x * x + y * y))
    normal = np.stack([2 * x * bell, -2 * y * bell, np.ones_like(x)], -1)
    codes = ((normal / np.linalg.norm(normal, axis=-1, keepdims=True) * 0.5 + 0.5) * 255 + 0.5).astype(np.uint8)
    look = dropped(client, "mound_normal.png", codes)
    strip = read_bytes(client.get(f"/api/originals/{look['sha256']}/light").content, "strip.png").codes.astype(int)
    assert strip.shape == (300, 1200)
    upper, lower = strip[75:120, 130:170].mean(), strip[180:225, 130:170].mean()
    assert upper > lower + 30
    other = strip[:, 600:900]
    assert other[180:225, 130:170].mean() > other[75:120, 130:170].mean() + 30


def test_a_set_is_moved_and_resized_and_it_is_undone(client):
    codes = np.random.default_rng(72).integers(0, 256, (32, 48, 3)).astype(np.uint8)
    body = {"name": "Ulm moved", "entries": [entry(dropped(client, "Ulm moved_basecolor.png", codes))]}
    made = client.post(f"{PROJECT}/sets", json=body).json()
    path = f"/api/sets/{made['id']}"
    turned = client.post(f"{path}/moves", json={"expects": made["head"], "move": {"kind": "turn", "quarters": 1}}).json()
    assert (turned["recipe"]["facts"]["width"], turned["recipe"]["facts"]["height"]) == (32, 48)
    crop = {"kind": "crop", "left": 30, "top": 0, "width": 8, "height": 8}
    refused = client.post(f"{path}/moves", json={"expects": turned["head"], "move": crop})
    assert refused.status_code == 422 and "32 × 48" in refused.json()["detail"]
    small = client.post(f"{path}/size", json={"expects": turned["head"], "size": {"longer": 12}}).json()
    assert (small["recipe"]["facts"]["width"], small["recipe"]["facts"]["height"]) == (8, 12)
    back = client.post(f"{path}/step", json={"expects": small["head"], "step": "undo"}).json()
    assert back["recipe"] == turned["recipe"]
    client.delete(path)


def test_marks_show_where_a_finding_is(client):
    metallic = np.full((64, 64), 0, np.uint8)
    metallic[:32, :40] = 128
    base = np.random.default_rng(73).integers(80, 160, (64, 64, 3)).astype(np.uint8)
    looks = [dropped(client, "Ulm m_basecolor.png", base), dropped(client, "Ulm m_metallic.png", metallic)]
    body = {"name": "Ulm m", "entries": [entry(look) for look in looks]}
    made = client.post(f"{PROJECT}/sets", json=body).json()
    rows = client.get(f"/api/sets/{made['id']}/assay", params={"head": made["head"]}).json()
    found = next(row["finding"] for row in rows if row["finding"]["id"] == "metal-between")
    assert found["where"] == [0, 0, 0.625, 0.5]
    asked = {"head": made["head"], "finding": "metal-between", "master": found["master"]}
    marked = read_bytes(client.get(f"/api/sets/{made['id']}/marks", params=asked).content, "m.png").codes
    assert ((marked[..., 3] > 0) == (metallic > 0)).all()
    client.delete(f"/api/sets/{made['id']}")


def test_two_sources_in_one_zip_are_each_read_in_their_own_ways(client):
    gray = np.random.default_rng(75).integers(40, 200, (24, 24)).astype(np.uint8)
    for name, words in (("Mill", ("qa", "qb")), ("Loom", ("za", "zb"))):
        looks = [dropped(client, f"Roll.{word}.png", np.roll(gray, k)) for k, word in enumerate(words)]
        lesson = [entry(look) | {"kind": kind, "reads": {"L": kind}} for look, kind in zip(looks, ("height", "roughness"))]
        assert client.put(f"/api/profiles/{name}", json={"sets": [lesson]}).status_code == 200
    names = ("bolt.qa.png", "bolt.qb.png", "skein.za.png", "skein.zb.png")
    whole = zipped({name: encode(np.roll(gray, 7 * k + 3), "png") for k, name in enumerate(names)})
    looks = client.post("/api/archives", params={"name": "both.zip"}, content=whole, headers=RAW).json()["files"]
    assert {look["name"]: look["profile"] for look in looks} == {
        "bolt.qa.png": "Mill", "bolt.qb.png": "Mill", "skein.za.png": "Loom", "skein.zb.png": "Loom"
    }  # fmt: skip
    for name in ("Mill", "Loom"):
        client.delete(f"/api/profiles/{name}")


def test_files_are_told_where_they_go_among_the_others(client):
    same = {"sha256": "0" * 64, "set_name": "silk", "width": 64, "height": 64, "kind": "roughness"}
    files = [
        same | {"name": "silk_R.1001.png", "reads": {"L": "roughness"}, "quality": [0, 1, -8]},
        same | {"name": "silk_R.1002.png", "reads": {"L": "roughness"}, "quality": [0, 1, -8]},
        same | {"name": "silk_gloss.1001.jpg", "sha256": "1" * 64, "reads": {"L": "gloss"}, "quality": [1, 1, -8]},
        same | {"name": "Silk-B.png", "set_name": "Silk", "kind": "base_color", "reads": {"RGB": "base_color"}, "width": 32},
        same | {"name": "other.png", "set_name": "mine", "is_set_told": True},
    ]
    rows = client.post("/api/arrangements", json={"files": files}).json()
    assert [row["set_name"] for row in rows] == ["silk", "silk", "silk", "silk", "mine"]
    assert [(row["tile"], row["head"]) for row in rows[:2]] == [(1001, None), (1002, 0)]
    assert rows[2]["rival"] == {"name": "silk_R.1001.png", "keys": ["gloss"], "relation": "worse"} and rows[2]["reads"] == {}
    assert rows[0]["misfit"] == {"differs": "shape", "width": 32, "height": 64} and rows[3]["misfit"] is None


def tiled_set(client, name: str) -> dict:
    """A set of two tiles, the second to the right of the first and brighter."""
    looks = {
        tile: dropped(client, f"{name}_basecolor.{tile}.png", np.full((32, 32, 3), tile - 951, np.uint8)) for tile in (1001, 1002)
    }
    one = entry(looks[1001]) | {"tile": 1001, "beside": {"1002": {k: looks[1002][k] for k in ("sha256", "name")}}}
    return client.post(f"{PROJECT}/sets", json={"name": name, "entries": [one]}).json()


def test_tiles_are_seen_one_by_one_or_laid_out(client):
    made = tiled_set(client, "poncho")
    assert made["tiles"] == [1001, 1002]

    def seen(**asked):
        body = {"view": "t", "seq": 1, "recipe": made["recipe"], "wanted": "base_color", "size": 64, **asked}
        answer = client.post("/api/previews", json=body)
        size = (int(answer.headers["x-height"]), int(answer.headers["x-width"]))
        return np.frombuffer(answer.content, np.uint8).reshape(*size, 4)

    np.testing.assert_array_equal(np.unique(seen(tile=1002)[..., 0]), [51])
    whole = seen(tile="all")
    assert whole.shape == (32, 64, 4) and whole[0, 0, 0] == 50 and whole[0, -1, 0] == 51
    probe = client.post("/api/probes", json={"recipe": made["recipe"], "x": 0.75, "y": 0.5, "tile": "all"}).json()
    assert (probe["tile"], probe["x"], probe["codes"]["base_color"]) == (1002, 16, "#333333")
    small = client.post("/api/probes", json={"recipe": made["recipe"], "x": 0.5, "y": 0.5, "tile": 1002, "size": 8}).json()
    assert (small["x"], small["y"], small["size"], probe["size"]) == (16, 16, 8, 32)
    wrong = client.post("/api/probes", json={"recipe": made["recipe"], "x": 0, "y": 0, "tile": 1003})
    assert wrong.status_code == 404 and "1001, 1002" in wrong.json()["detail"]


def test_files_of_every_tile_are_kept_as_long_as_the_set(client):
    made = tiled_set(client, "shawl")
    gone = made["recipe"]["sources"]["s1"]["beside"]["1002"] | {"sha256": "e" * 64}
    recipe = made["recipe"] | {"sources": {"s1": made["recipe"]["sources"]["s1"] | {"beside": {"1002": gone}}}}
    refused = client.put(f"/api/sets/{made['id']}/recipe", json={"expects": made["head"], "recipe": recipe})
    assert refused.status_code == 422 and "shawl_basecolor.1002.png is not among" in refused.json()["detail"]
