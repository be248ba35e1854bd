"""The deepest place of a shared solid: how far one body has run into another, with a bound on what it may be."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry.arrays import Floats, Ints, Points
from gullyrise.core.geometry.mesh import Mesh
from gullyrise.core.geometry.near_pieces import foot_on_triangles

Distance = Callable[[Points], tuple[Floats, Points]]
_ENOUGH, _CLOSELY = 120_000, 2e-4


@dataclass(frozen=True, slots=True, eq=False)
class Deepest:
    """depth : mm found at `place`
    more : mm by which a deeper place may be there
    """

    depth: float
    place: Points
    more: float


def deepest(shared: Mesh, distances: tuple[Distance, ...]) -> Deepest:
    """The farthest that a place on a surface lies from the nearest of each of some surfaces, taken for the one that is farther.

    shared : a mesh with a face at least
    distances : each gives (mm (n,), corners (n, 3, 3) of the triangle that is nearest) for (n, 3) places

    Notes: branch and bound. No place of a triangle is farther from a surface than the farthest of its corners is from the
    triangle that is nearest to its middle, since that is a convex function. What cannot beat the best is left out, the rest
    quartered.
    """
    work = shared.triangles()
    best, at, open_bound = -1.0, work[0, 0], 0.0
    spent = 0
    while len(work):
        middle = work.mean(axis=1)
        found = [distance(middle) for distance in distances]
        values = np.max([value for value, _ in found], axis=0)
        spent += len(work)
        highest = int(np.argmax(values))
        if values[highest] > best:
            best, at = float(values[highest]), middle[highest]
        beaten = best * (1 + _CLOSELY) + 1e-12
        # No place is farther than the middle by more than it lies from it: of most that says enough.
        left = np.flatnonzero(values + np.linalg.norm(work - middle[:, None], axis=2).max(axis=1) > beaten)
        work, bounds = work[left], values[left]
        for _, nearest in found:
            far = np.stack([to_triangles(work[:, corner], nearest[left]) for corner in range(3)], axis=1).max(axis=1)
            bounds = np.maximum(bounds, far)
        left = np.flatnonzero(bounds > beaten)
        work, bounds = work[left], bounds[left]
        open_bound = float(bounds.max(initial=0.0))
        if spent + 4 * len(work) > _ENOUGH:
            break
        a, b, c = work[:, 0], work[:, 1], work[:, 2]
        ab, bc, ca = (a + b) / 2, (b + c) / 2, (c + a) / 2
        work = np.concatenate([np.stack(t, axis=1) for t in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))])
    more = max(open_bound - best, _CLOSELY * best)
    return Deepest(best, at, more)


def to_triangles(points: Points, corners: Points) -> Floats:
    """(n,) mm from each of (n, 3) points to its own of (n, 3, 3) triangles."""
    return np.asarray(np.linalg.norm(points - foot_on_triangles(points, corners), axis=1))


def distance_to(nearest: Callable[[Points], tuple[Floats, Ints, Points]], mesh: Mesh) -> Distance:
    """From a surface's nearest places to what `deepest` asks."""

    def distance(points: Points) -> tuple[Floats, Points]:
        value, face, _ = nearest(points)
        return value, mesh.vertices[mesh.faces[face]]

    return distance
