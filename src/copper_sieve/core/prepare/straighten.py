"""Four points of a picture brought to a rectangle, and the bulge of a lens taken out first."""

from __future__ import annotations

from typing import Annotated, Literal

import cv2
import numpy as np
from pydantic import Field, model_validator

from ..bands import CORES, NEVER, Cancel
from ..raster import MAX_SIDE, FloatArray, Size, floats
from .decision import Kind
from .joining import coded, uncoded
from .step import Step

__all__ = ["Point", "Straighten", "guessed_aspect", "size_straightened", "straightened"]

Point = tuple[Annotated[float, Field(ge=-0.5, le=1.5)], Annotated[float, Field(ge=-0.5, le=1.5)]]
_WHOLE: tuple[Point, Point, Point, Point] = ((0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0))
_LEAST_AREA = 1e-3  # of the picture, that the four points span
_FEWEST, _MOST = 2, 12  # samples along each axis of a texel
_FOOTPRINT = 99  # percentile of the footprint that the count of samples goes by
_BAND_TEXELS = 1 << 22  # samples that are held at once
_FOCAL = 1.2  # times the width: a camera's usual lens
_FOCAL_LEAST, _FOCAL_MOST = 0.3, 6.0  # times the width: beyond them the found focal length is chance
_TRIED = 120  # focal lengths between them
_SPREAD = 0.4  # of the logarithm of cameras' focal lengths about the longer side
_POINTED = 0.002  # of the longer side: how far from a corner a hand points
_ROUNDS = 8  # of undoing a bulge, which settles in a few
_PROBES = 64  # places a side at which the footprint is measured
_ASPECT_LEAST, _ASPECT_MOST = 0.05, 20.0


class Straighten(Step):
    """Four points, upper left first and clockwise, in shares of the picture, that become the corners.

    ``bulge`` is what a lens did: 0.1 bends lines outwards (a barrel) by a tenth at the corners, negative values inwards.
    """

    kind: Literal["straighten"] = "straighten"
    points: tuple[Point, Point, Point, Point] = _WHOLE
    aspect: float | None = Field(
        default=None, ge=_ASPECT_LEAST, le=_ASPECT_MOST, description="Width over height; None: estimated"
    )
    bulge: float = Field(default=0.0, ge=-0.5, le=0.5)
    lens: Literal["found", "weighed"] = Field(
        default="found",
        description="Where sides are estimated: the lens that fits the points, or the likeliest",
    )

    @model_validator(mode="after")
    def _is_a_quadrilateral(self) -> Straighten:
        at = np.array(self.points)
        sides = np.roll(at, -1, 0) - at
        turns = sides[:, 0] * np.roll(sides, -1, 0)[:, 1] - sides[:, 1] * np.roll(sides, -1, 0)[:, 0]
        if not (turns > 0).all():
            raise ValueError("the four points must go round without crossing: upper left, upper right, lower right, lower left")
        area = 0.5 * abs(float(np.sum(at[:, 0] * np.roll(at[:, 1], -1) - at[:, 1] * np.roll(at[:, 0], -1))))
        if area < _LEAST_AREA:
            raise ValueError("the four points lie too near each other to make a picture of")
        return self


def _unbent(at: np.ndarray, size: Size, bulge: float) -> np.ndarray:
    """Places (..., 2) in texels of the picture where they would be without the bulge."""
    if not bulge:
        return at
    middle = np.array([size.width, size.height]) / 2
    reach = np.hypot(*middle)
    bent = (at - middle) / reach
    straight = bent
    for _ in range(_ROUNDS):
        straight = bent / (1 - bulge * np.square(straight).sum(-1, keepdims=True))
    return straight * reach + middle


def _bent(at: np.ndarray, size: Size, bulge: float) -> np.ndarray:
    """The inverse of ``_unbent``."""
    if not bulge:
        return at
    middle = np.array([size.width, size.height]) / 2
    reach = np.hypot(*middle)
    straight = (at - middle) / reach
    return straight * (1 - bulge * np.square(straight).sum(-1, keepdims=True)) * reach + middle


def _corners(step: Straighten, size: Size) -> np.ndarray:
    return _unbent(np.array(step.points) * [size.width, size.height], size, step.bulge)


