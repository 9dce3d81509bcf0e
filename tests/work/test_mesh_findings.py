"""Every finding on meshes: one that has the fault, and the same without it."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest

from copper_sieve.core.bake import BakePlan, bake
from copper_sieve.core.checks.mesh import MESH_CHECKS, SeenMesh
from copper_sieve.core.checks.mesh_pairs import cage_findings, pair_findings
from copper_sieve.core.findings import FINDINGS, Finding, finding
from copper_sieve.core.mesh.made import as_triangles, joined, turned_over
from copper_sieve.core.mesh.pairing import role_of
from copper_sieve.core.mesh.shape import Shape
from copper_sieve.core.mesh.tangents import tangents
from copper_sieve.core.mesh_sentences import MESH_FIXES
from copper_sieve.files.meshes import mesh_from, obj_document
from copper_sieve.work.meshes import check_mesh
from copper_sieve.work.meshes.mending import MENDS, mended
from shapes import box, flat_shaded, sheet, torus


def on(shape: Shape, file: str = "clasp.glb", **more: object) -> list[Finding]:
    seen = SeenMesh(file, shape, **more)  # type: ignore[arg-type]
    return [found for check in MESH_CHECKS for found in check(seen)]


def even() -> Shape:
    """A cube of triangles, evenly unfolded, upright, its islands well apart, named, with tangents: nothing to mend."""
    shape = as_triangles(box())
    shape = replace(shape, uv=shape.uv * np.float32([0.9, 0.6]), materials=("brass",), scales=((1.0, 1.0, 1.0),))
    return replace(shape, given_tangents=tangents(shape).reshape(-1, 4))


GOOD = even()
FLAT = replace(sheet(lambda u, v: np.stack([u, v, 0 * u], -1), 4, 4), materials=("brass",))


def uv(change: Callable[[np.ndarray], np.ndarray], of: Shape = GOOD) -> Shape:
    return replace(of, uv=change(of.uv.copy()).astype(np.float32), given_tangents=None)


def with_rows(rows: slice, value: object) -> Callable[[np.ndarray], np.ndarray]:
    def change(values: np.ndarray) -> np.ndarray:
        values[rows] = value
        return values

    return change


def turned(values: np.ndarray) -> np.ndarray:
    a = np.radians(20)
    return (values - 0.5) @ np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]]) * 0.7 + 0.5


def on_second(values: np.ndarray) -> np.ndarray:
    """The second side's island laid on the first's."""
    values[6:12] = values[:6]
    return values


def mirrored_on_first(values: np.ndarray) -> np.ndarray:
    values[6:12] = values[[0, 2, 1, 3, 5, 4]]
    return values


def flipped(values: np.ndarray) -> np.ndarray:
    values[:6, 0] = values[:6, 0].max() + values[:6, 0].min() - values[:6, 0]
    return values


def points(change: Callable[[np.ndarray], np.ndarray]) -> Shape:
    return replace(GOOD, points=change(GOOD.points.copy()).astype(np.float32), given_tangents=None)


def second(values: np.ndarray) -> Shape:
    return replace(GOOD, second_uv=values.astype(np.float32))


LOW = replace(box(), materials=("brass",))
CASES: dict[str, tuple[Callable[[], list[Finding]], Callable[[], list[Finding]]]] = {
    "mesh-no-uv": (lambda: on(replace(GOOD, uv=None)), lambda: on(GOOD)),
    "mesh-uv-empty": (lambda: on(uv(lambda values: values * 0)), lambda: on(GOOD)),
    "mesh-uv-broken": (lambda: on(uv(with_rows(np.s_[3:4], np.nan))), lambda: on(GOOD)),
    "mesh-material-no-uv": (
        lambda: on(replace(uv(with_rows(np.s_[18:], 0)), material=np.int32([0] * 6 + [1] * 6), materials=("brass", "linen"))),
        lambda: on(replace(GOOD, material=np.int32([0] * 6 + [1] * 6), materials=("brass", "linen"))),
    ),
    "mesh-uv-outside": (lambda: on(uv(lambda values: values + [1, 0])), lambda: on(GOOD)),
    "mesh-no-uv-area": (lambda: on(uv(with_rows(np.s_[:3], 0.05))), lambda: on(GOOD)),
    "mesh-no-area": (lambda: on(replace(GOOD, corners=with_rows(np.s_[:2], 5)(GOOD.corners.copy()))), lambda: on(GOOD)),
    "mesh-overlap": (lambda: on(uv(on_second)), lambda: on(GOOD)),
    "mesh-overlap-mirrored": (lambda: on(uv(lambda values: flipped(on_second(values)))), lambda: on(uv(on_second))),
    "mesh-mirrored": (lambda: on(uv(flipped)), lambda: on(GOOD)),
    "mesh-margin": (lambda: on(GOOD, px=64), lambda: on(GOOD, px=2048)),
    "mesh-stretch": (lambda: on(uv(lambda values: values * [1, 0.3])), lambda: on(GOOD)),
    "mesh-density": (lambda: on(uv(lambda values: np.r_[values[:18] * 0.3, values[18:]])), lambda: on(GOOD)),
    "mesh-turned": (lambda: on(uv(turned)), lambda: on(GOOD)),
    "mesh-hard-edges": (lambda: on(flat_shaded(torus(8, 6))), lambda: on(torus(8, 6))),
    "mesh-scale": (lambda: on(replace(GOOD, scales=((2.0, 2.0, 2.0),))), lambda: on(GOOD)),
    "mesh-scale-uneven": (lambda: on(replace(GOOD, scales=((2.0, 1.0, 2.0),))), lambda: on(GOOD)),
    "mesh-scale-negative": (lambda: on(replace(GOOD, scales=((-1.0, -1.0, -1.0),))), lambda: on(GOOD)),
    "mesh-polygons": (lambda: on(box()), lambda: on(GOOD)),
    "mesh-tangents-given": (lambda: on(GOOD), lambda: on(replace(GOOD, given_tangents=None))),
    "mesh-tangents-differ": (
        lambda: on(replace(GOOD, given_tangents=GOOD.given_tangents * np.array([1, 1, 1, -1], np.float32))),
        lambda: on(GOOD),
    ),
    "mesh-open": (lambda: on(FLAT), lambda: on(GOOD)),
    "mesh-crowded": (
        lambda: on(replace(GOOD, corners=np.r_[GOOD.corners[:33], GOOD.corners[:3]])),
        lambda: on(GOOD),
    ),
    "mesh-winding": (lambda: on(replace(GOOD, corners=np.r_[GOOD.corners[:3][::-1], GOOD.corners[3:]])), lambda: on(GOOD)),
    "mesh-inside-out": (lambda: on(points(lambda at: at * [-1, 1, 1])), lambda: on(GOOD)),
    "mesh-up": (lambda: on(GOOD), lambda: []),
    "mesh-no-material": (lambda: on(replace(GOOD, materials=("",))), lambda: on(GOOD)),
    "mesh-second-uv": (lambda: on(second(on_second(GOOD.uv.copy()))), lambda: on(second(GOOD.uv))),
    "mesh-quick-uv": (lambda: on(GOOD, file="pin quick UV_low.glb"), lambda: on(GOOD)),
    "mesh-uv-laid": (lambda: on(GOOD, layings=("are scaled by 4 × 4",)), lambda: on(GOOD)),
    "mesh-file-missing": (lambda: on(GOOD, missing=("a.png",)), lambda: on(GOOD)),
    "mesh-file-outside": (lambda: on(GOOD, outside=("../a.png",)), lambda: on(GOOD)),
    "mesh-unpaired": (lambda: pair_findings(["a_low", "b_high"]), lambda: pair_findings(["a_low", "a_high", "plain"])),
    "mesh-cage-counts": (lambda: cage_findings("cage.obj", LOW, GOOD), lambda: cage_findings("cage.obj", LOW, LOW)),
    "mesh-cage-differs": (
        lambda: cage_findings("cage.obj", LOW, replace(LOW, uv=LOW.uv + np.float32(0.01))),
        lambda: cage_findings("cage.obj", LOW, replace(LOW, points=LOW.points * np.float32(1.1))),
    ),
    "mesh-missed": (
        lambda: bake(LOW, box(0.98), BakePlan(size=64, offset=0.05, averaged=False)).findings,
        lambda: bake(LOW, box(1.0), BakePlan(size=64, offset=0.05)).findings,
    ),
    "mesh-missed-most": (
        lambda: bake(LOW, box(3.0), BakePlan(size=16, offset=0.1)).findings,
        lambda: bake(LOW, box(1.0), BakePlan(size=16, offset=0.05)).findings,
    ),
    "mesh-outside-cage": (
        lambda: bake(LOW, box(1.2), BakePlan(size=16, offset=0.05)).findings,
        lambda: bake(LOW, box(1.2), BakePlan(size=16, offset=0.2)).findings,
    ),
    "mesh-map-left-out": (
        lambda: bake(LOW, None, BakePlan(("normal", "id"), size=16)).findings,
        lambda: bake(LOW, None, BakePlan(("id",), size=16)).findings,
    ),
    "mesh-hard-without-cage": (
        lambda: bake(LOW, box(1.0), BakePlan(size=16, offset=0.05)).findings,
        lambda: bake(torus(8, 6), torus(8, 6), BakePlan(size=16, offset=0.05)).findings,
    ),
}
ELSEWHERE = {"mesh-unreadable"}  # said by the terminal, and tested there


def test_every_finding_on_meshes_has_its_case():
    assert {id for id in FINDINGS if id.startswith("mesh-")} == CASES.keys() | ELSEWHERE


@pytest.mark.parametrize("id", CASES)
def test_it_is_found_where_it_is_and_nowhere_else(id):
    there, not_there = (case() for case in CASES[id])
    assert id in [found.id for found in there] and id not in [found.id for found in not_there]
    told = next(found for found in there if found.id == id)
    assert told.text and told.grade == FINDINGS[id].grade
    if told.where is not None:
        left, top, right, bottom = told.where
        assert 0 <= left < right <= 1 and 0 <= top < bottom <= 1


def test_a_good_mesh_has_nothing_to_mend():
    assert [found.grade for found in on(GOOD)] == ["note"] * len(on(GOOD))


def test_a_file_that_cannot_be_read_says_why(tmp_path):
    shape, found = check_mesh(tmp_path / "gone.obj")
    assert shape is None and found[0].id == "mesh-unreadable" and "gone.obj" in found[0].text
    assert finding("mesh-quick-uv", file="a.glb").grade == "note"


TO_MEND = {
    "mesh-no-uv": replace(GOOD, uv=None, given_tangents=None),
    "mesh-uv-empty": uv(lambda values: values * 0),
    "mesh-uv-broken": uv(with_rows(slice(0, 1), np.nan)),
    "mesh-polygons": replace(box(), materials=("brass",)),
    "mesh-scale": replace(GOOD, scales=((2.0, 2.0, 2.0),)),
    "mesh-scale-uneven": replace(GOOD, scales=((1.0, 2.0, 1.0),)),
    "mesh-scale-negative": replace(GOOD, scales=((-1.0, 1.0, 1.0),)),
    "mesh-tangents-differ": replace(GOOD, given_tangents=GOOD.given_tangents * np.array([1, 1, 1, -1], np.float32)),
    "mesh-inside-out": points(lambda at: at * [-1, 1, 1]),
}


@pytest.mark.parametrize("id", MENDS)
def test_what_one_press_does_leaves_nothing_of_the_kind_to_do(id):
    """The mesh that is made beside the first is read as a file that came, and has its triangles where they were."""
    shape = TO_MEND[id]
    name, content = mended(shape, "pin_low.obj", id)
    made = mesh_from(content, name).shape
    assert id not in [found.id for check in MESH_CHECKS for found in check(SeenMesh(name, made))]
    assert len(made.triangles) == len(shape.triangles) and role_of(name.removesuffix(".glb"))[1] == "low"
    assert np.allclose(np.sort(made.at.ravel()), np.sort(shape.at.ravel()), atol=1e-6)
    assert made.given_tangents is not None


def test_one_piece_that_looks_inward_is_found_beside_others_and_turned_alone():
    """Beside an open one, which hid it; a hollow inside of another is none."""
    out, open_ = (
        replace(box(), parts=("pin",)),
        replace(sheet(lambda u, v: np.stack([u + 3, v, 0 * u], -1), 2, 2), parts=("plate",)),
    )
    wrong = turned_over(replace(box(), points=box().points + np.float32([5, 0, 0]), parts=("clasp",)))
    hollow = turned_over(replace(box(0.5), parts=("hollow",)))
    whole = joined([out, open_, wrong, hollow])
    (told,) = [f for check in MESH_CHECKS for f in check(SeenMesh("set.obj", whole)) if f.id == "mesh-inside-out"]
    assert "12 of its triangles (of clasp) look inward" in told.text
    mend = turned_over(whole)
    changed = (mend.corners.reshape(-1, 3) != as_triangles(whole).corners.reshape(-1, 3)).any(1)
    names = np.array(whole.parts)[as_triangles(whole).part]
    assert set(names[changed]) == {"clasp"} and changed.sum() == 12
    at = mend.at.astype(np.float64)
    facing = np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0])
    shading = mend.shading.reshape(-1, 3, 3).sum(1)
    assert ((facing * shading).sum(1) > 0).all()
    outward = replace(wrong, normals=-wrong.shading)  # its faces alone look inward
    assert np.array_equal(turned_over(outward).shading.reshape(-1, 3, 3)[:, 0], outward.shading.reshape(-1, 3, 3)[:, 0])


def test_faces_of_a_material_without_uv_are_not_told_twice():
    bare = replace(box(), uv=box().uv * 0, materials=("cloth",))
    told = [f.id for f in on(joined([replace(box(), materials=("brass",)), bare]))]
    assert "mesh-material-no-uv" in told and "mesh-no-uv-area" not in told


def test_every_press_has_its_title():
    assert set(MENDS) == set(MESH_FIXES)


def test_a_broken_pair_with_twelve_faults_and_each_is_found():
    """All at once in one low mesh and what comes with it: none hides another."""
    plate = sheet(lambda u, v: np.stack([u, v, 0 * u], -1), 4, 4)
    torn = replace(plate, points=plate.points.copy(), parts=("plate_low",))
    torn.points[0] = torn.points[1]
    faceted = flat_shaded(torus(16, 8))
    parts = [
        replace(box(), parts=("pin_low",)),
        replace(box(), parts=("roller_low",)),  # where the first lies, in space and in the picture
        replace(plate, uv=plate.uv * np.float32(0.2) + np.float32([1.2, 0]), parts=("strap_low",)),
        replace(faceted, uv=faceted.uv * np.float32([0.9, 0.2]) + np.float32([0.05, 0]), parts=("ring_low",)),
        torn,
    ]
    low = joined(parts)
    low = replace(low, scales=((1.0, 2.0, 1.0),) * len(low.parts))
    found = {one.id for one in on(low)} | {one.id for one in cage_findings("cage.obj", low, box())}
    found |= {one.id for one in pair_findings([*low.parts, "pin_high", "roller_high", "plate_high", "ring_high"])}
    faults = (
        "overlap uv-outside hard-edges no-area no-material polygons scale-uneven stretch density crowded cage-counts unpaired"
    )
    assert {f"mesh-{fault}" for fault in faults.split()} <= found


def test_a_mesh_that_is_only_baked_from_needs_no_uv(tmp_path):
    bare = obj_document(replace(box(), uv=None))
    for name in ("clasp_low.obj", "clasp_high.obj"):
        (tmp_path / name).write_bytes(bare)
    ids = {name: {one.id for one in check_mesh(tmp_path / name)[1]} for name in ("clasp_low.obj", "clasp_high.obj")}
    assert "mesh-no-uv" in ids["clasp_low.obj"] and "mesh-no-material" in ids["clasp_low.obj"]
    assert "mesh-no-uv" not in ids["clasp_high.obj"] and "mesh-no-material" in ids["clasp_high.obj"]


def test_what_lies_on_each_other_is_found_in_whichever_tile_it_lies():
    (here,), (there,) = (
        [one for one in on(uv(lambda values, by=by: on_second(values) + [by, 0])) if one.id == "mesh-overlap"] for by in (0, 1)
    )
    assert here.numbers["share"] == pytest.approx(there.numbers["share"]) and here.where == there.where


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (lambda values: values + [0.5, 0], "repeated, and nothing"),
        (with_rows(np.s_[18:], GOOD.uv[18:] + np.float32([2, 0])), "(tiles 1001, 1003). A set in tiles"),
        (with_rows(np.s_[18:24], GOOD.uv[:6] + np.float32([1, 0])), "moved by whole tiles"),
    ],
)
def test_what_lies_outside_of_the_picture_is_told_by_what_it_is_there_for(change, says):
    (one,) = (one for one in on(uv(change)) if one.id == "mesh-uv-outside")
    assert says in one.text
