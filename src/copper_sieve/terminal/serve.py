"""`serve`: the application on loopback."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from .say import STOPPED, fail

__all__ = ["serve"]


def serve(
    port: Annotated[int, typer.Option(min=1, max=65535)] = 8420,
    data: Annotated[Path, typer.Option(help="Folder for the database, the cache and deliveries")] = Path(".data"),
    demo: Annotated[bool, typer.Option(help="Load the demo on first start")] = True,
    prepare: Annotated[bool, typer.Option(help="Set everything up and leave")] = False,
    folder: Annotated[list[Path] | None, typer.Option(help="Folder that sets may be linked to")] = None,
) -> None:
    """Start PostgreSQL on loopback and serve the application."""
    from ..server import ServerProblem, run_server

    try:
        run_server(data=data, port=port, demo=demo, prepare=prepare, folders=folder or [])
    except ServerProblem as problem:
        raise fail(str(problem), STOPPED) from problem
