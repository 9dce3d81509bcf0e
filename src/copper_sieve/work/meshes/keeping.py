"""Shapes of the meshes that sets are worn by, out of their files by hash. The last few stay read."""

from __future__ import annotations

import threading
from collections.abc import Callable

import numpy as np
from cachetools import LRUCache

from ...core.bake import nearest_shown
from ...core.mesh.made import low_of
from ...core.mesh.shape import Shape
from ...core.mesh.udim import of_tile, tiles_of
from ...core.raster import Size
from ...core.recipe import Cache, MeshRef, Worn
from ...files.meshes import MeshFile, mesh_from
from .checking import of_material

__all__ = ["KeptMeshes"]

_LIMIT_BYTES = 1 << 30
_PARTS = ("points", "corners", "uv", "second_uv", "normals", "given_tangents")


class KeptMeshes:
    """Reads meshes by their hashes, each once for as long as there is room. Safe to share between threads.

    ``content`` gives the bytes of a file by its hash.
    """

    def __init__(self, content: Callable[[str], bytes], cache: Cache) -> None:
        self._content, self._cache = content, cache
        self._read: LRUCache[tuple[str, str], MeshFile] = LRUCache(_LIMIT_BYTES, getsizeof=_bytes_of)
        self._lock = threading.Lock()

    def file(self, sha256: str, name: str) -> MeshFile:
        """What a kept file holds. Raises UnknownKey, MeshInvalid."""
        key = sha256, name.rpartition(".")[2].lower()
        with self._lock:  # two readers of one large mesh would take its room twice
            found = self._read.get(key)
            if found is None:
                found = mesh_from(self._content(sha256), name)
                if _bytes_of(found) <= _LIMIT_BYTES:
                    self._read[key] = found
        return found

    def whole(self, mesh: MeshRef) -> Shape:
        return self.file(mesh.sha256, mesh.name).shape

    def shape(self, worn: Worn, tile: int | None = None) -> Shape:
        """The part of the low mesh that wears the set, or one of its tiles. Raises MeshInvalid, UnknownKey."""
        whole = of_material(self.whole(worn.low), worn.material)
        return whole if tile is None else of_tile(whole, tile)

    def tiles(self, worn: Worn) -> tuple[int, ...]:
        """UDIM numbers of the tiles that the part's UV lie in; none where they do not lie in tiles. Raises as ``shape``."""
        found = self._cache.kept(
            f"tiles {worn.low.print} {worn.material}", lambda: np.array(tiles_of(self.shape(worn)), np.int32)
        )
        return tuple(found.tolist())

    def is_whole(self, worn: Worn) -> bool:
        """Whether all of the low mesh wears the set. Raises as ``shape``."""
        key = f"whole {worn.low.print} {worn.material}"
        return bool(self._cache.kept(key, lambda: (low_of(self.whole(worn.low)).material == worn.material).all(keepdims=True))[0])

    def nearest(self, worn: Worn, size: Size, tile: int | None = None) -> np.ndarray | None:
        """Row and column of the nearest texel that the mesh shows, (2, H, W); None where the map is repeated over it."""
        if tile is not None and tile not in self.tiles(worn):
            return None
        key = f"nearest {worn.low.print} {worn.material} {tile}@{size.width}x{size.height}"
        found = self._cache.kept(key, lambda: _or_empty(nearest_shown(self.shape(worn, tile), size)))
        return found if found.size else None


def _or_empty(found: np.ndarray | None) -> np.ndarray:
    return np.zeros(0, np.int32) if found is None else found


def _bytes_of(read: MeshFile) -> int:
    return 2 * sum(values.nbytes for name in _PARTS if (values := getattr(read.shape, name)) is not None)
