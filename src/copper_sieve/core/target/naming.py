"""Names: made legal once at intake, put together from parts at delivery."""

from __future__ import annotations

import itertools
import re
import unicodedata
from collections.abc import Collection

from ..quantities import plain_words
from .model import Target, Token

__all__ = ["MAX_NAME_BYTES", "file_name", "legal_name", "name_of_copy", "refused", "slug"]

MAX_NAME_BYTES = 120
_LONGEST_BYTES = 255  # of a file name, on every usual file system
_ILLEGAL = re.compile(r'[\x00-\x1f\x7f<>:"/\\|?*]+')
_COUNTED = re.compile(r"(.+?)([ _-])(\d{1,3})")
_RESERVED = {"con", "prn", "aux", "nul", *(f"com{i}" for i in range(1, 10)), *(f"lpt{i}" for i in range(1, 10))}


def legal_name(text: str) -> str:
    """A set's name that every file system takes: NFC, no separators or device names, at most 120 bytes of UTF-8.

    Examples
    --------
    >>> legal_name("Étoffe/à carreaux: 2.")
    'Étoffe à carreaux 2'
    """
    name = _ILLEGAL.sub(" ", unicodedata.normalize("NFC", text))
    name = " ".join(name.split()).strip(" .")
    name = name.encode()[:MAX_NAME_BYTES].decode(errors="ignore").rstrip(" .")
    if not name:
        return "unnamed"
    first, dot, rest = name.partition(".")
    return f"{first}_{dot}{rest}" if _is_device(name) else name


def name_of_copy(name: str, taken: Collection[str]) -> str:
    """What a copy of the set ``name`` is called: as it is, with the next number that is free. Names are told apart as files are.

    Examples
    --------
    >>> name_of_copy("Gravel", ["gravel", "Gravel 2"]), name_of_copy("metal_09", [])
    ('Gravel 3', 'metal_10')
    """
    counted = _COUNTED.fullmatch(name)
    base, mark, number = counted.groups() if counted else (name, "_" if "_" in name and " " not in name else " ", "1")
    lower = {one.lower() for one in taken}
    for count in itertools.count(int(number) + 1):
        ending = f"{mark}{count:0{len(number)}}"
        copy = legal_name(base.encode()[: MAX_NAME_BYTES - len(ending)].decode(errors="ignore") + ending)
        if copy.lower() not in lower:
            return copy
    raise AssertionError  # numbers do not end


def _is_device(name: str) -> bool:
    """Whether a name is a device's on some system, which its endings do not change."""
    return name.split(".")[0].strip().lower() in _RESERVED


def slug(text: str) -> str:
    """Text as part of an address or of a key: plain lower-case letters and digits, joined by hyphens; "" where none is left.

    Examples
    --------
    >>> slug("Été à la cour · 2")
    'ete-a-la-cour-2'
    """
    return "-".join(plain_words(text))


def file_name(
    parts: tuple[str | Token, ...],
    *,
    suffix: str,
    word: str,
    target: Target,
    set_name: str,
    size: str,
    project: str = "",
    tile: str = "",
) -> str:
    """Put a file's name together; ``size`` is as shown in names, e.g. ``1024`` or ``2048x1024``.

    ``tile`` is a UDIM number, or what stands for all of them; where no part of the name says it, it comes last.

    Examples
    --------
    >>> from copper_sieve.targets import shipped_target
    >>> target = shipped_target("engine-orm-down")
    >>> file_name(target.files[0].name, suffix=".tga", word="BC", target=target, set_name="Felt", size="1024")
    'Felt_BC.tga'
    """
    values = {"set": set_name, "map": word, "size": size, "project": project, "target": target.key, "tile": tile}
    last = "" if not tile or any(isinstance(part, Token) and part.part == "tile" for part in parts) else f".{tile}"
    return "".join(part if isinstance(part, str) else values[part.part] for part in parts) + last + suffix


def refused(name: str) -> str | None:
    """Why file systems refuse a file's name, or None where they take it.

    Examples
    --------
    >>> refused("con.png"), refused("silk_N.png")
    ('is a reserved device name', None)
    """
    stem = name.rsplit(".", 1)[0]
    if not stem.strip(" ."):
        return "is empty but for its ending"
    illegal = _ILLEGAL.search(name)
    if illegal is not None:
        return f"holds {illegal.group()!r}"
    if _is_device(stem):
        return "is a reserved device name"
    if len(name.encode()) > _LONGEST_BYTES:
        return f"is {len(name.encode())} bytes long, where {_LONGEST_BYTES} are the most"
    return None
