"""Mesh files: what goes out comes back, whatever was in it; what is broken says so."""

import json
import struct
from dataclasses import replace

import numpy as np
import pytest

from copper_sieve.core.errors import MeshInvalid
from copper_sieve.core.mesh.shape import MAX_TRIANGLES, Shape
from copper_sieve.core.mesh.tangents import tangents, unlike_degrees
from copper_sieve.files.meshes import (
    glb_of,
    materials_from,
    mesh_from,
    obj,
    obj_document,
    ply_document,
    read_mesh,
    text,
    whole_mesh,
)
from copper_sieve.files.meshes import ply as ply_file
from shapes import box, flat_shaded, gltf_with_pictures, torus


def named() -> Shape:
    """A cube of two materials and two parts, with names that try readers."""
    return replace(
        box(),
        material=np.int32([0, 0, 1, 1, 1, 1]),
        materials=("Messing größer", "linen"),
        part=np.int32([0, 1, 1, 1, 1, 1]),
        parts=("Schnalle oben_low", "strap_low"),
    )


def corners_of(shape: Shape) -> np.ndarray:
    """Everything that the corners of the triangles hold, row by row."""
    corner = shape.triangles.ravel()
    told = [shape.points[shape.corners[corner]], shape.uv[corner], shape.shading[corner]]
    names = np.array([[shape.material[f], shape.part[f]] for f in np.repeat(shape.polygon_of, 3)])
    return np.concatenate([*told, names], 1)


@pytest.mark.parametrize(("suffix", "write"), [(".obj", obj_document), (".glb", glb_of)])
def test_what_is_written_comes_back(tmp_path, suffix, write):
    shape = named()
    (tmp_path / f"a b{suffix}").write_bytes(write(shape))
    back = read_mesh(tmp_path / f"a b{suffix}").shape
    assert (back.materials, back.parts) == (shape.materials, shape.parts)
    ours, theirs = (rows[np.lexsort(rows.T.round(4))] for rows in (corners_of(shape), corners_of(back)))
    np.testing.assert_allclose(ours, theirs, atol=1e-6)
    if suffix == ".obj":
        assert (back.counts == 4).all()  # polygons stay what they are


def laid_by_the_standard(uv: np.ndarray, scale, rotation: float, offset) -> np.ndarray:
    """The matrices of KHR_texture_transform, on UV whose v points down."""
    c, s = np.cos(rotation), np.sin(rotation)
    moved = np.array([[1, 0, offset[0]], [0, 1, offset[1]], [0, 0, 1]])
    whole = moved @ np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]]) @ np.diag([*scale, 1])
    return (np.c_[uv, np.ones(len(uv))] @ whole.T)[:, :2]


@pytest.mark.parametrize(
    ("scale", "rotation", "offset", "said"),
    [
        ((4, 4), 0, (0, 0), "are scaled by 4 × 4"),
        ((2, 0.5), 0.5, (0.25, -1), "are scaled by 2 × 0.5, turned by 28.6°, moved by 0.25 and -1"),
        ((1, 1), 0, (0, 0), ""),
    ],
)
def test_pictures_that_lie_scaled_turned_and_moved_are_in_the_uv(scale, rotation, offset, said):
    moved = {"scale": list(scale), "rotation": rotation, "offset": list(offset)}
    row = {"index": 0, "extensions": {"KHR_texture_transform": moved}}
    material = {"name": "felt", "pbrMetallicRoughness": {"baseColorTexture": row}, "normalTexture": row}
    shape = replace(torus(6, 5), materials=("felt",))
    read = mesh_from(gltf_with_pictures(shape, [{"png": b"x"}], [material]), "ring.gltf")
    uv = mesh_from(glb_of(shape), "ring.glb").shape.uv
    expected = laid_by_the_standard(uv * [1, -1] + [0, 1], scale, rotation, offset) * [1, -1] + [0, 1]
    np.testing.assert_allclose(read.shape.uv, expected, atol=1e-5)
    assert read.layings == ((said,) if said else ())


def test_pictures_on_the_second_uv_have_it_and_those_that_differ_leave_the_uv_as_they_are():
    shape = torus(6, 5)
    shape = replace(shape, second_uv=shape.uv[:, ::-1].copy(), materials=("felt",))
    one, other = ({"index": 0, "texCoord": k} for k in (1, 0))
    alike = {"pbrMetallicRoughness": {"baseColorTexture": one}, "normalTexture": one}
    mixed = {"pbrMetallicRoughness": {"baseColorTexture": other}, "occlusionTexture": one}
    plain = mesh_from(glb_of(shape), "ring.glb").shape
    on_second, as_it_is = (mesh_from(gltf_with_pictures(shape, [{"png": b"x"}], [m]), "r.gltf") for m in (alike, mixed))
    np.testing.assert_allclose(on_second.shape.uv, plain.second_uv, atol=1e-6)
    np.testing.assert_allclose(on_second.shape.second_uv, plain.uv, atol=1e-6)
    np.testing.assert_allclose(as_it_is.shape.uv, plain.uv, atol=1e-6)
    assert (on_second.layings, as_it_is.layings) == (("are its second ones",), ())


