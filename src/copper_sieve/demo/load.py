"""Put the demo into the store, once."""

from __future__ import annotations

import hashlib
import io
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from ..core.intake.first_look import first_look
from ..core.mesh import Shape
from ..core.mesh.pairing import print_of
from ..core.quantities import quantity
from ..core.raster import Edges
from ..core.recipe import Cache, Evaluation, Facts, MeshRef, Node, Recipe, Worn, node_ref
from ..core.target import legal_name
from ..files import encode
from ..files.meshes import glb_of, mesh_from
from ..store import projects, sets
from ..store.database import Database, Pool
from ..store.originals import keep_original
from ..work.intake.grouping import recipe_for
from ..work.intake.looking import load_codes, look_at_bytes
from .materials import MATERIALS
from .meshes import button

__all__ = ["DEMO_PROJECT", "load_demo"]

DEMO_PROJECT = ("the-salt-heron-wardrobe", "The Salt Heron · wardrobe")
DEMO_PX = 1024
WORN, SIDES = "Brass button", ("low", "high")
BRASS: dict[str, Any] = {"base_color": (0.81, 0.62, 0.3), "metallic": 1.0, "roughness": 0.35}
_CACHE_BYTES = 256 << 20


def load_demo(pool: Pool, size: int = DEMO_PX) -> None:
    """Make the wardrobe unless there is a project already."""
    with pool.connection() as conn:
        if projects.list_projects(conn):
            return
        project = projects.create_project(conn, name=DEMO_PROJECT[0], title=DEMO_PROJECT[1])
        for material in MATERIALS:
            looked, contents = [], {}
            files = material.files(size)
            for file in files:
                content = encode(file.codes, file.format, color=quantity(file.kind).color if file.kind != "packed" else "data")
                sha256 = hashlib.sha256(content).hexdigest()
                keep_original(conn, sha256=sha256, name=file.name, size_bytes=len(content), content=io.BytesIO(content))
                looked.append(look_at_bytes(content, file.name))
                contents[sha256] = content
            told = {"rise": material.rise} if any(file.kind == "height" for file in files) else {}
            recipe, findings = recipe_for(looked, **told, origin="made by seeded code", license="MIT")
            assert recipe is not None, findings
            recipe = first_look(_seen(recipe, contents))
            sets.create_set(conn, project_id=project.id, name=legal_name(material.name), recipe=recipe)
        sets.create_set(conn, project_id=project.id, name=WORN, recipe=_worn(conn, size))


def _worn(conn: Database, size: int) -> Recipe:
    """A brass button: meshes low and high whose maps are still to be baked, and what brass is everywhere."""
    pieces = {f"button_{end}.glb": replace(button(high=end == "high"), materials=("brass",)) for end in SIDES}
    low, high = (_kept(conn, name, shape) for name, shape in pieces.items())
    facts = Facts(width=size, height=size, edges=Edges(x="mirror", y="mirror"), origin="made by seeded code", license="MIT")
    nodes = {key: Node(op="constant", params={"value": value}) for key, value in BRASS.items()}
    return Recipe(
        facts=facts, nodes=nodes, masters={key: node_ref(key) for key in nodes}, worn=Worn(low=low, called="brass", high=(high,))
    )


def _kept(conn: Database, name: str, shape: Shape) -> MeshRef:
    content = glb_of(shape)
    sha256 = hashlib.sha256(content).hexdigest()
    keep_original(conn, sha256=sha256, name=name, size_bytes=len(content), content=io.BytesIO(content))
    as_read = mesh_from(content, name).shape
    return MeshRef(sha256=sha256, name=name, print=print_of(as_read), triangles=len(as_read.triangles))


def _seen(recipe: Recipe, contents: Mapping[str, bytes]) -> Evaluation:
    return Evaluation(recipe, None, lambda source: load_codes(source, contents.__getitem__), Cache(_CACHE_BYTES))
