"""``python -m bench.masks``: what one press of a word makes of a mask, as it is and as it was before, and one press of both."""

import statistics
from collections.abc import Callable

import cv2
import numpy as np

from bench.photos import photo_of
from copper_sieve.core.color import linear_from_srgb_codes
from copper_sieve.core.derive.alike import alike_spots, nearness
from copper_sieve.core.derive.pick_fit import PLAIN, Pick, PickFeatures, Spectra, color_spectra, fit_picks, pick_features
from copper_sieve.core.derive.picks import MaskByPicks, mask_by_picks

PX, DRAWS, CLEAR_OF_RIM = 512, 15, 5
# What is meant in photos whose roughness is known: rust, grout, water.
MEANT: dict[str, Callable[[np.ndarray], np.ndarray]] = {
    "Chipped paint": lambda roughness: roughness > 0.6,
    "Glazed tiles": lambda roughness: roughness > 0.5,
    "Wet asphalt": lambda roughness: roughness < 0.3,
}


def spot_in(mask: np.ndarray, rng: np.random.Generator) -> tuple[int, int]:
    inner = cv2.erode(mask.astype(np.uint8), np.ones((CLEAR_OF_RIM, CLEAR_OF_RIM)))
    spots = np.argwhere(inner if inner.any() else mask)
    y, x = spots[rng.integers(len(spots))]
    return int(y), int(x)


def drawn(spectra: Spectra, features: PickFeatures, said: list[tuple[tuple[int, int], float]]) -> np.ndarray:
    rows, columns = features.values.shape[:2]
    picks = [Pick(x=(x + 0.5) / columns, y=(y + 0.5) / rows, value=value) for (y, x), value in said]
    return mask_by_picks(spectra, fit_picks(features, picks, PLAIN["mask"]))


def main() -> None:
    for name, is_meant in MEANT.items():
        photo = photo_of(name, PX)
        meant = is_meant(photo.surface.roughness)
        spectra = color_spectra(linear_from_srgb_codes(photo.codes), "mirror")
        features = pick_features(spectra)
        found: dict[str, list[tuple[float, float]]] = {"alike": [], "before": [], "both words": []}
        for draw in range(DRAWS):
            rng = np.random.default_rng(draw)
            here, there = spot_in(meant, rng), spot_in(~meant, rng)
            masks = {
                "alike": nearness(spectra, alike_spots(spectra, [here], 1.0), MaskByPicks().softness),
                "before": drawn(spectra, features, [(here, 1.0)]),
                "both words": drawn(spectra, features, [(here, 1.0), (there, 0.0)]),
            }
            for way, mask in masks.items():
                found[way].append((float(mask[meant].mean()), float(mask[~meant].mean())))
        said = []
        for way, rows in found.items():
            own, rest = (statistics.median(column) for column in zip(*rows))
            said.append(f"{way} {own:.0%} of what is meant, {rest:.0%} of the rest")
        print(f"{name}: {'; '.join(said)}")


if __name__ == "__main__":
    main()
