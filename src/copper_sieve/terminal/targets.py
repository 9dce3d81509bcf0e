"""`targets`: what files can be delivered to."""

from __future__ import annotations

from ..targets import shipped_targets
from .say import Json, print_json

__all__ = ["targets"]


def targets(as_json: Json = False) -> None:
    """List the targets that files can be delivered to."""
    if as_json:
        print_json({"targets": [t.model_dump(mode="json", by_alias=True) for t in shipped_targets().values()]})
        return
    for target in shipped_targets().values():
        print(f"{target.key}: {target.title} ({', '.join(file.title for file in target.files)})")
