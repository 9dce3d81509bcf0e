"""Files that are read nowhere: by how they begin, or else by their ending, what each is and what to do instead."""

from __future__ import annotations

from pathlib import PurePath
from types import MappingProxyType

__all__ = ["foreign", "is_foreign_mesh", "lies_beside"]

_ONE_PICTURE = "Save one picture of it as PNG or TIFF and drop that."
_UNPACK = "Unpack it and drop the folder, or pack it as .zip."
_AS_MESH = "Export it as glTF, OBJ, PLY or STL."
_MESH = "a mesh"
_ITS_MAPS = "Drop the maps that it names; a mesh comes with its maps as glTF or OBJ."
_PLAIN = "Save it as PNG, TIFF or EXR."
_MARKS = (
    (b"GIF8", "a GIF, which holds 256 colors and often an animation", _ONE_PICTURE),
    (b"%PDF", "a PDF", _ONE_PICTURE),
    (b"7z\xbc\xaf'\x1c", "an archive of another kind than .zip", _UNPACK),
    (b"Rar!\x1a\x07", "an archive of another kind than .zip", _UNPACK),
    (b"\x1f\x8b", "an archive of another kind than .zip", _UNPACK),
    (b"\xfd7zXZ\0", "an archive of another kind than .zip", _UNPACK),
    (b"BZh", "an archive of another kind than .zip", _UNPACK),
    (b"\xabKTX ", "a texture packed for graphics cards (KTX)", _PLAIN),
    (b"PVR\x03", "a texture packed for graphics cards", _PLAIN),
    (b"\x13\xab\xa1\x5c", "a texture packed for graphics cards (ASTC)", _PLAIN),
    (b"SDPX", "a film frame (DPX)", _PLAIN),
    (b"XPDS", "a film frame (DPX)", _PLAIN),
    (b"\x80\x2a\x5f\xd7", "a film frame (Cineon)", _PLAIN),
    (b"\0\0\1\0", "an icon", _ONE_PICTURE),
    (b"PXR-USDC", "a USD scene", _AS_MESH),
    (b"#usda", "a USD scene", _AS_MESH),
)
_ENDINGS = MappingProxyType(
    {
        **dict.fromkeys((".fbx", ".dae", ".abc", ".3ds", ".x3d", ".wrl", ".step", ".stp", ".dxf"), (_MESH, _AS_MESH)),
        **dict.fromkeys((".usd", ".usdz"), ("a USD scene", _AS_MESH)),
        **dict.fromkeys((".mtlx", ".mtl"), ("a material without its pictures", _ITS_MAPS)),
        **dict.fromkeys((".basis", ".ktx", ".ktx2"), ("a texture packed for graphics cards", _PLAIN)),
        **dict.fromkeys((".svg", ".eps"), ("a drawing of lines", _ONE_PICTURE)),
        **dict.fromkeys((".mp4", ".mov", ".avi", ".webm", ".mkv"), ("a film", _ONE_PICTURE)),
        ".tar": ("an archive of another kind than .zip", _UNPACK),
    }
)
_ZIP = b"PK\x03\x04"
_BESIDE = ("a PDF", "a USD scene", "a material without its pictures")  # what libraries lay beside their maps


def foreign(content: bytes, name: str) -> str | None:
    """What a file is that is read nowhere, and what to do, as the end of a sentence; None where nothing here knows it.

    Examples
    --------
    >>> foreign(b"GIF89a", "spin.gif")
    'is a GIF, which holds 256 colors and often an animation. Save one picture of it as PNG or TIFF and drop that.'
    >>> foreign(b"", "crate.fbx")
    'is a mesh in a format that is not read here. Export it as glTF, OBJ, PLY or STL.'
    """
    found = _known(content, name)
    if found is None:
        return None
    what, instead, is_by_mark = found
    return f"is {what}{'' if is_by_mark else ' in a format that is not read here'}. {instead}"


def lies_beside(content: bytes, name: str) -> bool:
    """Whether a file that is no picture, nor called as one, is one of those that lie beside pictures and are not missed: texts,
    scenes, and what nothing here knows.

    Examples
    --------
    >>> lies_beside(b"CC0", "license.txt"), lies_beside(b"Rar!\\x1a\\x07", "felt.rar"), lies_beside(b"", "crate.fbx")
    (True, False, False)
    """
    found = _known(content, name)
    return found is None or found[0] in _BESIDE


def is_foreign_mesh(content: bytes, name: str) -> bool:
    """Whether a file is a mesh in a format that is not read.

    Examples
    --------
    >>> is_foreign_mesh(b"", "crate.fbx"), is_foreign_mesh(b"", "crate.txt")
    (True, False)
    """
    found = _known(content, name)
    return found is not None and found[0] == _MESH


def _known(content: bytes, name: str) -> tuple[str, str, bool] | None:
    """What it is, what to do, and whether its first bytes say so."""
    for mark, what, instead in _MARKS:
        if content.startswith(mark):
            return what, instead, True
    ending = PurePath(name).suffix.lower()
    if ending in _ENDINGS:
        what, instead = _ENDINGS[ending]
        return what, instead, False
    return ("packed as a zip under another ending", _ONE_PICTURE, True) if content.startswith(_ZIP) else None
