"""Pictures of a kept file before it is in any set: thumbnail, channels, normals under a lamp; and its channels as files."""

from __future__ import annotations

import io
import zipfile
from pathlib import PurePath
from typing import Annotated

import cv2
import numpy as np
from fastapi import APIRouter, Query, Response

from ...core.color import encode_srgb_codes
from ...core.convert.normal_faults import telling_patch
from ...core.intake.content import smaller
from ...core.quantities import QUANTITIES
from ...core.raster import eight_bit
from ...core.recipe import Source
from ...core.recipe.model import Letters
from ...core.recipe.sources import read_quantity
from ...core.swatch_shader import shade_relief
from ...core.target import legal_name
from ...files import Picture, encode, read_bytes
from ...store.originals import original_bytes
from ...work.intake.splitting import plane_of, unpacked
from ..models import QuantityRow
from ..state import AppState, State

__all__ = ["router"]

router = APIRouter()
_THUMBNAIL_PX, _LIGHT_PX = 96, 300
_FOREVER = {"cache-control": "max-age=31536000, immutable"}


def _picture(state: AppState, sha256: str) -> Picture:
    with state.pool.connection() as conn:
        content = original_bytes(conn, sha256)
    return read_bytes(content, "original.tga")


def _png(codes: np.ndarray) -> Response:
    return Response(encode(np.ascontiguousarray(codes), "png"), media_type="image/png", headers=_FOREVER)


@router.get("/originals/{sha256}/thumbnail", response_class=Response)
def thumbnail(state: State, sha256: str) -> Response:
    """A small PNG of the file as it is stored."""
    codes = eight_bit(smaller(_picture(state, sha256).codes, _THUMBNAIL_PX))
    return _png(codes[..., : 3 if codes.shape[2] == 4 else 1] if codes.ndim == 3 and codes.shape[2] in (2, 4) else codes)


@router.get("/originals/{sha256}/channels/{letter}", response_class=Response)
def channel(state: State, sha256: str, letter: str) -> Response:
    """A small PNG of one channel as it is stored."""
    plane = plane_of(_picture(state, sha256), letter, "the file")
    return _png(eight_bit(smaller(plane, _THUMBNAIL_PX)))


@router.get("/originals/{sha256}/light", response_class=Response)
def light(state: State, sha256: str, letters: Letters = "RGB") -> Response:
    """Normals as clay under a lamp above: Y+ whole, Y+ at the most telling place, then the same as Y−; 300 px each."""
    picture = _picture(state, sha256)
    source = Source(sha256=sha256, name="the file", width=picture.width, height=picture.height, reads={letters: "normal"})
    normal = read_quantity(source, picture.codes, "normal")
    left, top, right, bottom = telling_patch(smaller(normal, 1024))
    rows = slice(int(top * picture.height), max(1, int(bottom * picture.height)))
    columns = slice(int(left * picture.width), max(1, int(right * picture.width)))
    squares = []
    for sign in (1, -1):
        turned = normal * np.array([1, sign, 1], np.float32)
        squares += [_square(turned), _square(turned[rows, columns])]
    return _png(encode_srgb_codes(np.ascontiguousarray(np.concatenate(squares, 1))))


def _square(normal: np.ndarray) -> np.ndarray:
    """Shaded (300, 300), the middle of what is not square; texels stay sharp when they grow."""
    side = min(normal.shape[:2])
    top, left = ((n - side) // 2 for n in normal.shape[:2])
    middle = np.ascontiguousarray(normal[top : top + side, left : left + side])
    way = cv2.INTER_AREA if side > _LIGHT_PX else cv2.INTER_NEAREST
    return shade_relief(cv2.resize(middle, (_LIGHT_PX, _LIGHT_PX), interpolation=way))


@router.get("/originals/{sha256}/grays", response_class=Response)
def grays(state: State, sha256: str, name: str, word: Annotated[list[str], Query()]) -> Response:
    """A zip with one gray PNG per channel, codes untouched; ``word`` is LETTER:WORD, as R:occlusion."""
    words = {letter: legal_name(text) for letter, _, text in (pair.partition(":") for pair in word)}
    picture = _picture(state, sha256)
    stem = legal_name(PurePath(name).stem)
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_STORED) as archive:
        for text, plane in unpacked(picture, name, words).items():
            way = "tiff" if picture.sample == "float" else "png"
            archive.writestr(zipfile.ZipInfo(f"{stem}_{text}.{way}"), encode(plane, way))
    headers = {"content-disposition": f'attachment; filename="{stem.encode("ascii", "replace").decode()} channels.zip"'}
    return Response(packed.getvalue(), media_type="application/zip", headers=headers)


@router.get("/quantities")
def list_quantities() -> list[QuantityRow]:
    """Everything that a file or a channel may hold."""
    return [
        QuantityRow(key=row.key, title=row.title, plain=row.plain, master=row.master or row.key, channels=row.channels)
        for row in QUANTITIES.values()
    ]
