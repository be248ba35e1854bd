"""Making one vertex of those at the same place; the only import of meshoptimizer."""

from __future__ import annotations

import meshoptimizer
import numpy as np
from numpy.typing import NDArray

from gullyrise.core.geometry.arrays import Faces, Points
from gullyrise.core.geometry.mesh import Mesh


def equal_rows(rows: Points) -> tuple[int, NDArray[np.uint32]]:
    """Numbers equal rows of (n, 3) float32 or float64 alike: (how many differ, (n,) number), in order of appearance."""
    clean = np.ascontiguousarray(rows) + rows.dtype.type(0)  # -0.0 becomes 0.0, which is the same place
    number = np.zeros(len(clean), dtype=np.uint32)
    # The library numbers only what an index names, so every row is named once.
    every = np.arange(len(clean), dtype=np.uint32)
    row_bytes = 3 * clean.dtype.itemsize
    count = meshoptimizer.generate_vertex_remap(number, every, len(clean), clean, len(clean), row_bytes)
    return int(count), number


def joined(vertices: Points, faces: Faces) -> Mesh:
    """A mesh with equal vertices made one and unused ones dropped. Exact equality: nothing is moved.

    vertices : (n, 3) float32 or float64; faces : (m, 3) integer. Empty input gives an empty mesh.
    """
    if not len(vertices) or not len(faces):
        return Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int32))
    count, number = equal_rows(vertices)
    if count == len(vertices):
        # All differ, and so keep their numbers.
        kept, new = np.ascontiguousarray(vertices, dtype=np.float64), np.ascontiguousarray(faces, dtype=np.int32)
    else:
        kept = np.empty((count, 3), dtype=np.float64)
        kept[number] = vertices
        new = number.view(np.int32)[faces]
    used = np.zeros(count, dtype=bool)
    used[new.reshape(-1)] = True
    if used.all():
        return Mesh(kept, new)
    renumber = (np.cumsum(used) - 1).astype(np.int32)
    return Mesh(kept[used], renumber[new])


def joined_soup(corners: Points) -> Mesh:
    """The mesh of (3m, 3) corner points, three a face, float32 or float64."""
    if not len(corners):
        return Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int32))
    count, number = equal_rows(corners)
    kept = np.empty((count, 3), dtype=np.float64)
    kept[number] = corners
    return Mesh(kept, number.view(np.int32).reshape(-1, 3))
