"""Where real photographs and sets lie, when they are beside this checkout."""

from pathlib import Path

REAL = Path(__file__).parents[2] / "shared" / "real"
