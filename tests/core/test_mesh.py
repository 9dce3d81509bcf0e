"""Shapes: polygons kept and cut once, tangents as the standard's reference makes them, and how pictures lie on meshes."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from copper_sieve.core.errors import MeshInvalid
from copper_sieve.core.mesh.made import only
from copper_sieve.core.mesh.pairing import paired, print_of, role_of
from copper_sieve.core.mesh.shape import Shape, smooth_normals, welded
from copper_sieve.core.mesh.tangents import tangents, unlike_degrees
from copper_sieve.core.mesh.topology import edges_of, islands_of
from copper_sieve.core.mesh.unfold import (
    hard_edges_inside,
    margin_of,
    overlapping,
    stretch_of,
    turned_islands,
    uv_areas,
)
from shapes import box, flat_shaded, sheet, torus

REFERENCE = np.load(Path(__file__).parents[1] / "data" / "tangents.npz")  # corners, and what the reference port made of them


@pytest.mark.parametrize("name", [name for name in REFERENCE.files if f"{name} at" in REFERENCE])
def test_tangents_are_those_of_the_reference(name):
    at, normals, uv = (REFERENCE[f"{name} {what}"] for what in ("at", "normals", "uv"))
    corners, three = np.arange(3 * len(at), dtype=np.int32), np.full(len(at), 3, np.int32)
    shape = Shape(at.reshape(-1, 3), corners, three, uv=uv.reshape(-1, 2), normals=normals.reshape(-1, 3))
    ours = tangents(shape)
    assert unlike_degrees(REFERENCE[name], ours).max() <= 2e-5
    assert np.abs(REFERENCE[name] - ours).max() <= 2e-7


def test_tangents_of_v_down_are_the_same_with_every_sign_turned():
    shape = torus(12, 8)
    down = replace(shape, uv=shape.uv * np.float32([1, -1]) + np.float32([0, 1]))
    up, turned = tangents(shape), tangents(down)
    np.testing.assert_allclose(up[..., :3], turned[..., :3], atol=2e-6)
    assert (up[..., 3] == -turned[..., 3]).all()


def test_tangents_lie_in_the_surface_along_u():
    shape = torus(64, 32)
    found, corner = tangents(shape), shape.triangles
    assert np.abs((found[..., :3] * shape.shading[corner]).sum(-1)).max() < 1e-5
    way = 2 * np.pi * shape.uv[corner][..., 0]
    along = np.stack([-np.sin(way), np.cos(way), np.zeros_like(way)], -1)
    assert np.degrees(np.arccos((found[..., :3] * along).sum(-1).clip(-1, 1))).max() < 4
    assert (found[..., 3] == 1).all()
    with pytest.raises(MeshInvalid, match="need UV"):
        tangents(replace(shape, uv=None))


@settings(max_examples=80, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([1e-30, 1e-22, 1e-12, 1.0, 1e12]), st.sampled_from([0.0, 1e-25, 1.0]))
def test_tangents_are_of_unit_length_in_the_surface_whatever_the_mesh_and_its_uv(seed, size, wide):
    """Triangles of no area, in space and in UV, and too small for their squares to be told."""
    rng = np.random.default_rng(seed)
    many = int(rng.integers(1, 12))
    points = rng.integers(-2, 3, (9, 3)).astype(np.float32) * np.float32(size)
    corners = rng.integers(0, 9, 3 * many).astype(np.int32)
    uv = rng.integers(0, 3, (3 * many, 2)).astype(np.float32) * np.float32(wide)
    soup = Shape(points, corners, np.full(many, 3, np.int32), uv=uv)
    found = tangents(soup)
    assert np.abs(np.linalg.norm(found[..., :3], axis=-1) - 1).max() < 1e-5
    assert np.isin(found[..., 3], (-1, 1)).all()


@settings(max_examples=60, deadline=None)
@given(st.integers(5, 12), st.integers(0, 10_000))
def test_a_star_of_any_corners_is_cut_into_triangles_of_its_own_area(corners, seed):
    rng = np.random.default_rng(seed)
    angle = np.sort(rng.uniform(0, 2 * np.pi, corners)) + np.linspace(0, 0.01, corners)
    reach = rng.uniform(0.2, 1, corners)
    at = np.stack([reach * np.cos(angle), reach * np.sin(angle), np.zeros(corners)], 1).astype(np.float32)
    shape = Shape(at, np.arange(corners, dtype=np.int32), np.int32([corners]))
    x, y = at[:, 0].astype(float), at[:, 1].astype(float)
    own = 0.5 * (x * np.roll(y, -1) - np.roll(x, -1) * y).sum()
    turns = np.cross(shape.at[:, 1] - shape.at[:, 0], shape.at[:, 2] - shape.at[:, 0])[:, 2] / 2
    assert len(turns) == corners - 2
    if np.diff(np.append(angle, angle[0] + 2 * np.pi)).max() < np.pi:  # a star about its middle
        assert turns.sum() == pytest.approx(own, abs=1e-5) and turns.min() > -1e-5


def test_concave_and_bent_polygons_are_told():
    flat = [[0, 0, 0], [2, 1, 0], [0, 2, 0], [1, 1, 0]]
    saddle = [[0, 0, 0], [1, 0, 0], [1, 1, 0.2], [0, 1, 0]]
    square = [[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]]
    shape = Shape(np.float32(flat + saddle + square), np.arange(12, dtype=np.int32), np.int32([4, 4, 4]))
    assert shape.bent.tolist() == [True, True, False]


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"corners": np.int32([0, 1, -1])}, "asks for point -1"),
        ({"corners": np.int32([0, 1, 7])}, "asks for point 7"),
        ({"points": np.float32([[0, 0, 0], [np.nan, 0, 0], [0, 1, 0]])}, "1 points lie nowhere"),
        ({"counts": np.int32([2])}, "fewer than three"),
        ({"counts": np.zeros(0, np.int32)}, "no faces"),
        ({"counts": np.int32([2**31 - 1])}, "are the most"),
    ],
)
def test_what_is_no_surface_says_so(change, says):
    whole = {"points": np.eye(3, dtype=np.float32), "corners": np.int32([0, 1, 2]), "counts": np.int32([3])}
    with pytest.raises(MeshInvalid, match=says):
        Shape(**{**whole, **change})


def test_smooth_normals_do_not_hang_on_the_triangulation():
    """A cube's corners lean alike to all three sides, however these are cut."""
    normals = smooth_normals(box())
    np.testing.assert_allclose(np.abs(normals), 1 / np.sqrt(3), atol=1e-6)


