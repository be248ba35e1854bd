"""One plane through a mesh: loops, area, perimeter, centroid; open meshes give open chains and say so."""

from __future__ import annotations

from dataclasses import dataclass, replace

import manifold3d
import numpy as np

from gullyrise.core.geometry import Floats, Ints, Mesh, Plane, Points
from gullyrise.core.geometry.orientation import outward
from gullyrise.core.geometry.plane import flat

_NOTHING = 1e-13
_ROUNDING = 16 * np.finfo(np.float64).eps


@dataclass(frozen=True, slots=True, eq=False)
class Loop:
    """One outline: `points` (n, 3) mm, the first not repeated; `area` mm2 signed, material to the left of the walk: holes
    are negative; open chains have area 0. body : the number of the mesh that it belongs to."""

    points: Points
    closed: bool
    area: float
    body: int = 0


@dataclass(frozen=True, slots=True, eq=False)
class Section:
    """What a plane shows of a part.

    area : mm2 of material, of closed loops only
    perimeter : mm of all outlines
    centroid : (3,) mm, or None
    open_length : mm of chains that do not close
    second : (2, 2) mm4, the second moments of area about the centroid along the plane's frame (u u, u v; v u, v v), or None
    """

    plane: Plane
    loops: tuple[Loop, ...]
    area: float
    perimeter: float
    centroid: Floats | None
    open_length: float
    second: Floats | None = None

    def box(self) -> Floats | None:
        """(2, 2) lowest and highest place of the outlines in the plane's frame, mm; None without any."""
        if not self.loops:
            return None
        places = np.concatenate([flat(loop.points, self.plane) for loop in self.loops])
        return np.array([places.min(axis=0), places.max(axis=0)])


def segments(mesh: Mesh, plane: Plane, among: Ints | None = None) -> tuple[Points, Ints]:
    """Where a plane crosses the faces: (k, 2, 3) start and end points, and (k, 2) keys of the mesh edges that they lie on.

    among : (n,) the only faces that may cross it, where those are known;  None for all.

    Material lies to the left of the walk seen against the normal. Half-open rule: a vertex on the plane counts as above it, so
    vertices and faces in the plane are met once or not at all.
    """
    corners = mesh.faces if among is None else mesh.faces[among]
    if among is None:
        height = heights(mesh.vertices, plane)
    else:
        used = np.zeros(len(mesh.vertices), dtype=bool)
        used[corners] = True
        height = np.zeros(len(mesh.vertices))
        height[used] = heights(mesh.vertices[used], plane)
    above = height >= 0
    sides = above[corners]
    count = sides.sum(axis=1)
    crossing = np.flatnonzero((count == 1) | (count == 2))
    if not len(crossing):
        return np.zeros((0, 2, 3)), np.zeros((0, 2), dtype=np.int64)
    # Turn each face so that its lone vertex, the one alone on its side, comes first.
    lone_above = count[crossing] == 1
    lone = np.where(lone_above, np.argmax(sides[crossing], axis=1), np.argmin(sides[crossing], axis=1))
    turn = (lone[:, None] + np.arange(3)) % 3
    faces = np.take_along_axis(corners[crossing].astype(np.int64), turn, axis=1)
    first = _edge_points(mesh, height, faces[:, 0], faces[:, 1])
    second = _edge_points(mesh, height, faces[:, 0], faces[:, 2])
    n = len(mesh.vertices)
    first_key = np.minimum(faces[:, 0], faces[:, 1]) * n + np.maximum(faces[:, 0], faces[:, 1])
    second_key = np.minimum(faces[:, 0], faces[:, 2]) * n + np.maximum(faces[:, 0], faces[:, 2])
    # With the lone vertex above, walking from its first edge to its second keeps the material on the left.
    start = np.where(lone_above[:, None], first, second)
    end = np.where(lone_above[:, None], second, first)
    keys = np.column_stack([np.where(lone_above, first_key, second_key), np.where(lone_above, second_key, first_key)])
    return np.stack([start, end], axis=1), keys


def heights(points: Points, plane: Plane) -> Floats:
    """(n,) mm over the plane; what is within the rounding of the coordinates lies in it. Else of a face in a plane that is not
    square to an axis some corners would fall on one side, some on the other."""
    height = plane.heights(points)
    reach = max(float(np.abs(points).max(initial=0.0)), float(np.abs(plane.point).max()))
    height[np.abs(height) <= _ROUNDING * reach] = 0.0
    return height


def _edge_points(mesh: Mesh, height: Floats, a: Ints, b: Ints) -> Points:
    """Crossing points on edges, taken from the smaller vertex index so that both faces of an edge find the same point."""
    low, high = np.minimum(a, b), np.maximum(a, b)
    share = height[low] / (height[low] - height[high])
    return mesh.vertices[low] + share[:, None] * (mesh.vertices[high] - mesh.vertices[low])


def chained(keys: Ints) -> list[tuple[Ints, bool]]:
    """Segments in order: lists of segment numbers, each with whether it closes.

    keys : (k, 2) of where a segment starts and ends. Ends are paired with starts of the same key by rank, so that loops
    stay apart where four faces share an edge.
    """
    k = len(keys)
    by_start, by_end = np.argsort(keys[:, 0], kind="stable"), np.argsort(keys[:, 1], kind="stable")
    start_key, end_key = keys[by_start, 0], keys[by_end, 1]
    start_rank = np.arange(k) - np.searchsorted(start_key, start_key)
    end_rank = np.arange(k) - np.searchsorted(end_key, end_key)
    slot = np.searchsorted(start_key, end_key) + end_rank
    matched = slot < k
    matched[matched] &= start_key[slot[matched]] == end_key[matched]
    matched[matched] &= start_rank[slot[matched]] == end_rank[matched]
    after = np.full(k, -1, dtype=np.int64)
    after[by_end[matched]] = by_start[slot[matched]]
    follows = after.tolist()
    has_before = np.zeros(k, dtype=bool)
    has_before[after[after >= 0]] = True
    seen = bytearray(k)
    chains: list[tuple[Ints, bool]] = []
    for begin in [*np.flatnonzero(~has_before).tolist(), *range(k)]:
        if seen[begin]:
            continue
        chain, here = [], begin
        while here >= 0 and not seen[here]:
            seen[here] = 1
            chain.append(here)
            here = follows[here]
        chains.append((np.array(chain, dtype=np.int64), here == begin))
    return chains