def guessed_aspect(step: Straighten, size: Size) -> float:
    """Width over height of the flat rectangle that a camera saw as these four points, where it looked at the picture's middle.

    The lens that sees the sides at a right angle is ``found``; where the sides hardly run together that is chance, so that it is
    better ``weighed``: against how well a hand points at corners, and how usual the lens is.

    References
    ----------
    Zhang & He 2007. Where the focal length that is found is none of a camera's, 1.2 times the width is taken.
    Examples
    --------
    >>> round(guessed_aspect(Straighten(points=((0.25, 0), (0.75, 0), (0.75, 1), (0.25, 1))), Size(100, 100)), 2)
    0.5
    """
    corners = _corners(step, size) - np.array([size.width, size.height]) / 2
    focal = _found(corners, size.width) if step.lens == "found" else _weighed(corners, max(size.width, size.height))
    across, down = (float(np.linalg.norm(side)) for side in _sides(corners, np.array([focal]))[:, 0])
    return min(max(across / down, _ASPECT_LEAST), _ASPECT_MOST)


def _sides(corners: np.ndarray, focal: np.ndarray) -> np.ndarray:
    """The rectangle's upper and left side in space, (2, F, 3), for each focal length (F,), by its corners (4, 2) from the
    middle of the picture."""
    m1, m2, m4, m3 = np.concatenate([corners, np.ones((4, 1))], 1)
    k2 = np.dot(np.cross(m1, m4), m3) / np.dot(np.cross(m2, m4), m3)
    k3 = np.dot(np.cross(m1, m4), m2) / np.dot(np.cross(m3, m4), m2)
    sides = np.stack([k2 * m2 - m1, k3 * m3 - m1])
    return sides[:, None] * np.stack([1 / focal, 1 / focal, np.ones_like(focal)], -1)


def _found(corners: np.ndarray, width: int) -> float:
    """The focal length that sees the sides at a right angle, a usual one where that is none of a camera's."""
    n2, n3 = _sides(corners, np.ones(1))[:, 0]
    if abs(n2[2] * n3[2]) > 1e-9:
        square = -(n2[0] * n3[0] + n2[1] * n3[1]) / (n2[2] * n3[2])
        if (_FOCAL_LEAST * width) ** 2 < square < (_FOCAL_MOST * width) ** 2:
            return float(np.sqrt(square))
    return _FOCAL * width


def _weighed(corners: np.ndarray, longer: int) -> float:
    """The likeliest focal length: how far from a right angle it sees the sides, over what a hand that points a little beside
    each corner makes of that; and how far it is from a usual one."""
    focal = longer * np.geomspace(_FOCAL_LEAST, _FOCAL_MOST, _TRIED)

    def askew(corners: np.ndarray) -> np.ndarray:
        across, down = _sides(corners, focal)
        return (across * down).sum(-1) / (np.linalg.norm(across, axis=-1) * np.linalg.norm(down, axis=-1))

    seen = askew(corners)
    beside = corners + _POINTED * longer * np.eye(8).reshape(8, 4, 2)
    chance = np.square([askew(one) - seen for one in beside]).sum(0)
    return float(focal[np.argmin(np.square(seen) / (chance + 1e-12) + np.square(np.log(focal / longer) / _SPREAD))])


def size_straightened(size: Size, step: Straighten) -> Size:
    """Size of the straight picture: about as many texels as the four points hold, of the aspect that is told or estimated.

    Examples
    --------
    >>> size_straightened(Size(100, 100), Straighten(points=((0.25, 0), (0.75, 0), (0.75, 1), (0.25, 1))))
    Size(width=50, height=100)
    """
    corners = _corners(step, size)
    top, right, bottom, left = np.linalg.norm(np.roll(corners, -1, 0) - corners, axis=1)
    texels = max(top, bottom) * max(left, right)
    aspect = guessed_aspect(step, size) if step.aspect is None else step.aspect
    width = float(np.sqrt(texels * aspect))
    return Size(*(min(max(1, round(side)), MAX_SIDE) for side in (width, width / aspect)))


