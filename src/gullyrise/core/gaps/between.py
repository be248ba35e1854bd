"""What lies between two bodies: the smallest gap, or what they share and how deep they run into each other."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from gullyrise.core.gaps.pieces import Piece
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.arrays import Floats
from gullyrise.core.geometry.booleans import shared_solid
from gullyrise.core.geometry.deepest import deepest, distance_to
from gullyrise.core.geometry.winding import inside

_MOST_SHOWN = 200_000
_CLOSE = 3.0
_MOST_FACES = 900
_AGREES = 1.5
_UNDECIDED, _FINER = 2.0, 10.0


@dataclass(frozen=True, slots=True, eq=False)
class Between:
    """What lies between two bodies, mm and mm3; distance 0 where they touch or overlap.

    error : uncertainty of the distance, and of the depth of an overlap
    volume : None where one of the two is not closed and so encloses nothing
    overlaps : they have a solid in common, though it may be no more than what facets hide: see `sure`
    depth : how far the deepest point of one lies inside the other, 0 where none does, None where that cannot be said
    shared : what both fill, for a picture; the point_a is then its deepest place
    exact : from the bodies' own surfaces
    """

    distance: float
    point_a: Floats
    point_b: Floats
    volume: float | None
    error: float
    overlaps: bool
    depth: float | None = 0.0
    shared: Mesh | None = None
    exact: bool = False

    @property
    def sure(self) -> bool:
        """Whether an overlap is one whatever the facets hide."""
        return self.overlaps and self.depth is not None and self.depth > self.error

    def placed(self, by: Transform) -> Between:
        """The same with both bodies moved alike."""
        a, b = by.apply(np.array([self.point_a, self.point_b]))
        return replace(self, point_a=a, point_b=b, shared=None if self.shared is None else self.shared.placed(by))


def between(a: Piece, b: Piece) -> Between:
    """Smallest gap and shared volume of two pieces; symmetric but for the order of the points.

    Notes: from the triangles; of solids whose triangles come as near as their chord error may hide, from the surfaces themselves.
    """
    found = _between_meshes(a, b)
    if a.exact is not None and b.exact is not None:
        # Where the triangles are far apart against what they hide, the figure is close enough; else the surfaces are asked.
        rough = 1.2 * ((a.chord or 0.0) + (b.chord or 0.0))
        if found.error > found.distance * 1e-4 and found.distance <= max(_CLOSE, 20 * rough):
            return _between_surfaces(a, b, found, rough)
    return found


def rounding_of(a: Piece, b: Piece) -> float:
    """Gaps at the rounding of single-precision files are contact, mm."""
    corners = np.concatenate([np.concatenate([one.box.low, one.box.high]) for one in (a, b)])
    return 1e-7 * float(max(np.abs(corners).max(), a.box.diagonal, b.box.diagonal))


def _between_meshes(a: Piece, b: Piece) -> Between:
    gap = a.tree.gap_to(b.tree)
    rounding = rounding_of(a, b)
    both_closed = a.closed and b.closed
    nothing = 0.0 if both_closed else None
    crossing = gap.distance <= rounding
    if not crossing and not (holds(a, b) or holds(b, a)):
        error = rounding + _facets(a, b, gap.distance)
        return Between(gap.distance, gap.point_a, gap.point_b, nothing, error, False)
    place = gap.point_a
    if crossing:
        _, met = a.tree.crosses(b.tree)
        place = place if met is None else met
    else:
        inner = b if holds(a, b) else a
        place = inner.mesh.vertices[inner.mesh.faces[0, 0]]
    error = rounding + _facets(a, b, 0.0)
    if not both_closed:
        return Between(0.0, place, place, None, error, not crossing, None if not crossing else 0.0)
    found = shared_solid(a.mesh, b.mesh)
    if found is None:
        return Between(0.0, place, place, None, error, not crossing, None)
    volume, shared = found
    if not len(shared.faces) or volume <= 0:
        return Between(0.0, place, place, 0.0, error, False)
    deep = deepest(shared, tuple(distance_to(one.surface.nearest, one.mesh) for one in (a, b)))
    # Where the two have surface in common all over, no place of it lies deep; the shared solid is as thick as this all the same.
    depth = max(deep.depth, volume / max(shared.area, 1e-300))
    if depth <= rounding:
        # A shared solid no thicker than coordinates are known: they touch.
        return Between(0.0, place, place, 0.0, error, False)
    shown = shared if len(shared.faces) <= _MOST_SHOWN else None
    return Between(0.0, deep.place, deep.place, volume, error + deep.more, True, depth, shown)


def _facets(a: Piece, b: Piece, distance: float) -> float:
    """mm by which facets may be off where the two come nearest: of all faces that could be the nearest, the farthest off."""
    most = float(a.rise.max(initial=0.0)) + float(b.rise.max(initial=0.0))
    if most <= 0:
        return 0.0
    reach = distance + 2 * most
    return sum(float(one.rise[one.near(other, reach)].max(initial=0.0)) for one, other in ((a, b), (b, a)))


def _between_surfaces(a: Piece, b: Piece, found: Between, rough: float) -> Between:
    """The same from the exact surfaces of two solids; what the triangles say, with their uncertainty, where the kernel finds none
    or contradicts them by more than they can be wrong."""
    from gullyrise.core.solids.gaps import gap_of_faces

    reach = found.distance + 2 * rough + (found.depth or 0.0)
    sides = []
    for one, other in ((a, b), (b, a)):
        assert one.exact is not None
        sides.append((one.exact.exact, one.exact.place, np.unique(one.exact.face_of[one.near(other, reach)]).tolist()))
    if not sides[0][2] or not sides[1][2] or len(sides[0][2]) * len(sides[1][2]) > _MOST_FACES:
        return replace(found, error=max(found.error, rough))
    gap = gap_of_faces(sides[0], sides[1])
    signed = -(found.depth or 0.0) if found.overlaps else found.distance
    rounding = rounding_of(a, b)
    if gap is None or abs(gap.distance - max(signed, 0.0)) > _AGREES * rough + rounding:
        return replace(found, error=max(found.error, rough))
    if gap.distance <= rounding:
        # The surfaces themselves meet. How deep they go in, and whether at all, the triangles say to within what they hide.
        deeper = finer_overlap(a, b) if found.overlaps and (found.depth or 0.0) <= _UNDECIDED * rough else None
        return deeper if deeper is not None else replace(found, distance=0.0, error=max(found.error, rough))
    if found.overlaps and (found.depth or 0.0) > _AGREES * rough:
        # Clear of each other as surfaces, and one in the other's material all the same: it is held whole.
        return replace(found, error=max(found.error, rough))
    if found.overlaps and (holds(a, b) or holds(b, a)) and found.depth is not None and found.depth > rough:
        return replace(found, error=max(found.error, rough))
    return Between(gap.distance, gap.point_a, gap.point_b, 0.0, rounding, False, 0.0, None, True)


def finer_overlap(a: Piece, b: Piece) -> Between | None:
    """The overlap of two solids from triangles ten times as fine, or None where those would be too many."""
    from gullyrise.core.solids.gaps import finer_mesh

    pieces = []
    for one in (a, b):
        assert one.exact is not None and one.chord is not None
        mesh = finer_mesh(one.exact.exact, one.exact.place, one.chord / _FINER)
        if mesh is None:
            return None
        pieces.append(Piece(one.name, mesh, one.copy, one.chord / _FINER))
    found = _between_meshes(*pieces)
    return replace(found, error=max(found.error, rounding_of(a, b)))


def holds(outer: Piece, inner: Piece) -> bool:
    """Whether a closed piece has another wholly inside its material; their surfaces are known not to meet."""
    if not outer.closed or (outer.box.low > inner.box.high).any() or (outer.box.high < inner.box.low).any():
        return False
    return bool(inside(outer.mesh, inner.mesh.vertices[inner.mesh.faces[0, :1]])[0])
