"""The table of quantities: what each master means, and what files may call it.

A *master* is kept inside the program; a *convention* quantity exists only in files and is a stated
function of a master. Everything else reads this table, so a new scalar is a new row; scalars of a person's own
(``own_wetness``) need none.
"""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from types import MappingProxyType
from typing import Literal

import numpy as np

from .errors import UnknownKey

__all__ = ["MASTERS", "QUANTITIES", "SOURCE_KINDS", "XYZ", "Quantity", "is_known", "own_key", "plain_words", "quantity"]


@dataclass(frozen=True)
class Quantity:
    """One row: ``low``..``high`` is the natural range; ``absent`` is the value where nobody gave one."""

    key: str
    title: str
    components: tuple[str, ...]
    low: float
    high: float
    absent: tuple[float, ...]
    color: Literal["srgb", "data"]
    plain: str
    made_of: tuple[str, ...] = ()  # for convention quantities: the masters they are a function of
    complement: bool = False  # convention value = high + low - master value
    usual: tuple[float, float] | None = None  # where the mean of most materials lies; of colors, of their brightness as stored
    is_seldom: bool = False  # listed only where a set or a target has it
    scale: str | None = None  # a curve of convert.scales between the one master and what files hold

    @property
    def master(self) -> str | None:
        """The one master that this is a function of, itself for a master; None where it is computed from several."""
        return {0: self.key, 1: self.made_of[0] if self.made_of else None}.get(len(self.made_of))

    @property
    def is_computed(self) -> bool:
        """Whether a file of this cannot be had from one master by gain and shift alone."""
        return len(self.made_of) > 1 or self.scale is not None

    @property
    def channels(self) -> int:
        return len(self.components)

    def absent_value(self) -> np.ndarray:
        """Return the absent value, shape () for one component, else (3,)."""
        value = np.asarray(self.absent, np.float32)
        return value if self.channels > 1 else value[0]


RGB, XYZ, GRAY = ("r", "g", "b"), ("x", "y", "z"), ("v",)

