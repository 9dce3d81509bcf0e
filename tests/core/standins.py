"""What every shipped target's files must hold, written down by hand, and a reader that knows nothing of ours.

Nothing here may come from the program: neither its target package nor its tables. A test sees to that.
"""

import io
import tempfile
from pathlib import Path

import cv2
import numpy as np
import OpenEXR
import tifffile
from PIL import Image

COLOR, NORMAL_UP, NORMAL_DOWN = ["base r", "base g", "base b"], ["x", "y up", "z"], ["x", "y down", "z"]
GLOW = ["glow r", "glow g", "glow b"]
DIFFUSE, SPECULAR = ["diffuse r", "diffuse g", "diffuse b"], ["specular r", "specular g", "specular b"]
# target → file → (how it is stored, what its channels hold in order)
FILES = {
    "gltf": {
        "base_color": ("png8 srgb", [*COLOR, "opacity"]),
        "orm": ("png8 data", ["occlusion", "roughness", "metallic"]),
        "normal": ("png8 data", NORMAL_UP),
        "emissive": ("png8 srgb", GLOW),
        "reflectance": ("png8 srgb", ["reflectance"] * 3),
    },
    "materialx": {
        "base_color": ("png8 srgb", COLOR),
        **{key: ("png16 data", [key]) for key in ("opacity", "metallic", "roughness", "occlusion", "reflectance")},
        "normal": ("png16 data", NORMAL_UP),
        "height": ("exrhalf data", ["height"]),
        "emissive": ("png8 srgb", GLOW),
    },
    "usd-preview": {
        "base_color": ("png8 srgb", COLOR),
        **{key: ("png8 data", [key]) for key in ("opacity", "metallic", "roughness", "occlusion")},
        "normal": ("png8 data", NORMAL_UP),
        "height": ("png16 data", ["height"]),
        "emissive": ("png8 srgb", GLOW),
    },
    "engine-orm-down": {
        "base_color": ("tga8 srgb", COLOR),
        "normal": ("tga8 data", NORMAL_DOWN),
        "orm": ("tga8 data", ["occlusion", "roughness", "metallic"]),
        "emissive": ("tga8 srgb", GLOW),
    },
    "engine-mra-down": {
        "base_color": ("tga8 srgb", COLOR),
        "normal": ("tga8 data", NORMAL_DOWN),
        "mra": ("tga8 data", ["metallic", "roughness", "occlusion"]),
        "emissive": ("tga8 srgb", GLOW),
    },
    "engine-loose-down": {
        "base_color": ("png8 srgb", COLOR),
        "normal": ("png8 data", NORMAL_DOWN),
        **{key: ("png8 data", [key]) for key in ("roughness", "metallic", "occlusion")},
    },
    "engine-smooth-up": {
        "albedo": ("png8 srgb", [*COLOR, "opacity"]),
        "metallic_alpha": ("png8 data", ["metallic", "metallic", "metallic", "gloss"]),
        "normal": ("png8 data", NORMAL_UP),
        "occlusion": ("png8 data", ["occlusion"]),
        "emissive": ("png8 srgb", GLOW),
    },
    "engine-fourfold-up": {
        "albedo": ("png8 srgb", [*COLOR, "opacity"]),
        "fourfold": ("png8 data", ["metallic", "occlusion", "detail", "gloss"]),
        "normal": ("png8 data", NORMAL_UP),
        "emissive": ("png8 srgb", GLOW),
    },
    "engine-specular-up": {
        "diffuse": ("png8 srgb", [*DIFFUSE, "opacity"]),
        "specular": ("png8 srgb", [*SPECULAR, "gloss"]),
        "normal": ("png8 data", NORMAL_UP),
        "occlusion": ("png8 data", ["occlusion"]),
    },
    "level-six": {
        "base_color": ("png8 srgb", COLOR),
        "normal": ("png8 data", NORMAL_UP),
        **{key: ("png8 data", [key]) for key in ("roughness", "metallic", "occlusion")},
        "height": ("png16 data", ["height"]),
    },
    "gloss-tiff": {
        "diffuse": ("tiff8 srgb", DIFFUSE),
        "normal": ("tiff8 data", NORMAL_DOWN),
        "gloss": ("tiff8 data", ["gloss"]),
        "occlusion": ("tiff8 data", ["occlusion"]),
        "specular": ("tiff8 srgb", SPECULAR),
    },
    "small-tiles": {
        "albedo": ("png8 srgb", [*COLOR, "opacity"]),
        "relief": ("png8 data", ["x", "y up", "occlusion", "height"]),
        "shine": ("png8 data", ["reflectance", "gloss", "glow", "wetness"]),
    },
    "small-tiles-rgb": {
        "albedo": ("png8 srgb", [*COLOR, "opacity"]),
        "normal": ("png8 data", NORMAL_UP),
        "shine": ("png8 data", ["gloss", "metallic", "glow"]),
    },
    "arch-gloss-alpha": {
        "albedo": ("png8 srgb", [*COLOR, "opacity"]),
        "normal_gloss": ("png8 data", [*NORMAL_DOWN, "gloss"]),
        "height": ("png16 data", ["height"]),
    },
    "film-specular": {
        "diffuse": ("exrhalf linear", DIFFUSE),
        "specular": ("exrhalf linear", SPECULAR),
        "roughness": ("exrhalf data", ["roughness"]),
        "normal": ("exrhalf data", NORMAL_UP),
        "height": ("exrhalf data", ["height"]),
    },
    "path-specular": {
        "diffuse": ("png8 srgb", DIFFUSE),
        "specular": ("png8 srgb", SPECULAR),
        "roughness": ("png8 data", ["roughness"]),
        "normal": ("png8 data", NORMAL_UP),
    },
    "classic-shading": {
        "diffuse": ("png8 srgb", DIFFUSE),
        "specular": ("png8 srgb", SPECULAR),
        "shine_power": ("png8 data", ["power"]),
        "normal": ("png8 data", NORMAL_UP),
        "height": ("png16 data", ["height"]),
    },
}
SUFFIX = {"png": "png", "tga": "tga", "tif": "tiff", "exr": "exr"}


