"""What the materials of a glTF document say: the pictures inside of it and beside it, and the values where there is none."""

from __future__ import annotations

import base64
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from math import isfinite
from pathlib import PurePath, PurePosixPath
from types import MappingProxyType
from typing import Any, NamedTuple
from urllib.parse import unquote

from ...core.convert.scales import reflectance_of
from ...core.intake.folders import joined
from ...core.intake.materials import MOST_PICTURES, PictureBeside, Reading, ValuesTold, called_after
from ...core.quantities import quantity
from .gltf import gltf_parts
from .laying import Laying, laying_of

__all__ = ["GltfPicture", "count_of_pictures", "gltf_beside", "gltf_layings", "gltf_pictures", "gltf_values"]

_ENDINGS = {"image/png": ".png", "image/jpeg": ".jpg", "image/webp": ".webp"}
_GROUPS = ("pbrMetallicRoughness", "KHR_materials_pbrSpecularGlossiness")
_OTHER_PICTURES = ("EXT_texture_webp",)


@dataclass(frozen=True)
class GltfPicture:
    """A picture of one material. ``content`` is its file's bytes, none where they cannot be found."""

    name: str
    reading: Reading
    content: bytes


@dataclass(frozen=True)
class _Use:
    """An image of the document as one material reads it."""

    image: int
    reading: Reading


def gltf_pictures(content: bytes, mesh: str) -> list[GltfPicture]:
    """The pictures inside of a .gltf or .glb file that a material reads, once for each such material, in its order.

    What lies in a file of its own is left out: it comes by itself. Raises MeshInvalid for what is no such document.
    """
    document, chunk = gltf_parts(content)
    images = _rows(document, "images")
    uses = [use for use in _uses(document, mesh) if _is_inside(images[use.image])]
    buffers = {} if chunk is None else {0: chunk}
    shared = [use.image for use in uses]
    return [
        GltfPicture(
            _name(images, use, is_shared=shared.count(use.image) > 1),
            use.reading,
            _bytes(document, buffers, images[use.image]),
        )
        for use in uses
    ]


def count_of_pictures(document: dict[str, Any]) -> int:
    """How many ``gltf_pictures`` finds in a document. Nothing is unpacked for it."""
    images = _rows(document, "images")
    return sum(_is_inside(images[use.image]) for use in _uses(document, ""))


def gltf_beside(document: dict[str, Any], mesh: str) -> list[PictureBeside]:
    """The pictures in files of their own that a material reads, once for each such material."""
    images, found = _rows(document, "images"), []
    for use in _uses(document, mesh):
        uri = images[use.image].get("uri")
        if isinstance(uri, str) and uri and not _is_inside(images[use.image]):
            path = PurePosixPath(unquote(uri).replace("\\", "/"))
            found.append(PictureBeside(path.name, joined("", path.parent.as_posix()), use.reading))
    return found


def gltf_values(document: dict[str, Any], mesh: str) -> list[ValuesTold]:
    """What materials have one value for and no picture. Of one that reads a picture, what it is silent about is the standard's
    own default (glTF 2.0, 3.9); one that reads none may never have been made, and only what it says counts.
    """
    told, materials = [], _rows(document, "materials")
    for material in materials:
        extensions, group = _row(material.get("extensions")), _row(material.get("pbrMetallicRoughness"))
        values = _extra_values(material, extensions)
        if not _row(extensions.get("KHR_materials_pbrSpecularGlossiness")):
            is_made, may_show_through = any(_textures(material)), material.get("alphaMode") == "BLEND"
            values |= _metallic_values({**(_DEFAULTS if is_made else {}), **group}, may_show_through=may_show_through)
        name = str(material.get("name") or "")
        told.append(ValuesTold(name, called_after(name, mesh, is_only=len(materials) == 1), values))
    return [one for one in told if one.values]


_DEFAULTS = MappingProxyType({"baseColorFactor": [1, 1, 1, 1], "roughnessFactor": 1, "metallicFactor": 1})


def _metallic_values(group: Mapping[str, Any], *, may_show_through: bool) -> dict[str, tuple[float, ...]]:
    values: dict[str, tuple[float, ...]] = {}
    color = _shares(group.get("baseColorFactor"), 4)
    if "baseColorTexture" not in group and color is not None:
        values |= {"base_color": color[:3]} | ({"opacity": color[3:]} if may_show_through and color[3] < 1 else {})
    if "metallicRoughnessTexture" not in group:
        found = {key: _shares([group.get(f"{key}Factor")], 1) for key in ("roughness", "metallic")}
        values |= {key: share for key, share in found.items() if share is not None}
    return values


