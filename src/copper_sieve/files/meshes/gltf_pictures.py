"""The pictures that lie inside of a glTF document, and what its materials read them as."""

from __future__ import annotations

import base64
import binascii
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


def gltf_pictures(content: bytes) -> list[GltfPicture]:
    """The pictures inside of a .gltf or .glb file that a material reads, once for each such material, in its order.

    What lies in a file of its own is left out: it comes by itself. Raises MeshInvalid for what is no such document.
    """
    document, chunk = gltf_parts(content)
    images = [image if isinstance(image, dict) else {} for image in _rows(document, "images")]
    found: list[GltfPicture] = []
    for at, material in enumerate(_rows(document, "materials")):
        called = str(material.get("name") or f"material {at + 1}")
        slots: dict[int, list[str]] = {}
        for slot, texture in _textures(material):
            index = _image_of(document, texture)
            if index is not None and 0 <= index < len(images) and _is_inside(images[index]):
                slots.setdefault(index, []).append(slot)
        for index, read_by in slots.items():
            name = _name(images, index, called, read_by)
            is_cut = material.get("alphaMode") in ("MASK", "BLEND")
            found.append(GltfPicture(name, called, tuple(read_by), is_cut, _bytes(document, chunk, images[index])))
    return found[:_MOST]


def _rows(document: dict[str, Any], key: str) -> list[Any]:
    rows = document.get(key)
    return rows if isinstance(rows, list) else []


def _textures(material: dict[str, Any]) -> Iterator[tuple[str, int]]:
    """Every slot of a material that has a texture, and which."""
    extensions = material.get("extensions") or {}
    for holder in (*(material.get(group) or extensions.get(group) or {} for group in _GROUPS), material):
        for slot, told in holder.items():
            if slot.endswith("Texture") and isinstance(told, dict) and isinstance(told.get("index"), int):
                yield slot, told["index"]


def _image_of(document: dict[str, Any], texture: int) -> int | None:
    rows = _rows(document, "textures")
    row = rows[texture] if 0 <= texture < len(rows) and isinstance(rows[texture], dict) else {}
    others = [(row.get("extensions") or {}).get(name, {}).get("source") for name in _OTHER_PICTURES]
    return next((source for source in (*others, row.get("source")) if isinstance(source, int)), None)


def _is_inside(image: dict[str, Any]) -> bool:
    uri = image.get("uri")
    return "bufferView" in image or (isinstance(uri, str) and uri.startswith("data:"))


def _name(images: list[dict[str, Any]], index: int, material: str, slots: list[str]) -> str:
    """The picture's own name where it has one to itself, else its material's and what it is for."""
    image = images[index]
    kind = str(image.get("mimeType") or str(image.get("uri", "")).removeprefix("data:").partition(";")[0])
    ending, own = _ENDINGS.get(kind, ""), str(image.get("name") or "")
    if not own or [other.get("name") for other in images].count(own) > 1:
        own = f"{material}_{slots[0].removesuffix('Texture')}"
    return own if PurePath(own).suffix.lower() in (ending, ".jpeg") else own + ending


def _bytes(document: dict[str, Any], chunk: bytes | None, image: dict[str, Any]) -> bytes:
    try:
        if "bufferView" not in image:
            return base64.b64decode(image["uri"].partition(",")[2], validate=True)
        view = document["bufferViews"][image["bufferView"]]
        uri = document["buffers"][view["buffer"]].get("uri")
        whole = (chunk or b"") if uri is None else base64.b64decode(uri.partition(",")[2], validate=True)
        start = view.get("byteOffset", 0)
        return whole[start : start + view["byteLength"]]
    except (KeyError, IndexError, TypeError, ValueError, AttributeError, binascii.Error):
        return b""


def count_of_pictures(content: bytes) -> int:
    """How many ``gltf_pictures`` finds; none in what is no glTF document."""
    try:
        return len(gltf_pictures(content))
    except MeshInvalid:
        return 0
