"""Print the OpenAPI document that the screen's client is generated from."""

import json
from pathlib import Path

from copper_sieve.api.app import create_app

print(json.dumps(create_app("", Path("."), warm=False).openapi(), indent=1, sort_keys=True))
