"""The axis of a round wall of a mesh, found about one of its triangles."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry.arrays import Floats, Ints
from gullyrise.core.geometry.mesh import Mesh
from gullyrise.core.geometry.topology import edges_of

_BEND = np.cos(np.radians(32.0))
_MOST, _LEAST = 4_000, 3
_STRAIGHT, _OFF = 0.02, 0.03


@dataclass(frozen=True, slots=True, eq=False)
class Axis:
    """point, direction : of the axis, in the mesh's coordinates
    radius : mm
    residual : mm by which vertices lie off it.
    """

    point: Floats
    direction: Floats
    radius: float
    residual: float


def axis_about(mesh: Mesh, face: int) -> Axis | None:
    """The axis of the cylinder that a face and its smooth neighbours lie on; None where they lie on none.

    Notes: faces are gathered over bends of less than 32 degrees; across all their normals lies the axis (least singular
    direction), and about it the circle of least squares (Kasa 1976).
    """
    region = _smooth_region(mesh, face)
    normals, areas = mesh.normals()[region], mesh.face_areas()[region]
    used = areas > 0
    if used.sum() < _LEAST:
        return None
    _, strength, ways = np.linalg.svd(normals[used] * np.sqrt(areas[used])[:, None], full_matrices=False)
    if strength[2] > _STRAIGHT * strength[0] or strength[1] < _STRAIGHT * strength[0]:
        return None
    direction = ways[2]
    across = ways[:2]
    points = mesh.vertices[np.unique(mesh.faces[region])] @ across.T
    base = points.mean(axis=0)
    x, y = (points - base).T
    found, *_ = np.linalg.lstsq(np.column_stack([2 * x, 2 * y, np.ones(len(x))]), x**2 + y**2, rcond=None)
    radius = float(np.sqrt(max(found[2] + found[0] ** 2 + found[1] ** 2, 0.0)))
    residual = float(np.abs(np.hypot(x - found[0], y - found[1]) - radius).max())
    if radius <= 0 or residual > _OFF * radius:
        return None
    return Axis((base + found[:2]) @ across, direction, radius, residual)


def _smooth_region(mesh: Mesh, face: int) -> Ints:
    edges = edges_of(mesh)
    a, b = edges.pairs[:, 0], edges.pairs[:, 1]
    normals = mesh.normals()
    smooth = np.einsum("ij,ij->i", normals[a], normals[b]) > _BEND
    a, b = a[smooth], b[smooth]
    taken = np.zeros(len(mesh.faces), dtype=bool)
    taken[face] = True
    while taken.sum() < _MOST:
        reached = taken.copy()
        reached[b[taken[a]]] = True
        reached[a[taken[b]]] = True
        if (reached == taken).all():
            break
        taken = reached
    return np.flatnonzero(taken)
