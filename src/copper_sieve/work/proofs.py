"""Delivered files read back as their target would read them, beside the masters they were made from."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np

from ..core.color import luminance
from ..core.errors import SieveError
from ..core.plan import Plan
from ..core.quantities import quantity
from ..core.raster import FloatArray, Rgb, Size
from ..core.recipe import Evaluation
from ..core.target import FORMATS, Target, TargetFile, file_size
from ..core.value import Told
from ..standins import LAMPS, TABLES, Ball, Channel, File, Table, ball, channels_off, faults, rounded_normals, seen, surface_of
from ..targets import shipped_targets
from .deliveries.delivering import image_content, masters_for

__all__ = ["BallProof", "ChannelProof", "FileProof", "LampProof", "balls", "prove_file", "seen_by", "table_of"]

_SEEN = 1e-3  # a difference smaller than this is none
_DULL = 0.2  # roughness from which a ball is held to the stricter figure
_LIT = ("base_color", "opacity", "metallic", "roughness", "reflectance", "normal", "occlusion", "emissive")  # what a ball shows


class ChannelProof(Told):
    """``largest`` and ``mean`` difference on the file's scale of 0..1; ``steps`` is the largest in steps of its depth."""

    letter: str
    meaning: str
    largest: float
    mean: float
    steps: float
    is_right: bool


class FileProof(Told):
    """One delivered file, read from disk by the stand-in. ``faults`` say how it is stored wrong."""

    role: str
    name: str
    faults: tuple[str, ...]
    channels: tuple[ChannelProof, ...]

    @property
    def is_right(self) -> bool:
        return not self.faults and all(channel.is_right for channel in self.channels)


class LampProof(Told):
    """What differs on the ball under one lamp, in steps of 255: ``storing`` against what the target can carry, ``whole`` against
    every master and the plain formulas. ``dull`` leaves out texels shinier than roughness 0.2, against rounded normals."""

    lamp: str
    storing_mean: float
    storing_dull_999: float
    whole_mean: float
    whole_999: float


class BallProof(Told):
    """``lost`` are the set's own masters that the target has no channel for, of those that a ball shows."""

    model: str
    is_independent: bool
    lost: tuple[str, ...]
    lamps: tuple[LampProof, ...]


_WORDS = {
    "base_color": "base",
    "photo": "photo",
    "emissive": "glow",
    "shaded_color": "shaded",
    "roughness_squared": "squared",
    "shine_power": "power",
    "specular_level": "level",
}


def table_of(target: Target) -> tuple[Table, bool]:
    """The stand-in of a target, and whether its table is independent of the target's own: shipped ones have one by hand."""
    shipped = shipped_targets().get(target.key)
    if shipped == target:
        return TABLES[target.key], True
    files = {file.role: _file_table(target, file) for file in target.files}
    is_classic = any(c.meaning == "power" for file in files.values() for c in file.channels)
    return Table("classic" if is_classic else target.workflow, files), False


def _file_table(target: Target, file: TargetFile) -> File:
    channels = []
    for channel in file.channels.values():
        if channel.quantity is None:
            channels.append(Channel(f"fixed {channel.constant}"))
            continue
        meaning = " ".join([_WORDS.get(channel.quantity, channel.quantity), *_part(target, channel.quantity, channel.component)])
        if channel.quantity == "normal":
            meaning = meaning.removeprefix("normal ")
        channels.append(Channel(meaning, channel.invert, *channel.range))
    depth = {(16, "float"): "half", (32, "float"): "float"}.get((file.depth, file.sample), str(file.depth))
    return File(
        file.format + depth,
        "acescg" if file.primaries == "acescg" else file.color,
        tuple(channels),
        is_dithered=file.dither,
        layer=file.word if file.layer_of else "",
    )


def _part(target: Target, key: str, component: str) -> list[str]:
    if component in ("v", "luminance"):
        return []
    return ["y", target.green] if key == "normal" and component == "y" else [component]


def prove_file(evaluation: Evaluation, target: Target, plan: Plan, role: str, folder: Path) -> FileProof:
    """Hold one delivered image against the masters. Raises SieveError where it is gone, is no image or cannot be compared."""
    planned = next((f for f in plan.files if f.role == role and f.kind == "image" and f.is_written), None)
    if planned is None:
        known = ", ".join(f.role for f in plan.files if f.kind == "image" and f.is_written)
        raise SieveError(f"{role} is no image of this delivery. It has {known}.")
    path = folder / planned.name
    if not path.is_file():
        raise SieveError(f"{planned.name} is no longer in the delivery's folder. Deliver again to prove it.")
    table = table_of(target)[0].files[role]
    file = next(f for f in target.files if f.role == role)
    masters = masters_for(evaluation, target, file, Size(planned.width, planned.height))
    try:
        wrong = tuple(faults(table, path))
        rows = [] if wrong else channels_off(table, path, masters)
    except ValueError as problem:
        wrong, rows = (str(problem),), []
    channels = tuple(
        ChannelProof(letter=c.letter, meaning=c.meaning, largest=c.largest, mean=c.mean, steps=c.steps, is_right=c.is_right)
        for c in rows
    )
    return FileProof(role=role, name=planned.name, faults=wrong, channels=channels)


