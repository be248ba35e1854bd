"""Inside or outside, for a few points, without a tree."""

from __future__ import annotations

import numpy as np

from gullyrise.core.geometry.arrays import Bools, Floats, Points
from gullyrise.core.geometry.mesh import Mesh
from gullyrise.core.geometry.nearest import Surface

_PORTION = 500_000
_FEW, _MANY = 8, 20_000_000


def winding_numbers(mesh: Mesh, points: Points) -> Floats:
    """(n,) how often a closed surface winds round each of (n, 3) points: 1 inside, 0 outside, between at an open one.

    Notes: the solid angles of all faces add up (Van Oosterom and Strackee 1983). n times m steps: for many points a tree is
    quicker, for a few building it takes longer than this.
    """
    out = np.zeros(len(points))
    for number, point in enumerate(points):
        for start in range(0, len(mesh.faces), _PORTION):
            corner = mesh.vertices[mesh.faces[start : start + _PORTION]] - point
            a, b, c = corner[:, 0], corner[:, 1], corner[:, 2]
            la, lb, lc = (np.sqrt(np.einsum("ij,ij->i", v, v)) for v in (a, b, c))
            above = np.einsum("ij,ij->i", a, np.cross(b, c))
            below = (
                la * lb * lc
                + np.einsum("ij,ij->i", a, b) * lc
                + np.einsum("ij,ij->i", b, c) * la
                + np.einsum("ij,ij->i", c, a) * lb
            )
            out[number] += float(np.arctan2(above, below).sum()) / (2 * np.pi)
    return out


def inside(mesh: Mesh, points: Points) -> Bools:
    """(n,) whether points lie inside a closed mesh, by the winding number; all False for an empty mesh."""
    if len(points) > _FEW and len(points) * len(mesh.faces) > _MANY:
        return Surface(mesh).inside(points)
    return np.asarray(winding_numbers(mesh, points) > 0.5)
