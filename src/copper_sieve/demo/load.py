"""Put the demo into the store, once."""

from __future__ import annotations

import hashlib
import io
from collections.abc import Mapping

from ..core.intake.first_look import first_look
from ..core.quantities import quantity
from ..core.recipe import Cache, Evaluation, Recipe
from ..core.target import legal_name
from ..files import encode
from ..store import sets
from ..store.database import Pool
from ..store.originals import keep_original
from ..work.intake.grouping import recipe_for
from ..work.intake.looking import load_codes, look_at_bytes
from .materials import MATERIALS

__all__ = ["DEMO_PROJECT", "load_demo"]

DEMO_PROJECT = ("the-salt-heron-wardrobe", "The Salt Heron · wardrobe")
DEMO_PX = 1024
_CACHE_BYTES = 256 << 20


def load_demo(pool: Pool, size: int = DEMO_PX) -> None:
    """Make the wardrobe unless there is a project already."""
    with pool.connection() as conn:
        if sets.list_projects(conn):
            return
        project = sets.create_project(conn, name=DEMO_PROJECT[0], title=DEMO_PROJECT[1])
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


def _seen(recipe: Recipe, contents: Mapping[str, bytes]) -> Evaluation:
    return Evaluation(recipe, None, lambda source: load_codes(source, contents.__getitem__), Cache(_CACHE_BYTES))
