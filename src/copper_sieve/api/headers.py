"""What answers say of themselves beside their content."""

from __future__ import annotations

__all__ = ["FOREVER"]

FOREVER = {"cache-control": "max-age=31536000, immutable"}  # of what is named by a hash of what is in it
