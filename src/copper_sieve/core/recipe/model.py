"""The recipe: a small immutable value. Editing makes the next one, so undo and compare come for free.

Nodes take masters as inputs, so a height that is given one day and derived the next feeds the same normal.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ..convert.corrections import CORRECTIONS, correction_of
from ..convert.steps import CODE
from ..convert.touches import Touch, may_be_touched, may_get_noise
from ..errors import RecipeInvalid
from ..prepare.steps import GeometryStep
from ..primaries import Primaries
from ..quantities import MASTERS, QUANTITIES, is_known, quantity
from ..raster import MAX_SIDE, MAX_TEXELS, Edges, Sampling
from ..tiles import FIRST_TILE, MAX_TILES
from ..value import Value
from ..vectors import Up
from .refs import Ref, is_part_name, master_ref, node_ref
from .worn import BakedFrom, Worn

__all__ = ["Facts", "Fit", "Frame", "Node", "Origin", "Recipe", "Source", "TileFile", "origin_of", "without_fitted_rise"]

MAX_PARTS = 500  # nodes, and files, of one recipe
_MAX_DEPTH = 64  # masters and nodes that are made one from another
Origin = Literal["given", "derived", "constant", "absent"]
Fit = Literal["crop", "stretch"]  # the middle of it, or all of it
# Two letters hold x and y of normals whose z is rebuilt; GRB are normals whose axes were exchanged.
Letters = Literal["L", "RGB", "R", "G", "B", "A", "RG", "AG", "GRB"]
Tile = Annotated[int, Field(ge=FIRST_TILE, lt=FIRST_TILE + MAX_TILES)]
Span = Annotated[tuple[float, float], Field(description="Stored values, 0..1, that mean the quantity's low and high end")]


class TileFile(Value):
    """A file of a map, as it came: that of one tile among several, or the only one."""

    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    name: str = Field(max_length=1024)
    width: int = Field(ge=1, le=MAX_SIDE)
    height: int = Field(ge=1, le=MAX_SIDE)
    depth: Literal[8, 16, 32] = 8
    place: str | None = Field(default=None, description="Where it lies in a folder of the server that is watched")


class Source(TileFile):
    """A file, and how each group of its channels is to be read; in a set of tiles the file of each tile, read alike."""

    reads: dict[Letters, str] = Field(min_length=1)
    spans: dict[Letters, Span] = Field(default={}, description="Only where stored 0..1 is not the whole range; 1, 0 is inverted")
    green: Literal["up", "down"] | None = None
    red: Literal["right", "left"] = Field(default="right", description="Where red of a normal map points")
    object_up: Up = Field(default="y", description="Which axis of normals in object space points up")
    primaries: Primaries = Field(default="rec709", description="Which red, green and blue its colors are told in")
    unit_length: bool = Field(default=False, description="Normals are brought to length 1, a repair of maps that were scaled")
    black_is_flat: bool = Field(default=False, description="Normals that are stored as black, which none is, are flat")
    smooth_steps: bool = Field(default=False, description="A height of 8 bits loses its steps, within half of one")
    sampling: Sampling | None = Field(default=None, description="How it is brought to a size; None: as the set")
    corrections: dict[str, dict[str, Any]] = Field(default={}, description="By what it is read as, what is told to correct it")
    fit: Fit | None = Field(default=None, description="How it is brought to the set's shape; None: nobody has said")
    tile: Tile | None = Field(default=None, description="UDIM number; None for a file that every tile shares")
    beside: dict[Tile, TileFile] = Field(default={}, max_length=MAX_TILES - 1, description="The files of the other tiles")
    baked: BakedFrom | None = Field(default=None, description="From which meshes it was baked, and how; None: it was brought")

    @property
    def tiles(self) -> tuple[int, ...]:
        """Numbers of the tiles that there is a file for, none where the file is for all."""
        return () if self.tile is None else tuple(sorted((self.tile, *self.beside)))

    @property
    def said(self) -> str:
        """What to call it: its name, with <UDIM> for the number of a tile, and how many tiles there are."""
        if not self.beside:
            return self.name
        return f"{self.name.replace(str(self.tile), '<UDIM>')}, {len(self.tiles)} tiles"

    @property
    def files(self) -> tuple[TileFile, ...]:
        """The file itself and those of the other tiles."""
        return (self, *self.beside.values())

    def with_file(self, tile: int | None, newer: dict[str, Any]) -> Source:
        """The source with its own file changed, or with that of another tile."""
        if tile is None:
            return self.model_copy(update=newer)
        return self.model_copy(update={"beside": {**self.beside, tile: self.beside[tile].model_copy(update=newer)}})

    def at(self, tile: int) -> Source | None:
        """The source as one tile sees it; None where that tile has no file."""
        if self.tile is None:
            return self
        file = self if tile == self.tile else self.beside.get(tile)
        if file is None:
            return None
        return self.model_copy(update={**{key: getattr(file, key) for key in TileFile.model_fields}, "tile": None, "beside": {}})

    def letters_of(self, key: str) -> Letters:
        """The channels that are read as ``key``. Raises RecipeInvalid when none are."""
        for letters, held in self.reads.items():
            if held == key:
                return letters
        raise RecipeInvalid(f"{self.name} is not read as {key}.", key=key)

    def step_of(self, key: str) -> float:
        """How far apart two codes of 8 bits lie, in units of a gray that the file is read as. Raises RecipeInvalid."""
        low, high = self.spans.get(self.letters_of(key), (0.0, 1.0))
        return CODE / abs(high - low)

    @model_validator(mode="after")
    def _known(self) -> Source:
        for letters, key in self.reads.items():
            if not is_known(key):
                raise ValueError(f"{letters} must be read as one of {', '.join(QUANTITIES)} (got {key!r})")
            if letters in ("RG", "AG", "GRB") and key != "normal":
                raise ValueError(f"{letters} can only hold the axes of normals (got {key!r})")
        for letters, (low, high) in self.spans.items():
            if letters not in self.reads or low == high:
                raise ValueError(f"a span needs two different ends and channels that are read (got {letters}: {low}, {high})")
        for key, told in self.corrections.items():
            if key not in self.reads.values():
                raise ValueError(f"only what is read can be corrected: {', '.join(self.reads.values())} (got {key!r})")
            CORRECTIONS[correction_of(quantity(key))].params(**told)
        if self.beside and (self.tile is None or self.tile in self.beside):
            raise ValueError(
                f"files of other tiles need a tile of their own beside them (got {self.tile} and {list(self.beside)})"
            )
        return self


class Node(Value):
    """One step: an operation, which of its ways, its inputs by name, its parameters.

    A parameter that is not told is the default of that number of the operation, and stays so when a newer way has another.
    """

    op: str
    algorithm: int = Field(default=1, ge=1)
    inputs: dict[str, Ref] = {}
    params: dict[str, Any] = {}


class Facts(Value):
    """What is true of the whole set. ``rise`` spans stored height 0 to 1 as a share of the width.

    ``rise_from`` and ``edges_from`` say how it is known: somebody told it, it is what a bake found between two meshes, it was
    measured on the files (``rise_fit`` is how
    well they agree), guessed from them, fitted so that a derived height leans as surfaces usually do, or assumed for want of
    anything better.
    """

    width: int = Field(ge=1, le=MAX_SIDE)
    height: int = Field(ge=1, le=MAX_SIDE)
    rise: float = Field(default=0.02, gt=0, le=1)
    rise_from: Literal["told", "measured", "assumed", "fitted", "baked"] = "told"
    rise_fit: float | None = Field(default=None, ge=-1, le=1, description="Correlation of the slopes it was measured by")
    edges: Edges = Edges()
    edges_from: Literal["told", "guessed"] = "told"
    tile_size: float | None = Field(default=None, gt=0, le=1e6, description="Width of the tile in meters")
    emissive_strength: float = Field(default=1.0, ge=0, le=1e6)
    sampling: Sampling = "smooth"
    seed: int = Field(default=0, ge=0, le=1 << 30, description="Of all noise in the set: another gives other maps of its kind")
    keep_shine: bool = Field(default=False, description="Detail that given normals lose by shrinking widens the roughness")
    origin: str = Field(default="", max_length=4000)
    license: str = Field(default="", max_length=4000)

    @model_validator(mode="after")
    def _not_too_large(self) -> Facts:
        if self.width * self.height > MAX_TEXELS:
            raise ValueError(f"a set has at most {MAX_TEXELS >> 20} million texels (got {self.width} × {self.height})")
        return self


class Frame(Value):
    """The size the set's files came at, and how all of them are moved since. The facts say what comes out."""

    width: int = Field(ge=1, le=MAX_SIDE)
    height: int = Field(ge=1, le=MAX_SIDE)
    edges: Edges = Edges()
    steps: tuple[GeometryStep, ...] = ()


