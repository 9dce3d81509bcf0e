"""How the terminal speaks: results on stdout, everything else as one line on stderr, and an exit status."""

from __future__ import annotations

import json
import sys
from typing import Annotated, Any

import typer

__all__ = ["DONE", "OUR_FAULT", "STOPPED", "WRONG_USE", "Json", "fail", "print_json"]

DONE, STOPPED, WRONG_USE, OUR_FAULT = 0, 1, 2, 3
Json = Annotated[bool, typer.Option("--json", help="Print one JSON object")]


def fail(text: str, code: int) -> typer.Exit:
    """Say why, and return what to raise."""
    print(f"copper-sieve: {text}", file=sys.stderr)
    return typer.Exit(code)


def print_json(content: dict[str, Any]) -> None:
    print(json.dumps(content, indent=2, ensure_ascii=False))
