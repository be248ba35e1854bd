"""Polygons split into triangles."""

from __future__ import annotations

import manifold3d
import numpy as np
from numpy.typing import NDArray

from gullyrise.core.geometry.arrays import Ints, Points


def split(points: Points, polygons: Ints) -> Ints:
    """(n, s - 2, 3) triangles of (n, s) polygons of s corners each, s at least 3, over (m, 3) points.

    Convex polygons become fans from their first corner. Where a fan would fold over, since a corner bends inwards, the ring is
    triangulated in the plane of its own normal; one that crosses itself keeps its fan.
    """
    sides = polygons.shape[1]
    fan = np.stack([polygons[:, [0, i, i + 1]] for i in range(1, sides - 1)], axis=1)
    if sides == 3:
        return np.asarray(fan)
    corner = points[fan]
    cross = np.cross(corner[:, :, 1] - corner[:, :, 0], corner[:, :, 2] - corner[:, :, 0])
    # The fan's triangles add up to the polygon; one that looks against the sum folds over.
    normal = cross.sum(axis=1)
    along = np.einsum("nij,nj->ni", cross, normal)
    folded = (along < -1e-9 * np.einsum("nj,nj->n", normal, normal)[:, None]).any(axis=1)
    for number in np.flatnonzero(folded):
        cut = _triangulated(points[polygons[number]], normal[number])
        if len(cut) == sides - 2:
            fan[number] = polygons[number][cut]
    return np.asarray(fan)


def _triangulated(ring: Points, normal: Points) -> NDArray[np.int32]:
    """(k, 3) corner numbers of one ring seen along its normal, wound as the ring is."""
    drop = int(np.argmax(np.abs(normal)))
    u, v = ((1, 2), (2, 0), (0, 1))[drop]
    # Mirrored where the normal looks away, so that the ring runs counter-clockwise.
    flat = ring[:, [u, v]] * np.array([np.sign(normal[drop]), 1.0])
    return np.asarray(manifold3d.triangulate([flat]), dtype=np.int32).reshape(-1, 3)


def split_all(points: Points, sides: Ints, corners: Ints) -> tuple[Ints, Ints]:
    """Triangles (k, 3) of polygons of mixed size in their order, and (k,) the polygon of each. Under three corners: none.

    sides : (n,) corners of each polygon
    corners : (sum of sides,) their indices into (m, 3) points, one polygon after another
    """
    if len(sides) and (sides == 3).all():
        return corners.reshape(-1, 3), np.arange(len(sides))
    starts = np.cumsum(sides) - sides
    triangles, owners = [np.zeros((0, 3), dtype=np.int64)], [np.zeros(0, dtype=np.int64)]
    for count in np.unique(sides[sides >= 3]).tolist():
        chosen = np.flatnonzero(sides == count)
        made = split(points, corners[starts[chosen][:, None] + np.arange(count)])
        triangles.append(made.reshape(-1, 3))
        owners.append(np.repeat(chosen, count - 2))
    owner = np.concatenate(owners)
    order = np.argsort(owner, kind="stable")
    return np.concatenate(triangles)[order], owner[order]
