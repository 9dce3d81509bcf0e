"""Which set each mesh belongs to, and what for: by names, and where these do not say, by how fine a mesh is."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from itertools import chain

from ..intake.folders import told_apart
from ..intake.materials import called_after
from .pairing import Role, role_of

__all__ = ["Alone", "MeshOffer", "Wearing", "Wearings", "wearings_of"]


@dataclass(frozen=True)
class MeshOffer:
    """A mesh as it was dropped: its name without ending, and how many triangles each of its materials has.

    ``role`` is what a person said that it is for; None: as its name says, or the ``folder`` of the path that it came by.
    """

    name: str
    triangles: int
    materials: tuple[tuple[str, int], ...] = (("", 1),)
    role: Role | None = None
    is_both: bool = False  # parts of it are low, others high
    folder: str = ""


@dataclass(frozen=True)
class Wearing:
    """One set, and the meshes that it is for, by their places in the list."""

    set_name: str
    low: int
    material: int
    called: str
    high: tuple[int, ...] = ()
    cage: int | None = None


@dataclass(frozen=True)
class Alone:
    """A mesh that belongs to no set as it stands, and why."""

    mesh: int
    why: str


@dataclass(frozen=True)
class Wearings:
    sets: tuple[Wearing, ...] = ()
    alone: tuple[Alone, ...] = ()


@dataclass
class _Group:
    stem: str
    by_role: dict[Role | None, list[int]] = field(default_factory=dict)

    def of(self, role: Role | None) -> list[int]:
        return self.by_role.get(role, [])


def wearings_of(meshes: Sequence[MeshOffer], sets: Iterable[str] = ()) -> Wearings:
    """Sets for meshes: low, high and cage of one name belong together, and every material of a low mesh is a set.

    A mesh whose name says nothing is low where it is the only one of its name; of several the one of fewest triangles is
    baked to, and the one of most is baked from. Those of one name and for the same in several folders are of several assets, and
    belong together with what lies in theirs.

    Parameters
    ----------
    sets : names of sets that are there or about to be: a material, or a mesh of one material, that is called so is that set
    Examples
    --------
    >>> found = wearings_of([MeshOffer("pin_low", 12), MeshOffer("pin_high", 9000), MeshOffer("strap_high", 5000)], ["Pin"])
    >>> found.sets
    (Wearing(set_name='Pin', low=0, material=0, called='', high=(1,), cage=None),)
    >>> found.alone
    (Alone(mesh=2, why='there is no low mesh called strap'),)
    """
    named: dict[str, _Group] = {}
    for k, mesh in enumerate(meshes):
        stem, role, _ = _told(mesh)
        named.setdefault(stem.casefold(), _Group(stem)).by_role.setdefault(role, []).append(k)
    known = {name.casefold(): name for name in sets}
    found: list[Wearing] = []
    alone: list[Alone] = []
    for group in chain.from_iterable(_assets(group, meshes) for group in named.values()):
        low, high, cage, left = _roles(group, meshes)
        alone += left
        if low is None:
            alone += [Alone(k, f"there is no low mesh called {group.stem}") for k in (*high, *(() if cage is None else (cage,)))]
            continue
        for one in _of_low(group.stem, low, meshes[low], high, cage, known):
            other = next((w for w in found if w.set_name.casefold() == one.set_name.casefold()), None)
            if other is None:
                found.append(one)
            else:
                alone.append(Alone(low, f"{one.set_name} is worn by {meshes[other.low].name}, and a set has one mesh"))
    return Wearings(tuple(found), tuple(sorted(alone, key=lambda one: one.mesh)))


def _told(mesh: MeshOffer) -> tuple[str, Role | None, str]:
    """A mesh's name without what it is for, that, and the folder of its asset, which may lie over one for what it is for."""
    stem, role = role_of(mesh.name)
    above, _, last = mesh.folder.rpartition("/")
    beside, by_folder = role_of(f" {last}")
    if beside:  # the folder has a name of its own as well
        by_folder = None
    return stem, mesh.role or role or by_folder, above if by_folder else mesh.folder


def _assets(group: _Group, meshes: Sequence[MeshOffer]) -> Iterable[_Group]:
    """Meshes of one name as they are, or folder by folder where several of them are for the same."""
    folders = {k: _told(meshes[k])[2] for members in group.by_role.values() for k in members}
    if all(len({folders[k] for k in members}) == 1 for members in group.by_role.values()):
        return [group]
    apart = {
        folder: _Group(f"{group.stem} {label}".strip())
        for folder, label in told_apart(list(dict.fromkeys(folders.values()))).items()
    }
    for role, members in group.by_role.items():
        for k in members:
            apart[folders[k]].by_role.setdefault(role, []).append(k)
    return apart.values()


def _roles(group: _Group, meshes: Sequence[MeshOffer]) -> tuple[int | None, tuple[int, ...], int | None, list[Alone]]:
    """What is baked to, what is baked from, the cage, and what is left over of one name."""
    lows, highs, cages, unsaid = (
        sorted(group.of(role), key=lambda k: meshes[k].triangles) for role in ("low", "high", "cage", None)
    )
    if not lows and unsaid and (not highs or meshes[unsaid[0]].triangles < meshes[highs[0]].triangles):
        lows, unsaid = unsaid[:1], unsaid[1:]
    if not highs and lows and meshes[lows[0]].is_both:
        highs = lows[:1]
    if not highs and unsaid and lows and meshes[unsaid[-1]].triangles > meshes[lows[0]].triangles:
        highs, unsaid = unsaid[-1:], unsaid[:-1]
    low = lows[0] if lows else None
    left = [Alone(k, f"{meshes[low].name} is simpler and is baked to") for k in lows[1:] if low is not None]
    left += [Alone(k, "it stands between the simplest and the finest of its name") for k in unsaid]
    left += [Alone(k, f"{meshes[cages[0]].name} is the cage already") for k in cages[1:]]
    return low, tuple(highs), cages[0] if cages else None, left


def _of_low(
    stem: str, low: int, mesh: MeshOffer, high: tuple[int, ...], cage: int | None, known: dict[str, str]
) -> Iterable[Wearing]:
    used = [(k, name) for k, (name, triangles) in enumerate(mesh.materials) if triangles]
    for k, name in used:
        if len(used) == 1:
            called = known.get(name.casefold()) or known.get(stem.casefold()) or stem
        else:
            told = called_after(name, stem, is_only=False) if name else f"{stem} {k + 1}"
            called = known.get(told.casefold()) or known.get((name or stem).casefold()) or told
        yield Wearing(called, low, k, name, high, cage)
