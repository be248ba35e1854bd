"""What lies between two bodies: the smallest gap, or what they share and how deep they run into each other."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.checks.clearance_pieces import Piece
from gullyrise.core.geometry import Mesh
from gullyrise.core.geometry.arrays import Floats
from gullyrise.core.geometry.booleans import shared_solid
from gullyrise.core.geometry.sampling import spread
from gullyrise.core.geometry.winding import inside

_MOST_SHOWN = 200_000
_ON_SHARED = 4_000


@dataclass(frozen=True, slots=True, eq=False)
class Between:
    """What lies between two bodies, mm and mm3; distance 0 where they touch or overlap.

    error : uncertainty of the distance;  volume : None where one of the two is not closed and so encloses nothing
    depth : how far the deepest point of one lies inside the other, 0 where none does, None where that cannot be said
    shared : what both fill, for a picture; the point_a is then its deepest place
    """

    distance: float
    point_a: Floats
    point_b: Floats
    volume: float | None
    error: float
    overlaps: bool
    depth: float | None = 0.0
    shared: Mesh | None = None


def between(a: Piece, b: Piece) -> Between:
    """Smallest gap and shared volume of two pieces; symmetric but for the order of the points."""
    gap = a.tree.gap_to(b.tree)
    place_a, place_b, distance = gap.point_a, gap.point_b, gap.distance
    # Gaps at the rounding of single-precision files are contact.
    rounding = 1e-7 * float(max(np.abs(a.box.high).max(), np.abs(b.box.high).max(), a.box.diagonal, b.box.diagonal))
    both_closed = a.closed and b.closed
    shared: Mesh | None = None
    volume, depth, overlaps = (0.0 if both_closed else None), 0.0, False
    if distance <= rounding:
        distance = 0.0
        _, place = a.tree.crosses(b.tree)
        if place is not None:
            place_a = place_b = place
        if both_closed:
            found = shared_solid(a.mesh, b.mesh)
            volume = None if found is None else found[0]
            overlaps = volume is not None and volume > rounding * min(a.mesh.area, b.mesh.area)
            if overlaps and found is not None:
                shared = found[1]
            elif volume is not None:
                volume = 0.0
    elif holds(a, b) or holds(b, a):
        inner, outer = (b, a) if holds(a, b) else (a, b)
        overlaps, distance = True, 0.0
        place_a = place_b = inner.mesh.vertices[inner.mesh.faces[0, 0]]
        found = shared_solid(inner.mesh, outer.mesh) if both_closed else None
        volume = None if found is None else found[0]
        shared = inner.mesh
    known: float | None = depth
    if overlaps:
        known = None
        if shared is not None:
            known, place_a = _depth(a, b, shared)
            place_b = place_a
    error = rounding + a.error_at(place_a) + b.error_at(place_b)
    shown = shared if shared is not None and len(shared.faces) <= _MOST_SHOWN else None
    return Between(distance, place_a, place_b, volume, error, overlaps, known, shown)


def _depth(a: Piece, b: Piece, shared: Mesh) -> tuple[float, Floats]:
    """(mm that the deepest point of either surface lies inside the other body, that point). Every point of the shared solid's
    surface lies on one of the two, so the farther one is what it has run into."""
    points = np.concatenate([shared.vertices, spread(shared, _ON_SHARED, every_face=False).points])
    points = points[:: max(1, len(points) // (4 * _ON_SHARED))]
    inside_by = np.maximum(a.surface.nearest(points)[0], b.surface.nearest(points)[0])
    deepest = int(np.argmax(inside_by))
    return float(inside_by[deepest]), points[deepest]


def holds(outer: Piece, inner: Piece) -> bool:
    """Whether a closed piece has another wholly inside its material; their surfaces are known not to meet."""
    if not outer.closed or (outer.box.low > inner.box.high).any() or (outer.box.high < inner.box.low).any():
        return False
    return bool(inside(outer.mesh, inner.mesh.vertices[inner.mesh.faces[0, :1]])[0])
