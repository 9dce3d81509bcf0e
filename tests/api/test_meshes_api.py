"""Meshes over HTTP: checked as in the terminal, handed back as the screen draws them, refused with a word."""

from dataclasses import replace

import numpy as np

from asking import RAW, zipped
from copper_sieve.core.mesh.made import as_triangles
from copper_sieve.core.mesh.tangents import tangents, unlike_degrees
from copper_sieve.files import encode, read_bytes
from copper_sieve.files.meshes import glb_of, mesh_from, obj_document
from shapes import box, gltf_apart, gltf_with_pictures, torus


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


def test_a_mesh_comes_with_its_buffer_and_is_kept_as_one_file(client):
    document, buffer = gltf_apart(torus(12, 8), "maps/ring%201.bin", images=[{"uri": "ring.png"}])
    answer = bring(client, "ring.gltf", document)
    assert answer.status_code == 422 and "maps/ring 1.bin does not lie beside it" in answer.json()["detail"]
    kept = client.post("/api/meshes/beside", params={"name": "ring 1.bin"}, content=buffer, headers=RAW).json()
    told = {"name": "ring.gltf", "px": 64, "beside": [f"{kept} ring 1.bin"]}
    look = client.post("/api/meshes", params=told, content=document, headers=RAW).json()
    assert look["triangles"] == 192 and [one["numbers"]["name"] for one in missing(look)] == ["ring.png"]
    again = client.get(f"/api/meshes/{look['sha256']}/look", params={"name": "ring.gltf"}).json()
    assert again["triangles"] == 192 and not missing(again)  # what lay beside it is not known any more


def test_a_zip_of_meshes_and_pictures_gives_both(client):
    document, buffer = gltf_apart(torus(12, 8), "ring.bin", images=[{"uri": "ring_height.png"}])
    whole = zipped(
        {
            "ring/ring.gltf": document,
            "ring/ring.bin": buffer,
            "other/ring.bin": b"no buffer of this mesh",
            "ring/ring_height.png": encode(np.zeros((8, 8), np.uint8), "png"),
            "torn.obj": b"v 0 0 0\nf 1 2 9\n",
        }
    )
    look = client.post("/api/archives", params={"name": "all.zip"}, content=whole, headers=RAW).json()
    assert [one["name"] for one in look["files"]] == ["ring_height.png"]
    assert [(one["name"], one["triangles"], missing(one)) for one in look["meshes"]] == [("ring.gltf", 192, [])]
    assert len(look["problems"]) == 1 and look["problems"][0].startswith("torn.obj: from line 2 on")


def test_pictures_inside_of_a_mesh_become_the_set_of_their_material(client):
    rng = np.random.default_rng(3)
    color, packed = (rng.integers(0, 255, (16, 16, n)).astype(np.uint8) for n in (4, 3))
    color[..., 3] = np.where(color[..., 0] > 99, 255, 0)
    lean = np.zeros((16, 16, 3), np.uint8) + np.uint8([128, 128, 255])
    reads = {"baseColorTexture": {"index": 0}, "metallicRoughnessTexture": {"index": 1}}
    lace = {"name": "Spitze", "alphaMode": "MASK", "pbrMetallicRoughness": reads, "occlusionTexture": {"index": 1}}
    named = {"a": encode(color, "png"), "": encode(packed, "png"), "bump": encode(lean, "png"), "torn": encode(color, "png")[:90]}
    pictures = [{"name": name, "png": content} for name, content in named.items()]
    coat = {"KHR_materials_clearcoat": {"clearcoatNormalTexture": {"index": 2}}}
    materials = [{**lace, "normalTexture": {"index": 2}, "emissiveTexture": {"index": 3}, "extensions": coat}]
    ring = replace(torus(12, 8), materials=("Spitze",))
    look = bring(client, "lace.gltf", gltf_with_pictures(ring, pictures, materials)).json()
    assert look["pictures"] == 4 and [one["name"] for one in look["materials"]] == ["Spitze"]
    files = client.post(f"/api/meshes/{look['sha256']}/pictures", params={"name": "lace.gltf"}).json()
    assert {one["name"]: one["reads"] for one in files if one["readable"]} == {
        "a.png": {"RGB": "base_color", "A": "opacity"},
        "Spitze_metallicRoughness.png": {"R": "occlusion", "G": "roughness", "B": "metallic"},
        "bump.png": {"RGB": "normal"},
    }
    assert {one["set_name"] for one in files} == {"Spitze"} and files[-1]["green"] in (None, "up")
    assert [one["findings"][0]["id"] for one in files if not one["readable"]] == ["unreadable"]
    entries = [{key: one[key] for key in ("sha256", "name", "kind", "reads", "green")} for one in files if one["readable"]]
    project = client.post("/api/projects", json={"title": "from a mesh"}).json()["name"]
    made = client.post(f"/api/projects/{project}/sets", json={"name": "Spitze", "entries": entries}).json()
    given = {one["key"] for one in made["masters"] if one["origin"] == "given"}
    assert given == {"base_color", "opacity", "occlusion", "roughness", "metallic", "normal"}
    assert client.post(f"/api/meshes/{entries[0]['sha256']}/pictures", params={"name": "a.glb"}).status_code == 422


