"""Fewer triangles for pictures in motion. Never measured on."""

from __future__ import annotations

from dataclasses import dataclass

import meshoptimizer
import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from gullyrise.core.geometry.arrays import Faces, Points, frozen
from gullyrise.core.geometry.mesh import Mesh

_MOST_SOURCES = 200_000


@dataclass(frozen=True, slots=True, eq=False)
class Reduced:
    """A stand-in.

    vertices : (n, 3) float32 mm
    faces : (k, 3) int32
    source : (k,) int32, the real face that lends each its colour.
    """

    vertices: NDArray[np.float32]
    faces: Faces
    source: NDArray[np.int32]

    def __post_init__(self) -> None:
        object.__setattr__(self, "vertices", frozen(self.vertices, np.float32))
        object.__setattr__(self, "faces", frozen(self.faces, np.int32))
        object.__setattr__(self, "source", frozen(self.source, np.int32))


def reduced(mesh: Mesh, triangles: int) -> Reduced:
    """About so many triangles of the same shape, by collapsing edges where it shows least; borders may tear a little.

    M. Garland, P. S. Heckbert, "Surface simplification using quadric error metrics", SIGGRAPH 1997.
    """
    points: Points = (mesh.vertices - mesh.box.middle).astype(np.float32)
    index = np.ascontiguousarray(mesh.faces.reshape(-1), dtype=np.uint32)
    out = np.zeros(len(index), dtype=np.uint32)
    error = np.zeros(1, dtype=np.float32)
    kept = meshoptimizer.simplify(
        out, index, np.ascontiguousarray(points), target_index_count=3 * triangles, target_error=0.5, result_error=error
    )
    faces = out[:kept].astype(np.int64).reshape(-1, 3)
    used, renumbered = np.unique(faces, return_inverse=True)
    vertices = mesh.vertices[used]
    faces = renumbered.reshape(-1, 3)
    some = np.arange(0, len(mesh.faces), max(1, len(mesh.faces) // _MOST_SOURCES))
    middles = vertices[faces].mean(axis=1) if len(faces) else np.zeros((0, 3))
    nearest = cKDTree(mesh.centroids()[some]).query(middles)[1] if len(faces) else np.zeros(0, dtype=np.int64)
    return Reduced(vertices.astype(np.float32), faces.astype(np.int32), some[nearest].astype(np.int32))
