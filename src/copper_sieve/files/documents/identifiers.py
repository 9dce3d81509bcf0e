"""Names that scene formats take: letters, digits and underscores of ASCII, not beginning with a digit."""

from __future__ import annotations

import re
import unicodedata

__all__ = ["identifier"]


def identifier(name: str, fallback: str) -> str:
    """The name without accents and signs; ``fallback`` where no letter or digit is left.

    Examples
    --------
    >>> identifier("2. Étoffe à carreaux", "sheet")
    '_2_Etoffe_a_carreaux'
    """
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode()
    words = re.sub(r"[^A-Za-z0-9]+", "_", plain).strip("_") or fallback
    return f"_{words}" if words[0].isdigit() else words
