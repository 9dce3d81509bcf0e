"""Hashes of everything that is delivered: all targets × all demo sets. Equal before and after means equal bytes.

``python -m bench.delivered`` prints a line a file; keep it, change the house, print it again and compare.
"""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

from copper_sieve.core.recipe import Cache, Evaluation
from copper_sieve.demo.materials import MATERIALS
from copper_sieve.files import encode
from copper_sieve.targets import shipped_targets
from copper_sieve.work import deliver, plan_delivery
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import load_codes, look_at_bytes

_PX, _TILE = 128, 0.5


def demo_evaluations(px: int = _PX) -> Iterator[tuple[str, Evaluation]]:
    """Every demo set as intake reads its files, at ``px`` texels a side."""
    for material in MATERIALS:
        contents, looked = {}, []
        for file in material.files(px):
            content = encode(file.codes, file.format)
            looked.append(look_at_bytes(content, file.name))
            contents[looked[-1].sha256] = content
        recipe, findings = recipe_for(looked, rise=material.rise, tile_size=_TILE)
        assert recipe is not None, findings
        yield (
            material.name,
            Evaluation(recipe, None, lambda source, held=contents: load_codes(source, held.__getitem__), Cache(1 << 28)),
        )


def hashes() -> Iterator[str]:
    """One line a file: sha256, target, set, name."""
    for name, evaluation in demo_evaluations():
        for target in shipped_targets().values():
            plan = plan_delivery(evaluation, target, name)
            with tempfile.TemporaryDirectory() as folder:
                report = deliver(evaluation, target, plan, Path(folder) / "out")
            for file in report.files:
                yield f"{file.sha256 or 'left-out':64} {target.key} {name}: {file.name}"


if __name__ == "__main__":
    for line in hashes():
        print(line)