class Recipe(Value):
    """Everything that makes a set's masters. ``masters`` names what exists; the rest is absent."""

    schema_: Literal[1] = Field(default=1, alias="schema")
    facts: Facts
    frame: Frame | None = Field(default=None, description="None while nothing was moved or resized")
    sources: dict[str, Source] = {}
    nodes: dict[str, Node] = {}
    masters: dict[str, Ref] = {}
    touches: dict[str, Touch] = Field(default={}, description="By master, what is laid over it before anything is made of it")
    answered: tuple[str, ...] = Field(default=(), max_length=MAX_PARTS, description="Findings that the eye has answered")
    worn: Worn | None = Field(default=None, description="The mesh that wears the set, and what is baked for it")

    @model_validator(mode="before")
    @classmethod
    def _few_enough(cls, content: Any) -> Any:
        if isinstance(content, dict):
            for part in ("nodes", "sources", "masters"):
                if isinstance(content.get(part), dict) and len(content[part]) > MAX_PARTS:
                    raise ValueError(f"a recipe has at most {MAX_PARTS} {part} (got {len(content[part])})")
        return content

    @model_validator(mode="after")
    def _whole(self) -> Recipe:
        unfit = next((name for name in (*self.sources, *self.nodes) if not is_part_name(name)), None)
        if unfit is not None:
            raise ValueError(f"files and steps are called by small letters, digits and underscores (got {unfit!r})")
        for key, ref in self.masters.items():
            if key not in MASTERS and (key in QUANTITIES or not is_known(key)):
                raise ValueError(f"master must be one of {', '.join(MASTERS)} (got {key!r})")
            self._resolve(ref)
        for key, touch in self.touches.items():
            if not is_known(key) or (touch.strokes and not may_be_touched(quantity(key))):
                raise ValueError(f"only grays and colors can be painted (got {key!r})")
            if touch.noise and not may_get_noise(quantity(key)):
                raise ValueError(f"only grays and normals get noise (got {key!r})")
        for node in self.nodes.values():
            for ref in node.inputs.values():
                self._resolve(ref)
        self._refuse_circles()
        return self

    def _resolve(self, ref: Ref) -> None:
        if ref.kind == "source":
            if ref.name not in self.sources:
                raise ValueError(f"{ref} names no source; there are {', '.join(self.sources) or 'none'}")
            if ref.part not in self.sources[ref.name].reads.values():
                raise ValueError(f"{ref}: that source is not read as {ref.part}")
        elif ref.kind == "node" and ref.name not in self.nodes:
            raise ValueError(f"{ref} names no node; there are {', '.join(self.nodes) or 'none'}")

    def below(self, ref: Ref) -> tuple[Ref, ...]:
        """The refs that a node or a master is made of directly."""
        if ref.kind == "master":
            return (self.masters[ref.name],) if ref.name in self.masters else ()
        return tuple(self.nodes[ref.name].inputs.values()) if ref.kind == "node" else ()

    def _refuse_circles(self) -> None:
        """Every node and master is looked at once, however often it is fed to others; the longest way is bounded too."""
        done: dict[Ref, int] = {}  # how many steps lie below
        for start in (*map(node_ref, self.nodes), *map(master_ref, self.masters)):
            path: list[Ref] = []
            waiting: list[tuple[Ref, bool]] = [(start, False)]
            while waiting:
                ref, is_left = waiting.pop()
                if is_left:
                    done[ref] = 1 + max((done.get(b.whole, 0) for b in self.below(path.pop())), default=0)
                    if done[ref] > _MAX_DEPTH:
                        raise ValueError(f"at most {_MAX_DEPTH} steps may be made one from another (more at {ref})")
                elif ref in path:
                    raise ValueError(f"runs in a circle: {' → '.join((*path[path.index(ref) :], ref))}")
                elif ref not in done:
                    path.append(ref)
                    waiting.append((ref, True))
                    waiting += [(below.whole, False) for below in self.below(ref) if below.kind != "source"]

    def with_answer(self, *findings: str) -> Recipe:
        """The recipe in which these findings are answered and not asked again."""
        return self.model_copy(update={"answered": tuple(dict.fromkeys((*self.answered, *findings)))})

    @property
    def tiles(self) -> tuple[int, ...]:
        """UDIM numbers of the set's tiles, in order; none for a set that is not in tiles."""
        return tuple(sorted({tile for source in self.sources.values() for tile in source.tiles}))

    def at(self, tile: int) -> Recipe:
        """The recipe of one tile by itself, without whatever would need a file that this tile lacks."""
        sources = {name: own for name, source in self.sources.items() if (own := source.at(tile)) is not None}
        known: dict[Ref, bool] = {}

        def is_there(ref: Ref) -> bool:
            if ref not in known:
                known[ref] = ref.name in sources if ref.kind == "source" else all(map(is_there, self.below(ref)))
            return known[ref]

        nodes = {name: node for name, node in self.nodes.items() if is_there(node_ref(name))}
        masters = {key: ref for key, ref in self.masters.items() if is_there(ref.whole)}
        touches = {key: touch.at(tile) for key, touch in self.touches.items()}
        return self.model_copy(update={"sources": sources, "nodes": nodes, "masters": masters, "touches": touches})

    @property
    def keys(self) -> tuple[str, ...]:
        """Keys of every master it may have: the table's, and the own scalars that it holds or that its files are read as."""
        read = [key for source in self.sources.values() for key in source.reads.values()]
        usual = (key for key in MASTERS if not quantity(key).is_seldom)
        held = (key for key in (*self.masters, *read) if key not in QUANTITIES or quantity(key).is_seldom)
        return tuple(dict.fromkeys([*usual, *held]))

    def node_of(self, master: str) -> tuple[str, Node] | None:
        """Name and node that makes ``master``, or None when it is given or absent."""
        ref = self.masters.get(master)
        return (ref.name, self.nodes[ref.name]) if ref is not None and ref.kind == "node" else None

    def source_of(self, master: str) -> tuple[str, Source] | None:
        """Name and source that gives ``master``, or None when it is made or absent."""
        ref = self.masters.get(master)
        return (ref.name, self.sources[ref.name]) if ref is not None and ref.kind == "source" else None

    def parent_of(self, master: str) -> str | None:
        """The master that ``master`` is derived from, or None."""
        made = self.node_of(master)
        below = made[1].inputs.values() if made is not None else ()
        return next((ref.name for ref in below if ref.kind == "master"), None)


def without_fitted_rise(recipe: Recipe) -> Recipe:
    """The recipe whose given height keeps no rise that was fitted to a derived one, or baked: it is assumed from now on."""
    known = recipe.source_of("height")
    is_others = recipe.facts.rise_from == "baked" and known is not None and known[1].baked is None
    if not is_others and (recipe.facts.rise_from != "fitted" or known is None):
        return recipe
    return recipe.model_copy(update={"facts": recipe.facts.model_copy(update={"rise_from": "assumed"})})


def origin_of(recipe: Recipe, master: str) -> Origin:
    """Where a master comes from."""
    ref = recipe.masters.get(master)
    if ref is None:
        return "absent"
    if ref.kind == "source":
        return "given"
    made = recipe.node_of(master)
    if made is None:
        raise RecipeInvalid(f"master {master} must point at a source or a node (got {ref}).", master=master)
    return "constant" if made[1].op == "constant" else "derived"