def test_edges_tell_what_is_open_crowded_and_turned():
    closed = edges_of(box())
    assert (closed.open_count, closed.crowded_count, closed.turned_count, len(closed.faces)) == (0, 0, 0, 18)
    points = np.float32([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1]])
    fan = Shape(points, np.int32([0, 1, 2, 0, 1, 3, 0, 1, 4]), np.int32([3, 3, 3]))
    assert edges_of(fan).crowded_count == 1
    assert edges_of(Shape(points, np.int32([0, 1, 2, 0, 1, 3]), np.int32([3, 3]))).turned_count == 1


def test_islands_stretch_and_density():
    shape = box()
    assert len(np.unique(islands_of(shape, shape.uv))) == 6
    found = stretch_of(shape, shape.uv)
    np.testing.assert_allclose(found.ratio, 1.5, atol=1e-5)  # thirds across, halves down
    wide = stretch_of(shape, shape.uv * np.float32([1.5, 1]))
    np.testing.assert_allclose(wide.ratio, 1, atol=1e-5)
    np.testing.assert_allclose(wide.density, 1 / 0.4, atol=1e-4)


@pytest.mark.parametrize("degrees", [0.0, 12.0, -30.0])
def test_how_far_islands_are_turned(degrees):
    shape, angle = sheet(lambda u, v: np.stack([u, v, 0 * u], -1), 8, 6), np.radians(degrees)
    turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]], np.float32)
    ((found, clear),) = turned_islands(shape, shape.uv @ turn, edges_of(shape))
    assert found == pytest.approx(degrees, abs=1e-3) and clear == pytest.approx(1, abs=1e-4)


