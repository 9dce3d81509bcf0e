"""Charts of a mesh by xatlas, as a script: the library keeps every thread of its process waiting, so it gets one of its own.

It reads one job from standard input and writes what it made to standard output, both .npz, and imports nothing of ours, so
that it starts at once. Its exit status is ``MISSING`` where the library is not installed.
"""

from __future__ import annotations

import sys
from io import BytesIO
from typing import Any

import numpy as np

__all__ = ["MISSING"]

MISSING = 3


def _run(job: Any) -> bytes:
    """``uv`` of the corners of ``faces``, and ``sides``: ``places`` (P, 3) cut into charts, or charts of (P, 2) laid anew."""
    import xatlas  # type: ignore[import-not-found]

    atlas, pack = xatlas.Atlas(), xatlas.PackOptions()
    places, faces = job["places"].astype(np.float32), job["faces"].astype(np.uint32)
    add = atlas.add_mesh if places.shape[1] == 3 else atlas.add_uv_mesh
    add(places, faces)
    pack.rotate_charts = False  # turning charts mirrors a third of them
    pack.padding, pack.resolution = int(job["padding"]), int(job["resolution"])
    pack.texels_per_unit = float(job["texels_per_unit"])
    atlas.generate(xatlas.ChartOptions(), pack)
    _, index, uv = atlas[0]
    sides = np.array([atlas.width, atlas.height])
    made = BytesIO()
    np.savez(made, uv=(uv * sides.astype(np.float32))[index].reshape(-1, 2), sides=sides)
    return made.getvalue()


if __name__ == "__main__":
    try:
        sys.stdout.buffer.write(_run(np.load(BytesIO(sys.stdin.buffer.read()))))
    except ImportError:
        sys.exit(MISSING)