def _extra_values(material: dict[str, Any], extensions: dict[str, Any]) -> dict[str, tuple[float, ...]]:
    """Light that it gives off where it gives any, its index of refraction where it says one, and what other extensions say."""
    values: dict[str, tuple[float, ...]] = {}
    glow = _shares(material.get("emissiveFactor"), 3)
    if "emissiveTexture" not in material and glow and any(glow):
        values["emissive"] = glow
    refraction = _row(extensions.get("KHR_materials_ior")).get("ior")
    if isinstance(refraction, int | float) and refraction >= 1:
        values["reflectance"] = (float(reflectance_of(float(refraction))),)
    for slot, key, group, word in _EXTRAS:
        told = _row(extensions.get(group))
        share = _shares([told.get(word)], 1)
        if slot not in told and share is not None and share[0] > 0:
            values[key] = share
    return values


def _shares(value: Any, count: int) -> tuple[float, ...] | None:
    """So many shares of 1, None where something else stands there."""
    numbers = _floats(value) if isinstance(value, list) else []
    return tuple(min(max(one, 0.0), 1.0) for one in numbers) if len(numbers) == count else None


def _uses(document: dict[str, Any], mesh: str) -> list[_Use]:
    """Every image with each material that reads it; ``mesh`` is what the document is called."""
    images, found, materials = _rows(document, "images"), [], _rows(document, "materials")
    for material in materials:
        slots: dict[int, dict[str, dict[str, Any]]] = {}
        for slot, texture in _textures(material):
            index = _image_of(document, texture["index"])
            if index is not None and 0 <= index < len(images):
                slots.setdefault(index, {})[slot] = texture
        is_cut = material.get("alphaMode") in ("MASK", "BLEND")
        name = str(material.get("name") or "")
        called = called_after(name, mesh, is_only=len(materials) == 1)
        for at, by in slots.items():
            corrections, undone = _made_of(material, by)
            found.append(_Use(at, Reading(tuple(by), name, called, is_cut, corrections, ", ".join(undone))))
    return found[:MOST_PICTURES]


class _Factor(NamedTuple):
    """A number that multiplies what a slot's picture is read as: where it stands, and the corrections that do the same.

    Where nothing stands there it is ``default``: with 0 the picture is of no effect.
    """

    slot: str
    reads: str
    group: str  # "" for the material itself
    word: str
    corrections: tuple[str, ...]
    most: float = 4.0  # that these can multiply by
    default: float = 1.0


_BY_COLOR = ("red", "green", "blue")
_METALLIC, _SPECULAR = _GROUPS
# Grays of the extensions: their slot, the map that each is here, where it stands, and the number for it or that multiplies it.
_EXTRAS = (
    ("clearcoatTexture", "own_coat", "KHR_materials_clearcoat", "clearcoatFactor"),
    ("clearcoatRoughnessTexture", "own_coat_roughness", "KHR_materials_clearcoat", "clearcoatRoughnessFactor"),
    ("sheenRoughnessTexture", "own_sheen_roughness", "KHR_materials_sheen", "sheenRoughnessFactor"),
    ("transmissionTexture", "own_transmission", "KHR_materials_transmission", "transmissionFactor"),
    ("diffuseTransmissionTexture", "own_translucency", "KHR_materials_diffuse_transmission", "diffuseTransmissionFactor"),
    ("iridescenceTexture", "own_iridescence", "KHR_materials_iridescence", "iridescenceFactor"),
    ("anisotropyTexture", "own_anisotropy", "KHR_materials_anisotropy", "anisotropyStrength"),
)
_FACTORS = (
    _Factor("baseColorTexture", "base_color", _METALLIC, "baseColorFactor", _BY_COLOR),
    _Factor("metallicRoughnessTexture", "roughness", _METALLIC, "roughnessFactor", ("times",)),
    _Factor("metallicRoughnessTexture", "metallic", _METALLIC, "metallicFactor", ("times",)),
    _Factor("diffuseTexture", "diffuse", _SPECULAR, "diffuseFactor", _BY_COLOR),
    _Factor("specularGlossinessTexture", "specular", _SPECULAR, "specularFactor", _BY_COLOR),
    _Factor("specularGlossinessTexture", "gloss", _SPECULAR, "glossinessFactor", ("times",)),
    _Factor("emissiveTexture", "emissive", "", "emissiveFactor", _BY_COLOR, default=0.0),
    _Factor("normalTexture", "normal", "normalTexture", "scale", ("strength",)),
    _Factor("occlusionTexture", "occlusion", "occlusionTexture", "strength", ("contrast", "offset"), most=1.0),
    *(_Factor(slot, reads, group, word, ("times",), default=0.0) for slot, reads, group, word in _EXTRAS),
)


