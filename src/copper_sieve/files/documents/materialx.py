"""MaterialX 1.39: an OpenPBR surface, and the graph of images that feeds it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from xml.etree import ElementTree as Xml

from ...core.target.wiring import Sheet, Wire, written_refraction
from .identifiers import identifier

__all__ = ["materialx_document"]

_SPACES = {"srgb": "srgb_texture", "linear": "lin_rec709", "acescg": "acescg", "data": "none"}
_SIZED = {1: "float", 2: "vector2", 3: "vector3", 4: "vector4"}


def materialx_document(sheet: Sheet, wires: Sequence[Wire]) -> bytes:
    """XML text of the document, UTF-8.

    Convention: heights become lengths of the plane's unit; the luminance of what glows is its strength, 1 where nobody said.
    """
    root = Xml.Element("materialx", version="1.39", colorspace="lin_rec709")
    graph = Xml.SubElement(root, "nodegraph", name="images")
    outputs = {wire.input: _Graph(graph, _centered(sheet, wire)).output() for wire in wires}
    surface = Xml.SubElement(root, "open_pbr_surface", name="surface", type="surfaceshader")
    for slot, kind in outputs.items():
        if slot != "displacement":
            _input(surface, slot, kind, nodegraph="images", output=slot)
    if "emission_color" in outputs:
        _input(surface, "emission_luminance", "float", value=f"{sheet.emissive_strength:g}")
    if sheet.reflectance is not None and "specular_ior" not in outputs:
        _input(surface, "specular_ior", "float", value=f"{written_refraction(sheet.reflectance):.6g}")
    if "displacement" in outputs:
        moved = Xml.SubElement(root, "displacement", name="relief", type="displacementshader")
        _input(moved, "displacement", "float", nodegraph="images", output="displacement")
        _input(moved, "scale", "float", value=f"{sheet.rise * sheet.width:.6g}")
    material = Xml.SubElement(root, "surfacematerial", name=f"wears_{identifier(sheet.name, 'images')}", type="material")
    _input(material, "surfaceshader", "surfaceshader", nodename="surface")
    if "displacement" in outputs:
        _input(material, "displacementshader", "displacementshader", nodename="relief")
    if not outputs:
        root.remove(graph)
    Xml.indent(root)
    return b'<?xml version="1.0" encoding="UTF-8"?>\n' + Xml.tostring(root, encoding="unicode").encode() + b"\n"


def _input(node: Xml.Element, name: str, kind: str, **attributes: str) -> None:
    Xml.SubElement(node, "input", {"name": name, "type": kind, **attributes})


def _centered(sheet: Sheet, wire: Wire) -> Wire:
    """Heights count from the plane itself."""
    return replace(wire, bias=tuple(b - sheet.center for b in wire.bias)) if wire.quantity == "height" else wire


class _Graph:
    """The nodes of one wire, one after the other."""

    def __init__(self, graph: Xml.Element, wire: Wire) -> None:
        self.graph, self.wire, self.last = graph, wire, ""

    def node(self, kind: str, what: str, made: str, *inputs: tuple[str, str, str]) -> None:
        """A node named after the wire; of its inputs (name, type, value) those without a value come from the node before."""
        name = f"{self.wire.input}_{what}"
        element = Xml.SubElement(self.graph, kind, name=name, type=made)
        for key, type_, value in inputs:
            _input(element, key, type_, **({"value": value} if value else {"nodename": self.last}))
        self.last = name

    def output(self) -> str:
        """Add image, channels, numbers and the output; answer its type."""
        wire = self.wire
        made = self._channels()
        scale, bias = wire.scale, wire.bias
        if wire.quantity == "normal":  # the node takes vectors as files have them, green up
            scale, bias = tuple(s / 2 for s in scale), tuple(b / 2 + 0.5 for b in bias)
        if set(scale) != {1.0}:
            self.node("multiply", "scaled", made, ("in1", made, ""), ("in2", made, ", ".join(f"{s:.9g}" for s in scale)))
        if set(bias) != {0.0}:
            self.node("add", "shifted", made, ("in1", made, ""), ("in2", made, ", ".join(f"{b:.9g}" for b in bias)))
        if wire.quantity == "normal":
            self.node("normalmap", "leaning", made, ("in", made, ""))
        if wire.quantity == "reflectance":
            self._refraction()
        Xml.SubElement(self.graph, "output", name=wire.input, type=made, nodename=self.last)
        return made

    def _channels(self) -> str:
        """The image and those of its channels that are meant; answers their type."""
        wire, count = self.wire, len(self.wire.stored)
        is_color = wire.color != "data" and count > 2
        stored = f"color{count}" if is_color else _SIZED[count]
        name = f"{wire.input}_image"
        image = Xml.SubElement(self.graph, "tiledimage", name=name, type=stored)
        _input(image, "file", "filename", value=wire.file, colorspace=_SPACES[wire.color])
        self.last = name
        if len(wire.letters) == 1:
            if count > 1:
                at = str(wire.stored.index(wire.letters))
                self.node("extract", "channel", "float", ("in", stored, ""), ("index", "integer", at))
            return "float"
        made = f"{'color' if is_color else 'vector'}3"
        if count == 4:
            self.node("convert", "three", made, ("in", stored, ""))
        return made

    def _refraction(self) -> None:
        """From reflectance to the index of refraction, (1 + √r) / (1 − √r)."""
        self.node("sqrt", "root", "float", ("in", "float", ""))
        root = self.last
        self.node("subtract", "below", "float", ("in1", "float", "1"), ("in2", "float", ""))
        below = self.last
        self.last = root
        self.node("add", "above", "float", ("in1", "float", ""), ("in2", "float", "1"))
        above = self.last
        divided = Xml.SubElement(self.graph, "divide", name=f"{self.wire.input}_index", type="float")
        _input(divided, "in1", "float", nodename=above)
        _input(divided, "in2", "float", nodename=below)
        self.last = divided.attrib["name"]
