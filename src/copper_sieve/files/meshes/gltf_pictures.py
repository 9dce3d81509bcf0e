"""The pictures that lie inside of a glTF document, and what its materials read them as."""

from __future__ import annotations

import base64
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import PurePath
from typing import Any

from ...core.errors import MeshInvalid
from .gltf import gltf_parts

__all__ = ["GltfPicture", "count_of_pictures", "gltf_pictures"]

_ENDINGS = {"image/png": ".png", "image/jpeg": ".jpg", "image/webp": ".webp"}
_GROUPS = ("pbrMetallicRoughness", "KHR_materials_pbrSpecularGlossiness")
_OTHER_PICTURES = ("EXT_texture_webp",)
_MOST = 400  # pictures that are looked for: of more, no person has made the materials


@dataclass(frozen=True)
class GltfPicture:
    """A picture of one material: the ``slots`` that read it, by the standard's names; whether its alpha cuts holes.

    ``content`` is its file's bytes, none where they cannot be found.
    """

    name: str
    material: str
    slots: tuple[str, ...]
    is_cut: bool
    content: bytes


@dataclass(frozen=True)
class _Use:
    """An image of the document as one material reads it."""

    image: int
    material: str
    slots: tuple[str, ...]
    is_cut: bool


def gltf_pictures(content: bytes) -> list[GltfPicture]:
    """The pictures inside of a .gltf or .glb file that a material reads, once for each such material, in its order.

    What lies in a file of its own is left out: it comes by itself. Raises MeshInvalid for what is no such document.
    """
    document, chunk = gltf_parts(content)
    uses, images = _uses(document), _rows(document, "images")
    buffers = {} if chunk is None else {0: chunk}
    shared = [use.image for use in uses]
    return [
        GltfPicture(
            _name(images, use, is_shared=shared.count(use.image) > 1),
            use.material,
            use.slots,
            use.is_cut,
            _bytes(document, buffers, images[use.image]),
        )
        for use in uses
    ]


def count_of_pictures(content: bytes) -> int:
    """How many ``gltf_pictures`` finds; none in what is no glTF document. Nothing is unpacked for it."""
    try:
        return len(_uses(gltf_parts(content)[0]))
    except MeshInvalid:
        return 0


def _uses(document: dict[str, Any]) -> list[_Use]:
    images, found = _rows(document, "images"), []
    for at, material in enumerate(_rows(document, "materials")):
        slots: dict[int, list[str]] = {}
        for slot, texture in _textures(material):
            index = _image_of(document, texture)
            if index is not None and 0 <= index < len(images) and _is_inside(images[index]):
                slots.setdefault(index, []).append(slot)
        called, is_cut = str(material.get("name") or f"material {at + 1}"), material.get("alphaMode") in ("MASK", "BLEND")
        found += [_Use(index, called, tuple(read_by), is_cut) for index, read_by in slots.items()]
    return found[:_MOST]


def _row(value: Any) -> dict[str, Any]:
    """An object of the document; an empty one where it holds something else."""
    return value if isinstance(value, dict) else {}


def _rows(document: dict[str, Any], key: str) -> list[dict[str, Any]]:
    rows = document.get(key)
    return [_row(row) for row in rows] if isinstance(rows, list) else []


def _textures(material: dict[str, Any]) -> Iterator[tuple[str, int]]:
    """Every slot of a material that has a texture, and which."""
    extensions = _row(material.get("extensions"))
    for holder in (*(_row(material.get(group) or extensions.get(group)) for group in _GROUPS), material):
        for slot, told in holder.items():
            texture = _row(told).get("index")
            if slot.endswith("Texture") and isinstance(texture, int):
                yield slot, texture


def _image_of(document: dict[str, Any], texture: int) -> int | None:
    rows = _rows(document, "textures")
    row = rows[texture] if 0 <= texture < len(rows) else {}
    others = [_row(_row(row.get("extensions")).get(name)).get("source") for name in _OTHER_PICTURES]
    return next((source for source in (*others, row.get("source")) if isinstance(source, int)), None)


def _is_inside(image: dict[str, Any]) -> bool:
    uri = image.get("uri")
    return "bufferView" in image or (isinstance(uri, str) and uri.startswith("data:"))


def _name(images: list[dict[str, Any]], use: _Use, *, is_shared: bool) -> str:
    """The picture's own name where it has one to itself, else its material's and what it is for."""
    image = images[use.image]
    kind = str(image.get("mimeType") or str(image.get("uri", "")).removeprefix("data:").partition(";")[0])
    ending, own = _ENDINGS.get(kind, ""), str(image.get("name") or "")
    if not own or is_shared or [other.get("name") for other in images].count(own) > 1:
        own = f"{use.material}_{use.slots[0].removesuffix('Texture')}"
    return own if PurePath(own).suffix.lower() in (ending, ".jpeg") else own + ending


def _bytes(document: dict[str, Any], buffers: dict[int, bytes], image: dict[str, Any]) -> bytes:
    """An image's file; ``buffers`` keeps those of the document that were unpacked for another."""
    try:
        if "bufferView" not in image:
            return _unpacked(image["uri"])
        view = document["bufferViews"][image["bufferView"]]
        at, start = view["buffer"], view.get("byteOffset", 0)
        if at not in buffers:
            buffers[at] = _unpacked(document["buffers"][at]["uri"])
        return buffers[at][start : start + view["byteLength"]]
    except (KeyError, IndexError, TypeError, ValueError, AttributeError):
        return b""


def _unpacked(uri: str) -> bytes:
    return base64.b64decode(uri.partition(",")[2], validate=True)