def balls(evaluation: Evaluation, target: Target, plan: Plan, folder: Path) -> tuple[BallProof, Ball, Ball]:
    """The ball as the target sees it beside the one of the masters: what differs, the target's, the masters'."""
    paths = {f.role: folder / f.name for f in plan.files if f.kind == "image" and f.is_written}
    gone = [path.name for path in paths.values() if not path.is_file()]
    if gone:
        raise SieveError(f"{', '.join(gone)} no longer in the delivery's folder. Deliver again to prove it.")
    masters = {key: values for key in _LIT if (values := evaluation.master(key)) is not None}
    kept = _carried(evaluation, target)
    table, is_independent = table_of(target)
    lost = tuple(key for key, values in masters.items() if _is_lost(target, key, values))
    try:
        layers = {role: table.files[role].layer for role in paths}
        theirs = ball(surface_of(seen(table, paths, layers)), table.model)
    except ValueError as problem:
        raise SieveError(f"{problem}, so there is no ball to show. Deliver again.") from problem
    as_masters, storing = ball(surface_of(masters)), ball(surface_of(kept), table.model)
    depth = max((file.depth for file in target.files if "normal" in file.masters()), default=8)
    is_rounded = all(file.sample == "uint" for file in target.files if "normal" in file.masters())
    rounded = ball(surface_of(rounded_normals(kept, (1 << depth) - 1)), table.model) if is_rounded else storing
    is_dull = np.zeros(theirs.is_ball.shape, bool)
    is_dull[theirs.is_ball] = surface_of(kept)["roughness"] >= _DULL
    rows = []
    for k, lamp in enumerate(LAMPS):
        off, dull, whole = (255 * np.abs(theirs.pictures[k] - other.pictures[k]) for other in (storing, rounded, as_masters))
        rows.append(
            LampProof(
                lamp=lamp,
                storing_mean=float(off[theirs.is_ball].mean()),
                storing_dull_999=float(np.percentile(dull[is_dull], 99.9)) if is_dull.any() else 0.0,
                whole_mean=float(whole[theirs.is_ball].mean()),
                whole_999=float(np.percentile(whole[theirs.is_ball], 99.9)),
            )
        )
    return BallProof(model=table.model, is_independent=is_independent, lost=lost, lamps=tuple(rows)), theirs, as_masters


def _carried(evaluation: Evaluation, target: Target) -> dict[str, FloatArray]:
    """The masters as far as the target has channels for them: padded as its files are, colors gray where only brightness goes."""
    kept: dict[str, FloatArray] = {}
    for file in target.files:
        kept |= {key: values for key, values in masters_for(evaluation, target, file, evaluation.size).items() if key in _LIT}
    return {key: _gray(values) if _is_bright_only(target, key) else values for key, values in kept.items()}


def _gray(color: Rgb) -> FloatArray:
    return np.repeat(luminance(color)[..., None], 3, -1)


def _is_bright_only(target: Target, key: str) -> bool:
    return any(c.quantity == key and c.component == "luminance" for file in target.files for c in file.channels.values())


def _is_lost(target: Target, key: str, values: FloatArray) -> bool:
    kept = (
        quantity(key).absent_value() if key not in target.masters() else _gray(values) if _is_bright_only(target, key) else values
    )
    return bool(np.abs(values - kept).max() > _SEEN)


def seen_by(evaluation: Evaluation, target: Target) -> dict[str, FloatArray]:
    """What the target would know of the set at the evaluation's size: its files are written, and read by its stand-in."""
    table, _ = table_of(target)
    with tempfile.TemporaryDirectory() as folder:
        paths = {}
        for file in target.files:
            if any(evaluation.recipe.masters.get(key) for key in file.masters()):
                paths[file.role] = Path(folder) / f"{file.role}{FORMATS[file.format].suffix}"
                size = file_size(target, file, evaluation.size)
                paths[file.role].write_bytes(image_content(evaluation, target, file, size)[1])
        if not paths:
            raise SieveError(f"{target.title} has no file for any map of this set.")
        return seen(table, paths)