def test_ply_keeps_uv_and_normals(tmp_path):
    shape = torus(6, 5, quads=True)
    (tmp_path / "ring.ply").write_bytes(ply_document(shape))
    back = read_mesh(tmp_path / "ring.ply").shape
    assert (back.counts == 4).all() and back.materials == ("",)
    np.testing.assert_allclose(corners_of(back), corners_of(shape), atol=1e-6)


def ply(order: str, faces: list[list[int]]) -> bytes:
    points = [(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0), (0.5, 2, 0)]
    head = (
        f"ply\nformat {order} 1.0\nelement vertex 5\nproperty float x\nproperty double y\nproperty float z\nproperty uchar red\n"
    )
    head += f"element face {len(faces)}\nproperty uchar quality\nproperty list uchar int vertex_indices\nend_header\n"
    if order == "ascii":
        rows = [f"{x} {y} {z} 7" for x, y, z in points] + [f"1 {len(f)} {' '.join(map(str, f))}" for f in faces]
        return (head + "\n".join(rows) + "\n").encode()
    sign = "<" if "little" in order else ">"
    body = b"".join(struct.pack(f"{sign}fdfB", *p, 7) for p in points)
    return head.encode() + body + b"".join(struct.pack(f"{sign}BB{len(f)}i", 1, len(f), *f) for f in faces)


@pytest.mark.parametrize("order", ["ascii", "binary_little_endian", "binary_big_endian"])
@pytest.mark.parametrize("faces", [[[0, 1, 2], [0, 2, 3]], [[0, 1, 2, 3], [3, 2, 4]]])
def test_ply_of_every_order_and_mixed_faces(tmp_path, order, faces):
    (tmp_path / "a.ply").write_bytes(ply(order, faces))
    shape = read_mesh(tmp_path / "a.ply").shape
    assert shape.counts.tolist() == [len(f) for f in faces] and shape.corners.tolist() == [k for f in faces for k in f]
    assert shape.points[4].tolist() == [0.5, 2, 0]


def stl(shape: Shape, *, text: bool) -> bytes:
    if text:
        rows = ["solid made up"]
        for a in shape.at.tolist():
            rows += ["facet normal 0 0 0", "outer loop", *(f"vertex {x} {y} {z}" for x, y, z in a), "endloop", "endfacet"]
        return "\n".join([*rows, "endsolid"]).encode()
    facets = b"".join(struct.pack("<12fH", 0, 0, 0, *a.ravel(), 0) for a in shape.at)
    return b"made up".ljust(80) + struct.pack("<I", len(shape.at)) + facets


@pytest.mark.parametrize("text", [False, True])
def test_stl_becomes_one_surface(tmp_path, text):
    (tmp_path / "cube.stl").write_bytes(stl(box(), text=text))
    shape = read_mesh(tmp_path / "cube.stl").shape
    assert (len(shape.points), len(shape.triangles), shape.uv, shape.up) == (8, 12, None, "z")
    np.testing.assert_allclose(shape.at, box().at, atol=1e-6)


def test_obj_counts_from_the_end_and_mixes_what_corners_have(tmp_path):
    lines = ["mtllib gone.mtl", "o first", "v 0 0 0", "v 1 0 0", "v 1 1 0 0.5 0.5 0.5", "vt 0 0", "vt 1 0", "vt 1 1"]
    lines += ["f -3/-3 -2/-2 -1/-1", "o second part", "usemtl gold leaf", "v 0 1 0", "vn 0 0 1", "f 1 3 4", "f 1/1/1 3/3/1 4//1"]
    (tmp_path / "a.obj").write_text("\n".join(lines))
    read = read_mesh(tmp_path / "a.obj")
    shape = read.shape
    assert shape.corners.tolist() == [0, 1, 2, 0, 2, 3, 0, 2, 3]
    assert shape.uv.tolist()[:3] == [[0, 0], [1, 0], [1, 1]] and shape.uv[3:6].any() == False  # noqa: E712
    assert shape.parts == ("first", "second part") and shape.material.tolist() == [0, 1, 1]
    assert shape.materials == ("", "gold leaf") and read.missing == ("gone.mtl",)


