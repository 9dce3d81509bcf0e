"""USD: a mesh, or a plane, that wears a Preview Surface, every texture with its color space, scale and bias."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import chain, count

import numpy as np

from ...core.mesh import Shape, tangents
from ...core.mesh.made import upright
from ...core.raster import FloatArray
from ...core.target.wiring import Sheet, Wire, written_refraction
from .identifiers import identifier

__all__ = ["usd_document"]

_KINDS = {1: "float", 3: "color3f"}
_NORMAL = "normal3f"
_BY_CORNER = '            interpolation = "faceVarying"'
_SPACES = {"srgb": "sRGB", "linear": "raw", "data": "raw"}


def usd_document(sheet: Sheet, wires: Sequence[Wire], body: Shape | None = None) -> bytes:
    """Text of the layer (.usda), UTF-8; lengths are meters, y is up. ``body`` wears the set; None: a plane."""
    prim = identifier(sheet.name, "sheet")
    material = f"/{prim}/Material"
    textures = "\n".join(_texture(sheet, wire, material) for wire in wires)
    return f"""#usda 1.0
(
    defaultPrim = "{prim}"
    metersPerUnit = 1
    upAxis = "Y"
)

def Xform "{prim}" (
    displayName = {_quoted(sheet.name)}
    kind = "component"
)
{{
{_plane(sheet, material) if body is None else _meshes(sheet, body, material)}

    def Material "Material"
    {{
        token outputs:surface.connect = <{material}/Surface.outputs:surface>
{_displacement(wires, material)}
        def Shader "Surface"
        {{
            uniform token info:id = "UsdPreviewSurface"
{_surface(sheet, wires, material)}
            token outputs:surface
            token outputs:displacement
        }}

        def Shader "Place"
        {{
            uniform token info:id = "UsdPrimvarReader_float2"
            string inputs:varname = "st"
            float2 outputs:result
        }}
{textures}
    }}
}}
""".encode()


def _quoted(text: str) -> str:
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'


def _plane(sheet: Sheet, material: str) -> str:
    x, y = sheet.width / 2, sheet.width * sheet.aspect / 2
    corners = ", ".join(f"({a:g}, {b:g}, 0)" for a, b in ((-x, -y), (x, -y), (x, y), (-x, y)))
    return f"""    def Mesh "Plane" (
        prepend apiSchemas = ["MaterialBindingAPI"]
    )
    {{
        uniform bool doubleSided = {int(sheet.material.mode != "solid")}
        float3[] extent = [({-x:g}, {-y:g}, 0), ({x:g}, {y:g}, 0)]
        int[] faceVertexCounts = [4]
        int[] faceVertexIndices = [0, 1, 2, 3]
        rel material:binding = <{material}>
        normal3f[] normals = [(0, 0, 1), (0, 0, 1), (0, 0, 1), (0, 0, 1)] (
            interpolation = "vertex"
        )
        point3f[] points = [{corners}]
        texCoord2f[] primvars:st = [(0, 0), (1, 0), (1, 1), (0, 1)] (
            interpolation = "vertex"
        )
        uniform token subdivisionScheme = "none"
    }}"""


def _meshes(sheet: Sheet, body: Shape, material: str) -> str:
    """A mesh for each part of a body: triangles, with normals, UV and tangents of the common standard by corner."""
    body = upright(body)
    given = None if body.uv is None else tangents(body)
    part = body.part[body.polygon_of]
    taken: set[str] = set()
    return "\n\n".join(
        _mesh(sheet, body, given, np.flatnonzero(part == p), _free(identifier(name, "mesh"), taken), material)
        for p, name in enumerate(body.parts)
        if (part == p).any()
    )


def _free(name: str, taken: set[str]) -> str:
    """The name, numbered where it is taken already."""
    numbered = (f"{name}_{k}" for k in count(2))
    free = next(n for n in chain([name], numbered) if n not in taken and n != "Material")
    taken.add(free)
    return free


def _mesh(sheet: Sheet, body: Shape, given: FloatArray | None, triangles: np.ndarray, name: str, material: str) -> str:
    corner = body.triangles[triangles].ravel()
    used, index = np.unique(body.corners[corner], return_inverse=True)
    points = body.points[used]
    rows = [("normal3f[] normals", body.shading[corner])]
    if body.uv is not None:
        rows.append(("texCoord2f[] primvars:st", body.uv[corner]))
    if body.second_uv is not None:
        rows.append(("texCoord2f[] primvars:st1", body.second_uv[corner]))
    if given is not None:
        rows.append(("float4[] primvars:tangents", given[triangles].reshape(-1, 4)))
    by_corner = "\n".join(f"        {kind} = {_rows(v)} (\n{_BY_CORNER}\n        )" for kind, v in rows)
    return f"""    def Mesh "{name}" (
        prepend apiSchemas = ["MaterialBindingAPI"]
    )
    {{
        uniform bool doubleSided = {int(sheet.material.mode != "solid")}
        float3[] extent = {_rows(np.stack([points.min(0), points.max(0)]))}
        int[] faceVertexCounts = [{", ".join(["3"] * len(triangles))}]
        int[] faceVertexIndices = [{", ".join(map(str, index.ravel().tolist()))}]
        rel material:binding = <{material}>
        point3f[] points = {_rows(points)}
{by_corner}
        uniform token subdivisionScheme = "none"
    }}"""


def _rows(values: np.ndarray) -> str:
    return "[" + ", ".join("(" + ", ".join(f"{v:.7g}" for v in row) + ")" for row in values.tolist()) + "]"


def _displacement(wires: Sequence[Wire], material: str) -> str:
    if not any(wire.input == "displacement" for wire in wires):
        return ""
    return f"        token outputs:displacement.connect = <{material}/Surface.outputs:displacement>\n"


def _surface(sheet: Sheet, wires: Sequence[Wire], material: str) -> str:
    lines = []
    for wire in wires:
        kind = _NORMAL if wire.quantity == "normal" else _KINDS[len(wire.letters)]
        lines.append(f"{kind} inputs:{wire.input}.connect = <{material}/{wire.input}.outputs:{_output(wire)}>")
    if sheet.reflectance is not None:
        lines.append(f"float inputs:ior = {written_refraction(sheet.reflectance):.6g}")
    if sheet.material.mode == "cut-out":
        lines.append(f"float inputs:opacityThreshold = {sheet.material.threshold:g}")
    return "\n".join(f"            {line}" for line in lines)


def _output(wire: Wire) -> str:
    if len(wire.letters) > 1:
        return "rgb"
    return {"L": "r", **dict(zip("RGBA", "rgba", strict=True))}[wire.letters]


def _texture(sheet: Sheet, wire: Wire, material: str) -> str:
    gain = {"height": sheet.rise * sheet.width, "emissive": sheet.emissive_strength}.get(wire.quantity, 1.0)
    sunk = sheet.center if wire.quantity == "height" else 0.0
    scale, bias = [1.0] * 4, [0.0] * 4
    for letter, s, b in zip(wire.letters, wire.scale, wire.bias, strict=True):
        at = max(0, "RGBA".find(letter))
        scale[at], bias[at] = s * gain, (b - sunk) * gain
    numbers = "".join(
        f"            float4 inputs:{key} = ({', '.join(f'{v:.9g}' for v in values)})\n"
        for key, values, plain in (("bias", bias, 0.0), ("scale", scale, 1.0))
        if set(values) != {plain}
    )
    out = _output(wire)
    mark = "@@@" if "@" in wire.file else "@"
    return f"""
        def Shader "{wire.input}"
        {{
            uniform token info:id = "UsdUVTexture"
            asset inputs:file = {mark}./{wire.file}{mark}
            token inputs:sourceColorSpace = "{_SPACES[wire.color]}"
            float2 inputs:st.connect = <{material}/Place.outputs:result>
            token inputs:wrapS = "repeat"
            token inputs:wrapT = "repeat"
{numbers}            {"float3" if out == "rgb" else "float"} outputs:{out}
        }}"""