def read_plainly(content: bytes, suffix: str) -> np.ndarray:
    """(H, W, C) codes of a file, by other people's libraries."""
    if suffix == "tif":
        found = tifffile.imread(io.BytesIO(content))
    elif suffix == "exr":
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "in.exr"
            path.write_bytes(content)
            channels = OpenEXR.File(str(path)).channels()
            found = next(iter(channels.values())).pixels
    elif suffix == "png" and content[24] == 16:
        found = cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_UNCHANGED)
        found = found[..., ::-1] if found.ndim == 3 else found
    else:
        found = np.asarray(Image.open(io.BytesIO(content)))
    return found if found.ndim == 3 else found[..., None]


def srgb(linear: np.ndarray) -> np.ndarray:
    return np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * np.maximum(linear, 1e-9) ** (1 / 2.4) - 0.055)


def stored(meaning: str, masters: dict[str, np.ndarray], is_color: bool) -> np.ndarray:
    """What a channel must hold, 0..1, from the masters in float64."""
    m = {key: np.asarray(values, np.float64) for key, values in masters.items()}
    word, _, part = meaning.partition(" ")
    if word in ("base", "glow", "diffuse", "specular"):
        metal, base = m["metallic"][..., None], m["base_color"]
        color = {
            "base": base,
            "glow": m["emissive"],
            "diffuse": base * (1 - metal),
            "specular": m["reflectance"][..., None] * (1 - metal) + base * metal,
        }[word]
        plane = color[..., "rgb".index(part)] if part else color @ [0.2126, 0.7152, 0.0722]
        return srgb(plane) if is_color else plane
    if word in ("x", "y", "z"):
        vector = m["normal"][..., "xyz".index(word)]
        return (-vector if part == "down" else vector) / 2 + 0.5
    if word == "gloss":
        return 1 - m["roughness"]
    if word == "power":
        alpha = m["roughness"] ** 2
        return np.clip(np.log2(np.maximum(2 / np.maximum(alpha, 1e-6) ** 2 - 2, 1e-9) / 2) / 10, 0, 1)
    if word == "reflectance":
        return srgb(m["reflectance"] / 0.16) if is_color else m["reflectance"] / 0.16
    return m[{"detail": "own_detail_weight", "wetness": "own_wetness"}.get(word, word)]


def missed(target: str, role: str, content: bytes, suffix: str, masters: dict[str, np.ndarray]) -> list[str]:
    """What is wrong with a file as this target must have it; empty when every channel is within half a step."""
    kind, channels = FILES[target][role]
    form, use = kind.split()
    wanted = form.removesuffix("half").rstrip("0123456789")
    if SUFFIX[suffix] != wanted:
        return [f"{role} is {suffix}"]
    found = read_plainly(content, suffix)
    if found.shape[2] != len(channels):
        return [f"{role} has {found.shape[2]} channels"]
    depth = {"uint8": "8", "uint16": "16", "float16": "half"}.get(str(found.dtype), "?")
    faults = [] if form.endswith(depth) else [f"{role} is stored as {found.dtype}"]
    if suffix == "png" and (b"sRGB" in content[:60]) != (use == "srgb"):
        faults.append(f"{role} says otherwise of its color")
    step = 1 / np.iinfo(found.dtype).max if found.dtype.kind == "u" else 1e-3
    for k, meaning in enumerate(channels):
        is_color = use == "srgb" and not (k == 3)
        values = found[..., k].astype(np.float64) * (step if found.dtype.kind == "u" else 1)
        off = np.abs(values - stored(meaning, masters, is_color)).max()
        if off > 0.5 * step + 2e-6:
            faults.append(f"{role} {'RGBA'[k]} is off by {off:.4f}")
    return faults
