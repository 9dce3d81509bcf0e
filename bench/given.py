"""What is done to given maps, against a Gaussian of 1 % of the width and a memory copy of the same array, in one run.

``python -m bench.given``
"""

from functools import partial

import numpy as np

from bench.__main__ import seconds
from copper_sieve.core.convert.corrections import corrected
from copper_sieve.core.convert.steps import CODE, stepping, without_steps
from copper_sieve.core.derive import normal_from_height
from copper_sieve.core.filters import gaussian
from copper_sieve.core.quantities import quantity

PX = 1024
ROWS = (
    ("roughness", {"contrast": 1.4}),
    ("roughness", {"black": 0.1, "white": 0.9, "invert": True}),
    ("roughness", {"sharpness": 0.8}),
    ("base_color", {"saturation": 1.3}),
    ("base_color", {"warmth": 0.3}),
    ("base_color", {"black": 0.1}),
    ("normal", {"strength": 1.5}),
    ("normal", {"sharpness": 0.8}),
)


def main() -> None:
    """Print every row."""
    rng = np.random.default_rng(1)
    gray = gaussian(rng.random((PX, PX), np.float32), 0.02, "wrap")
    gray = (gray - gray.min()) / np.ptp(gray)
    maps = {"roughness": gray, "base_color": np.dstack([gray, gray.T, 1 - gray]), "normal": normal_from_height(gray, 0.05)}
    broad = seconds(lambda: gaussian(gray, 0.01, "wrap"))
    print(f"{PX}² Gaussian of 1 %: {broad * 1000:.0f} ms")
    for key, told in ROWS:
        values = maps[key]
        taken, copy = seconds(partial(corrected, values, quantity(key), "wrap", told)), seconds(values.copy)
        print(f"{PX}² {key} {told}: {taken / broad:.2f} × that Gaussian, {taken / copy:.0f} × copy, {taken * 1000:.0f} ms")
    coarse = (np.round(gray * 255) / 255).astype(np.float32)
    taken = seconds(lambda: without_steps(coarse, CODE, "wrap"), 3)
    print(f"{PX}² steps smoothed, once a file: {taken / broad:.1f} × that Gaussian, {taken * 1000:.0f} ms")
    print(f"{PX}² looking for steps: {seconds(lambda: stepping(coarse, CODE), 3) / broad:.1f} × that Gaussian")


if __name__ == "__main__":
    main()
