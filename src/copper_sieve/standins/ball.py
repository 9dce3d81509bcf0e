"""A ball under three lamps, shaded by the plain formulas: where a set looks different for an engine, it shows here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from .meanings import ABSENT, srgb

__all__ = ["BALL_PX", "LAMPS", "Ball", "ball", "rounded_normals", "surface_of"]

BALL_PX = 256
# Towards the lamp, seen from the eye: x right, y up, z to the eye.
LAMPS = {"upper left": (-0.5, 0.55, 0.67), "right, low": (0.85, -0.25, 0.46), "from behind": (0.35, 0.75, -0.3)}
_LAMP_POWER, _SKY = 2.6, 0.3  # radiance times pi of the lamp, and of an even sky that occlusion keeps away
_BEHIND = 0.18  # what shows through holes
_LEAST_ALPHA = 0.002  # mirrors sharper than this would be a point no picture holds
Maps = Mapping[str, np.ndarray]


@dataclass(frozen=True)
class Ball:
    """Pictures (lamps, BALL_PX, BALL_PX, 3), 0..1 as a display shows them, and where the ball is (BALL_PX, BALL_PX) bool."""

    pictures: np.ndarray
    is_ball: np.ndarray


def _frame() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Where the ball is; outward, rightward and upward unit vectors there (N, 3, 3); texture coordinates (N, 2), v downwards."""
    at = (np.arange(BALL_PX) + 0.5) / BALL_PX * 2.1 - 1.05
    x, y = np.meshgrid(at, -at)
    is_ball = x * x + y * y < 1
    x, y = x[is_ball], y[is_ball]
    z = np.sqrt(1 - x * x - y * y)
    out = np.stack([x, y, z], -1)
    right = np.stack([z, np.zeros_like(x), -x], -1) / np.sqrt(1 - y * y)[:, None]
    up = np.cross(out, right)
    uv = np.stack([0.5 + np.arctan2(x, z) / np.pi, 0.5 - np.arcsin(y) / np.pi], -1)
    return is_ball, np.stack([out, right, up], 1), uv


_IS_BALL, _AXES, _UV = _frame()


def surface_of(maps: Maps) -> dict[str, np.ndarray]:
    """The texels of ``maps`` that the ball shows, (N,) or (N, 3): one tile once around its front, nearest texel.

    A picture that is not square keeps its form, and comes as often along its shorter side as fits. Whatever is missing is what
    engines take for granted. A set with ``specular`` has its diffuse and specular color already.
    """
    found: dict[str, np.ndarray] = {}
    for key in {*ABSENT, *maps}:
        values = np.asarray(maps[key] if key in maps else ABSENT[key], np.float64)
        if key in maps:
            height, width = values.shape[:2]
            columns, rows = (_UV * max(height, width)).astype(int).T
            values = values[rows % height, columns % width]
        color = (3,) if np.shape(ABSENT.get(key, 0.0)) or key in ("diffuse", "specular") else ()
        found[key] = np.broadcast_to(values, (len(_UV), *color))
    if "specular" not in maps:
        metal, base = found["metallic"][:, None], found["base_color"]
        scatters = found.get("diffuse", base * (1 - metal))
        found |= {"diffuse": scatters, "specular": found["reflectance"][:, None] * (1 - metal) + base * metal}
    elif "diffuse" not in maps:
        found["diffuse"] = np.zeros_like(found["specular"])
    return found


def ball(surface: Maps, model: Literal["metallic", "specular", "classic"] = "metallic") -> Ball:
    """Shade what ``surface_of`` gave, once per lamp.

    References
    ----------
    GGX with Smith's joint visibility and Schlick's Fresnel: glTF 2.0, appendix B. ``classic`` puts Blinn-Phong's normalized
    lobe in its place, with the exponent from the files or 2/alpha² − 2.
    """
    normal = surface["normal"] / np.maximum(np.linalg.norm(surface["normal"], axis=-1, keepdims=True), 1e-9)
    out, right, up = _AXES[:, 0], _AXES[:, 1], _AXES[:, 2]
    n = right * normal[:, :1] + up * normal[:, 1:2] + out * normal[:, 2:]
    alpha2 = np.maximum(surface["roughness"] ** 2, _LEAST_ALPHA) ** 2
    eye = np.array([0.0, 0.0, 1.0])
    n_v = np.maximum(n @ eye, 1e-3)
    pictures = np.full((len(LAMPS), BALL_PX, BALL_PX, 3), _BEHIND)
    for picture, towards in zip(pictures, LAMPS.values(), strict=True):
        lamp = np.asarray(towards) / np.linalg.norm(towards)
        half = (lamp + eye) / np.linalg.norm(lamp + eye)
        n_l, n_h = np.maximum(n @ lamp, 0), np.clip(n @ half, 0, 1)
        fresnel = surface["specular"] + (1 - surface["specular"]) * (1 - float(eye @ half)) ** 5
        if model == "classic":
            power = surface.get("power", 2 / alpha2 - 2)
            lobe = (power + 2) / (2 * np.pi) * n_h**power / 4
        else:
            spread = alpha2 / (np.pi * (n_h * n_h * (alpha2 - 1) + 1) ** 2)
            joint = n_l * np.sqrt(n_v * n_v * (1 - alpha2) + alpha2) + n_v * np.sqrt(n_l * n_l * (1 - alpha2) + alpha2)
            lobe = spread * 0.5 / np.maximum(joint, 1e-6)
        direct = surface["diffuse"] * (1 - fresnel) / np.pi + fresnel * lobe[:, None]
        sky = _SKY * surface["occlusion"][:, None] * (surface["diffuse"] + surface["specular"])
        lit = _LAMP_POWER * n_l[:, None] * direct + sky + surface["emissive"]
        solid = surface["opacity"][:, None]
        picture[_IS_BALL] = lit * solid + _BEHIND * (1 - solid)
    return Ball(srgb(np.clip(pictures, 0, 1)).astype(np.float32), _IS_BALL)


def rounded_normals(maps: Maps, codes: int) -> dict[str, np.ndarray]:
    """The same maps with normals as a file of ``codes`` steps can hold them: 255 for 8 bits."""
    normal = maps.get("normal")
    if normal is None:
        return dict(maps)
    stored = np.floor((np.asarray(normal, np.float64) / 2 + 0.5) * codes + 0.5) / codes
    return {**maps, "normal": stored * 2 - 1}