def test_text_is_the_same_mesh_however_small_the_pieces_that_it_is_read_in(monkeypatch):
    """Faces of three and of four corners, two parts, lines that are parted by a backslash."""
    shape = replace(named(), normals=None)
    whole = {
        "ring.obj": obj_document(shape).replace(b"f 1", b"f \\\n1", 1),
        "ring.ply": ply("ascii", [[0, 1, 2], [0, 2, 3], [0, 1, 2, 3]]),
        "ring.stl": stl(torus(6, 5), text=True),
    }
    before = {name: mesh_from(content, name).shape for name, content in whole.items()}
    written = obj_document(shape)
    for module, name, value in ((text, "_BYTES", 40), (text, "AT_ONCE", 3), (obj, "AT_ONCE", 3), (ply_file, "AT_ONCE", 3)):
        monkeypatch.setattr(module, name, value)
    assert obj_document(shape) == written
    for name, content in whole.items():
        now = mesh_from(content, name).shape
        for part in ("points", "corners", "counts", "uv", "material", "part"):
            np.testing.assert_array_equal(getattr(now, part), getattr(before[name], part), err_msg=f"{name} {part}")
        assert (now.parts, now.materials) == (before[name].parts, before[name].materials)


def gltf(shape: Shape, **changes: object) -> dict:
    """The document of a .glb as text, with its buffer inside."""
    import base64

    content = glb_of(shape, tangents(shape))
    length = struct.unpack("<I", content[12:16])[0]
    document = json.loads(content[20 : 20 + length])
    inside = base64.b64encode(content[28 + length :]).decode()
    document["buffers"][0]["uri"] = f"data:application/octet-stream;base64,{inside}"
    return document | changes


def test_gltf_nodes_are_moved_scaled_and_mirrored(tmp_path):
    document = gltf(named())
    document["nodes"] = [
        {"name": "above", "scale": [2, 2, 2], "children": [1]},
        {"name": "left", "mesh": 0, "translation": [1, 0, 0], "rotation": [0, 0, 0.7071068, 0.7071068]},
        {"name": "mirrored", "mesh": 1, "scale": [-1, 1, 1]},
    ]
    document["scenes"] = [{"nodes": [0, 2]}]
    (tmp_path / "a.gltf").write_text(json.dumps(document))
    shape = read_mesh(tmp_path / "a.gltf").shape
    assert shape.parts == ("left", "mirrored") and shape.scales[1] == (-1, -1, -1)
    np.testing.assert_allclose(shape.scales[0], 2, atol=1e-6)
    left = shape.points[shape.corners[np.repeat(shape.part == 0, 3)]]
    np.testing.assert_allclose(left.mean(0), [2, -1, 0], atol=1e-5)  # the first side of the cube, turned and moved
    at = shape.at[shape.part == 1]
    normals = shape.shading[shape.triangles][shape.part == 1]
    flat = np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0])
    assert ((flat[:, None] * normals).sum(-1) > 0).all()  # mirrored faces still look outward


def test_tangents_go_out_as_they_are_and_close_in_the_file(tmp_path):
    shape = torus(16, 8)
    ours = tangents(shape)
    (tmp_path / "ring.glb").write_bytes(glb_of(shape, ours))
    back = read_mesh(tmp_path / "ring.glb").shape
    assert unlike_degrees(back.given_tangents[back.triangles], tangents(back)).max() < 1e-3
    # as the file has it, with v down: T runs with u, and the bitangent against v
    at, uv, told = back.at, back.uv[back.triangles] * [1, -1] + [0, 1], back.given_tangents[back.triangles]
    d1, d2, t1, t2 = at[:, 1] - at[:, 0], at[:, 2] - at[:, 0], uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    area = (t1[:, 0] * t2[:, 1] - t1[:, 1] * t2[:, 0])[:, None]
    along_u, along_v = (t2[:, 1:] * d1 - t1[:, 1:] * d2) / area, (t1[:, :1] * d2 - t2[:, :1] * d1) / area
    bitangent = told[..., 3:] * np.cross(back.shading[back.triangles], told[..., :3])
    assert ((told[..., :3] * along_u[:, None]).sum(-1) > 0).all() and ((bitangent * along_v[:, None]).sum(-1) < 0).all()


def test_nothing_outside_of_a_meshs_folder_is_read(tmp_path):
    (tmp_path / "secret.bin").write_bytes(b"\0" * 4096)
    inner = tmp_path / "inner"
    inner.mkdir()
    document = gltf(box(), images=[{"uri": "gone%20away.png"}, {"uri": "../secret.bin"}])
    (inner / "a.gltf").write_text(json.dumps(document))
    read = read_mesh(inner / "a.gltf")
    assert read.missing == ("gone away.png",) and read.outside == ("../secret.bin",)
    document["buffers"][0]["uri"] = "../secret.bin"
    (inner / "b.gltf").write_text(json.dumps(document))
    with pytest.raises(MeshInvalid, match="does not lie beside it"):
        read_mesh(inner / "b.gltf")


