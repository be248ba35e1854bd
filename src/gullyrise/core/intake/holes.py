"""Closing the holes of an open surface: flat ones of any size, small ones of any shape."""

from __future__ import annotations

import manifold3d
import numpy as np

from gullyrise.core.geometry import Mesh, Points
from gullyrise.core.geometry.arrays import Bools, Floats, Ints
from gullyrise.core.geometry.topology import edges_of
from gullyrise.core.intake.health import degenerate_faces
from gullyrise.core.intake.shells import shells_in

_FLAT_SHARE = 1e-3
_MOST_CORNERS = 48
_SMALL_SHARE = 0.25


def borders(mesh: Mesh) -> list[Ints]:
    """The borders of a surface as rings of vertices, each run so that a face filling it would be wound like its neighbours.

    Rings that meet in a vertex are taken apart there, so that each goes between one sheet of faces and the next; a border that
    does not come back to its start, since faces beside it are wound against one another, is left out.
    """
    edges = edges_of(mesh)
    half = np.flatnonzero((edges.of >= 0) & (edges.uses[np.maximum(edges.of, 0)] == 1))
    start = mesh.faces.reshape(-1)[half]
    end = np.roll(mesh.faces, -1, axis=1).reshape(-1)[half]
    onward: dict[int, list[tuple[int, int]]] = {}
    # A filling face runs along the border against the face that is there.
    for here, there, face in zip(end.tolist(), start.tolist(), (half // 3).tolist(), strict=True):
        onward.setdefault(here, []).append((there, face))
    sheets = _sheets(mesh, np.array([vertex for vertex, ways in onward.items() if len(ways) > 1], dtype=np.int64))
    found: list[Ints] = []
    # By a list of its own: to find the first of a dictionary that is emptied from its front takes longer and longer.
    starts = list(onward)
    while starts:
        if starts[-1] not in onward:
            starts.pop()
            continue
        ring = [starts[-1]]
        at, beside = {ring[0]: 0}, -1
        while True:
            ways = onward.get(ring[-1])
            if not ways:
                # A dead end: nothing on this run can be closed.
                onward.pop(ring[-1], None)
                break
            # Across the gap to the next sheet, not round the one that it came along: a face alone in a hole is no island then.
            here = sheets.get((ring[-1], beside), -1)
            way = next((k for k, (_, face) in enumerate(ways) if sheets.get((ring[-1], face), -1) != here), len(ways) - 1)
            following, beside = ways.pop(way)
            if not ways:
                del onward[ring[-1]]
            if following in at:
                first = at[following]
                found.append(np.array(ring[first:], dtype=np.int64))
                for vertex in ring[first + 1 :]:
                    del at[vertex]
                del ring[first + 1 :]
                if len(ring) == 1 and ring[0] not in onward:
                    break
                continue
            at[following] = len(ring)
            ring.append(following)
    return [ring for ring in found if len(ring) >= 3]


def _sheets(mesh: Mesh, vertices: Ints) -> dict[tuple[int, int], int]:
    """Of each face at some vertices, by (vertex, face), which of the sheets that meet there it belongs to: faces that hang
    together by edges."""
    out: dict[tuple[int, int], int] = {}
    met = np.isin(mesh.faces, vertices)
    around: dict[int, list[int]] = {}
    for face, corner in np.argwhere(met).tolist():
        around.setdefault(int(mesh.faces[face, corner]), []).append(face)
    for vertex, faces in around.items():
        over: dict[int, list[int]] = {}
        for face in faces:
            for other in mesh.faces[face].tolist():
                if other != vertex:
                    over.setdefault(other, []).append(face)
        for number, first in enumerate(faces):
            waiting = [] if (vertex, first) in out else [first]
            while waiting:
                face = waiting.pop()
                if (vertex, face) not in out:
                    out[vertex, face] = number
                    waiting += [
                        one for other in mesh.faces[face].tolist() if len(over.get(other, ())) == 2 for one in over[other]
                    ]
    return out


def close_holes(mesh: Mesh) -> tuple[Mesh, int]:
    """Flat holes of any size, holes within holes of one plane together, and others of up to 48 corners that reach over no more
    than a quarter of the part. Counted: borders that were closed; those that stay are left as they were, such as those that
    nothing fills but faces that would make a third at an edge, are duplicates, have no area or run through others. A shell that
    turns out to be inside out, which nobody could tell while it was open, is turned."""
    rings = borders(mesh) if len(mesh.faces) else []
    if not rings:
        return mesh, 0
    fresh: list[tuple[Ints, int]] = []
    room = _Room(mesh)
    flat: list[tuple[Ints, Points, Points]] = []
    for ring in rings:
        points = mesh.vertices[ring]
        reach = float(np.linalg.norm(np.ptp(points, axis=0)))
        normal = _normal(points)
        off = np.abs((points - points.mean(axis=0)) @ normal).max()
        if np.linalg.norm(normal) > 0 and off <= _FLAT_SHARE * reach:
            flat.append((ring, points.mean(axis=0), normal))
        elif len(ring) <= _MOST_CORNERS and reach <= _SMALL_SHARE * mesh.box.diagonal:
            filling = room.avoiding(ring)
            if filling is not None:
                fresh.append((filling, 1))
    for group in _by_plane(flat, mesh.box.diagonal):
        made = _filled(mesh.vertices, group)
        if made is not None and room.takes(made):
            fresh.append((made, len(group)))
            continue
        alone = group[0][0]
        filling = room.avoiding(alone) if len(group) == 1 and len(alone) <= _MOST_CORNERS else None
        if filling is not None:
            fresh.append((filling, 1))
    kept = _uncrossed(mesh, fresh)
    closed = sum(count for _, count in kept)
    if not closed:
        return mesh, 0
    whole = Mesh(mesh.vertices, np.concatenate([mesh.faces, *(faces for faces, _ in kept)]).astype(np.int32))
    shells = shells_in(whole)
    fresh_ones = np.zeros(shells.count, dtype=bool)
    fresh_ones[shells.of[len(mesh.faces) :]] = True
    turn = shells.faces(shells.inside_out & fresh_ones)
    faces = whole.faces.copy()
    faces[turn] = faces[turn][:, ::-1]
    return Mesh(whole.vertices, faces), closed


def _uncrossed(mesh: Mesh, fillings: list[tuple[Ints, int]]) -> list[tuple[Ints, int]]:
    """Those fillings, (faces, borders that they close) each, that run through no surface that is there or comes in with them."""
    from gullyrise.core.intake.crossings import crossings_of

    if not fillings:
        return []
    made = np.concatenate([faces for faces, _ in fillings])
    places = mesh.vertices[made]
    low, high = places.min(axis=(0, 1)), places.max(axis=(0, 1))
    corners = mesh.triangles()
    near = np.flatnonzero(((corners.min(axis=1) <= high) & (corners.max(axis=1) >= low)).all(axis=1))
    both = Mesh(mesh.vertices, np.concatenate([mesh.faces[near], made]).astype(np.int32))
    pairs = crossings_of(both).pairs
    owner = np.repeat(np.arange(len(fillings)), [len(faces) for faces, _ in fillings])
    crossed = np.unique(owner[pairs[pairs >= len(near)] - len(near)])
    return [filling for number, filling in enumerate(fillings) if number not in set(crossed.tolist())]


def _normal(points: Points) -> Floats:
    """The unit normal of a ring by its area vector (Newell), zero for one without area."""
    away = points - points.mean(axis=0)
    vector = np.cross(away, np.roll(away, -1, axis=0)).sum(axis=0)
    length = float(np.linalg.norm(vector))
    return np.asarray(vector / length) if length > 1e-12 * float((away**2).sum()) else np.zeros(3)


def _by_plane(flat: list[tuple[Ints, Points, Points]], diagonal: float) -> list[list[tuple[Ints, Points, Points]]]:
    """Rings that lie in one plane, whichever way round they run, together."""
    groups: list[list[tuple[Ints, Points, Points]]] = []
    for ring in sorted(flat, key=lambda one: -len(one[0])):
        for group in groups:
            normal, middle = group[0][2], group[0][1]
            near = abs(float((ring[1] - middle) @ normal)) <= 1e-5 * diagonal
            if near and abs(float(ring[2] @ normal)) > 1 - 1e-6:
                group.append(ring)
                break
        else:
            groups.append([ring])
    return groups


def _filled(vertices: Points, group: list[tuple[Ints, Points, Points]]) -> Ints | None:
    """Triangles that fill rings of one plane: inner borders of the other direction stay open inside outer ones. None where the
    rings cross."""
    areas = [np.linalg.norm(np.cross(p := vertices[r] - m, np.roll(p, -1, axis=0)).sum(axis=0)) for r, m, _ in group]
    normal = group[int(np.argmax(areas))][2]
    drop = int(np.argmax(np.abs(normal)))
    u, v = ((1, 2), (2, 0), (0, 1))[drop]
    mirror = np.array([np.sign(normal[drop]), 1.0])
    flats = [vertices[ring][:, [u, v]] * mirror for ring, _, _ in group]
    every = np.concatenate([ring for ring, _, _ in group])
    made = np.asarray(manifold3d.triangulate(flats), dtype=np.int64).reshape(-1, 3)
    # With every corner used, a filling of r rings, o of them outer, has n - 2 o + 2 (r - o) triangles.
    outer = sum(float(ring[2] @ normal) > 0 for ring in group)
    if len(made) != len(every) - 2 * outer + 2 * (len(group) - outer):
        return None
    return np.asarray(every[made])


class _Room:
    """Which edges have room for one more face, while holes are being closed."""

    def __init__(self, mesh: Mesh) -> None:
        self._vertices, self._count = mesh.vertices, len(mesh.vertices)
        edges = edges_of(mesh)
        keys = edges.ends[:, 0].astype(np.int64) * self._count + edges.ends[:, 1]
        order = np.argsort(keys)
        self._keys, self._uses = keys[order], edges.uses[order]
        of = edges.of.reshape(-1, 3)
        alone = (of >= 0).all(axis=1) & (edges.uses[np.maximum(of, 0)] == 1).all(axis=1)
        self._alone = {tuple(face) for face in np.sort(mesh.faces[alone], axis=1).tolist()}
        """Faces that nothing adjoins: what fills their border is the same face once more."""
        self._more: dict[int, int] = {}

    def _used(self, keys: Ints) -> Ints:
        """(n,) how many faces there are at edges."""
        at = np.minimum(np.searchsorted(self._keys, keys), len(self._keys) - 1)
        found = np.where(self._keys[at] == keys, self._uses[at], 0)
        return np.asarray(found + [self._more.get(key, 0) for key in keys.tolist()], dtype=np.int64)

    def takes(self, faces: Ints) -> bool:
        """Whether these faces, (n, 3) vertices, can come in; then they are in."""
        sides = np.sort(np.stack([faces, np.roll(faces, -1, axis=1)], axis=-1).reshape(-1, 2), axis=1)
        keys, uses = np.unique(sides[:, 0] * self._count + sides[:, 1], return_counts=True)
        if any(tuple(face) in self._alone for face in np.sort(faces, axis=1).tolist()):
            return False
        if (self._used(keys) + uses > 2).any() or degenerate_faces(Mesh(self._vertices, faces.astype(np.int32))).any():
            return False
        for key, use in zip(keys.tolist(), uses.tolist(), strict=True):
            self._more[key] = self._more.get(key, 0) + use
        return True

    def avoiding(self, ring: Ints) -> Ints | None:
        """The faces of least area over a ring that run along no edge that is there already; None where there are none."""
        one, other = np.meshgrid(ring, ring, indexing="ij")
        keys = np.minimum(one, other).astype(np.int64) * self._count + np.maximum(one, other)
        taken = self._used(keys.reshape(-1)).reshape(keys.shape) > 0
        faces = ring[_least_area(self._vertices[ring], taken)]
        return faces if self.takes(faces) else None


def _least_area(points: Points, taken: Bools) -> Ints:
    """(n - 2, 3) corner numbers of the triangles over a ring of n points in space whose areas add up to the least, along as few
    chords as can be that are `taken`, (n, n).

    Notes: over all ways to split the ring, n**3 steps (G. Barequet, M. Sharir, CAGD 12, 1995).
    """
    n = len(points)
    dear = 1e6 * float(np.ptp(points, axis=0).max()) ** 2
    least = np.zeros((n, n))
    split = np.zeros((n, n), dtype=np.int64)
    for width in range(2, n):
        for i in range(n - width):
            k = i + width
            between = np.arange(i + 1, k)
            area = np.linalg.norm(np.cross(points[between] - points[i], points[k] - points[i]), axis=1) / 2
            cost = least[i, between] + least[between, k] + area
            best = int(np.argmin(cost))
            least[i, k], split[i, k] = cost[best] + dear * bool(taken[i, k] and width < n - 1), between[best]
    out: list[tuple[int, int, int]] = []
    waiting = [(0, n - 1)]
    while waiting:
        i, k = waiting.pop()
        if k - i >= 2:
            j = int(split[i, k])
            out.append((i, j, k))
            waiting += [(i, j), (j, k)]
    return np.array(out, dtype=np.int64)