_ROWS = (
    Quantity(
        "base_color",
        "Base color",
        RGB,
        0,
        1,
        (0.5, 0.5, 0.5),
        "srgb",
        "The color of the surface without any light.",
        usual=(0.2, 0.85),
    ),
    Quantity("opacity", "Opacity", GRAY, 0, 1, (1,), "data", "White is solid, black is a hole."),
    Quantity("metallic", "Metallic", GRAY, 0, 1, (0,), "data", "White is bare metal, black is anything else."),
    Quantity("roughness", "Roughness", GRAY, 0, 1, (0.6,), "data", "White is dull, black is mirror-like.", usual=(0.25, 0.85)),
    Quantity(
        "reflectance",
        "Reflectance",
        GRAY,
        0,
        0.16,
        (0.04,),
        "data",
        "How much a non-metal mirrors seen head-on.",
        usual=(0.02, 0.08),
    ),
    Quantity("normal", "Normal", XYZ, -1, 1, (0, 0, 1), "data", "Which way each texel leans."),
    Quantity(
        "height", "Height", GRAY, 0, 1, (0.5,), "data", "White is high, black is low, mid gray the reference.", usual=(0.35, 0.65)
    ),
    Quantity(
        "occlusion",
        "Ambient occlusion",
        GRAY,
        0,
        1,
        (1,),
        "data",
        "Black where the sky is hidden by the surface.",
        usual=(0.6, 1),
    ),
    Quantity("curvature", "Curvature", GRAY, -1, 1, (0,), "data", "Bright on edges, dark in folds."),
    Quantity("emissive", "Emissive", RGB, 0, 1, (0, 0, 0), "srgb", "Light the surface gives off by itself."),
    Quantity(
        "object_normal",
        "Normal, object space",
        XYZ,
        -1,
        1,
        (0, 0, 1),
        "data",
        "Which way each texel faces on the whole object; never mixed with normals of the surface.",
        is_seldom=True,
    ),
    Quantity(
        "thickness",
        "Thickness",
        GRAY,
        0,
        1,
        (1,),
        "data",
        "How far it is through the object: white where it is thickest.",
        is_seldom=True,
    ),
    Quantity(
        "position",
        "Position",
        XYZ,
        0,
        1,
        (0.5, 0.5, 0.5),
        "data",
        "Where each texel lies in the object's box, axis by axis.",
        is_seldom=True,
    ),
    Quantity(
        "id",
        "ID",
        RGB,
        0,
        1,
        (0, 0, 0),
        "data",
        "One color for each material or part, to select by.",
        is_seldom=True,
    ),
    Quantity("gloss", "Gloss", GRAY, 0, 1, (0.4,), "data", "White is mirror-like: roughness inverted.", ("roughness",), True),
    Quantity(
        "roughness_squared",
        "Roughness, squared",
        GRAY,
        0,
        1,
        (0.36,),
        "data",
        "The spread of the little mirrors, which is roughness times itself.",
        ("roughness",),
        scale="squared",
    ),
    Quantity(
        "shine_power",
        "Specular power",
        GRAY,
        0,
        1,
        (0.22,),
        "data",
        "An exponent, 2 where black, 2048 where white, doubling in even steps.",
        ("roughness",),
        scale="power",
    ),
    Quantity(
        "specular_level",
        "Specular level",
        GRAY,
        0,
        0.08,
        (0.04,),
        "data",
        "Reflectance of non-metals, 8 % where white; mid gray is the usual 4 %.",
        ("reflectance",),
    ),
    Quantity(
        "refraction",
        "Index of refraction",
        GRAY,
        0,
        1,
        (0.25,),
        "data",
        "How strongly light bends: 1 where black, 3 where white.",
        ("reflectance",),
        scale="refraction",
    ),
    Quantity(
        "shaded_color",
        "Color with occlusion",
        RGB,
        0,
        1,
        (0.5, 0.5, 0.5),
        "srgb",
        "Base color with ambient occlusion multiplied in.",
        ("base_color", "occlusion"),
    ),
    Quantity(
        "photo",
        "Photo",
        RGB,
        0,
        1,
        (0.5, 0.5, 0.5),
        "srgb",
        "A picture with the light of its day still in it.",
        ("base_color",),
    ),
    Quantity(
        "diffuse",
        "Diffuse",
        RGB,
        0,
        1,
        (0.5, 0.5, 0.5),
        "srgb",
        "What a surface scatters: black where it is bare metal.",
        ("base_color", "metallic"),
    ),
    Quantity(
        "specular",
        "Specular color",
        RGB,
        0,
        1,
        (0.04, 0.04, 0.04),
        "srgb",
        "What a surface mirrors seen head-on: dim gray unless it is metal.",
        ("base_color", "metallic", "reflectance"),
    ),
)

QUANTITIES = MappingProxyType({row.key: row for row in _ROWS})
MASTERS = tuple(row.key for row in _ROWS if not row.made_of)
SOURCE_KINDS = tuple(QUANTITIES)


_OWN = re.compile(r"own_[a-z0-9]+(_[a-z0-9]+)*")


def plain_words(text: str) -> list[str]:
    """The words of a text in plain lower-case letters and digits, accents taken off.

    Examples
    --------
    >>> plain_words("Moiré, 2nd")
    ['moire', '2nd']
    """
    return re.findall(r"[a-z0-9]+", unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode().lower())


def own_key(title: str) -> str:
    """Key of a scalar master of a person's own, from what they call it. Raises UnknownKey where no letter is left.

    Examples
    --------
    >>> own_key("Edge wear")
    'own_edge_wear'
    """
    words = plain_words(title)
    if not words:
        raise UnknownKey("name of an own map", title, ["wetness", "dust", "edge wear"])
    return "_".join(["own", *words])


def is_known(key: str) -> bool:
    """Whether ``quantity`` knows the key: one of the table, or ``own_`` and words."""
    return key in QUANTITIES or _OWN.fullmatch(key) is not None


def quantity(key: str) -> Quantity:
    """Return the row of ``key``, made up for own scalars. Raises UnknownKey with the list of known ones."""
    row = QUANTITIES.get(key)
    if row is not None:
        return row
    if _OWN.fullmatch(key) is None:
        raise UnknownKey("quantity", key, [*QUANTITIES, "own_ and a name"])
    return Quantity(key, key[4:].replace("_", " ").capitalize(), GRAY, 0, 1, (0,), "data", "A map of your own, kept as it is.")
