"""Inside edges and corners of a solid: where its surface bends into the material, and in which directions a ball may lie there.

A ball inside touches the middle of a face along that face's normal only. At an inside edge it may lie anywhere in the fan between
the normals of both faces, at an inside corner anywhere in the cone that all edges there leave free: so a web between two of those
is seen from there and from no face.

Source: the polar cone of a surface's tangents, H. Federer, Curvature measures, Trans. AMS 93 (1959); which side of an edge or
corner is material tells the angle-weighted normal, J. A. Baerentzen, H. Aanaes, Signed distance computation using the angle
weighted pseudonormal, IEEE TVCG 11 (2005).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from gullyrise.core.geometry.arrays import Bools, Floats, Ints, Points, unit_rows
from gullyrise.core.geometry.mesh import Mesh
from gullyrise.core.geometry.slivers import slim
from gullyrise.core.geometry.topology import Edges

FAN_STEP = np.radians(15.0)
"""Between directions asked at an edge; at corners about twice that. What lies between them is found by going downhill."""
_AROUND = 160
_SLACK = 1e-6
_PORTION = 4_000
_MOST_AT_CORNER = 24
_DEEPEST = 0.05
_BARELY = np.radians(0.05)


@dataclass(frozen=True, slots=True, eq=False)
class InsideEdges:
    """k edges that bend into the material.

    edge : (k,) number among the mesh's edges
    ends : (k, 2) vertices
    faces : (k, 2) on both sides
    bend : (k,) radians between the faces' normals
    middle : (k, 3) unit, into the material half-way between the faces
    along : (k, 3) unit
    """

    edge: Ints
    ends: Ints
    faces: Ints
    bend: Floats
    middle: Points
    along: Points

    def take(self, which: np.ndarray) -> InsideEdges:
        """Some of them. which : (k,) their numbers, or (n,) whether each is one"""
        return InsideEdges(*(getattr(self, name)[which] for name in InsideEdges.__dataclass_fields__))

    def direction(self, share: Floats) -> Points:
        """(k, 3) into the material: at -1 along the inward normal of one face, at 0 half-way, at 1 along that of the other."""
        turn = share * self.bend / 2
        side = np.cross(self.along, self.middle)
        return np.asarray(self.middle * np.cos(turn)[:, None] + side * np.sin(turn)[:, None])


@dataclass(frozen=True, slots=True, eq=False)
class Asked:
    """Places where a ball inside may touch, n of them: points, and `normals` against which it lies, as at the middle of a face.

    face : (n,) one that meets there
    """

    points: Points
    normals: Points
    face: Ints

    def take(self, which: np.ndarray) -> Asked:
        """Some of them. which : (k,) their numbers, or (n,) whether each is one"""
        return Asked(*(getattr(self, name)[which] for name in Asked.__dataclass_fields__))

    def __len__(self) -> int:
        return len(self.points)


def nothing_asked() -> Asked:
    """Where no edge asks for anything."""
    return Asked(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros(0, dtype=np.int64))


def joined_asked(parts: list[Asked]) -> Asked:
    """Several in one, in their order."""
    return Asked(*(np.concatenate([getattr(part, name) for part in parts]) for name in Asked.__dataclass_fields__))


def inside_edges(mesh: Mesh, edges: Edges, least_bend: float = _BARELY) -> InsideEdges:
    """Edges of two faces that bend into the material by at least so many radians. Winding has to agree, the outside out."""
    a, b = edges.pairs[:, 0], edges.pairs[:, 1]
    normals, areas = mesh.normals(), mesh.face_areas()
    apart = np.linalg.norm(normals[a] - normals[b], axis=1) / 2
    sound = (areas > 0) & ~slim(mesh)
    near = np.flatnonzero((apart >= np.sin(least_bend / 2)) & sound[a] & sound[b])
    a, b, edge = a[near], b[near], edges.pair_edge[near]
    ends = edges.ends[edge]
    start = mesh.vertices[ends[:, 0]]
    along = unit_rows(mesh.vertices[ends[:, 1]] - start)
    into_a, into_b = (_into(mesh, face, start, along) for face in (a, b))
    hollow = np.einsum("ij,ij->i", normals[a], into_b) > 0
    a, b, edge, ends, along, into_a, into_b = (x[hollow] for x in (a, b, edge, ends, along, into_a, into_b))
    bend = 2 * np.arcsin(np.clip(apart[near][hollow], 0, 1))
    # Of the two sums one always is well away from nothing: the normals' at a gentle bend, the faces' own at a deep crack.
    middle = unit_rows(-(normals[a] + normals[b]) - (into_a + into_b))
    return InsideEdges(edge, ends, np.column_stack([a, b]), bend, middle, along)


def _into(mesh: Mesh, face: Ints, start: Points, along: Points) -> Points:
    """(k, 3) unit, from an edge into the plane of a face at it."""
    corners = mesh.vertices[mesh.faces[face]] - start[:, None]
    away = corners - np.einsum("ijk,ik->ij", corners, along)[:, :, None] * along[:, None]
    farthest = np.argmax(np.einsum("ijk,ijk->ij", away, away), axis=1)
    return unit_rows(away[np.arange(len(face)), farthest])


def steepness(bend: Floats, facets: Floats | float = 0.0) -> Floats:
    """By how much farther the edge of two faces moves than they do, each along its own normal: a deep crack's foot far.

    facets : radians that the faces' own surfaces may turn by where they are facets of something round
    """
    return np.asarray(1 / np.maximum(np.cos(np.minimum(bend / 2 + facets / 2, np.pi / 2)), _DEEPEST))


def along_edges(mesh: Mesh, inside: InsideEdges, spacing: float) -> Asked:
    """Places every so many mm along inside edges, at least one each, in the directions of their fans."""
    if not len(inside.edge):
        return nothing_asked()
    start, end = mesh.vertices[inside.ends[:, 0]], mesh.vertices[inside.ends[:, 1]]
    many = np.ceil(np.linalg.norm(end - start, axis=1) / spacing).astype(np.int64).clip(1)
    steps = np.ceil(inside.bend / FAN_STEP).astype(np.int64).clip(1)
    each = many * steps
    which = np.repeat(np.arange(len(each)), each)
    number = np.arange(len(which)) - np.repeat(np.cumsum(each) - each, each)
    place, step = number // steps[which], number % steps[which]
    share = (place + 0.5) / many[which]
    points = start[which] + share[:, None] * (end - start)[which]
    # A gentle bend is asked half-way, a sharp one from one face's normal to the other's.
    turn = np.where(steps[which] == 1, 0.0, 2 * step / np.maximum(steps[which] - 1, 1) - 1)
    directions = inside.take(which).direction(turn)
    return Asked(points, -directions, inside.faces[which, 0])


def inside_corners(mesh: Mesh, inside: InsideEdges, least_spread: float) -> Ints:
    """Vertices of inside edges, where some face's normal is so many radians and more off their mean: the foot of a shallow point
    has many faces that bend gently into each other, and a wide cone all the same."""
    touched = np.zeros(len(mesh.vertices), dtype=bool)
    touched[inside.ends.reshape(-1)] = True
    outward, _ = _weighted_normals(mesh)
    least = np.ones(len(mesh.vertices))
    sound = np.flatnonzero(~slim(mesh))
    normals, faces = mesh.normals()[sound], mesh.faces[sound]
    for k in range(3):
        np.minimum.at(least, faces[:, k], np.einsum("ij,ij->i", normals, outward[faces[:, k]]))
    return np.flatnonzero(touched & (least < np.cos(least_spread)))


def at_corners(mesh: Mesh, edges: Edges, corner: Ints) -> Asked:
    """Vertices, rising, asked in the directions that all edges there leave free.

    Notes: a direction is free where no edge at the corner goes its way; it is inward where the angle-weighted normal says so.
    """
    if not len(corner):
        return nothing_asked()
    outward, one_face = _weighted_normals(mesh)
    both = np.concatenate([edges.ends, edges.ends[:, ::-1]])
    place = np.full(len(mesh.vertices), -1, dtype=np.int64)
    place[corner] = np.arange(len(corner))
    both = both[place[both[:, 0]] >= 0]
    both = both[np.argsort(place[both[:, 0]], kind="stable")]
    away = unit_rows(mesh.vertices[both[:, 1]] - mesh.vertices[both[:, 0]])
    first = np.searchsorted(place[both[:, 0]], np.arange(len(corner) + 1))
    ways = _around(_AROUND)
    found: list[Asked] = []
    for low in range(0, len(corner), _PORTION):
        some = corner[low : low + _PORTION]
        edge = away[first[low] : first[low + len(some)]]
        heads = first[low : low + len(some) + 1] - first[low]
        of = np.repeat(np.arange(len(some)), np.diff(heads))
        # (corners, directions): no edge may go along a free direction.
        free = (np.maximum.reduceat(edge @ ways.T, heads[:-1]) <= _SLACK) & (outward[some] @ ways.T < 0)
        middle = _best_way(edge, of, len(some), outward[some])
        held = np.maximum.reduceat(np.einsum("ij,ij->i", edge, middle[of]), heads[:-1])
        own = (held <= _SLACK) & (np.einsum("ij,ij->i", outward[some], middle) < 0)
        at, way = np.nonzero(_thinned(free))
        points = np.concatenate([mesh.vertices[some[own]], mesh.vertices[some[at]]])
        vertex = np.concatenate([some[own], some[at]])
        found.append(Asked(points, -np.concatenate([middle[own], ways[way]]), one_face[vertex]))
    return joined_asked(found)


def _thinned(free: Bools) -> Bools:
    """At most so many directions of each corner, evenly taken."""
    many = free.sum(axis=1)
    every = np.maximum(1, -(-many // _MOST_AT_CORNER))
    return np.asarray(free & ((np.cumsum(free, axis=1) - 1) % every[:, None] == 0))


def _best_way(edge: Points, of: Ints, count: int, outward: Points) -> Points:
    """(count, 3) unit: away from all edges of each corner, which of a slim cone is the only free direction that is met."""
    total = np.column_stack([np.bincount(of, edge[:, k], count) for k in range(3)])
    way = -total
    lost = np.linalg.norm(way, axis=1) < 1e-6
    way[lost] = -outward[lost]
    return unit_rows(np.asarray(way, dtype=np.float64))


def _around(count: int) -> Points:
    """(count, 3) directions all round, even (a Fibonacci spiral: A. Gonzalez, Mathematical Geosciences 42, 2010)."""
    step = np.arange(count) + 0.5
    height = 1 - 2 * step / count
    turn = np.pi * (1 + 5**0.5) * step
    level = np.sqrt(1 - height**2)
    return np.column_stack([np.cos(turn) * level, np.sin(turn) * level, height])


def _weighted_normals(mesh: Mesh) -> tuple[Points, Ints]:
    """(angle-weighted normal of each vertex (n, 3), a face at each (n,))."""
    corners = mesh.triangles()
    normals = np.where(slim(mesh)[:, None], 0.0, mesh.normals())
    out = np.zeros((len(mesh.vertices), 3))
    face = np.zeros(len(mesh.vertices), dtype=np.int64)
    for k in range(3):
        u, v = (unit_rows(corners[:, (k + step) % 3] - corners[:, k]) for step in (1, 2))
        angle = np.arccos(np.clip(np.einsum("ij,ij->i", u, v), -1, 1))
        for axis in range(3):
            out[:, axis] += np.bincount(mesh.faces[:, k], normals[:, axis] * angle, len(out))
        face[mesh.faces[:, k]] = np.arange(len(mesh.faces))
    return unit_rows(out), face


def pinched(mesh: Mesh, edges: Edges) -> tuple[Points, Ints]:
    """(place (k, 3), a face at it (k,)) of edges and corners where material touches itself with no thickness: edges of four faces
    and more, of which the middle is told, and vertices that join pieces of surface that no edge joins."""
    many = np.flatnonzero(edges.uses >= 4)
    face_of = np.full(len(edges.uses), -1, dtype=np.int64)
    known = edges.of >= 0
    face_of[edges.of[known]] = np.flatnonzero(known) // 3
    points = mesh.vertices[edges.ends[many]].mean(axis=1)
    corner, face = _pinched_corners(mesh, edges)
    on_edge = np.zeros(len(mesh.vertices), dtype=bool)
    on_edge[edges.ends[many].reshape(-1)] = True
    kept = ~on_edge[corner]
    return np.concatenate([points, mesh.vertices[corner[kept]]]), np.concatenate([face_of[many], face[kept]])


def _pinched_corners(mesh: Mesh, edges: Edges) -> tuple[Ints, Ints]:
    """(vertices, a face at each) round which the faces fall into several fans. Half of them may be the border of a hole."""
    m = len(mesh.faces)
    # A node for each corner of each face; corners of one vertex are joined over the edges that faces share there. A half-edge is
    # named as the corner that it starts from.
    half = np.flatnonzero(edges.of >= 0)
    order = half[np.argsort(edges.of[half], kind="stable")]
    same = edges.of[order][1:] == edges.of[order][:-1]
    a, b = order[:-1][same], order[1:][same]
    start = mesh.faces.reshape(-1)
    following = np.arange(3 * m).reshape(-1, 3)[:, [1, 2, 0]].reshape(-1)
    alike = start[a] == start[b]
    rows = np.concatenate([a, following[a]])
    columns = np.concatenate([np.where(alike, b, following[b]), np.where(alike, following[b], b)])
    graph = coo_array((np.ones(len(rows), dtype=np.int8), (rows, columns)), shape=(3 * m, 3 * m))
    fans, fan = connected_components(graph, directed=False)
    vertex = np.zeros(fans, dtype=np.int64)
    vertex[fan] = start
    count = np.bincount(vertex, minlength=len(mesh.vertices))
    border = np.zeros(len(mesh.vertices), dtype=bool)
    border[edges.ends[edges.uses == 1].reshape(-1)] = True
    corner = np.flatnonzero((count > 1) & ~border)
    face = np.zeros(len(mesh.vertices), dtype=np.int64)
    face[start] = np.arange(3 * m) // 3
    return corner, face[corner]
