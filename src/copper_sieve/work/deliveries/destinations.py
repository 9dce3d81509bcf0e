"""Where the files of a target go: below a named folder of the server, or into the delivery's own folder."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

from ...core.errors import SieveError, UnknownKey
from ...core.plan import Plan, held_back
from ...core.target import legal_name
from ...store.destinations import DestinationRow
from .delivering import BUILDING_PREFIX, sweep

__all__ = ["Destination", "Destinations", "Part", "apart"]

Part = Literal["project", "set", "target"]


@dataclass(frozen=True)
class Destination:
    """``root`` is the name of a folder of the server, ``below`` a path in it, ``each`` what gets a folder of its own there."""

    root: str
    below: str = ""
    each: tuple[Part, ...] = ("set",)

    @classmethod
    def kept(cls, row: DestinationRow) -> Destination:
        """As it was kept."""
        return cls(row.root, row.below, tuple(row.each))  # type: ignore[arg-type]

    def place(self, names: Mapping[Part, str]) -> str:
        """Where files go, as ``ROOT/path``.

        Examples
        --------
        >>> Destination("game", "Art/Cloth", ("set", "target")).place({"set": "Felt", "target": "gltf", "project": "x"})
        'game/Art/Cloth/Felt/gltf'
        """
        return "/".join((self.root, *_steps(self.below), *(legal_name(names[part]) for part in self.each)))


def _steps(below: str) -> list[str]:
    """Folders of a path, each made legal; what leads upwards is refused. Raises SieveError."""
    steps = [step for step in below.replace("\\", "/").split("/") if step.strip()]
    if any(step.strip(" .") == "" for step in steps):
        raise SieveError(f"{below} leads out of its folder. Name a folder inside it, as in Art/Cloth.")
    return [legal_name(step) for step in steps]


@dataclass(frozen=True)
class Destinations:
    """Folders that may be delivered into, by name, and ``deliveries`` with one for every delivery. Nothing else is written to."""

    deliveries: Path
    roots: Mapping[str, Path]

    def checked(self, destination: Destination) -> Destination:
        """The same, with its path as it will be. Raises UnknownKey, SieveError."""
        self._root(destination.root)
        return Destination(destination.root, "/".join(_steps(destination.below)), destination.each)

    def folder(self, delivery: str, plan: Plan) -> Path:
        """Where the files of a plan lie. Raises UnknownKey where its root is not among this server's."""
        return self.folder_of(delivery, plan.set, plan.target, plan.place)

    def folder_of(self, delivery: str, set_name: str, target: str, place: str | None) -> Path:
        """The same of one set for one target."""
        if place is None:
            return self.deliveries / delivery / set_name / target
        root, _, below = place.partition("/")
        folder = (self._root(root) / below).resolve()
        if not folder.is_relative_to(self._root(root).resolve()):
            raise SieveError(f"{place} leads out of {root}, through a link. Choose another folder.")
        return folder

    def path_of(self, place: str | None) -> str | None:
        """A place below a named folder as a person finds it on this computer; None where this server has no such folder."""
        root, _, below = (place or "").partition("/")
        return str(self.roots[root].absolute() / below) if root in self.roots else None

    def building(self, place: str | None) -> Path | None:
        """Where files of a place are built: on top of its root, on the same disk. None is beside the folder they go to."""
        return None if place is None else self._root(place.partition("/")[0])

    def located(self, delivery: str, manifest: Mapping[str, Any]) -> dict[str, tuple[Path, str]]:
        """Path and sha256 of every file of a delivery, by ``SET/TARGET/NAME``; its notes by ``SET/NAME``."""
        found = {
            f"{row['set']}/{row['target']}/{file['name']}": (
                self.folder_of(delivery, row["set"], row["target"], row.get("sent_to")) / file["name"],
                file["sha256"],
            )
            for row in manifest["deliveries"]
            for file in row["files"]
            if file["state"] in ("written", "kept")
        }
        notes = manifest.get("notes", {})
        return found | {name: (self.deliveries / delivery / name, sha256) for name, sha256 in notes.items()}

    def sweep(self, interrupted: Iterable[str]) -> None:
        """Remove what a killed server left unfinished."""
        sweep(self.deliveries, interrupted)
        for root in self.roots.values():
            for left in root.glob(f"{BUILDING_PREFIX}*"):
                sweep(root, [left.name])

    def _root(self, name: str) -> Path:
        if name not in self.roots:
            raise UnknownKey("folder to deliver into", name, list(self.roots))
        return self.roots[name]


def apart(plans: Collection[Plan]) -> list[Plan]:
    """Plans of which no two write the same file: the later one waits."""
    taken: dict[tuple[str, str], str] = {}
    told = []
    for plan in plans:
        waits: dict[tuple[str, int | None], str] = {}
        for file in plan.files:
            at = (plan.place or "", file.name.casefold())
            other = taken.setdefault(at, f"{plan.set} for {plan.target_title}") if plan.place and file.is_written else None
            if other is not None and other != f"{plan.set} for {plan.target_title}":
                waits[file.role, file.tile] = f"a folder of its own, as {other} writes a file of this name there"
        told.append(held_back(plan, waits) if waits else plan)
    return told