WHOLE_GLB = glb_of(box())
BAD = [
    ("a.obj", b"", "no points and faces"),
    ("a.obj", b"v 0 0 0\nv 1 0 x\nv 0 1 0\nf 1 2 3\n", "from line 1 on, “v” is not followed by 3 numbers"),
    ("a.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n", "from line 4 on, a face asks for a point"),
    ("a.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf -9 2 3\n", "asks for a point"),
    ("a.obj", b"v 0 0 0\nv 1 0 0\nv 0 nan 0\nf 1 2 3\n", "lie nowhere"),
    ("a.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2\n", "fewer than three"),
    ("a.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 tree\n", "not made of numbers"),
    ("a.stl", b"solid but cut off", "no triangles"),
    ("a.stl", b"\0" * 80 + struct.pack("<I", 20_000_000), "20,000,000 triangles"),
    ("a.ply", b"ply\nformat ascii 1.0\nelement vertex 9\nproperty float x\nend_header\n0\n", "ends before its header says"),
    ("a.ply", b"no ply", "no PLY file"),
    ("a.ply", ply("binary_little_endian", [[0, 1, 2]])[:-4], "ends before its header says"),
    ("a.ply", ply("ascii", [[0, 1, 9]]), "asks for point 9"),
    ("a.glb", WHOLE_GLB[:-40], "was cut off"),
    ("a.glb", b"glTF" + b"\0" * 8, "was cut off"),
    ("a.gltf", b"{}", "no glTF 2.0 document"),
    ("a.gltf", b"[1, 2", "no glTF document"),
    ("a.gltf", json.dumps(gltf(box(), extensionsRequired=["KHR_draco_mesh_compression"])).encode(), "geometry is packed"),
    ("a.gltf", json.dumps(gltf(box(), nodes=[{"mesh": 9}])).encode(), "names something that is not in it"),
    ("a.gltf", json.dumps(gltf(box(), nodes=[{"children": [0]}])).encode(), "without end"),
    ("a.gltf", json.dumps(gltf(box(), nodes=[{"name": "empty"}])).encode(), "no node of the document shows"),
    ("a.fbx", b"", "of no format of meshes"),
]


@pytest.mark.parametrize(("name", "content", "says"), BAD)
def test_what_is_broken_says_what_and_where(tmp_path, name, content, says):
    path = tmp_path / name
    path.write_bytes(content)
    with pytest.raises(MeshInvalid, match=says) as problem:
        read_mesh(path)
    assert problem.value.message.startswith(name) and content == path.read_bytes()


@pytest.mark.parametrize("asked", [whole_mesh, materials_from])
def test_what_is_asked_of_a_mesh_before_it_is_read_says_the_same(asked):
    with pytest.raises(MeshInvalid, match=r"^größer\.gltf: this is no glTF 2.0 document"):
        asked(b"{}", "größer.gltf", {})


def test_meshes_beyond_the_bound_are_refused_before_they_are_built(tmp_path):
    header = b"\0" * 80 + struct.pack("<I", MAX_TRIANGLES + 1)
    path = tmp_path / "huge.stl"
    with path.open("wb") as file:
        file.write(header)
        file.truncate(84 + 50 * (MAX_TRIANGLES + 1))
    with pytest.raises(MeshInvalid, match=f"{MAX_TRIANGLES + 1:,} triangles"):
        read_mesh(path)


def test_a_million_triangles_without_area_are_read_and_have_tangents(tmp_path):
    shape = Shape(np.zeros((3, 3), np.float32), np.tile(np.int32([0, 1, 2]), 1_000_000), np.full(1_000_000, 3, np.int32))
    assert np.isfinite(tangents(replace(shape, uv=np.zeros((3_000_000, 2), np.float32)))).all()


@pytest.mark.parametrize("seed", range(30))
def test_damaged_files_are_read_or_refused_and_never_crash(tmp_path, seed):
    rng = np.random.default_rng(seed)
    whole = {
        "a.obj": obj_document(named()),
        "a.ply": ply_document(named()),
        "a.stl": stl(flat_shaded(box()), text=False),
        "a.glb": WHOLE_GLB,
    }
    for name, content in whole.items():
        damaged = bytearray(content)
        for at in rng.integers(0, len(damaged), 8):
            damaged[at] = rng.integers(0, 256)
        (tmp_path / name).write_bytes(bytes(damaged[: rng.integers(1, len(damaged) + 1)] if seed % 2 else damaged))
        try:
            assert len(read_mesh(tmp_path / name).shape.triangles) > 0
        except MeshInvalid as problem:
            assert problem.message
