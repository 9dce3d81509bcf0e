"""A delivery done again: what each file would be against what lies in the folder, so that only what changed is written."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Collection, Iterable, Mapping
from datetime import UTC, datetime
from pathlib import Path, PurePath
from types import MappingProxyType
from typing import Any, Literal

from ...core.plan import DiskState, Plan, PlannedFile, Written, as_planned
from ...core.recipe import Evaluation, master_ref
from ...core.target import Target

__all__ = ["Answer", "beside_name", "compared", "copy_name", "keyed", "latest_folder"]

Answer = Literal["keep", "beside", "replace"]
# Counts up where the same masters would be stored as other bytes; 1 for every other format.
_WRITERS = MappingProxyType({"tiff": 2})
_FACTS = {"rise", "edges", "tile_size", "sampling", "keep_shine", "emissive_strength"}


def keyed(evaluation: Evaluation, target: Target, plan: Plan) -> Plan:
    """The plan with a key for every file that is written: equal keys mean equal bytes. Nothing is computed for it.

    A key is made of everything that the bytes depend on: the masters' digests, the file's table, its size, and facts of the set.
    """
    keys: dict[str, list[str]] = {}
    for one in evaluation.each:
        of_tile = plan.of(one.tile)
        table = as_planned(target, of_tile)
        for planned in of_tile.files:
            if planned.is_written and planned.kind == "image":
                keys.setdefault(planned.name, []).append(_image_key(one, table, planned))
    images = sorted((name, key) for name, parts in keys.items() for key in parts)
    for planned in plan.files:
        if planned.is_written and planned.kind == "document":
            own = [row for row in images if planned.tile is None or f"{planned.tile}" in row[0]]
            told = [own, _document(target, planned), _facts(evaluation), plan.set]
            keys[planned.name] = [_hash(told if evaluation.worn is None else [*told, _body(evaluation)])]
    whole = {name: parts[0] if len(parts) == 1 else _hash(parts) for name, parts in keys.items()}
    return plan.model_copy(update={"files": tuple(f.model_copy(update={"key": whole.get(f.name)}) for f in plan.files)})


def _image_key(evaluation: Evaluation, target: Target, planned: PlannedFile) -> str:
    file = next(f for f in target.files if f.role == planned.role)
    below = {key: evaluation.digest(master_ref(key)) for key in (*file.masters(), "opacity", "normal")}
    used = {key: below[key] for key in file.masters()}
    used |= {"opacity": below["opacity"]} if file.padding else {}
    used |= {"normal": below["normal"]} if evaluation.recipe.facts.keep_shine else {}
    used |= {"islands": _body(evaluation)} if evaluation.worn is not None and evaluation.worn.is_padded else {}
    table = file.model_dump(mode="json", exclude={"title", "name", "use", "required"})
    told = target.model_dump(mode="json", include={"green", "object_up", "height", "workflow"})
    size = [planned.width, planned.height, evaluation.size.width, evaluation.size.height]
    return _hash([_WRITERS.get(planned.format, 1), used, table, told, size, _facts(evaluation)])


def _document(target: Target, planned: PlannedFile) -> list[object]:
    document = next(d for d in target.documents if d.role == planned.role)
    return [document.model_dump(mode="json"), target.material.model_dump(mode="json"), target.height.model_dump(mode="json")]


def _body(evaluation: Evaluation) -> str:
    """The mesh that wears the set."""
    worn = evaluation.worn
    return "" if worn is None else f"{worn.low.print} {worn.material}"


def _facts(evaluation: Evaluation) -> dict[str, object]:
    return evaluation.recipe.facts.model_dump(mode="json", include=_FACTS)


def _hash(content: object) -> str:
    return hashlib.sha256(json.dumps(content, sort_keys=True, default=str).encode()).hexdigest()


def written_by_name(report: Mapping[str, Any]) -> dict[str, Written]:
    """What a manifest says of one set for one target: its files by name."""
    rows = report["files"]
    found = {name: Written.model_validate(lay) for name, lay in report.get("lying", {}).items()}
    for row in rows:
        if row["state"] != "left-out" and row["name"] not in found:
            found[row["name"]] = Written(sha256=row["sha256"], bytes=row["bytes"], key=row.get("key"))
    return found


Pair = tuple[str, str]  # a set's name and a target's key
Lying = tuple[str, str, str | None]  # and the place its files went to


def latest_folder(
    root: Path, done: Iterable[tuple[str, Mapping[str, Any]]], pairs: Collection[Pair]
) -> tuple[str | None, dict[Lying, dict[str, Written]]]:
    """The folder that any of these sets and targets went to last and that is still there, and what was written of each where.

    Parameters
    ----------
    done : folders below ``root`` and their manifests, the newest first
    """
    for folder, manifest in done:
        reports = {(row["set"], row["target"]): row for row in manifest["deliveries"]}
        if reports.keys() & set(pairs) and (root / folder).is_dir():
            return folder, {(*pair, row.get("sent_to")): written_by_name(row) for pair, row in reports.items()}
    return None, {}


def compared(
    plan: Plan, there: Mapping[str, Written], folder: Path, sha256_of: Callable[[Path], str], answers: Mapping[str, Answer]
) -> Plan:
    """The plan against a folder that an earlier delivery wrote into.

    Parameters
    ----------
    there : what that delivery wrote, by name
    sha256_of : hash of a file on disk
    answers : what is to be done with files that are not as we left them, by name
    """
    files = tuple(_against(file, there.get(file.name), folder, sha256_of, answers.get(file.name)) for file in plan.files)
    planned = {file.name for file in plan.files if file.is_written}
    gone = {name: lay for name, lay in sorted(there.items()) if name not in planned and (folder / name).is_file()}
    return plan.model_copy(update={"files": files, "gone": gone})


def _against(
    file: PlannedFile, there: Written | None, folder: Path, sha256_of: Callable[[Path], str], answer: Answer | None
) -> PlannedFile:
    if not file.is_written:
        return file
    state = _state(file, there, folder / file.name, sha256_of)
    if answer == "beside" and state in ("by-hand", "foreign"):
        name = beside_name(file.name, lambda name: (folder / name).exists())
        return file.model_copy(update={"name": name, "disk": "new", "answer": answer})
    return file.model_copy(update={"disk": state, "there": there, "answer": answer})


def _state(file: PlannedFile, there: Written | None, path: Path, sha256_of: Callable[[Path], str]) -> DiskState:
    if not path.is_file():
        return "new"
    if there is None:
        return "foreign"
    if sha256_of(path) != there.sha256:
        return "by-hand"
    return "same" if file.key is not None and file.key == there.key else "changed"


def beside_name(name: str, is_taken: Callable[[str], bool]) -> str:
    """A free name beside a file's own.

    Examples
    --------
    >>> beside_name("felt_N.png", lambda name: name == "felt_N (2).png")
    'felt_N (3).png'
    """
    path = PurePath(name)
    number = 2
    while is_taken(f"{path.stem} ({number}){path.suffix}"):
        number += 1
    return f"{path.stem} ({number}){path.suffix}"


def copy_name(name: str) -> str:
    """What a file is kept as that is replaced though somebody else changed it."""
    path = PurePath(name)
    return f"{path.stem} (before {datetime.now(UTC):%Y-%m-%d %H%M%S}){path.suffix}"
