"""Straightening: what a camera saw aslant comes back, sides are estimated, and a lens is taken out."""

from collections.abc import Iterator

import cv2
import numpy as np
import pytest

from copper_sieve.core.derive import normal_from_height
from copper_sieve.core.filters import resize
from copper_sieve.core.prepare.straighten import Straighten, guessed_aspect, size_straightened, straightened
from copper_sieve.core.raster import Size
from copper_sieve.demo.materials import _noise

N = 256


def seen_by_a_camera(flat: np.ndarray, corners: np.ndarray) -> np.ndarray:
    rows, columns = flat.shape[:2]
    own = np.float32([(0, 0), (columns, 0), (columns, rows), (0, rows)]) - 0.5
    matrix = cv2.getPerspectiveTransform(own, corners.astype(np.float32) - 0.5)
    return cv2.warpPerspective(flat, matrix, (columns, rows), flags=cv2.INTER_AREA, borderMode=cv2.BORDER_REFLECT)


def test_what_was_aslant_comes_back_straight():
    flat = (0.5 + 0.2 * _noise(N, 4, 8)).astype(np.float32)
    corners = np.array([(40, 30), (220, 10), (235, 240), (15, 210)], float)
    step = Straighten(points=tuple(map(tuple, corners / N)), aspect=1.0)
    back = resize(straightened(seen_by_a_camera(flat, corners), step, "scalar"), Size(N, N), "mirror")
    assert np.sqrt(np.square(back - flat)[8:-8, 8:-8].mean()) / flat.std() < 0.25
    sharp = np.abs(np.diff(back)).mean() / np.abs(np.diff(flat)).mean()
    assert 0.8 < sharp < 1.05


def test_given_normals_are_turned_as_their_height_is():
    height = (0.5 + 0.2 * _noise(N, 4, 14)).astype(np.float32)
    turn = np.radians(20)
    spin = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    points = tuple(map(tuple, np.array([(-0.25, -0.25), (0.25, -0.25), (0.25, 0.25), (-0.25, 0.25)]) @ spin.T + 0.5))
    step = Straighten(points=points, aspect=1.0)
    of_height = normal_from_height(straightened(height, step, "height"), 0.05 * 2, "mirror")
    of_normals = straightened(normal_from_height(height, 0.05, "mirror"), step, "normal")
    apart = np.degrees(np.arccos((of_height * of_normals).sum(-1).clip(-1, 1)))[4:-4, 4:-4]
    plain = np.degrees(
        np.arccos(straightened(normal_from_height(height, 0.05, "mirror"), step, "scalar")[4:-4, 4:-4][..., 2].clip(-1, 1))
    )
    assert apart.mean() < 0.1 * plain.mean()


def test_sides_are_estimated_from_what_a_camera_saw():
    rng, errors = np.random.default_rng(2), []
    for _ in range(60):
        aspect, focal = rng.uniform(0.5, 2), rng.uniform(0.8, 2)
        angles = rng.uniform(-0.6, 0.6, 3)
        turn = cv2.Rodrigues(angles)[0]
        flat = np.array([(-aspect, -1, 0), (aspect, -1, 0), (aspect, 1, 0), (-aspect, 1, 0)]) * 0.25
        seen = flat @ turn.T + (0, 0, 1.6)
        points = seen[:, :2] / seen[:, 2:] * focal + 0.5
        if ((points < 0) | (points > 1)).any():
            continue
        found = guessed_aspect(Straighten(points=tuple(map(tuple, points))), Size(1000, 1000))
        errors.append(abs(found / aspect - 1))
    assert len(errors) > 20 and np.median(errors) < 0.02


def seen_by_a_hand(count: int, off: float) -> Iterator[tuple[Straighten, float]]:
    """Rectangles a little aslant as cameras of usual lenses see them, pointed at ``off`` of the width beside their corners."""
    rng = np.random.default_rng(5)
    while count:
        aspect, focal = rng.uniform(0.5, 2), rng.choice([0.72, 1.0, 1.4, 2.0])
        flat = np.array([(-aspect, -1, 0), (aspect, -1, 0), (aspect, 1, 0), (-aspect, 1, 0)]) * 0.25
        seen = flat @ cv2.Rodrigues(rng.uniform(-0.3, 0.3, 3))[0].T + (*rng.uniform(-0.1, 0.1, 2), 1.28 * focal)
        points = seen[:, :2] / seen[:, 2:] * focal + 0.5 + rng.normal(0, off, (4, 2))
        if (points > 0).all() and (points < 1).all():
            yield Straighten(points=tuple(map(tuple, points)), lens="weighed"), aspect
            count -= 1


def test_sides_of_what_is_hardly_aslant_do_not_hang_on_how_well_a_hand_points():
    def errors(lens: str, off: float) -> np.ndarray:
        steps = ((step.model_copy(update={"lens": lens}), aspect) for step, aspect in seen_by_a_hand(300, off))
        return np.array([abs(guessed_aspect(step, Size(1000, 1000)) / aspect - 1) for step, aspect in steps])

    found, weighed = errors("found", 0.003), errors("weighed", 0.003)
    assert weighed.max() < 0.5 * found.max() and np.median(weighed) <= np.median(found)
    assert np.median(errors("weighed", 0.0)) < 0.005  # a steady hand loses nothing


def test_a_bulge_is_taken_out():
    lines = (np.abs((np.mgrid[:N, :N][1] + 0.5) / N * 8 % 1 - 0.5) < 0.1).astype(np.float32)
    away = np.linspace(0, 2, 4000)
    x = (np.arange(N) + 0.5) / N * 2 - 1
    seen = np.stack(np.meshgrid(x, x), -1) / np.sqrt(2)
    reach = np.linalg.norm(seen, axis=-1, keepdims=True)
    at = (
        seen / reach * np.interp(reach, away[:2000] * (1 - 0.1 * away[:2000] ** 2), away[:2000])
    )  # where that would be without a lens
    places = ((at * np.sqrt(2) / 2 + 0.5) * N - 0.5).astype(np.float32)
    bulging = cv2.remap(lines, places[..., 0], places[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT)
    apart = {
        bulge: straightened(bulging, Straighten(bulge=bulge, aspect=1.0), "scalar").mean(0).std()
        for bulge in (0, 0.05, 0.1, 0.15)
    }
    assert max(apart, key=apart.get) == 0.1


def test_points_that_cross_are_refused():
    with pytest.raises(ValueError, match="without crossing"):
        Straighten(points=((0, 0), (1, 1), (1, 0), (0, 1)))
    assert size_straightened(Size(200, 100), Straighten(aspect=2.0)) == Size(200, 100)