def test_every_overlap_is_found_once_as_by_trying_all_pairs():
    rng = np.random.default_rng(4)
    at = rng.random((40, 1, 2)) + rng.normal(0, 0.06, (40, 3, 2))
    uv = at.reshape(-1, 2).astype(np.float32)
    shape = Shape(np.pad(uv, ((0, 0), (0, 1))), np.arange(120, dtype=np.int32), np.full(40, 3, np.int32))
    shares, texels = set(), 512
    y, x = (np.mgrid[:texels, :texels] + 0.5) / texels * 2 - 0.5

    def inside(t: int) -> np.ndarray:
        p = at[t]
        turns = [(p[(k + 1) % 3] - p[k], p[k]) for k in range(3)]
        sides = [w[0] * (y - q[1]) - w[1] * (x - q[0]) for w, q in turns]
        return np.logical_and.reduce([s > 0 for s in sides]) | np.logical_and.reduce([s < 0 for s in sides])

    masks = [inside(t) for t in range(40)]
    shares = {(a, b) for a in range(40) for b in range(a + 1, 40) if (masks[a] & masks[b]).sum() > 3}
    found = [tuple(sorted(pair)) for pair in overlapping(shape, uv).tolist()]
    assert len(found) == len(set(found)) and shares <= set(found)
    parted = replace(shape, material=np.arange(40, dtype=np.int32), materials=tuple(map(str, range(40))))
    assert not len(overlapping(parted, uv))  # each material has a picture of its own


def test_a_margin_is_the_smallest_gap_and_has_a_place():
    at = np.full((32, 32), -1)
    at[4:12, 4:10], at[4:12, 16:28], at[20:30, 4:28] = 0, 1, 2
    gap, (x, y) = margin_of(at)
    assert gap == 6 and 9 <= x <= 16 and 4 <= y < 12  # texels that are free
    assert margin_of(np.zeros((8, 8), int)) is None


def test_hard_edges_are_told_only_where_both_sides_share_their_uv():
    smooth = torus(12, 8)
    edges = edges_of(flat_shaded(smooth))
    assert len(hard_edges_inside(flat_shaded(smooth), flat_shaded(smooth).uv, edges)) > 100
    assert not len(hard_edges_inside(smooth, smooth.uv, edges_of(smooth)))
    assert not len(hard_edges_inside(box(), box().uv, edges_of(box())))  # each side is an island


def test_names_pair_by_their_last_word():
    assert role_of("Schnalle größer_HIGH") == ("Schnalle größer", "high")
    found = paired(["a_low", "A_High", "a_cage", "b_low", "plain"])
    assert found.pairs == {"a": {"low": ["a_low"], "high": ["A_High"], "cage": ["a_cage"]}}
    assert found.alone == ["plain", "b_low"]


def test_a_print_changes_with_what_maps_hang_on():
    shape = torus(8, 6)
    same = replace(shape, points=shape.points + np.float32(1e-9))
    assert print_of(same) == print_of(shape)
    others = [
        replace(shape, points=shape.points * np.float32([1, 1, 1.001])),
        replace(shape, uv=shape.uv * np.float32(0.5)),
        replace(shape, normals=-shape.normals),
    ]
    assert len({print_of(one) for one in (shape, *others)}) == 4
    assert len(print_of(replace(shape, uv=shape.uv * np.float32(np.nan)))) == 64


def test_a_part_of_a_shape_keeps_what_its_corners_own():
    shape = replace(box(), material=np.int32([0, 0, 1, 1, 1, 1]), materials=("brass", "linen"))
    part = only(shape, shape.material == 0)
    assert len(part.triangles) == 4 and (part.uv == shape.uv[:8]).all()
    assert uv_areas(part, part.uv).sum() == pytest.approx(uv_areas(shape, shape.uv)[:4].sum())


def test_equal_rows_are_one_by_first_appearance():
    rows = np.random.default_rng(1).integers(0, 3, (500, 3)).astype(np.float32)
    found = welded(rows)
    first = {}
    for number, row in zip(found.tolist(), map(tuple, rows.tolist())):
        assert first.setdefault(row, number) == number
    assert sorted(first.values()) == list(range(len(first)))
