"""glTF 2.0: a mesh, or one plane of two triangles, that wears the delivered images, beside them (.gltf) or inside (.glb)."""

from __future__ import annotations

import base64
import json
import struct
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any
from urllib.parse import quote

import numpy as np

from ...core.mesh import Shape, tangents
from ...core.quantities import quantity
from ...core.raster import FloatArray
from ...core.target.wiring import REFLECTANCE_TOP, Sheet, Wire, written_refraction
from ..meshes.writing import packed, scene_of

__all__ = ["glb_document", "gltf_document"]

# glTF 2.0, section 5.19: where each texture input stands in a material
_IN_METALLIC_ROUGHNESS = ("baseColorTexture", "metallicRoughnessTexture")
# inputs of extensions, each with the factor that is nothing unless it is said
_IN_EXTENSIONS = {
    "specularColorTexture": ("KHR_materials_specular", None),
    "clearcoatTexture": ("KHR_materials_clearcoat", "clearcoatFactor"),
    "clearcoatRoughnessTexture": ("KHR_materials_clearcoat", "clearcoatRoughnessFactor"),
    "transmissionTexture": ("KHR_materials_transmission", "transmissionFactor"),
}
_FLOAT, _USHORT = 5126, 5123
_ARRAY_BUFFER, _ELEMENT_BUFFER = 34962, 34963
_MIME = {"png": "image/png", "jpg": "image/jpeg"}
_ALPHA = {"cut-out": "MASK", "transparent": "BLEND"}


def gltf_document(sheet: Sheet, wires: Sequence[Wire], body: Shape | None = None) -> bytes:
    """JSON text of the document, UTF-8; images stay files of their own. ``body`` wears them; None: a plane."""
    document, buffer = _document(sheet, wires, body)
    document["images"] = [{"uri": quote(file)} for file in _files(wires)]
    document["buffers"][0]["uri"] = f"data:application/octet-stream;base64,{base64.b64encode(buffer).decode()}"
    return json.dumps(_without_empty(document), indent=2, ensure_ascii=False).encode()


def glb_document(sheet: Sheet, wires: Sequence[Wire], load: Callable[[str], bytes], body: Shape | None = None) -> bytes:
    """One binary file that holds the document, the body or a plane, and the images as they were written."""
    document, buffer = _document(sheet, wires, body)
    buffer += bytes(-len(buffer) % 4)
    document["images"] = []
    for file in _files(wires):
        content = load(file)
        mime = _MIME[file.rsplit(".", 1)[1]]
        document["images"].append({"bufferView": len(document["bufferViews"]), "mimeType": mime, "name": file})
        document["bufferViews"].append({"buffer": 0, "byteOffset": len(buffer), "byteLength": len(content)})
        buffer += content + bytes(-len(content) % 4)
    document["buffers"][0]["byteLength"] = len(buffer)
    return packed(_without_empty(document), buffer)


def _files(wires: Sequence[Wire]) -> list[str]:
    return list(dict.fromkeys(wire.file for wire in wires))


def _without_empty(document: dict[str, Any]) -> dict[str, Any]:
    return {key: value for key, value in document.items() if value not in ([], {})}


