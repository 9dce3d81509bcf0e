"""`serve`: the application on loopback."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from ..core.target import slug
from .say import STOPPED, fail

__all__ = ["serve"]


def serve(
    port: Annotated[int, typer.Option(min=1, max=65535)] = 8420,
    data: Annotated[Path, typer.Option(help="Folder for the database, the cache and deliveries")] = Path(".data"),
    demo: Annotated[bool, typer.Option(help="Load the demo on first start")] = True,
    prepare: Annotated[bool, typer.Option(help="Set everything up and leave")] = False,
    folder: Annotated[list[Path] | None, typer.Option(help="Folder that sets may be linked to")] = None,
    into: Annotated[
        list[str] | None, typer.Option(help="Folder that targets may be delivered into", metavar="NAME=FOLDER")
    ] = None,
) -> None:
    """Start PostgreSQL on loopback and serve the application."""
    from ..server import ServerProblem, run_server

    try:
        run_server(data=data, port=port, demo=demo, prepare=prepare, folders=folder or [], into=_named(into or []))
    except ServerProblem as problem:
        raise fail(str(problem), STOPPED) from problem


def _named(told: list[str]) -> dict[str, Path]:
    """Folders by their names, out of NAME=FOLDER."""
    named = {}
    for one in told:
        name, is_told, folder = one.partition("=")
        if not is_told or slug(name) != name:
            raise fail(f"--into {one} has to be NAME=FOLDER, the name of small letters, digits and hyphens.", STOPPED)
        named[name] = Path(folder).expanduser()
    return named
