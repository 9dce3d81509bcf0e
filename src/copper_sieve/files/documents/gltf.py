"""glTF 2.0: one plane of two triangles that wears the delivered images, beside them (.gltf) or with them inside (.glb)."""

from __future__ import annotations

import base64
import json
import struct
from collections.abc import Callable, Sequence
from typing import Any
from urllib.parse import quote

from ...core.quantities import quantity
from ...core.target.wiring import REFLECTANCE_TOP, Sheet, Wire, written_refraction

__all__ = ["glb_document", "gltf_document"]

# glTF 2.0, section 5.19: where each texture input stands in a material
_IN_METALLIC_ROUGHNESS = ("baseColorTexture", "metallicRoughnessTexture")
_IN_SPECULAR = ("specularColorTexture",)  # KHR_materials_specular
_FLOAT, _USHORT = 5126, 5123
_ARRAY_BUFFER, _ELEMENT_BUFFER = 34962, 34963
_MIME = {"png": "image/png", "jpg": "image/jpeg"}
_ALPHA = {"cut-out": "MASK", "transparent": "BLEND"}
_HEADER, _JSON, _BINARY = b"glTF", b"JSON", b"BIN\0"


def gltf_document(sheet: Sheet, wires: Sequence[Wire]) -> bytes:
    """JSON text of the document, UTF-8; images stay files of their own."""
    document, buffer = _document(sheet, wires)
    document["images"] = [{"uri": quote(file)} for file in _files(wires)]
    document["buffers"][0]["uri"] = f"data:application/octet-stream;base64,{base64.b64encode(buffer).decode()}"
    return json.dumps(_without_empty(document), indent=2, ensure_ascii=False).encode()


def glb_document(sheet: Sheet, wires: Sequence[Wire], load: Callable[[str], bytes]) -> bytes:
    """One binary file that holds the document, the plane and the images as they were written."""
    document, buffer = _document(sheet, wires)
    document["images"] = []
    for file in _files(wires):
        content = load(file)
        mime = _MIME[file.rsplit(".", 1)[1]]
        document["images"].append({"bufferView": len(document["bufferViews"]), "mimeType": mime, "name": file})
        document["bufferViews"].append({"buffer": 0, "byteOffset": len(buffer), "byteLength": len(content)})
        buffer += content + bytes(-len(content) % 4)
    document["buffers"][0]["byteLength"] = len(buffer)
    text = json.dumps(_without_empty(document), ensure_ascii=False, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    chunks = struct.pack("<I4s", len(text), _JSON) + text + struct.pack("<I4s", len(buffer), _BINARY) + buffer
    return struct.pack("<4sII", _HEADER, 2, 12 + len(chunks)) + chunks


def _files(wires: Sequence[Wire]) -> list[str]:
    return list(dict.fromkeys(wire.file for wire in wires))


def _without_empty(document: dict[str, Any]) -> dict[str, Any]:
    return {key: value for key, value in document.items() if value not in ([], {})}


def _document(sheet: Sheet, wires: Sequence[Wire]) -> tuple[dict[str, Any], bytes]:
    """Everything but the images, and the buffer of the plane."""
    files = _files(wires)
    textures = {wire.input: {"index": files.index(wire.file)} for wire in wires}
    inner: dict[str, Any] = {slot: textures[slot] for slot in _IN_METALLIC_ROUGHNESS if slot in textures}
    if "metallicRoughnessTexture" not in inner:
        inner |= {"metallicFactor": 0.0, "roughnessFactor": round(float(quantity("roughness").absent_value()), 6)}
    material: dict[str, Any] = {"name": sheet.name, "pbrMetallicRoughness": inner}
    material |= {slot: value for slot, value in textures.items() if slot not in (*_IN_METALLIC_ROUGHNESS, *_IN_SPECULAR)}
    if "emissiveTexture" in textures:
        material["emissiveFactor"] = [1.0, 1.0, 1.0]
    extensions = _extensions(sheet, textures)
    if extensions:
        material["extensions"] = extensions
    if sheet.material.mode in _ALPHA:
        material |= {"alphaMode": _ALPHA[sheet.material.mode], "doubleSided": True}
        material |= {"alphaCutoff": sheet.material.threshold} if sheet.material.mode == "cut-out" else {}
    plane, buffer = _plane(sheet, with_tangents="normalTexture" in textures)
    return {
        "asset": {"version": "2.0", "generator": "Copper Sieve"},
        "extensionsUsed": list(extensions),
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": sheet.name}],
        "materials": [material],
        "samplers": [{"wrapS": 10497, "wrapT": 10497, "magFilter": 9729, "minFilter": 9987}] if files else [],
        "textures": [{"source": k, "sampler": 0} for k in range(len(files))],
        **plane,
    }, buffer


def _extensions(sheet: Sheet, textures: dict[str, Any]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    if "emissiveTexture" in textures and sheet.emissive_strength != 1:
        found["KHR_materials_emissive_strength"] = {"emissiveStrength": sheet.emissive_strength}
    top = REFLECTANCE_TOP if "specularColorTexture" in textures else sheet.reflectance
    if top is not None:
        found["KHR_materials_ior"] = {"ior": round(written_refraction(top), 6)}
    if "specularColorTexture" in textures:  # a share of the reflectance that the index of refraction gives
        found["KHR_materials_specular"] = {"specularColorTexture": textures["specularColorTexture"]}
    return found


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
        "meshes": [{"primitives": [{"attributes": attributes, "indices": len(blocks), "material": 0}]}],
        "accessors": accessors,
        "bufferViews": views,
        "buffers": [{"byteLength": at}],
    }, b"".join([*(block for block, _ in blocks.values()), indices])
