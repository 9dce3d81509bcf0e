"""Print the OpenAPI document that the screen's client is generated from."""

import json
from pathlib import Path
from typing import Any

from copper_sieve.api.app import create_app


def without_tuples(part: Any) -> Any:
    """Tuples of one type as lists: the client's answers come as lists, and a list is no tuple to its types."""
    if isinstance(part, list):
        return [without_tuples(item) for item in part]
    if not isinstance(part, dict):
        return part
    part = {key: without_tuples(value) for key, value in part.items()}
    kinds = part.get("prefixItems")
    if kinds and all(kind == kinds[0] for kind in kinds):
        part["items"] = kinds[0]
        del part["prefixItems"]
    return part


print(json.dumps(without_tuples(create_app("", Path("."), warm=False).openapi()), indent=1, sort_keys=True))
