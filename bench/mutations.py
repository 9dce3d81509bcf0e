"""Damaged files of every kind that is read: each must end as a picture or as a sentence, never as a fault of ours.

``python -m bench.mutations`` runs 20,000 of them; ``./check`` runs 2,400 by the same code.
"""

from __future__ import annotations

import io
import json
import math
import random
import sys
import tempfile
import time
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import cv2
import numpy as np
import OpenImageIO as oiio
import pillow_heif
import tifffile
from PIL import Image, ImageCms
from psd_tools import PSDImage

from copper_sieve.core.errors import SieveError
from copper_sieve.core.intake import SourceProfile
from copper_sieve.core.intake.looks import look_at
from copper_sieve.core.target import read_target, write_target
from copper_sieve.files import encode, is_zip
from copper_sieve.targets import shipped_targets
from copper_sieve.work.intake.looking import Looked, look_at_bytes, look_into_layers, look_into_zip

__all__ = ["Outcome", "run"]

CASES = 20_000
_PX = 24
Mutation = Callable[[bytes, random.Random], bytes]


def _pillow(codes: np.ndarray, format: str, **options: object) -> bytes:
    out = io.BytesIO()
    Image.fromarray(codes).save(out, format, **options)
    return out.getvalue()


def _tiff(codes: np.ndarray, **options: object) -> bytes:
    out = io.BytesIO()
    tifffile.imwrite(out, codes, **options)  # type: ignore[arg-type]
    return out.getvalue()


def _pages(*pictures: np.ndarray) -> bytes:
    out = io.BytesIO()
    with tifffile.TiffWriter(out) as writer:
        for codes in pictures:
            writer.write(codes, photometric="rgb", metadata=None, compression="zlib")
    return out.getvalue()


def _document(*pictures: np.ndarray) -> bytes:
    made, out = PSDImage.new("RGB", (_PX, _PX)), io.BytesIO()
    for k, codes in enumerate(pictures):
        made.create_pixel_layer(Image.fromarray(codes).convert("RGBA"), name=f"layer {k}")
    made.save(out)
    return out.getvalue()


def _heic(codes: np.ndarray) -> bytes:
    out = io.BytesIO()
    size = (codes.shape[1], codes.shape[0])
    made = pillow_heif.from_bytes(mode="RGB;16", size=size, data=codes.tobytes())
    made.save(out, quality=90, bit_depth=10)
    return out.getvalue()


def by_library(codes: np.ndarray, suffix: str, **told: object) -> bytes:
    """A picture (H, W, C) in a format that is read and never written, by the library that reads it."""
    with tempfile.NamedTemporaryFile(suffix=suffix) as file:
        out = oiio.ImageOutput.create(file.name)
        spec = oiio.ImageSpec(codes.shape[1], codes.shape[0], codes.shape[2], str(codes.dtype).replace("float32", "float"))
        for key, value in told.items():
            spec.attribute(key.replace("_", ":"), value)
        if not (out.open(file.name, spec) and out.write_image(codes)):
            raise ValueError(out.geterror())
        out.close()
        return Path(file.name).read_bytes()


def raw_file(mosaic: np.ndarray, camera: str = "Made Up 1") -> bytes:
    """A raw file (DNG 1.4) of a made-up camera, from what its sensor saw, (H, W) uint16 of 14 bits under the pattern RGGB."""
    to_camera = (3.2406, -1.5372, -0.4986, -0.9689, 1.8758, 0.0415, 0.0557, -0.2040, 1.0570)
    pairs = [number for value in to_camera for number in (int(value * 10000), 10000)]
    tags = [
        (50706, 1, 4, bytes((1, 4, 0, 0)), True),
        (50707, 1, 4, bytes((1, 1, 0, 0)), True),
        (50708, 2, 0, camera, True),
        (33421, 3, 2, (2, 2), True),
        (33422, 1, 4, bytes((0, 1, 1, 2)), True),
        (50717, 4, 1, 16383, True),
        (50721, 10, 9, pairs, True),
        (50728, 5, 3, (1, 1, 1, 1, 1, 1), True),
        (50778, 3, 1, 21, True),
    ]
    return _tiff(mosaic, photometric=32803, metadata=None, extratags=tags)


