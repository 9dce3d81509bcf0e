"""`python -m bench.picks [FOLDER ...]`: how well height comes back from pictures, by default and by picks.

Without folders: the demo's own heights, each under a lamp from the upper left and shaded by its own occlusion, so that what
is measured is known. A folder is a set with a color and a normal or height map. The measure is the correlation of slopes
after a Gaussian of 2 texels at 512 px, the median over random draws of pairs from the highest and lowest tenth.
"""

import hashlib
import statistics
import sys
from pathlib import Path

import numpy as np

from copper_sieve.core.color import linear_from_srgb_codes
from copper_sieve.core.derive import height_from_normal, normal_from_height, occlusion_from_height
from copper_sieve.core.derive.height import shaded_spectrum
from copper_sieve.core.derive.pick_fit import PLAIN, Pick, color_spectra, fit_picks, pick_features
from copper_sieve.core.derive.picks import height_by_picks
from copper_sieve.core.filters import gaussian
from copper_sieve.core.raster import Edges
from copper_sieve.core.recipe import Cache, Evaluation
from copper_sieve.demo.materials import MATERIALS
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import gather, load_codes

PX, DRAWS, PAIRS = 512, 15, (0, 1, 2, 8)
HIGH, LOW = 0.9, 0.1
LAMP = 135.0


def slopes(height: np.ndarray, edges: Edges) -> np.ndarray:
    smooth = gaussian(height.astype(np.float32), 2 / PX, edges)
    return np.concatenate([part.ravel() for part in np.gradient(smooth)])


def table(name: str, color: np.ndarray, height: np.ndarray, edges: Edges, light: float | None) -> None:
    """One line: the medians, and how many draws came out the wrong way round."""
    truth = slopes(height, edges)
    high, low = (np.argwhere(mask) for mask in (height >= np.quantile(height, 0.9), height <= np.quantile(height, 0.1)))
    plain = color_spectra(color, edges)
    ways = (
        {"": plain}
        if light is None
        else {"": plain, " lamp told": (*plain, shaded_spectrum(color, edges, gray="lightness", light=light))}
    )
    for way, spectra in ways.items():
        features = pick_features(spectra)
        said = []
        for pairs in PAIRS:
            found = []
            for draw in range(DRAWS if pairs else 1):
                rng = np.random.default_rng(1000 * pairs + draw)
                picks = [
                    Pick(x=(x + 0.5) / height.shape[1], y=(y + 0.5) / height.shape[0], value=value)
                    for spots, value in ((high, HIGH), (low, LOW))
                    for y, x in spots[rng.integers(len(spots), size=pairs)]
                ]
                made = height_by_picks(spectra, fit_picks(features, picks, PLAIN["height"], waits=True))
                found.append(float(np.corrcoef(slopes(made, edges), truth)[0, 1]))
            wrong = sum(value < 0 for value in found)
            said.append(f"{pairs} pairs {statistics.median(found):.2f}" + (f" ({wrong} of {len(found)} wrong)" if wrong else ""))
        print(f"{name}{way}: {', '.join(said)}")


def demo() -> None:
    for material in MATERIALS:
        files = {file.kind: file.codes for file in material.files(PX)}
        if "height" not in files:
            continue
        top = np.iinfo(files["height"].dtype).max
        height = (files["height"] / top).astype(np.float32)
        lean, angle = normal_from_height(height, material.rise), np.deg2rad(LAMP)
        light = np.maximum(lean @ np.float32([0.6 * np.cos(angle), 0.6 * np.sin(angle), 0.8]), 0) / 0.8
        shade = light * occlusion_from_height(height, material.rise)
        base = (
            linear_from_srgb_codes(files["base_color"][..., :3])
            if "base_color" in files
            else np.full((PX, PX, 3), 0.4, np.float32)
        )
        for said, color in (("", base), (", one color", np.full_like(base, 0.4))):
            table(f"{material.name}{said}", color * shade[..., None], height, Edges(), LAMP)


def real(folder: Path) -> None:
    """A set of a person's own; of two files of one map the better is taken, as Intake does."""
    gathered = list(gather(sorted(path for path in folder.iterdir() if path.suffix.lower() != ".txt")))
    content = {hashlib.sha256(found.content()).hexdigest(): found.content for found in gathered}
    recipe, findings = recipe_for(found.looked for found in gathered)
    if recipe is None:
        return print(f"{folder}: not measured: {findings[0].text}")
    evaluation = Evaluation(recipe, PX, lambda source: load_codes(source, lambda key: content[key]()), Cache(1 << 30))
    color, edges = evaluation.master("base_color"), recipe.facts.edges
    is_given = recipe.masters.get("normal", "").startswith("source:")
    height = height_from_normal(evaluation.master("normal"), edges).height if is_given else evaluation.master("height")
    table(hashlib.sha256(folder.name.encode()).hexdigest()[:6], color, height, edges, None)


if __name__ == "__main__":
    for place in map(Path, sys.argv[1:]):
        real(place)
    if len(sys.argv) == 1:
        demo()