def test_an_obj_says_by_its_mtl_what_pictures_are_and_what_has_one_value(client):
    lines = ["newmtl Kiste", "Kd 0.2 0.1 0.05", "map_Pr -imfchan g maps/orm.png", "Pm 1", "d 1"]
    kept = client.post("/api/meshes/beside", params={"name": "k.mtl"}, content="\n".join(lines).encode(), headers=RAW).json()
    crate = obj_document(replace(torus(12, 8), materials=("Kiste",)), "k.mtl")
    told = {"name": "Kiste_low.obj", "px": 64, "beside": [f"{kept} k.mtl"]}
    look = client.post("/api/meshes", params=told, content=crate, headers=RAW).json()
    (use,) = look["beside"]
    assert (use["name"], use["folder"], use["reading"]["slots"]) == ("orm.png", "maps", ["map_Pr:g"])
    (values,) = (one["values"] for one in look["values"])
    assert values == {"base_color": [0.2, 0.1, 0.05], "metallic": [1.0]}

    packed = np.random.default_rng(4).integers(0, 255, (16, 16, 3)).astype(np.uint8)
    first = client.post("/api/originals", params={"name": "orm.png"}, content=encode(packed, "png"), headers=RAW).json()
    word = {key: use[key] for key in ("name", "reading")}
    again = client.post(f"/api/originals/{first['sha256']}/material", json=word).json()
    assert (again["set_name"], again["reads"], again["sha256"]) == ("Kiste", {"G": "roughness"}, first["sha256"])
    entry = {key: again[key] for key in ("sha256", "name", "kind", "reads")}
    project = client.post("/api/projects", json={"title": "from an obj"}).json()["name"]
    body = {"name": "Kiste", "entries": [entry], "values": values}
    made = client.post(f"/api/projects/{project}/sets", json=body).json()
    assert {one["key"]: one["origin"] for one in made["masters"] if one["origin"] != "absent"} == {
        "base_color": "constant",
        "metallic": "constant",
        "roughness": "given",
    }
    assert client.post(f"/api/projects/{project}/sets", json=body | {"values": {"gloss": [1]}}).status_code == 422
    worn = {"low": {"sha256": look["sha256"], "name": look["name"], "print": look["print"], "triangles": 192}}
    request = {"sets": [{"set_name": "Truhe", "worn": worn, "values": values}], "size": 64}
    (alone,) = client.post(f"/api/projects/{project}/wearings", json=request).json()
    assert {one["key"] for one in alone["masters"] if one["origin"] == "constant"} == {"base_color", "metallic"}


def test_a_second_uv_leaves_what_was_baked_as_it_is_and_a_quick_one_is_named(client):
    look = bring(client, "ring_low.obj", obj_document(torus(12, 8, quads=True))).json()
    made = {}
    for way, second in (("islands", True), ("flat", False), ("box", False), ("islands", False)):
        told = {"name": look["name"], "way": way, "second": second}
        answer = client.post(f"/api/meshes/{look['sha256']}/unfolded", params=told)
        assert answer.status_code == 201
        made[way, second] = answer.json()
    light = made["islands", True]
    assert (light["name"], light["print"]) == ("ring_low.glb", look["print"])
    worn = client.get(f"/api/meshes/{light['sha256']}/worn", params={"name": light["name"]}).content
    assert mesh_from(worn, "worn.glb").shape.second_uv is not None
    assert {one["name"] for key, one in made.items() if not key[1]} == {"ring quick UV_low.glb"}
    assert len({one["print"] for one in made.values()}) == 4