def _document(sheet: Sheet, wires: Sequence[Wire], body: Shape | None) -> tuple[dict[str, Any], bytes]:
    """Everything but the images, and the buffer of what wears them."""
    files = _files(wires)
    textures = {wire.input: {"index": files.index(wire.file)} for wire in wires}
    inner: dict[str, Any] = {slot: textures[slot] for slot in _IN_METALLIC_ROUGHNESS if slot in textures}
    if "metallicRoughnessTexture" not in inner:
        inner |= {"metallicFactor": 0.0, "roughnessFactor": round(float(quantity("roughness").absent_value()), 6)}
    material: dict[str, Any] = {"name": sheet.name, "pbrMetallicRoughness": inner}
    material |= {slot: value for slot, value in textures.items() if slot not in (*_IN_METALLIC_ROUGHNESS, *_IN_EXTENSIONS)}
    if "emissiveTexture" in textures:
        material["emissiveFactor"] = [1.0, 1.0, 1.0]
    extensions = _extensions(sheet, textures)
    if extensions:
        material["extensions"] = extensions
    if sheet.material.mode in _ALPHA:
        material |= {"alphaMode": _ALPHA[sheet.material.mode], "doubleSided": True}
        material |= {"alphaCutoff": sheet.material.threshold} if sheet.material.mode == "cut-out" else {}
    made = _plane(sheet, with_tangents="normalTexture" in textures) if body is None else scene_of(*_worn(body))
    scene, buffer = made
    return {
        "asset": {"version": "2.0", "generator": "Copper Sieve"},
        "extensionsUsed": list(extensions),
        "materials": [material],
        "samplers": [{"wrapS": 10497, "wrapT": 10497, "magFilter": 9729, "minFilter": 9987}] if files else [],
        "textures": [{"source": k, "sampler": 0} for k in range(len(files))],
        **scene,
    }, buffer


def _extensions(sheet: Sheet, textures: dict[str, Any]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    if "emissiveTexture" in textures and sheet.emissive_strength != 1:
        found["KHR_materials_emissive_strength"] = {"emissiveStrength": sheet.emissive_strength}
    top = REFLECTANCE_TOP if "specularColorTexture" in textures else sheet.reflectance
    if top is not None:
        found["KHR_materials_ior"] = {"ior": round(written_refraction(top), 6)}
    for slot, (extension, factor) in _IN_EXTENSIONS.items():
        if slot in textures:
            told = found.setdefault(extension, {})
            told |= {slot: textures[slot], **({} if factor is None else {factor: 1.0})}
    return found


def _worn(body: Shape) -> tuple[Shape, FloatArray | None]:
    """The body with one material, the set's; and the tangents of the common standard where it has UV."""
    whole = replace(body, material=np.zeros(len(body.counts), np.int32), materials=("set",))
    return whole, None if body.uv is None else tangents(body)


def _plane(sheet: Sheet, *, with_tangents: bool) -> tuple[dict[str, Any], bytes]:
    x, y = sheet.width / 2, sheet.width * sheet.aspect / 2
    corners = ((-x, -y, 0), (x, -y, 0), (x, y, 0), (-x, y, 0))
    positions = b"".join(struct.pack("<3f", *c) for c in corners)
    normals = struct.pack("<3f", 0, 0, 1) * 4
    tangents = struct.pack("<4f", 1, 0, 0, 1) * 4
    uvs = struct.pack("<8f", 0, 1, 1, 1, 1, 0, 0, 0)
    indices = struct.pack("<6H", 0, 1, 2, 0, 2, 3)
    blocks = {"POSITION": (positions, "VEC3"), "NORMAL": (normals, "VEC3"), "TEXCOORD_0": (uvs, "VEC2")}
    if with_tangents:
        blocks["TANGENT"] = (tangents, "VEC4")
    views, accessors, at = [], [], 0
    for block, kind in (*blocks.values(), (indices, "SCALAR")):
        is_index = kind == "SCALAR"
        target = _ELEMENT_BUFFER if is_index else _ARRAY_BUFFER
        views.append({"buffer": 0, "byteOffset": at, "byteLength": len(block), "target": target})
        component, count = (_USHORT, 6) if is_index else (_FLOAT, 4)
        accessors.append({"bufferView": len(accessors), "componentType": component, "count": count, "type": kind})
        at += len(block)
    low, high = (struct.unpack("<3f", struct.pack("<3f", *corner)) for corner in (corners[0], corners[2]))
    accessors[0] |= {"min": list(low), "max": list(high)}
    attributes = {name: k for k, name in enumerate(blocks)}
    return {
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": sheet.name}],
        "meshes": [{"primitives": [{"attributes": attributes, "indices": len(blocks), "material": 0}]}],
        "accessors": accessors,
        "bufferViews": views,
        "buffers": [{"byteLength": at}],
    }, b"".join([*(block for block, _ in blocks.values()), indices])