def pfm(values: np.ndarray, order: str = "<") -> bytes:
    """A portable float map of (H, W) or (H, W, 3): last row first, the sign of its scale says the order of bytes."""
    height, width = values.shape[:2]
    scale = -1.0 if order == "<" else 1.0
    head = f"P{'f' if values.ndim == 2 else 'F'}\n{width} {height}\n{scale}\n"
    return head.encode() + values[::-1].astype(f"{order}f4").tobytes()


def _zip(files: dict[str, bytes], way: int) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", way) as archive:
        for name, content in files.items():
            archive.writestr(name, content)
    return out.getvalue()


@cache
def whole_files() -> dict[str, bytes]:
    """One sound file of every kind and way of packing, by a name that says nothing of its map."""
    rng = np.random.default_rng(11)
    smooth = np.add.outer(np.arange(_PX), np.arange(_PX)) * 4
    rgb = (smooth[..., None] + rng.integers(0, 40, (_PX, _PX, 3))).astype(np.uint8)
    rgba = np.dstack([rgb, np.where(smooth > 90, 255, 0)]).astype(np.uint8)
    packed = np.dstack([rng.integers(200, 255, (_PX, _PX)), smooth, np.where(smooth > 90, 255, 0), smooth // 2]).astype(np.uint8)
    gray, deep = rgb[..., 0].copy(), rgb.astype(np.uint16) * 257
    floats = rgb.astype(np.float32) / 255
    icc = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    lossless = {"compression": "zlib", "predictor": True}
    found = {
        "a.png": encode(rgb, "png"),
        "b.png": encode(rgba, "png"),
        "c.png": encode(gray, "png"),
        "d.png": encode(deep, "png"),
        "e.png": _pillow(rgb, "PNG", icc_profile=icc),
        "f.png": encode(packed, "png"),
        "a.jpg": _pillow(rgb, "JPEG"),
        "b.jpg": _pillow(rgb, "JPEG", progressive=True, icc_profile=icc),
        "c.jpg": _pillow(gray, "JPEG"),
        "a.tif": _tiff(rgb),
        "b.tif": _tiff(rgb, compression="zlib"),
        "c.tif": _tiff(rgb, compression="lzma"),
        "d.tif": _tiff(deep, **lossless),
        "e.tif": _tiff(floats, compression="zlib"),
        "f.tif": _tiff(rgba, compression="lzma", predictor=True),
        "g.tif": _tiff(rgb, tile=(16, 16), compression="zlib"),
        "h.tif": _pillow(rgb, "TIFF", compression="tiff_lzw"),
        "i.tif": _pillow(rgb, "TIFF", compression="packbits"),
        "j.tif": _tiff(rgb, iccprofile=icc),
        "k.tif": _tiff(floats[..., 0]),
        "l.tif": _pillow(rgb, "TIFF", compression="jpeg"),
        "m.tif": _tiff(rgb, bigtiff=True, compression="zlib"),
        "a.jxl": by_library(rgb, ".jxl", jpegxl_distance=0.0),
        "b.jxl": by_library(floats, ".jxl", jpegxl_distance=1.0),
        "a.jp2": _pillow(rgb, "JPEG2000"),
        "b.jp2": _pillow(deep[..., 0].copy(), "JPEG2000"),
        "a.ppm": _pillow(rgb, "PPM"),
        "a.pgm": _pillow(deep[..., 0].copy(), "PPM"),
        "a.pfm": pfm(floats),
        "a.sgi": by_library(rgb, ".sgi"),
        "a.exr": encode(floats, "exr"),
        "b.exr": encode(floats[..., 0].copy(), "exr"),
        "a.hdr": cv2.imencode(".hdr", floats[..., :3].copy())[1].tobytes(),
        "a.bmp": _pillow(rgb, "BMP"),
        "a.dds": _pillow(rgba, "DDS"),
        "b.dds": _pillow(rgba, "DDS", pixel_format="DXT5"),
        "a.tga": encode(rgb, "tga"),
        "b.tga": _pillow(rgba, "TGA", compression="tga_rle"),
        "a.webp": _pillow(rgba, "WEBP", lossless=True),
        "b.webp": _pillow(rgb, "WEBP"),
        "n.tif": _pages(rgb, 255 - rgb),
        "a.psd": _document(rgb, 255 - rgb),
        "a.heic": _heic(deep),
        "a.avif": _pillow(rgb, "AVIF"),
        "a.dng": raw_file((smooth * 80).astype(np.uint16)),
    }
    inside = {"s_normal.png": found["a.png"], "dir/y_orm.png": found["f.png"]}
    ways = {"a.zip": zipfile.ZIP_DEFLATED, "b.zip": zipfile.ZIP_STORED, "c.zip": zipfile.ZIP_LZMA, "d.zip": zipfile.ZIP_BZIP2}
    return found | {name: _zip(inside, way) for name, way in ways.items()}


def _cut(content: bytes, rng: random.Random) -> bytes:
    return content[: rng.randrange(len(content))]


def _bit(content: bytes, rng: random.Random) -> bytes:
    changed, at = bytearray(content), rng.randrange(len(content))
    changed[at] ^= 1 << rng.randrange(8)
    return bytes(changed)


def _head_bits(content: bytes, rng: random.Random) -> bytes:
    changed = bytearray(content)
    for _ in range(rng.randint(1, 4)):
        changed[rng.randrange(min(len(content), 200))] ^= 1 << rng.randrange(8)
    return bytes(changed)


def _tail_bits(content: bytes, rng: random.Random) -> bytes:
    changed = bytearray(content)
    for _ in range(rng.randint(1, 4)):
        changed[rng.randrange(max(0, len(content) - 250), len(content))] ^= 1 << rng.randrange(8)
    return bytes(changed)


def _extreme(content: bytes, rng: random.Random) -> bytes:
    changed, at = bytearray(content), rng.randrange(len(content))
    value = rng.choice((b"\0", b"\xff", b"\xff\xff\xff\xff", b"\0\0\0\0", b"\x7f\xff\xff\xff", b"\xff\xff\xff\x7f", b"\x80"))
    changed[at : at + len(value)] = value
    return bytes(changed)


def _noise(content: bytes, rng: random.Random) -> bytes:
    at = rng.randrange(len(content))
    run = rng.randbytes(rng.randint(1, 24))
    return content[:at] + run + content[at + rng.choice((0, len(run))) :]


def _taken_out(content: bytes, rng: random.Random) -> bytes:
    at = rng.randrange(len(content))
    return content[:at] + content[at + rng.randint(1, 40) :]


def _spliced(content: bytes, rng: random.Random) -> bytes:
    other = rng.choice(list(whole_files().values()))
    return content[: rng.randrange(len(content))] + other[rng.randrange(len(other)) :]


MUTATIONS: tuple[Mutation, ...] = (_cut, _bit, _head_bits, _tail_bits, _extreme, _noise, _taken_out, _spliced)


@dataclass(frozen=True)
class Outcome:
    """What became of the cases: how many were read, refused with a sentence, and every one that ended otherwise."""

    cases: int
    read: int
    refused: int
    faults: tuple[str, ...]
    by_reader: Counter[str]


def _looks(name: str, content: bytes) -> Iterator[Looked]:
    if is_zip(content):
        yield from (looked for looked, _ in look_into_zip(io.BytesIO(content), name))
    else:
        looked = look_at_bytes(content, name)
        yield looked
        yield from (layer for layer, _ in look_into_layers(content, name) if looked.layers)


def _picture_case(rng: random.Random) -> tuple[str, bool, str | None]:
    name, whole = rng.choice(list(whole_files().items()))
    mutation = rng.choice(MUTATIONS)
    content = mutation(whole, rng)
    was_read = False
    for looked in _looks(name, content):
        for found in looked.findings:
            if found.id == "our-fault":
                return name, False, f"{name} {mutation.__name__}: {found.text}"
        was_read |= looked.look is not None
        json.dumps([_plain(looked), [found.model_dump() for found in looked.findings]], allow_nan=False)
    return name, was_read, None


def _plain(looked: Looked) -> dict[str, object]:
    look = looked.look
    if look is None:
        return {"name": looked.name}
    green = look.green
    return {
        "kind": look.kind,
        "confidence": look.confidence,
        "seam": look.content.seam,
        "mean": look.content.mean,
        "green": [green.confidence, green.ratio_up, green.ratio_down]
        if green is not None and math.isfinite(green.ratio_up)
        else None,
    }


def _text_case(rng: random.Random) -> tuple[str, bool, str | None]:
    """A target's table or a source's profile with damaged letters."""
    as_target = rng.random() < 0.7
    whole = write_target(rng.choice(list(shipped_targets().values()))) if as_target else _PROFILE
    changed = rng.choice(MUTATIONS[:-1])(whole.encode(), rng).decode("utf-8", "replace")
    if rng.random() < 0.1:
        changed += f"\nx = {'[' * 3000}{']' * 3000}\n"
    try:
        read_target(changed) if as_target else SourceProfile.model_validate_json(changed)
        return "toml" if as_target else "profile", True, None
    except (SieveError, ValueError):
        return "toml" if as_target else "profile", False, None


_PROFILE = '{"schema": 1, "name": "mill", "endings": {"_N": {"kind": "normal", "reads": {"RGB": "normal"}}}, "green": "down"}'


def _pixel_case(rng: random.Random) -> tuple[str, bool, str | None]:
    """A sound picture of any shape, depth and odd values, under any name: judged, never stumbled over."""
    dice = np.random.default_rng(rng.getrandbits(32))
    shape = [(1, 1), (1, 40), (40, 1), (3, 5), (_PX, _PX), (17, 64)][rng.randrange(6)]
    channels = rng.choice((1, 2, 3, 4))
    full = shape if channels == 1 else (*shape, channels)
    kind = rng.randrange(5)
    if kind == 0:
        codes: np.ndarray = dice.integers(0, 256, full).astype(np.uint8)
    elif kind == 1:
        codes = dice.integers(0, 65536, full).astype(np.uint16)
    elif kind == 2:
        codes = np.full(full, rng.choice((0, 128, 255)), np.uint8)
    elif kind == 3:
        codes = (dice.normal(size=full) * 10.0 ** rng.randint(-30, 5)).clip(-65504, 65504).astype(np.float32)
    else:
        codes = (dice.random(full[-1:]) * 255 * (dice.random(full) > 0.5)).astype(np.uint8)
    name = rng.choice(("x.png", "s_normal.png", "x_orm.png", "x_height.png", "x_basecolor.png", "x_packed.png", "x_opacity.png"))
    look = look_at(name, codes)
    json.dumps([look.confidence, look.content.seam, look.content.mean, look.content.low, look.content.high], allow_nan=False)
    return "pixels", True, None


def run(cases: int, seed: int = 1) -> Outcome:
    """Run ``cases`` damaged files, tables and odd pictures, the same ones for the same seed."""
    rng = random.Random(seed)
    read, faults, by_reader = 0, [], Counter()
    for _ in range(cases):
        of = rng.choices((_picture_case, _text_case, _pixel_case), (10, 1, 2))[0]
        try:
            name, was_read, fault = of(rng)
        except Exception as problem:
            name, was_read, fault = of.__name__, False, f"{of.__name__}: {type(problem).__name__}: {problem}"
        by_reader[name.rpartition(".")[2]] += 1
        read += was_read
        faults += [fault] if fault else []
    return Outcome(cases, read, cases - read - len(faults), tuple(faults), by_reader)


if __name__ == "__main__":
    began = time.monotonic()
    outcome = run(int(sys.argv[1]) if len(sys.argv) > 1 else CASES)
    told = f"{outcome.read} read, {outcome.refused} refused with a sentence, {len(outcome.faults)} faults"
    print(f"{outcome.cases} cases in {time.monotonic() - began:.0f} s: {told}")
    print(", ".join(f"{name} {count}" for name, count in outcome.by_reader.most_common()))
    for fault in outcome.faults[:20]:
        print(fault)
    sys.exit(bool(outcome.faults))