def cut(meshes: list[Mesh], plane: Plane) -> Section:
    """The section of several bodies by one plane; each body's area is taken by the NonZero rule, then they add up."""
    loops: list[Loop] = []
    rings: list[Floats] = []
    for number, mesh in enumerate(meshes):
        height = heights(mesh.vertices, plane)
        if not len(height) or height.min() >= 0 or height.max() < 0:
            continue
        own = loops_of(mesh, plane)
        if not all(loop.closed for loop in own) or sum(loop.area for loop in own) < 0:
            # Only a winding that disagrees or looks inwards makes chains of a closed surface; most meshes need no second look.
            own = loops_of(outward(mesh), plane)
        loops += [replace(loop, body=number) for loop in own]
        rings += _filled(own, plane)
    return section_of(tuple(loops), rings, plane)


def section_of(loops: tuple[Loop, ...], rings: list[Floats], plane: Plane) -> Section:
    """A section with its figures. rings : (k, 2) each in the plane's frame, whose signed areas add up to that of the material"""
    perimeter = sum(_length(loop) for loop in loops)
    open_length = sum(_length(loop) for loop in loops if not loop.closed)
    area, centroid, second = moments_of(rings)
    if area <= 0 or centroid is None:
        return Section(plane, loops, max(area, 0.0), perimeter, None, open_length)
    u, v = plane.frame()
    return Section(plane, loops, area, perimeter, plane.point + centroid[0] * u + centroid[1] * v, open_length, second)


def moments_of(rings: list[Floats]) -> tuple[float, Floats | None, Floats | None]:
    """(area, centroid (2,), second moments (2, 2) about it) of a flat region within rings (k, 2), outer ones counter-clockwise.

    C. Steger, "On the calculation of arbitrary moments of polygons" (1996). Each ring is summed about its own middle, so that one
    far out keeps its digits.
    """
    total, first, second = 0.0, np.zeros(2), np.zeros((2, 2))
    if not rings:
        return 0.0, None, None
    base = np.mean([ring.mean(axis=0) for ring in rings], axis=0)
    for ring in rings:
        middle = ring.mean(axis=0)
        here = ring - middle
        ahead = np.roll(here, -1, axis=0)
        twice = here[:, 0] * ahead[:, 1] - here[:, 1] * ahead[:, 0]
        area = float(twice.sum()) / 2
        lean = (twice[:, None] * (here + ahead)).sum(axis=0) / 6
        both = here + ahead
        spread = np.einsum("i,ij,ik->jk", twice, both, both) + np.einsum("i,ij,ik->jk", twice, here, here)
        spread = (spread + np.einsum("i,ij,ik->jk", twice, ahead, ahead)) / 24
        off = middle - base
        total += area
        first += lean + area * off
        second += spread + np.outer(off, lean) + np.outer(lean, off) + area * np.outer(off, off)
    if total <= 0:
        return total, None, None
    centre = first / total
    return total, base + centre, second - total * np.outer(centre, centre)


def loops_of(mesh: Mesh, plane: Plane, among: Ints | None = None) -> list[Loop]:
    """The outlines of one mesh whose winding agrees. among : as for `segments`"""
    pieces, keys = segments(mesh, plane, among)
    out = []
    for chain, is_closed in chained(keys):
        points = pieces[chain, 0]
        if not is_closed:
            points = np.concatenate([points, pieces[chain[-1:], 1]])
        if is_closed and len(points) < 3:
            continue
        area = _signed_area(points, plane) if is_closed else 0.0
        loop = Loop(points, is_closed, area)
        if is_closed and abs(area) <= _NOTHING * _length(loop) ** 2:
            # Where a body only touches the plane with an edge, its outline runs to and fro.
            continue
        out.append(loop)
    return out


def _signed_area(points: Points, plane: Plane) -> float:
    # From the loop's own middle, so that a loop far out keeps its digits.
    away = points - points.mean(axis=0)
    crossed = np.cross(away, np.roll(away, -1, axis=0)).sum(axis=0)
    return float(crossed @ plane.normal / 2)


def _length(loop: Loop) -> float:
    ahead = np.roll(loop.points, -1, axis=0) if loop.closed else loop.points[1:]
    return float(np.linalg.norm(ahead - loop.points[: len(ahead)], axis=1).sum())


def _filled(loops: list[Loop], plane: Plane) -> list[Floats]:
    """Rings (k, 2) in the plane's frame whose signed areas add up to the material of one body.

    Those of its closed loops, unless loops of one body overlap (a body within a body); then the NonZero fill counts.
    """
    closed = [loop for loop in loops if loop.closed]
    if not closed:
        return []
    rings = [flat(loop.points, plane) for loop in closed]
    shape = manifold3d.CrossSection(rings, manifold3d.FillRule.NonZero)
    scale = sum(abs(loop.area) for loop in closed)
    if abs(float(shape.area()) - sum(loop.area for loop in closed)) > 1e-6 * scale + 1e-9:
        return [np.asarray(ring) for ring in shape.to_polygons()]
    return rings
