"""`python -m bench.first_look [SHEET.png]`: twelve photos of known surfaces, and real ones beside this checkout, as taken in.

For each: how far it leans against how far it truly leans, what is asked or told, and the error of roughness by one pair of picks
against the surface's own best constant (median of 20 seeded draws of the texels nearest the 10th and 90th percentile). With a
file name, every photo is drawn beside the lit material.
"""

import io
import sys
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from bench.photos import SURFACES, photo_of
from copper_sieve.core.derive.likeness import fit_likeness, likeness_features, roughness_by_likeness
from copper_sieve.core.derive.pick_fit import Pick
from copper_sieve.core.derive.tilt import tilt_of
from copper_sieve.core.findings import FINDINGS
from copper_sieve.core.intake.first_look import first_look
from copper_sieve.core.recipe import Cache, Evaluation, master_ref
from copper_sieve.files import encode, read
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import load_codes, look_at_bytes
from copper_sieve.work.pictures import swatch
from copper_sieve.work.sets import assay_set

REAL = Path(__file__).parents[2] / "shared" / "real"
DRAWS, CELL, ACROSS = 20, 300, 3


@dataclass(frozen=True)
class Case:
    """A photo, and what is known of its surface."""

    name: str
    codes: np.ndarray
    tilt: float | None = None
    roughness: np.ndarray | None = None


def cases() -> Iterator[Case]:
    for name in SURFACES:
        photo = photo_of(name)
        height = photo.surface.height.astype(np.float32)
        yield Case(name, photo.codes, tilt_of(height, photo.surface.rise, "mirror").mean, photo.surface.roughness)
    for place in ("photo_with_height/rockwall.jpg", "ufo_metal02_Yplus/metal02.png"):
        if (REAL / place).is_file():
            yield Case(Path(place).stem, np.ascontiguousarray(read(REAL / place).codes[..., :3]))


def taken_in(case: Case) -> Evaluation:
    content = encode(case.codes, "png")
    recipe, findings = recipe_for([look_at_bytes(content, "photo.png")])
    assert recipe is not None, findings
    seen = Evaluation(recipe, None, lambda source: load_codes(source, lambda _: content), Cache(1 << 30))
    return seen.of(first_look(seen))


def error_of_one_pair(seen: Evaluation, truth: np.ndarray) -> tuple[float, float]:
    """Mean absolute error by picks, and of the best constant."""
    features = likeness_features(seen.value(master_ref("base_color"), seen.working), seen.recipe.facts.edges)
    truth = cv2.resize(truth.astype(np.float32), features.shape[1::-1], interpolation=cv2.INTER_AREA)
    errors = []
    for draw in range(DRAWS):
        rng, picks = np.random.default_rng(1000 + draw), []
        for share in (0.1, 0.9):
            near = np.argsort(np.abs(truth.ravel() - np.quantile(truth, share)), kind="stable")[:256]
            y, x = divmod(int(rng.choice(near)), truth.shape[1])
            at = {"x": (x + 0.5) / truth.shape[1], "y": (y + 0.5) / truth.shape[0]}
            picks.append(Pick(**at, value=float(np.clip(truth[y, x], 0, 1))))
        errors.append(float(np.abs(roughness_by_likeness(features, fit_likeness(features, picks)) - truth).mean()))
    return float(np.median(errors)), float(np.abs(truth - np.median(truth)).mean())


def line(case: Case, seen: Evaluation) -> str:
    recipe = seen.recipe
    tilt = tilt_of(seen.value(master_ref("height"), seen.working), recipe.facts.rise, recipe.facts.edges)
    occlusion = seen.value(master_ref("occlusion"), seen.working)
    found = [finding.id for _, finding in assay_set(seen) if finding.id != "no-origin"]
    asked = ", ".join(id for id in found if FINDINGS[id].leave) or "nothing"
    told = ", ".join(id for id in found if not FINDINGS[id].leave) or "nothing"
    parts = [f"{case.name}: rise {recipe.facts.rise:.2%}, mean tilt {tilt.mean:.1f}°, 99th {tilt.steepest:.0f}°"]
    parts += [f"truly {case.tilt:.1f}°"] if case.tilt is not None else []
    parts += [f"occlusion mean {occlusion.mean():.2f}, 5th {np.quantile(occlusion, 0.05):.2f}"]
    if case.roughness is not None:
        by_pair, constant = error_of_one_pair(seen, case.roughness)
        parts += [f"roughness by one pair off by {by_pair:.3f}, best constant {constant:.3f}"]
    made = recipe.node_of("height")
    return "; ".join([*parts, f"height {made[1].op if made else 'none'}", f"asks {asked}", f"tells {told}"])


def drawn(case: Case, seen: Evaluation) -> np.ndarray:
    lit = np.asarray(Image.open(io.BytesIO(swatch(replace(seen, longer_px=2 * CELL), "lit"))).convert("RGB"))
    return np.hstack([cv2.resize(picture, (CELL, CELL), interpolation=cv2.INTER_AREA) for picture in (case.codes, lit)])


def main(sheet: str | None) -> None:
    cells = []
    for case in cases():
        seen = taken_in(case)
        print(line(case, seen), flush=True)
        if sheet is not None:
            cells.append(drawn(case, seen))
    if sheet is not None:
        cells += [np.zeros_like(cells[0])] * (-len(cells) % ACROSS)
        rows = [np.hstack(cells[at : at + ACROSS]) for at in range(0, len(cells), ACROSS)]
        Path(sheet).write_bytes(encode(np.ascontiguousarray(np.vstack(rows)), "png", color="srgb"))


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else None)