def straightened(
    values: FloatArray, step: Straighten, kind: Kind, *, is_sharp: bool = False, cancel: Cancel = NEVER
) -> FloatArray:
    """A map of a set with its four points at its corners.

    Each texel is the mean of as many samples as its footprint needs; normals have their slopes turned along.

    Parameters
    ----------
    values : (H, W) or (H, W, 3) float32; colors in linear light, normals as vectors
    is_sharp : take the texel under each middle instead, for pixel art and for what only says yes or no
    Returns
    -------
    values : of ``size_straightened``
    References
    ----------
    Homography by singular value decomposition: Hartley & Zisserman 2003, 4.1.
    Examples
    --------
    >>> whole = np.arange(16, dtype=np.float32).reshape(4, 4) / 16
    >>> right = Straighten(points=((0.5, 0), (1, 0), (1, 1), (0.5, 1)), aspect=0.5)
    >>> bool(np.allclose(straightened(whole, right, "scalar"), whole[:, 2:], atol=0.04))
    True
    """
    rows, columns = values.shape[:2]
    size = Size(columns, rows)
    out_size = size_straightened(size, step)
    if step.points == _WHOLE and not step.bulge and out_size == size:
        return values
    matrix = _homography(out_size, _corners(step, size))
    across, down = (1, 1) if is_sharp else _samples(matrix, out_size, size, step.bulge)
    source = coded(values, "light" if kind == "color" else kind)
    shape = (out_size.height, out_size.width, *source.shape[2:])
    out = np.empty(shape, np.float32)
    band = max(1, _BAND_TEXELS // (out_size.width * across * down * CORES))
    way = cv2.INTER_NEAREST if is_sharp else cv2.INTER_LINEAR
    for first in range(0, out_size.height, band):
        cancel.check()
        last = min(first + band, out_size.height)
        x = (np.arange(out_size.width * across) + 0.5) / across
        y = first + (np.arange((last - first) * down) + 0.5) / down
        at = _places(matrix, x, y, size, step.bulge).astype(np.float32) - np.float32(0.5)
        taken = cv2.remap(source, at[..., 0], at[..., 1], way, borderMode=cv2.BORDER_REFLECT)
        if across * down > 1:
            taken = taken.reshape(last - first, down, out_size.width, across, -1).mean((1, 3))
        out[first:last] = taken.reshape(last - first, *shape[1:])
    if kind == "normal":
        out = _turned(out, matrix, out_size, size, step.bulge)
    return uncoded(floats(out), "light" if kind == "color" else kind)


def _homography(size: Size, corners: np.ndarray) -> np.ndarray:
    """From texels of the straight picture to those of the picture as it came."""
    flat = np.array([(0, 0), (size.width, 0), (size.width, size.height), (0, size.height)], float)
    rows = []
    for (x, y), (u, v) in zip(flat, corners):
        rows += [[-x, -y, -1, 0, 0, 0, u * x, u * y, u], [0, 0, 0, -x, -y, -1, v * x, v * y, v]]
    matrix = np.linalg.svd(np.array(rows))[2][-1].reshape(3, 3)
    return matrix / matrix[2, 2]


def _places(matrix: np.ndarray, x: np.ndarray, y: np.ndarray, size: Size, bulge: float) -> np.ndarray:
    """Where the texels of columns ``x`` and rows ``y`` lie in the picture as it came, (rows, columns, 2)."""
    u, v, w = (matrix[k, 0] * x[None, :] + matrix[k, 1] * y[:, None] + matrix[k, 2] for k in range(3))
    return _bent(np.stack([u / w, v / w], -1), size, bulge)


def _steps(matrix: np.ndarray, x: np.ndarray, y: np.ndarray, size: Size, bulge: float) -> tuple[np.ndarray, np.ndarray]:
    """How far one texel across and one down go in the picture as it came, (rows, columns, 2) each."""
    half = 0.5
    right = _places(matrix, x + half, y, size, bulge) - _places(matrix, x - half, y, size, bulge)
    down = _places(matrix, x, y + half, size, bulge) - _places(matrix, x, y - half, size, bulge)
    return right, down


def _samples(matrix: np.ndarray, out: Size, size: Size, bulge: float) -> tuple[int, int]:
    x, y = (np.linspace(0.5, side - 0.5, min(side, _PROBES)) for side in (out.width, out.height))
    steps = _steps(matrix, x, y, size, bulge)
    counts = (int(np.ceil(np.percentile(np.linalg.norm(step, axis=-1), _FOOTPRINT))) for step in steps)
    across, down = (min(max(count, _FEWEST), _MOST) for count in counts)
    return across, down


def _turned(slopes: FloatArray, matrix: np.ndarray, out: Size, size: Size, bulge: float) -> FloatArray:
    """Slopes as the straight picture's axes see them: turned and sheared as the picture is there.

    They are not scaled, as relief is a share of the width. Their y points up, the picture's down.
    """
    x, y = np.arange(out.width) + 0.5, np.arange(out.height) + 0.5
    right, down = _steps(matrix, x, y, size, bulge)
    area = np.sqrt(np.maximum(np.abs(right[..., 0] * down[..., 1] - right[..., 1] * down[..., 0]), 1e-12))
    sx, sy = slopes[..., 0], -slopes[..., 1]
    across = (sx * right[..., 0] + sy * right[..., 1]) / area
    along = (sx * down[..., 0] + sy * down[..., 1]) / area
    return np.stack([across, -along], -1).astype(np.float32)
