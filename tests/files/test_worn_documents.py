"""Documents that carry the mesh: valid before the official tools, and the mesh in them the one that came."""

from dataclasses import replace

import numpy as np
import pytest
from pxr import Usd, UsdGeom

from copper_sieve.core.mesh.made import joined, upright
from copper_sieve.core.mesh.tangents import tangents, unlike_degrees
from copper_sieve.core.mesh.udim import of_tile, tiles_of
from copper_sieve.core.recipe import MeshRef, Worn
from copper_sieve.files.meshes import read_mesh
from copper_sieve.files.meshes.obj import obj_libraries
from copper_sieve.targets import shipped_target
from files.test_documents import delivered, refuse_invalid, with_every_document
from shapes import box, tiled, torus

PARTS = joined([replace(torus(24, 12), parts=("Öse 1",)), replace(box(), parts=("Öse-1",), normals=box().shading)])
WORN = Worn(low=MeshRef(sha256="0" * 64, name="öse_low.obj", print="1" * 64, triangles=1))
KEYS = ("base_color", "normal", "roughness", "metallic", "opacity", "emissive", "occlusion")


class Bodies:
    """The meshes of one set, as an evaluation asks for them."""

    def __init__(self, shape):
        self.held = shape

    def shape(self, worn, tile=None):
        return self.held if tile is None else of_tile(self.held, tile)

    def tiles(self, worn):
        return tiles_of(self.held)

    def is_whole(self, worn):
        return True

    def nearest(self, worn, size, tile):
        return None


def written(folder, target, shape, keys=KEYS):
    return delivered(folder, target, keys, WORN, Bodies(shape)).parent


def sides(shape):
    """Lengths of its triangles' sides: they tell whether it is the same mesh, however its corners are numbered."""
    return np.sort(np.linalg.norm(shape.at - np.roll(shape.at, 1, 1), axis=2).ravel())


@pytest.mark.parametrize("up", ["y", "z"])
def test_gltf_carries_the_mesh_with_tangents_of_the_standard(tmp_path, up):
    shape = replace(PARTS, up=up)
    folder = written(tmp_path / "out", shipped_target("gltf"), shape)
    refuse_invalid(folder)
    for path in (*folder.glob("*.gltf"), *folder.glob("*.glb")):
        made = read_mesh(path).shape
        assert len(made.triangles) == len(shape.triangles) and made.parts == shape.parts
        np.testing.assert_allclose(sides(made), sides(shape), atol=1e-5)
        assert unlike_degrees(made.given_tangents[made.triangles], tangents(made)).max() < 0.05
        low, high = (upright(shape).points[shape.corners].min(0), upright(shape).points[shape.corners].max(0))
        np.testing.assert_allclose([made.points.min(0), made.points.max(0)], [low, high], atol=1e-6)
        flat = made.at.astype(float)  # in the file bitangents run against v, and tangents along u
        edges, spans = flat[:, 1:] - flat[:, :1], made.uv[made.triangles][:, 1:] - made.uv[made.triangles][:, :1]
        along = np.linalg.solve(spans.astype(float) + 1e-12 * np.eye(2), edges)
        frame = made.given_tangents[made.triangles].mean(1)
        assert (along[:, 0] * frame[:, :3]).sum(1).min() > 0


def test_usd_carries_the_mesh_part_by_part(tmp_path):
    folder = written(tmp_path / "out", shipped_target("usd-preview"), PARTS)
    refuse_invalid(folder)
    (path,) = folder.glob("*.usda")
    stage = Usd.Stage.Open(str(path))
    meshes = [UsdGeom.Mesh(prim) for prim in stage.Traverse() if prim.IsA(UsdGeom.Mesh)]
    assert len(meshes) == 2 and len({mesh.GetPath() for mesh in meshes}) == 2  # names alike without their accents
    counts = [len(mesh.GetFaceVertexCountsAttr().Get()) for mesh in meshes]
    assert sum(counts) == len(PARTS.triangles) and set(meshes[0].GetFaceVertexCountsAttr().Get()) == {3}
    for mesh, count in zip(meshes, counts):
        variables = UsdGeom.PrimvarsAPI(mesh)
        assert len(variables.GetPrimvar("st").Get()) == len(variables.GetPrimvar("tangents").Get()) == 3 * count


def test_obj_and_mtl_name_each_other_and_every_image(tmp_path):
    folder = written(tmp_path / "out", with_every_document("engine-orm-down"), PARTS)
    (obj,), (mtl,) = folder.glob("*.obj"), folder.glob("*.mtl")
    assert obj_libraries(obj.read_bytes()) == [mtl.name]
    made = read_mesh(obj).shape
    assert set(made.counts.tolist()) == {3} and not read_mesh(obj).missing
    np.testing.assert_allclose(sides(made), sides(PARTS), atol=1e-5)
    lines = mtl.read_text().splitlines()
    assert f"newmtl {made.materials[0]}" in lines
    named = {line.split(" ", 1)[0]: line for line in lines if line.startswith(("map_", "norm"))}
    assert "-imfchan g" in named["map_Pr"] and "-imfchan b" in named["map_Pm"]
    for line in named.values():
        assert any(line.endswith(path.name) for path in folder.iterdir()), line
    assert "norm" not in named  # this target's normals are Y−, which MTL has no word for


def test_an_unworn_set_is_shown_on_a_plane(tmp_path):
    folder = delivered(tmp_path / "out", with_every_document("engine-orm-down"), KEYS).parent
    assert len(read_mesh(next(folder.glob("*.obj"))).shape.triangles) == 2


def test_of_a_set_in_tiles_each_gltf_carries_what_lies_in_its_tile_and_usd_all(tmp_path):
    shape, tiles = tiled(torus(24, 12)), (1001, 1002)
    folder = delivered(tmp_path / "out", shipped_target("gltf"), KEYS, WORN, Bodies(shape), tiles).parent
    refuse_invalid(folder)
    for number in tiles:
        (path,) = folder.glob(f"*{number}*.glb")
        made = read_mesh(path).shape
        assert len(made.triangles) == len(shape.triangles) // 2 and 0 <= made.uv.min() and made.uv.max() <= 1
        np.testing.assert_allclose(sides(made), sides(of_tile(shape, number)), atol=1e-5)
    folder = delivered(tmp_path / "usd", shipped_target("usd-preview"), KEYS, WORN, Bodies(shape), tiles).parent
    (path,) = folder.glob("*.usda")
    stage = Usd.Stage.Open(str(path))
    (mesh,) = (UsdGeom.Mesh(prim) for prim in stage.Traverse() if prim.IsA(UsdGeom.Mesh))
    lies = np.array(UsdGeom.PrimvarsAPI(mesh).GetPrimvar("st").Get())
    assert lies[:, 0].min() == 0 and lies[:, 0].max() == 2 and "<UDIM>" in path.read_text()
