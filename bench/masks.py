"""``python -m bench.masks``: what presses of one word, and of both, make of a mask, as it is and as it was before."""

import statistics
from collections.abc import Callable

import cv2
import numpy as np

from bench.photos import photo_of
from copper_sieve.core.color import linear_from_srgb_codes
from copper_sieve.core.derive.alike import alike_features, fit_alike, mask_alike
from copper_sieve.core.derive.pick_fit import PLAIN, Pick, color_spectra, fit_picks, pick_features
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


def said(spots: list[tuple[tuple[int, int], float]], shape: tuple[int, ...]) -> list[Pick]:
    rows, columns = shape
    return [Pick(x=(x + 0.5) / columns, y=(y + 0.5) / rows, value=value) for (y, x), value in spots]


def main() -> None:
    for name, is_meant in MEANT.items():
        photo = photo_of(name, PX)
        meant = is_meant(photo.surface.roughness)
        spectra = color_spectra(linear_from_srgb_codes(photo.codes), "mirror")
        features, alike = pick_features(spectra), alike_features(spectra)
        for words, pairs in (("one word", 1), ("both words", 1), ("both words four times", 4)):
            found: dict[str, list[tuple[float, float]]] = {"is": [], "before": []}
            for draw in range(DRAWS):
                rng = np.random.default_rng(draw)
                spots = [spot for _ in range(pairs) for spot in ((spot_in(meant, rng), 1.0), (spot_in(~meant, rng), 0.0))]
                picks = said(spots[:1] if words == "one word" else spots, meant.shape)
                masks = {
                    "is": mask_alike(alike, fit_alike(alike, picks), MaskByPicks().softness),
                    "before": mask_by_picks(spectra, fit_picks(features, picks, PLAIN["mask"])),
                }
                for way, mask in masks.items():
                    found[way].append((float(mask[meant].mean()), float(mask[~meant].mean())))
            told = []
            for way, rows in found.items():
                own, rest = (statistics.median(column) for column in zip(*rows))
                told.append(f"{own:.0%} of what is meant, {rest:.0%} of the rest{' before' if way == 'before' else ''}")
            print(f"{name}, {words}: {'; '.join(told)}")


if __name__ == "__main__":
    main()
