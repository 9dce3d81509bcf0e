"""Bakes against formulas: what a shader makes of the maps is the surface that they were baked from."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest

from copper_sieve.core.bake import BakePlan, bake
from copper_sieve.core.bake.bvh import OwnCaster
from copper_sieve.core.bake.cast import blocked, hits
from copper_sieve.core.bake.cover import covered
from copper_sieve.core.bake.islands import grown, nearest_shown
from copper_sieve.core.bake.measures import Surface, curvature_of, openness, thickness
from copper_sieve.core.bake.parting import Parted, partners_of
from copper_sieve.core.bands import Cancel
from copper_sieve.core.errors import Cancelled, MeshInvalid, RecipeInvalid
from copper_sieve.core.mesh.made import joined
from copper_sieve.core.mesh.shape import Shape
from copper_sieve.core.mesh.tangents import tangents
from copper_sieve.core.mesh.unfold import uv_areas
from copper_sieve.core.raster import Size
from copper_sieve.core.vectors import renormalized
from shapes import RELIEF, RING, TUBE, box, normal_at, sheet, sphere_at, torus, torus_at

OFFSET = 0.05


@pytest.fixture(scope="module")
def pair() -> tuple[Shape, Shape, OwnCaster]:
    low, high = torus(24, 16), torus(768, 326, RELIEF)
    return low, high, OwnCaster(high.at)


def as_shaded(low: Shape, values: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """What a shader makes of a tangent-space map: directions, places on the low mesh, its interpolated normals."""
    size = Size(values.shape[1], values.shape[0])
    cover = covered(low, low.uv, size)
    shares = np.stack([1 - cover.second - cover.third, cover.second, cover.third], -1)

    def of(corners: np.ndarray) -> np.ndarray:
        return np.einsum("hwk,hwkc->hwc", shares, corners[cover.triangle])

    n, told, at = of(low.shading[low.triangles]), of(tangents(low)), of(low.at)
    t, sign = told[..., :3], np.sign(told[..., 3:])
    way = values[..., :1] * t + values[..., 1:2] * sign * np.cross(n, t) + values[..., 2:] * n
    return renormalized(way.astype(np.float32)), at, n


def truth(at: np.ndarray, n: np.ndarray, caster: OwnCaster) -> np.ndarray:
    """The normal by formula where a ray to each place meets the relief."""
    way = renormalized(n.astype(np.float32)).reshape(-1, 3)
    start = at.reshape(-1, 3) + OFFSET * way
    met = hits(caster, start, -way, np.full(len(way), 2 * OFFSET, np.float32))
    x, y, z = (start - way * met.distance[:, None]).T
    u, v = np.arctan2(y, x) / (2 * np.pi), np.arctan2(z, np.hypot(x, y) - RING) / (2 * np.pi)
    return normal_at(lambda a, b: torus_at(a, b, RELIEF), u, v).reshape(n.shape)


def degrees(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    return np.degrees(np.arccos(np.clip((a * b).sum(-1), -1, 1)))


def test_normals_shade_the_low_mesh_like_the_high_one(pair):
    low, high, caster = pair
    made = bake(low, high, BakePlan(("normal", "height"), size=512, offset=OFFSET), caster)
    normal = made.maps["normal"].values
    assert made.missed_share == 0 and made.covered.all() and made.caster == "own"
    _, at, n = as_shaded(low, normal)
    right = truth(at, n, caster)
    plain = degrees(renormalized(n.astype(np.float32)), right).mean()
    for steps, mean, most in ((0, 0.21, 0.45), (65535, 0.21, 0.45), (255, 0.27, 0.6)):
        coded = normal if not steps else np.round((normal * 0.5 + 0.5) * steps) / steps * 2 - 1
        away = degrees(as_shaded(low, coded)[0], right)
        assert away.mean() < mean and np.percentile(away, 99) < most < plain
    height = made.maps["height"]
    way = renormalized(n.astype(np.float32))
    lifted = at + way * ((height.values - 0.5) * 2 * height.high)[..., None]
    away = np.hypot(np.hypot(lifted[..., 0], lifted[..., 1]) - RING, lifted[..., 2])
    u, v = np.arctan2(lifted[..., 1], lifted[..., 0]), np.arctan2(lifted[..., 2], np.hypot(lifted[..., 0], lifted[..., 1]) - RING)
    error = np.abs(away - TUBE - RELIEF * np.sin(24 * u) * np.sin(10 * v)) / RELIEF
    assert error.mean() < 0.01 and np.percentile(error, 99) < 0.03


def test_mirrored_uv_are_shaded_right_by_their_sign(pair):
    _, high, caster = pair
    low = torus(24, 16)
    low = replace(low, uv=np.stack([1 - low.uv[:, 0], low.uv[:, 1]], 1))
    made = bake(low, high, BakePlan(("normal",), size=256, offset=OFFSET), caster).maps["normal"].values
    shaded, at, n = as_shaded(low, made)
    assert degrees(shaded, truth(at, n, caster)).mean() < 0.25
    ignored = as_shaded(low, made * np.float32([1, -1, 1]))[0]
    assert degrees(ignored, truth(at, n, caster)).mean() > 10


def test_a_bake_is_the_same_in_any_bands_and_each_time(pair, monkeypatch):
    low, high, caster = pair
    plan = BakePlan(("normal", "occlusion"), size=64, rays=16, offset=OFFSET, seed=3)
    whole = bake(low, high, plan, caster).maps
    for samples in (64, 7 * 64):
        monkeypatch.setattr("copper_sieve.core.bake.baking._BAND", samples)
        again = bake(low, high, plan, caster).maps
        assert all((whole[name].values == again[name].values).all() for name in plan.maps)
    other = bake(low, high, replace(plan, seed=4), caster).maps["occlusion"].values
    assert (other != whole["occlusion"].values).any()


def test_several_samples_are_their_mean(pair):
    low, high, caster = pair
    fine = bake(low, high, BakePlan(("normal",), size=256, offset=OFFSET), caster).maps["normal"].values
    coarse = bake(low, high, BakePlan(("normal",), size=128, samples=2, offset=OFFSET), caster).maps["normal"].values
    mean = renormalized(fine.reshape(128, 2, 128, 2, 3).mean((1, 3)))
    assert np.abs(mean - coarse).max() < 1e-4


def test_every_middle_is_counted_once_where_triangles_share_edges():
    rng = np.random.default_rng(5)
    bent = rng.normal(0, 0.01, (12 * 8 * 8, 2))

    def wavy(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        return np.stack([u, v, 0 * u], -1)

    shape = sheet(wavy, 11, 7)
    place = {tuple(p): bent[k] for k, p in enumerate(np.unique(shape.uv, axis=0))}
    inner = (shape.uv > 0).all(1) & (shape.uv < 1).all(1)
    uv = shape.uv + np.array([place[tuple(p)] for p in shape.uv]) * inner[:, None]
    assert (uv_areas(shape, uv) > 0).all()
    assert (covered(shape, uv.astype(np.float32), Size(130, 96)).count == 1).all()
    part = covered(shape, (uv * 0.5 + 0.25).astype(np.float32), Size(128, 128))
    assert part.count.sum() == 64 * 64 and (part.count <= 1).all()
    near = part.is_covered & (part.count == 0)
    assert 0 < near.sum() < 4 * 64 + 8  # texels that only an edge comes near lie around it


def test_rays_find_what_trying_every_triangle_finds():
    shape, rng = torus(24, 16, RELIEF), np.random.default_rng(2)
    origins = rng.normal(0, 1.2, (400, 3)).astype(np.float32)
    ways = renormalized((rng.normal(0, 0.7, (400, 3)) - origins).astype(np.float32))
    reach = rng.uniform(0.5, 3, 400).astype(np.float32)
    found = hits(OwnCaster(shape.at), origins, ways, reach)
    a, s, t = shape.at[:, 0].astype(float), shape.at[:, 1] - shape.at[:, 0], shape.at[:, 2] - shape.at[:, 0]
    for i in range(400):
        p = np.cross(ways[i], t)
        det = (s * p).sum(1)
        o = origins[i] - a
        u, q = (o * p).sum(1) / det, np.cross(o, s)
        v, far = (ways[i] * q).sum(1) / det, (t * q).sum(1) / det
        far = np.where((u >= 0) & (v >= 0) & (u + v <= 1) & (far >= 0) & (far <= reach[i]), far, np.inf)
        assert found.triangle[i] == (int(np.argmin(far)) if np.isfinite(far).any() else -1)
        assert found.distance[i] == pytest.approx(far.min(), rel=1e-5)
    assert (blocked(OwnCaster(shape.at), origins, ways, reach) == (found.triangle >= 0)).all()


@pytest.mark.parametrize("triangles", [np.zeros((300, 3, 3)), np.tile(np.eye(3), (300, 1, 1))])
def test_a_tree_of_triangles_in_one_place_ends(triangles):
    caster = OwnCaster(triangles.astype(np.float32))
    ways = np.full((1, 3), -1 / np.sqrt(3), np.float32)
    found = hits(caster, np.ones((1, 3), np.float32), ways, np.float32([9]))
    assert found.triangle[0] in (-1, 0)  # of equal ones the first


def wall() -> Shape:
    """A floor before a long wall of height 1 that stands on x = 0."""
    far = 400.0
    points = np.float32([[0, -far, 0], [far, -far, 0], [far, far, 0], [0, far, 0], [0, -far, 1], [0, far, 1]])
    return Shape(points, np.int32([0, 1, 2, 3, 0, 3, 5, 4]), np.int32([4, 4]))


@pytest.mark.parametrize(("rays", "most"), [(64, 0.018), (256, 0.005)])
def test_occlusion_before_a_wall_is_that_of_the_formula(rays, most):
    shape = wall()
    x = np.linspace(0.05, 3, 6000).astype(np.float32)
    points = np.stack([x, np.zeros_like(x), np.zeros_like(x)], 1)
    up = np.tile(np.float32([0, 0, 1]), (len(x), 1))
    found = openness(OwnCaster(shape.at), Surface(points, up, up, np.arange(len(x)), 10.0), rays)
    right = 1 - 0.5 * (1 - x / np.sqrt(x * x + 1))
    assert np.sqrt(((found - right) ** 2).mean()) <= most and abs((found - right).mean()) < 0.001


def test_thickness_of_a_ball_is_four_thirds_of_its_radius():
    ball = sheet(sphere_at, 160, 80)
    made = bake(ball, None, BakePlan(("thickness", "curvature", "position", "object_normal"), size=64, rays=256))
    inner = np.s_[8:-8]
    thick = made.maps["thickness"]
    values = thick.values[inner] * thick.high
    assert np.sqrt(((values - 4 / 3) ** 2).mean()) < 0.006
    bend = made.maps["curvature"]
    np.testing.assert_allclose((bend.values[inner] - 0.5) * 2 * bend.high, 1.0, atol=0.01)
    at = made.maps["position"]
    place = at.values * (np.array(at.high) - at.low) + at.low
    np.testing.assert_allclose(np.linalg.norm(place[inner], axis=-1), 1, atol=0.01)
    assert degrees(made.maps["object_normal"].values[inner], place[inner]).max() < 1.5


def test_thickness_by_256_ways_is_right_to_a_fifth_of_a_percent():
    """Of a ball so fine that its facets do not count, at places where no map is between: exactly 4 r / 3."""
    ball = sheet(sphere_at, 512, 256)
    rng = np.random.default_rng(3)
    which = rng.integers(2000, len(ball.faces) - 2000, 3000)
    at = ball.at[which]
    points = at.mean(1)
    face = np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0])
    face /= np.linalg.norm(face, axis=1, keepdims=True)
    surface = Surface(points, face, face, np.arange(len(which)), ball.size)
    found = thickness(OwnCaster(ball.at), surface, 256)
    assert np.sqrt(((found - 4 / 3) ** 2).mean()) / (4 / 3) <= 0.002


def plates(margin: int, px: int) -> Shape:
    """Two islands of one square, cut down its middle, whose pictures lie side by side and far enough from the border."""
    near, far = margin / 2 / px, 0.5 - margin / 2 / px

    def half(low: float, high: float, across: tuple[float, float]) -> Shape:
        flat = sheet(lambda u, v: np.stack([low + u * (high - low), v, 0 * u], -1), 1, 1)
        uv = flat.uv.copy()
        uv[:, 0] = across[0] + uv[:, 0] * (across[1] - across[0])
        uv[:, 1] = near + uv[:, 1] * (1 - 2 * near)
        return replace(flat, uv=uv)

    return joined([half(0.0, 0.5, (0.5 + near, 0.5 + far)), half(0.5, 1.0, (near, far))])


@pytest.mark.parametrize("is_padded", [True, False])
def test_at_the_fourth_smaller_map_the_two_sides_of_a_seam_stay_alike(is_padded):
    """A picture that runs on over the cut: what its two sides show there differs by what padding and margin let in."""
    px, margin = 1024, 16
    low = plates(margin, px)
    cover = covered(low, low.uv, Size(px, px))
    shown = cover.triangle >= 0
    shares = np.stack([1 - cover.second - cover.third, cover.second, cover.third], -1)
    place = (low.at[cover.triangle.clip(0)] * shares[..., None]).sum(2)
    picture = np.where(shown, 0.5 + 0.5 * np.sin(20 * place[..., 0] + 7 * place[..., 1]), 0).astype(np.float32)
    if is_padded:
        picture = grown(picture, nearest_shown(low, Size(px, px)))
    small = picture.reshape(64, 16, 64, 16).mean((1, 3))  # the fourth smaller
    rows = (np.arange(8, 56) + 0.5) / 64 * px

    def seen(u: float) -> np.ndarray:
        """Between the texels, as a card looks a map up."""
        x, y = u * 64 - 0.5, rows / 16 - 0.5
        left, top = int(np.floor(x)), np.floor(y).astype(int)
        a, b = x - left, y - top
        wide = np.pad(small, 1, mode="wrap")
        return sum(w * wide[top + j + 1, left + i + 1] for i, j, w in corners(a, b))

    def corners(a: float, b: np.ndarray) -> list:
        return [(0, 0, (1 - a) * (1 - b)), (1, 0, a * (1 - b)), (0, 1, (1 - a) * b), (1, 1, a * b)]

    left, right = seen(1 - margin / 2 / px), seen(margin / 2 / px)
    meant = 0.5 + 0.5 * np.sin(10 + 7 * (rows / px - margin / 2 / px) / (1 - margin / px))
    assert np.abs(left - right).mean() <= 0.05
    assert (max(np.abs(one - meant[::-1]).mean() for one in (left, right)) <= 0.05) == is_padded


def test_curvature_of_a_torus_is_that_of_the_formula():
    shape = torus(128, 128)
    v = np.arctan2(shape.points[:, 2], np.hypot(shape.points[:, 0], shape.points[:, 1]) - RING)
    right = 0.5 * (1 / TUBE + np.cos(v) / (RING + TUBE * np.cos(v)))
    assert np.sqrt(((curvature_of(shape) - right) ** 2).mean()) / np.sqrt((right**2).mean()) < 0.001


TURNED = np.array([[np.cos(0.02), np.sin(0.02), 0], [-np.sin(0.02), np.cos(0.02), 0], [0, 0, 1]])


def test_hard_edges_start_their_rays_from_one_cage_and_leave_no_gap():
    low, high = box(1.0), box(0.96, hard=False)
    high = replace(high, points=(high.points @ TURNED).astype(np.float32))
    plan = BakePlan(("normal",), size=256, offset=0.08)
    caged, straight = bake(low, high, plan), bake(low, high, replace(plan, averaged=False))
    assert caged.missed_share == 0 and straight.missed_share > 0.005
    assert [one.id for one in caged.findings] == ["mesh-hard-without-cage"]
    grown = replace(low, points=low.points * np.float32(1.16))
    by_cage = bake(low, high, replace(plan, cage=grown, offset=None))
    assert by_cage.missed_share == 0
    with pytest.raises(MeshInvalid, match="make it from the low mesh"):
        bake(low, high, replace(plan, cage=torus(8, 6)))


def test_what_cannot_be_baked_is_told_and_the_rest_goes_on():
    sheet_of = sheet(lambda u, v: np.stack([u, v, 0 * u], -1), 4, 4)
    made = bake(sheet_of, None, BakePlan(("normal", "thickness", "occlusion"), size=32, rays=4))
    assert list(made.maps) == ["occlusion"] and (made.maps["occlusion"].values == 1).all()
    assert [one.numbers["map"] for one in made.findings] == ["Normal", "Thickness"]
    away = bake(sheet_of, replace(sheet_of, points=sheet_of.points + np.float32([0, 0, 9])), BakePlan(size=32, offset=0.1))
    assert away.missed_share == 1 and away.findings[0].grade == "stop"
    assert np.isfinite(away.maps["normal"].values).all()


def test_rays_find_their_own_offset():
    low, high = torus(24, 16), torus(260, 110, RELIEF)
    made = bake(low, high, BakePlan(size=128))
    assert made.missed_share < 1e-4 and RELIEF < made.offset < 5 * RELIEF


def test_what_stands_out_of_the_cage_is_as_much_as_rays_miss():
    low, high = torus(24, 16), torus(260, 110, RELIEF)
    shares = []
    for offset in (0.02, 0.03, 0.05):
        made = bake(low, high, BakePlan(size=128, offset=offset))
        out = [one.numbers["share"] for one in made.findings if one.id == "mesh-outside-cage"]
        shares.append((made.missed_share, *out))
    assert shares[0] == pytest.approx([0.128, 0.129], abs=0.03)  # from a trial with another program
    assert shares[1] == pytest.approx([0.015, 0.016], abs=0.01)
    assert shares[2] == (0,)


def test_a_part_that_covers_half_is_padded_to_full_with_what_lies_nearest():
    half = sheet(lambda u, v: np.stack([u, v, 0 * u], -1), 2, 2)
    half = replace(half, uv=half.uv * np.float32([0.5, 1]), material=np.int32([0] * 4 + [1] * 4), materials=("brass", "linen"))
    made = bake(half, None, BakePlan(("id",), size=16))
    values = made.maps["id"].values
    assert made.covered[:, :9].all() and not made.covered[:, 9:].any()  # an edge comes near the ninth
    assert (values[:, 9:] == values[:, 8:9]).all() and len(np.unique(values.reshape(-1, 3), axis=0)) == 2


def test_long_bakes_tell_how_far_they_are_and_stop_when_asked(pair):
    low, high, caster = pair
    told: list[float] = []
    bake(low, high, BakePlan(size=64, offset=OFFSET), caster, progress=told.append)
    assert told == sorted(told) and told[-1] == 1
    cancel = Cancel()
    cancel.cancel()
    with pytest.raises(Cancelled):
        bake(low, high, BakePlan(size=64, offset=OFFSET), caster, cancel=cancel)


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (lambda: BakePlan(("shine",)), "maps that can be baked"),  # type: ignore[arg-type]
        (lambda: BakePlan(size=4), "size must lie between"),
        (lambda: BakePlan(rays=0), "rays must lie"),
        (lambda: BakePlan(offset=-1.0), "more than 0"),
    ],
)
def test_plans_that_make_no_sense_say_so(make: Callable[[], BakePlan], says):
    with pytest.raises(RecipeInvalid, match=says):
        make()


def test_without_uv_there_is_nothing_to_bake_to():
    with pytest.raises(MeshInvalid, match="no UV"):
        bake(replace(box(), uv=None), None, BakePlan(("occlusion",)))
    outside = replace(box(), uv=box().uv + np.float32([2, 0]))
    with pytest.raises(MeshInvalid, match="lies in the picture"):
        bake(outside, None, BakePlan(("occlusion",), size=32))


def side(height: float, name: str, across: float) -> Shape:
    """A square at a height, its picture in one half of the whole."""
    flat = sheet(lambda u, v: np.stack([u, v, 0 * u + height], -1), 2, 2)
    return replace(flat, uv=flat.uv * np.float32([0.4, 0.9]) + np.float32([across, 0.05]), parts=(name,))


def test_each_part_is_baked_from_its_own_partner():
    """Two plates lie close above each other, so that rays from the lower one meet the upper one first."""
    low = joined([side(0.0, "pin_low", 0.05), side(0.05, "roller_low", 0.55)])
    high = joined([side(0.01, "pin_high", 0.05), side(0.06, "roller_high", 0.55), side(0.03, "strap_high", 0.55)])
    plan = BakePlan(("height",), size=32, offset=0.2)
    partners = partners_of(low, high)
    assert partners is not None and partners.count == 2
    assert (partners.high[high.part[high.polygon_of] == high.parts.index("strap_high")] == -1).all()

    def own(shape: Shape) -> OwnCaster:
        return OwnCaster(shape.at)

    for parted, expected in ((Parted.of(high, partners, own), 0.01), (None, 0.06)):
        made = bake(low, high, plan, parted=parted)
        height = made.maps["height"]
        metres = height.values * (height.high - height.low) + height.low
        assert np.abs(metres[:, :12] - expected).max() < 1e-4
        assert not made.missed.any()
    told = [one.id for one in bake(low, high, replace(plan, offset=0.02), parted=Parted.of(high, partners, own)).findings]
    assert "mesh-outside-cage" not in told  # the other's plate and the strap lie farther out, and are not its own
    assert partners_of(low, replace(high, parts=("a", "b", "c"))) is None
    assert partners_of(side(0, "pin_low", 0), side(0, "pin_high", 0)) is None
