"""What lies in a zip, without trusting a word of it: no path leaves it, no bomb goes off, nothing inside is opened twice."""

from __future__ import annotations

import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import PurePath, PurePosixPath
from typing import IO

from ..core.errors import FileTooLarge, NotAnImage, SieveError

__all__ = ["MAX_FILE_BYTES", "MAX_UNPACKED_BYTES", "Member", "Pipe", "is_beside", "is_zip", "members", "names_inside"]

MAX_MEMBERS = 5000
MAX_UNPACKED_BYTES = 8 << 30
MAX_FILE_BYTES = 2 << 30  # 8192² with four channels of 32 bits, and as much again
_MAX_RATIO = 200  # a deflated picture shrinks far less; only a file made to hurt shrinks more
_RATIO_FROM_BYTES = 16 << 20
_BESIDE_THE_POINT = ("__macosx", "thumbs.db", "desktop.ini")


@dataclass(frozen=True)
class Member:
    """One file of a zip: ``name`` without its folders, the path of these, and its bytes or why it was left out."""

    name: str
    content: bytes
    problem: SieveError | None = None
    folder: str = ""


def is_zip(content: bytes) -> bool:
    """Whether the bytes begin as a zip does."""
    return content[:4] in (b"PK\x03\x04", b"PK\x05\x06")


def names_inside(content: IO[bytes]) -> list[str]:
    """Names of a zip's files without their folders; none where it cannot be opened, as ``members`` will say."""
    try:
        with zipfile.ZipFile(content) as archive:
            rows = archive.infolist()[:MAX_MEMBERS]
    except Exception:  # a damaged directory makes the reader raise nearly anything
        return []
    return [path.name for row in rows if not row.is_dir() and not is_beside(path := _path(row))]


def _path(row: zipfile.ZipInfo) -> PurePosixPath:
    return PurePosixPath(row.filename.replace("\\", "/"))


def members(
    content: IO[bytes],
    name: str,
    unpacks: Callable[[str], bool] = lambda name: True,
    *,
    most: int = MAX_MEMBERS,
    most_bytes: int = MAX_UNPACKED_BYTES,
) -> Iterator[Member]:
    """Every file in a zip that is read anywhere in, in its order; system files are passed over, folders give only their order.

    Those whose names ``unpacks`` says no to come without their bytes. ``most`` files, of ``most_bytes`` together, are taken.

    Raises NotAnImage when the zip is damaged, FileTooLarge when it holds too many files.
    """
    try:
        archive = zipfile.ZipFile(content)
    except UnicodeDecodeError as problem:
        raise NotAnImage(f"{name}: the names in this zip cannot be read. Unpack it and drop what is in it.") from problem
    except Exception as problem:  # a damaged directory makes the reader raise nearly anything
        raise NotAnImage(f"{name}: begins as a zip but cannot be opened; it may be cut off. Pack it again.") from problem
    with archive:
        rows = [row for row in archive.infolist() if not row.is_dir() and not is_beside(_path(row))]
        if len(rows) > most:
            raise FileTooLarge(f"{name}: holds {len(rows)} files; at most {most} are taken at a time. Drop it in parts.")
        left = most_bytes
        for row in rows:
            path = _path(row)
            member = _member(archive, row, name, left) if unpacks(path.name) else Member(path.name, b"")
            member = replace(member, folder="/".join(part for part in path.parent.parts if part not in ("..", "/")))
            left -= len(member.content)
            yield member


def is_beside(path: PurePath) -> bool:
    """Whether a file or a folder on the way to it is hidden, or what a system keeps for itself: nobody meant to bring it.

    Examples
    --------
    >>> is_beside(PurePosixPath("coat/Thumbs.db")), is_beside(PurePosixPath("coat/lining.png"))
    (True, False)
    """
    return any((part.startswith(".") and part != "..") or part.lower() in _BESIDE_THE_POINT for part in path.parts)


def _member(archive: zipfile.ZipFile, row: zipfile.ZipInfo, zip_name: str, left: int) -> Member:
    own = PurePosixPath(row.filename.replace("\\", "/")).name
    where = f"{own} in {zip_name}"
    is_bomb = row.file_size > _RATIO_FROM_BYTES and row.file_size > _MAX_RATIO * max(row.compress_size, 1)
    if row.flag_bits & 0x1:
        return Member(own, b"", NotAnImage(f"{where}: is locked with a password. Unpack it and drop the files."))
    if row.file_size > left or is_bomb:
        return Member(
            own,
            b"",
            FileTooLarge(f"{where}: claims {row.file_size >> 20} MB unpacked, which is not believed. Drop it by itself."),
        )
    if row.file_size > MAX_FILE_BYTES:
        most = MAX_FILE_BYTES >> 30
        return Member(own, b"", FileTooLarge(f"{where}: is over {most} GB unpacked, the most that is taken. Make it smaller."))
    try:
        with archive.open(row) as source:
            content = source.read(row.file_size + 1)
    except Exception as problem:  # each way of packing has errors of its own
        return Member(own, b"", NotAnImage(f"{where}: cannot be unpacked ({problem}). Pack it again."))
    if is_zip(content):
        return Member(own, b"", NotAnImage(f"{where}: is a zip inside a zip. Unpack it and drop what is in it."))
    return Member(own, content)


class Pipe:
    """A file that hands over what was written since it was last asked."""

    def __init__(self) -> None:
        self._parts: list[bytes] = []

    def write(self, content: bytes) -> int:
        self._parts.append(bytes(content))
        return len(content)

    def flush(self) -> None: ...

    def take(self) -> bytes:
        taken, self._parts = b"".join(self._parts), []
        return taken