def _made_of(material: dict[str, Any], slots: Mapping[str, dict[str, Any]]) -> tuple[dict[str, dict[str, float]], list[str]]:
    """What a material makes of the picture in these slots: by what it is read as, the corrections that do the same; and in words
    what no correction does.
    """
    corrections: dict[str, dict[str, float]] = {}
    undone: list[str] = []
    for factor in (factor for factor in _FACTORS if factor.slot in slots):
        color, *alpha = _numbers(material, factor)
        if any(number != 1 for number in color):
            made = [color[0], 0.5 - color[0] / 2] if factor.slot == "occlusionTexture" else color  # from 1 to what it says
            leaves_nothing = factor.default == 0 and not any(color)
            if min(color) < 0 or max(color) > factor.most or leaves_nothing:
                undone.append(f"it multiplies {quantity(factor.reads).title.lower()} by {' '.join(f'{n:.3g}' for n in color)}")
            else:
                corrections[factor.reads] = dict(zip(factor.corrections, made))
        if alpha and 0 <= alpha[0] < 1:
            corrections["opacity"] = {"times": alpha[0]}
    if _laying(material) is not None:  # the mesh's UV are made so when it is read
        return corrections, list(dict.fromkeys(undone))
    for told in slots.values():
        moved = _row(_row(told.get("extensions")).get("KHR_texture_transform"))
        if any(moved.get(word, same) != same for word, same in (("scale", [1, 1]), ("offset", [0, 0]), ("rotation", 0))):
            undone.append("it moves, turns or scales the UV")
        if moved.get("texCoord", told.get("texCoord", 0)) != 0:
            undone.append("it lies on the mesh’s second UV")
    return corrections, list(dict.fromkeys(undone))


def gltf_layings(document: dict[str, Any]) -> list[Laying | None]:
    """By material, how all of its pictures lie on the mesh; None where they differ."""
    return [_laying(material) for material in _rows(document, "materials")]


def _laying(material: dict[str, Any]) -> Laying | None:
    return laying_of([row for _, row in _textures(material)])


def _numbers(material: dict[str, Any], factor: _Factor) -> tuple[list[float], *tuple[float, ...]]:
    """A factor's numbers and, where it has one, that of alpha; ones where something else stands there than should."""
    count = len(_BY_COLOR) if factor.corrections == _BY_COLOR else 1
    default = [factor.default] * count if count > 1 else factor.default
    said = _holder(material, factor.group).get(factor.word, default)
    numbers = _floats(said)
    if not count <= len(numbers) <= (4 if count > 1 else 1):
        return ([1.0] * count,)
    strength = _floats(_holder(material, "KHR_materials_emissive_strength").get("emissiveStrength", 1))
    if factor.slot == "emissiveTexture" and len(strength) == 1:
        numbers = [number * strength[0] for number in numbers]
    return (numbers[:count], *numbers[count:])


def _holder(material: dict[str, Any], group: str) -> dict[str, Any]:
    return _row(material.get(group) or _row(material.get("extensions")).get(group)) if group else material


def _floats(value: Any) -> list[float]:
    values = value if isinstance(value, list) else [value]
    return [float(one) for one in values] if all(isinstance(one, int | float) and isfinite(one) for one in values) else []


def _row(value: Any) -> dict[str, Any]:
    """An object of the document; an empty one where it holds something else."""
    return value if isinstance(value, dict) else {}


def _rows(document: dict[str, Any], key: str) -> list[dict[str, Any]]:
    rows = document.get(key)
    return [_row(row) for row in rows] if isinstance(rows, list) else []


def _textures(material: dict[str, Any]) -> Iterator[tuple[str, dict[str, Any]]]:
    """Every slot of a material that has a texture, and its row there, with the texture's index."""
    others = [_row(row) for group, row in _row(material.get("extensions")).items() if group not in _GROUPS]
    for holder in (*(_holder(material, group) for group in _GROUPS), material, *others):
        for slot, told in holder.items():
            if slot.endswith("Texture") and isinstance(_row(told).get("index"), int):
                yield slot, _row(told)


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
        own = f"{use.reading.called}_{use.reading.slots[0].removesuffix('Texture')}"
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
