"""Pictures of a kept file before it is in any set: thumbnail, channels, normals under a lamp; and its channels as files."""

from __future__ import annotations

import io
import zipfile
from pathlib import PurePath
from typing import Annotated

from fastapi import APIRouter, Query, Response

from ...core.quantities import QUANTITIES
from ...core.recipe.model import Letters
from ...core.target import legal_name
from ...files import Picture, encode, read_bytes
from ...store.originals import original_bytes
from ...work.intake.splitting import plane_of, unpacked
from ...work.pictures import normals_under_a_lamp
from ...work.pictures import thumbnail as small
from ..headers import FOREVER
from ..models.intake import QuantityRow
from ..state import AppState, State

__all__ = ["router"]

router = APIRouter()


def _picture(state: AppState, sha256: str) -> Picture:
    with state.pool.connection() as conn:
        content = original_bytes(conn, sha256)
    return read_bytes(content, "original.tga")


def _png(picture: bytes) -> Response:
    return Response(picture, media_type="image/png", headers=FOREVER)


@router.get("/originals/{sha256}/thumbnail", response_class=Response)
def thumbnail(state: State, sha256: str) -> Response:
    """A small PNG of the file as it is stored."""
    return _png(small(_picture(state, sha256).codes))


@router.get("/originals/{sha256}/channels/{letter}", response_class=Response)
def channel(state: State, sha256: str, letter: str) -> Response:
    """A small PNG of one channel as it is stored."""
    return _png(small(plane_of(_picture(state, sha256), letter, "the file")))


@router.get("/originals/{sha256}/light", response_class=Response)
def light(state: State, sha256: str, letters: Letters = "RGB") -> Response:
    """Normals as clay under a lamp above: Y+ whole, Y+ at the most telling place, then the same as Y−; 300 px each."""
    return _png(normals_under_a_lamp(_picture(state, sha256), letters))


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
