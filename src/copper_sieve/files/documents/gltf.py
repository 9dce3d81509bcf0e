"""A glTF 2.0 document: one plane of two triangles that wears the delivered images."""

from __future__ import annotations

import base64
import json
import struct
from collections.abc import Mapping
from typing import Any
from urllib.parse import quote

__all__ = ["gltf_document"]

# glTF 2.0, section 5.19: where each texture input stands in a material
_IN_METALLIC_ROUGHNESS = ("baseColorTexture", "metallicRoughnessTexture")
_FLOAT, _USHORT = 5126, 5123
_ARRAY_BUFFER, _ELEMENT_BUFFER = 34962, 34963


def gltf_document(*, name: str, images: Mapping[str, str], aspect: float, cut_out: bool, emissive_strength: float = 1.0) -> bytes:
    """JSON text of the document, UTF-8.

    Parameters
    ----------
    images : file name by texture input, e.g. ``{"normalTexture": "silk_normal.png"}``
    aspect : height over width of the images; the plane is 1 wide
    cut_out : whether the alpha of the base color cuts holes (mode MASK, cutoff one half)
    """
    uris = list(dict.fromkeys(images.values()))
    textures = {slot: {"index": uris.index(uri)} for slot, uri in images.items()}
    inner = {slot: textures[slot] for slot in _IN_METALLIC_ROUGHNESS if slot in textures}
    if "metallicRoughnessTexture" not in inner:
        inner["metallicFactor"] = 0.0  # type: ignore[assignment]
    material: dict[str, Any] = {"name": name, "pbrMetallicRoughness": inner}
    material |= {slot: value for slot, value in textures.items() if slot not in _IN_METALLIC_ROUGHNESS}
    document: dict[str, Any] = {"asset": {"version": "2.0", "generator": "Copper Sieve"}}
    if "emissiveTexture" in textures:
        material["emissiveFactor"] = [1.0, 1.0, 1.0]
        if emissive_strength != 1:
            material["extensions"] = {"KHR_materials_emissive_strength": {"emissiveStrength": emissive_strength}}
            document["extensionsUsed"] = ["KHR_materials_emissive_strength"]
    if cut_out:
        material |= {"alphaMode": "MASK", "alphaCutoff": 0.5, "doubleSided": True}
    document |= {
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": name}],
        "materials": [material],
        "images": [{"uri": quote(uri)} for uri in uris],
        "samplers": [{"wrapS": 10497, "wrapT": 10497, "magFilter": 9729, "minFilter": 9987}],
        "textures": [{"source": k, "sampler": 0} for k in range(len(uris))],
        **_plane(aspect, with_tangents="normalTexture" in textures),
    }
    return json.dumps(document, indent=2, ensure_ascii=False).encode()


def _plane(aspect: float, *, with_tangents: bool) -> dict[str, Any]:
    x, y = 0.5, aspect / 2
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
        views.append(
            {
                "buffer": 0,
                "byteOffset": at,
                "byteLength": len(block),
                "target": _ELEMENT_BUFFER if is_index else _ARRAY_BUFFER,
            }
        )
        accessors.append(
            {
                "bufferView": len(accessors),
                "componentType": _USHORT if is_index else _FLOAT,
                "count": 6 if is_index else 4,
                "type": kind,
            }
        )
        at += len(block)
    accessors[0] |= {"min": [-x, -y, 0.0], "max": [x, y, 0.0]}
    data = base64.b64encode(b"".join([*(block for block, _ in blocks.values()), indices])).decode()
    attributes = {name: k for k, name in enumerate(blocks)}
    return {
        "meshes": [{"primitives": [{"attributes": attributes, "indices": len(blocks), "material": 0}]}],
        "accessors": accessors,
        "bufferViews": views,
        "buffers": [{"byteLength": at, "uri": f"data:application/octet-stream;base64,{data}"}],
    }
