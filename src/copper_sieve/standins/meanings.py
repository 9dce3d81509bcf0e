"""What one number in a file can mean, each with its formula and the formula's way back.

A meaning is one or two words: ``base r``, ``y down``, ``gloss``. Colors are linear here; curves are the reader's business.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

__all__ = ["ABSENT", "linear", "maps_of", "srgb", "wanted"]

Maps = Mapping[str, np.ndarray]

# What engines take for granted of a map that nobody gave.
ABSENT: dict[str, float | tuple[float, ...]] = {
    "base_color": (0.5, 0.5, 0.5),
    "opacity": 1.0,
    "metallic": 0.0,
    "roughness": 0.6,
    "reflectance": 0.04,
    "normal": (0.0, 0.0, 1.0),
    "height": 0.5,
    "occlusion": 1.0,
    "curvature": 0.0,
    "emissive": (0.0, 0.0, 0.0),
}
_LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
_ACESCG = np.array([[0.61309, 0.33952, 0.04738], [0.07019, 0.91635, 0.01345], [0.02062, 0.10957, 0.86981]])
_POWERS = (1.0, 10.0)  # exponents from 2 to 2048, in octaves
_COLORS = {"base": "base_color", "glow": "emissive", "photo": "base_color"}
_PLAIN = ("roughness", "metallic", "occlusion", "opacity", "height")


def srgb(light: np.ndarray) -> np.ndarray:
    """IEC 61966-2-1, from linear light to what is stored."""
    return np.where(light <= 0.0031308, 12.92 * light, 1.055 * np.maximum(light, 1e-9) ** (1 / 2.4) - 0.055)


def linear(stored: np.ndarray) -> np.ndarray:
    """IEC 61966-2-1, from what is stored to linear light."""
    return np.where(stored <= 0.04045, stored / 12.92, ((np.maximum(stored, 0) + 0.055) / 1.055) ** 2.4)


def _get(maps: Maps, key: str) -> np.ndarray:
    return np.asarray(maps[key] if key in maps else ABSENT.get(key, 0.0), np.float64)


def _color(word: str, maps: Maps) -> np.ndarray:
    base, metal = _get(maps, "base_color"), _get(maps, "metallic")[..., None]
    if word == "diffuse":
        return base * (1 - metal)
    if word == "specular":
        return _get(maps, "reflectance")[..., None] * (1 - metal) + base * metal
    if word == "shaded":
        return base * _get(maps, "occlusion")[..., None]
    return _get(maps, _COLORS[word])


def wanted(meaning: str, maps: Maps, *, is_acescg: bool = False) -> np.ndarray:
    """Numbers 0..1 that a channel of that meaning must hold for these masters, before any curve of the file; float64."""
    word, _, part = meaning.partition(" ")
    if word in (*_COLORS, "diffuse", "specular", "shaded"):
        color = _color(word, maps)
        color = color @ _ACESCG.T if is_acescg else color
        return color[..., "rgb".index(part)] if part else color @ _LUMINANCE
    if word in ("x", "y", "z"):
        lean = _get(maps, "normal")[..., "xyz".index(word)]
        return (-lean if part == "down" else lean) / 2 + 0.5
    rough, mirrors = _get(maps, "roughness"), _get(maps, "reflectance")
    if word == "fixed":
        return np.asarray(part, np.float64)
    if word == "power":
        exponent = 2 / np.maximum(rough, 1e-3) ** 4 - 2
        return np.clip((np.log2(np.maximum(exponent, 1e-9)) - _POWERS[0]) / _POWERS[1], 0, 1)
    if word == "refraction":
        root = np.sqrt(mirrors)
        return np.clip(((1 + root) / (1 - root) - 1) / 2, 0, 1)
    formulas = {"gloss": 1 - rough, "squared": rough**2, "reflectance": mirrors / 0.16, "level": mirrors / 0.08}
    if word in formulas:
        return formulas[word]
    return _get(maps, "curvature") / 2 + 0.5 if word == "curvature" else _get(maps, word)


def maps_of(planes: Mapping[str, np.ndarray]) -> dict[str, np.ndarray]:
    """What an engine knows of the surface: ``base_color`` or ``diffuse`` and ``specular``, and whatever else its planes say."""
    known: dict[str, np.ndarray] = {word: planes[word] for word in (*_PLAIN, "reflectance") if word in planes}
    known |= {word: plane for word, plane in planes.items() if word.startswith("own_")}
    for word, key in {
        "base": "base_color",
        "glow": "emissive",
        "diffuse": "diffuse",
        "specular": "specular",
        "shaded": "base_color",
    }.items():
        parts = [planes.get(f"{word} {part}") for part in "rgb"]
        if all(part is not None for part in parts):
            known[key] = np.stack([part for part in parts if part is not None], -1)
        elif word in planes:  # brightness alone
            known[key] = np.repeat(planes[word][..., None], 3, -1)
    if "reflectance" in known:
        known["reflectance"] = known["reflectance"] * 0.16
    if "level" in planes:
        known["reflectance"] = planes["level"] * 0.08
    if "refraction" in planes:
        bend = 1 + 2 * planes["refraction"]
        known["reflectance"] = ((bend - 1) / (bend + 1)) ** 2
    if "gloss" in planes:
        known["roughness"] = 1 - planes["gloss"]
    if "squared" in planes:
        known["roughness"] = np.sqrt(np.maximum(planes["squared"], 0))
    if "power" in planes:
        known["power"] = 2.0 ** (_POWERS[0] + _POWERS[1] * planes["power"])
        known["roughness"] = (2 / (known["power"] + 2)) ** 0.25
    if "x" in planes:
        known["normal"] = _vectors(planes)
    return known


def _vectors(planes: Mapping[str, np.ndarray]) -> np.ndarray:
    """Unit vectors with green up; z is rebuilt where the file has none."""
    x = 2 * planes["x"] - 1
    y = 2 * planes["y up"] - 1 if "y up" in planes else 1 - 2 * planes["y down"]
    z = 2 * planes["z"] - 1 if "z" in planes else np.sqrt(np.maximum(0, 1 - x * x - y * y))
    vectors = np.stack([x, y, z], -1)
    return vectors / np.maximum(np.linalg.norm(vectors, axis=-1, keepdims=True), 1e-9)
