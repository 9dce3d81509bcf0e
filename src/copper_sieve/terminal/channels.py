"""`unpack` splits a file into named grays; `pack` puts channels of files together in any order. Codes are never changed."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import numpy as np
import typer

from ..core.errors import SieveError, UnknownKey
from ..core.intake import look_at
from ..core.target import FORMATS
from ..files import encode, read, write_bytes
from ..work.intake.splitting import plane_of, together, unpacked
from .inputs import chosen_target
from .say import WRONG_USE, Json, fail, print_json

__all__ = ["pack", "unpack"]


def unpack(
    file: Annotated[Path, typer.Argument(help="The packed picture")],
    out: Annotated[Path, typer.Option(help="Folder to write the grays into")],
    channel: Annotated[
        list[str] | None, typer.Option(help="LETTER=WORD, as R=roughness; default: what its name or its pixels say")
    ] = None,
    as_file: Annotated[str | None, typer.Option("--as", help="TARGET:ROLE, a file of a target, as engine-orm-down:orm")] = None,
    replace: Annotated[bool, typer.Option(help="Replace files that are there")] = False,
    as_json: Json = False,
) -> None:
    """Split a picture into one gray per channel, named by what each holds."""
    if not file.is_file():
        raise fail(f"there is no {file}. Name a file that exists.", WRONG_USE)
    picture = read(file)
    if channel:
        words = _words(channel)
    elif as_file is not None:
        words = _words_of_target(as_file)
    else:
        words = _words_seen(file.name, picture.codes)
    for letter in picture.header.letters:
        words.setdefault(letter, letter)  # a channel that nobody named keeps its letter: nothing is dropped silently
    words = {letter: words[letter] for letter in picture.header.letters}
    way = "tiff" if picture.sample == "float" else "png"
    planes = unpacked(picture, file.name, words)
    paths = {word: out / f"{file.stem}_{word}{FORMATS[way].suffix}" for word in planes}
    _refuse_foreign(list(paths.values()), replace)
    out.mkdir(parents=True, exist_ok=True)
    for word, plane in planes.items():
        write_bytes(paths[word], encode(plane, way))
    same = len(planes) > 2 and all(np.array_equal(next(iter(planes.values())), plane) for plane in list(planes.values())[:3])
    if as_json:
        files = [{"path": str(paths[word]), "channel": letter, "word": word} for letter, word in words.items()]
        print_json({"source": str(file), "files": files, "same_picture": same})
        return
    for path in paths.values():
        print(path)
    if same:
        typer.echo("Note: R, G and B are the same picture.", err=True)


def _words(pairs: list[str]) -> dict[str, str]:
    words = {}
    for pair in pairs:
        letter, equals, word = pair.partition("=")
        if not equals or not word:
            raise fail(f"--channel takes LETTER=WORD (got {pair!r}).", WRONG_USE)
        words[letter.strip()] = word.strip()
    return words


def _words_of_target(text: str) -> dict[str, str]:
    key, _, role = text.rpartition(":") if ":" in text else (text, "", "")
    target = chosen_target(key)
    try:
        file = next((f for f in target.files if f.role == role), None)
        if file is None:
            raise UnknownKey(f"file of {key}", role, [f.role for f in target.files])
    except UnknownKey as problem:
        raise fail(problem.message, WRONG_USE) from problem
    return {
        letter: c.quantity if c.component == "v" else f"{c.quantity}_{c.component}"
        for letter, c in file.channels.items()
        if c.quantity is not None
    }


def _words_seen(name: str, codes: np.ndarray) -> dict[str, str]:
    return {letters: key for letters, key in look_at(name, codes).reads.items() if len(letters) == 1}


def pack(
    out: Annotated[Path, typer.Argument(help="The file to write; its ending chooses the format")],
    channel: Annotated[list[str], typer.Option(help="LETTER=FILE or LETTER=FILE:LETTER, as R=gong_RMA.tga:B")],
    replace: Annotated[bool, typer.Option(help="Replace the file if it is there")] = False,
) -> None:
    """Put channels of pictures together into one file, in the order given."""
    way = next((key for key, row in FORMATS.items() if row.suffix == out.suffix.lower()), None)
    if way is None:
        raise fail(f"{out.name} must end in one of {', '.join(r.suffix for r in FORMATS.values())}.", WRONG_USE)
    planes = {letter: _plane(text) for letter, text in _words(channel).items()}
    codes = together(planes)
    _refuse_foreign([out], replace)
    out.parent.mkdir(parents=True, exist_ok=True)
    write_bytes(out, encode(codes, way))
    print(out)


def _plane(text: str) -> np.ndarray:
    path, colon, letter = text.rpartition(":")
    source = Path(path) if colon and letter in ("L", "R", "G", "B", "A") else Path(text)
    if not source.is_file():
        raise fail(f"there is no {source}. Name a file that exists.", WRONG_USE)
    picture = read(source)
    if source == Path(text) and picture.channels > 1:
        raise fail(f"{source} has the channels {picture.header.letters}; say which, as {source}:R.", WRONG_USE)
    return plane_of(picture, letter if source != Path(text) else "L", source.name)


def _refuse_foreign(paths: list[Path], replace: bool) -> None:
    there = [str(path) for path in paths if path.exists()]
    if there and not replace:
        raise SieveError(f"{', '.join(there)} would be replaced. Choose another place, or say --replace.")