def test_margins_are_drawn_where_two_islands_lie_too_close_for_the_maps_they_wear(client):
    close = as_triangles(box())
    close = replace(close, uv=close.uv.copy())
    close.uv[6:12, 0] -= np.float32(0.062)  # 0.067 between two sides, of which 5 of 1024 texels are left
    look = bring(client, "close.obj", obj_document(close), px=1024).json()
    (finding,) = [one for one in look["findings"] if one["id"] == "mesh-margin"]

    def drawn(size: int) -> np.ndarray:
        told = {"name": look["name"], "px": 512, "size": size}
        return read_bytes(client.get(f"/api/meshes/{look['sha256']}/marks/margins", params=told).content, "m.png").codes[..., 3]

    y, x = np.nonzero(drawn(1024))
    left, _, right, _ = (np.array(finding["where"]) * 512).round()
    assert len(x) and (x >= left - 8).all() and (x <= right + 8).all() and np.ptp(y) > 150
    assert not drawn(4096).any()


def missing(look) -> list[dict]:
    return [one for one in look["findings"] if one["id"] == "mesh-file-missing"]


def test_a_mesh_without_uv_is_worn_all_the_same(client):
    look = bring(client, "bare.obj", obj_document(replace(torus(8, 6), uv=None))).json()
    assert not look["has_uv"] and look["findings"][0]["id"] == "mesh-no-uv"
    path = f"/api/meshes/{look['sha256']}"
    assert mesh_from(client.get(f"{path}/worn", params={"name": "bare.obj"}).content, "worn.glb").shape.uv is None
    assert client.get(f"{path}/borders", params={"name": "bare.obj"}).json() == []


def test_what_is_found_on_a_mesh_is_drawn_where_it_is(client):
    shape = as_triangles(box())
    shape = replace(shape, uv=shape.uv.copy())
    shape.uv[6:12] = shape.uv[:6]  # the second side lies on the first
    look = bring(client, "laid over.obj", obj_document(shape)).json()

    def drawn(kind):
        answer = client.get(f"/api/meshes/{look['sha256']}/marks/{kind}", params={"name": look["name"], "px": 64})
        return answer.status_code, read_bytes(answer.content, "marks.png").codes[..., 3] if answer.is_success else None

    low, high = shape.uv[:6].min(0) * 64, shape.uv[:6].max(0) * 64
    status, alpha = drawn("overlaps")
    y, x = np.nonzero(alpha)
    assert status == 200 and low[0] - 1 <= x.min() and x.max() <= high[0] + 1
    assert 64 - high[1] - 1 <= y.min() and y.max() <= 64 - low[1] + 1 and len(x) > 0.8 * np.prod(high - low)
    assert drawn("stretch")[1].max() > 0  # its islands are wider than high, its sides are square
    assert not drawn("hard")[1].any() and drawn("creases")[0] == 404
    missed = np.zeros((32, 32), np.uint8)
    missed[3:5, 7:9] = 255
    kept = client.post("/api/originals", params={"name": "m.png"}, content=encode(missed, "png"), headers=RAW).json()
    marked = read_bytes(client.get(f"/api/missed/{kept['sha256']}").content, "m.png").codes[..., 3]
    assert ((marked > 0) == (missed > 0)).all()


def test_what_is_no_mesh_is_refused_and_not_kept(client):
    answer = bring(client, "cut off.glb", glb_of(box())[:-30])
    assert answer.status_code == 422 and answer.json()["code"] == "mesh-invalid" and "was cut off" in answer.json()["detail"]
    assert bring(client, "a.fbx", b"?").json()["detail"].startswith("a.fbx is of no format")
    assert client.get("/api/meshes/" + "0" * 64 + "/worn", params={"name": "a.obj"}).status_code == 404
