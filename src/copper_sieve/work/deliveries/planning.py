"""The plan of a delivery: its files, and everything that is to be said of them before anything is written."""

from __future__ import annotations

from collections.abc import Collection, Iterator

from ...core.checks import maps, plan, recipe, tiles
from ...core.checks import target as table
from ...core.findings import Finding
from ...core.plan import Plan, held_back, planned
from ...core.recipe import Evaluation
from ...core.target import Target

__all__ = ["plan_delivery"]


def plan_delivery(
    evaluation: Evaluation, target: Target, set_name: str, *, project: str = "", unwanted: Collection[str] = ()
) -> Plan:
    """Plan one set for one target at the evaluation's size, with findings.

    Parameters
    ----------
    unwanted : roles of files and documents that the person leaves out of this delivery
    """
    whole = planned(evaluation, target, set_name, project=project, unwanted=unwanted)
    found = [(one, list(_findings_of(one, target, whole.of(one.tile)))) for one in evaluation.each]
    waits: dict[tuple[str, int | None], str] = {}
    for one, own in found:
        waits |= plan.waiting(plan.Planned(one, target, whole.of(one.tile).files), own)
    return held_back(whole.model_copy(update={"findings": tuple(_said(evaluation, found))}), waits)


def _said(evaluation: Evaluation, found: list[tuple[Evaluation, list[Finding]]]) -> Iterator[Finding]:
    """Of every tile; what holds for several of them is said once."""
    of_each = ((one.tile, finding) for one, own in found for finding in own)
    yield from (finding for _, finding in tiles.said_once(of_each))
    yield from (found for check in tiles.CHECKS for found in check(evaluation))


def _findings_of(evaluation: Evaluation, target: Target, whole: Plan) -> Iterator[Finding]:
    seen = plan.Planned(evaluation, target, whole.files)
    tabled = table.Tabled(target, {role: file.name for role, file in seen.written.items()})
    yield from (found for check in plan.CHECKS for found in check(seen))
    yield from (found for check in table.CHECKS for found in check(tabled))
    yield from (found for check in recipe.PLANNED_TOO for found in check(evaluation))
    yield from (marked.finding for marked in maps.undetermined(evaluation))
