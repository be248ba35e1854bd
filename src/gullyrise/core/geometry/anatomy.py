"""What a person points at on a body: its faces, its edges, its corners."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from gullyrise.core.geometry.arrays import Bools, Ints, Points, frozen, unit_rows
from gullyrise.core.geometry.mesh import Mesh
from gullyrise.core.geometry.topology import Edges, edges_of

CREASE = 30.0
"""Degrees of bend from which an edge of a mesh is one that a person sees."""
_FLAT = 1.0
_FLAT_TOGETHER = 2.0
_OFF_PLANE = 2e-3
_LEAST_SHARE = 5e-3
_LEAST_PAIR = 0.03
_LEAST_GROUP = 8
_MOST_LOOKS = 8
_MOST_SEGMENTS = 200_000


@dataclass(frozen=True, slots=True, eq=False)
class Anatomy:
    """The pieces of a body's surface.

    face_of : (m,) int32, the face that each triangle belongs to: of a solid its true face, of a mesh its flat region
    segments : (s, 2, 3) mm, straight pieces of the edges
    edge_of : (s,) int32, the edge that each belongs to
    corners : (c, 3) mm, where edges end or turn sharply
    """

    face_of: NDArray[np.int32]
    segments: Points
    edge_of: NDArray[np.int32]
    corners: Points

    def __post_init__(self) -> None:
        object.__setattr__(self, "face_of", frozen(self.face_of, np.int32))
        object.__setattr__(self, "segments", frozen(self.segments, np.float64))
        object.__setattr__(self, "edge_of", frozen(self.edge_of, np.int32))
        object.__setattr__(self, "corners", frozen(self.corners, np.float64))

    def scaled(self, factor: float) -> Anatomy:
        """Of the same body, larger by one factor."""
        return Anatomy(self.face_of, self.segments * factor, self.edge_of, self.corners * factor)


def anatomy_of(mesh: Mesh) -> Anatomy:
    """The anatomy of a mesh: flat regions, creases of 30 degrees and more, borders, and the corners where those meet."""
    edges = edges_of(mesh)
    face_of = flat_regions(mesh, edges)
    ends = edges.ends[_seen_edges(mesh, edges)]
    if len(ends) > _MOST_SEGMENTS:
        # So many creases are noise: drawn, they would cover the part.
        ends = ends[:0]
    edge_of, corner = _runs(mesh, ends)
    return Anatomy(face_of, mesh.vertices[ends], edge_of, mesh.vertices[corner])


def _bends(mesh: Mesh, edges: Edges) -> tuple[Points, Bools]:
    """Degrees between the two faces of each pair, and which pairs have two sound faces."""
    normals = mesh.normals()
    a, b = normals[edges.pairs[:, 0]], normals[edges.pairs[:, 1]]
    sound = (np.abs(a).sum(axis=1) > 0) & (np.abs(b).sum(axis=1) > 0)
    return np.degrees(2 * np.arcsin(np.clip(np.linalg.norm(a - b, axis=1) / 2, 0, 1))), sound


def _seen_edges(mesh: Mesh, edges: Edges) -> Bools:
    bend, sound = _bends(mesh, edges)
    seen = edges.uses != 2
    seen[edges.pair_edge] = (bend >= CREASE) & sound
    return np.asarray(seen)


def flat_regions(mesh: Mesh, edges: Edges) -> NDArray[np.int32]:
    """(m,) int32 flat region of each face: faces that hang together within two degrees and two thousandths of their extent
    of one plane. A face that is flat with no neighbour is a region of its own.

    Notes: faces over edges that bend by less than a degree are joined; a group that proves curved is taken apart again from
    its largest face outwards, as long as that gives flats of half a per cent of it, or of three where they are but two or
    three faces; what is left stands alone. Each face is looked at eight times at most, all in all.
    """
    m = len(mesh.faces)
    bend, sound = _bends(mesh, edges)
    links = edges.pairs[(bend < _FLAT) & sound]
    label = _components(m, links)
    areas, normals = mesh.face_areas(), mesh.normals()
    count = int(label.max()) + 1 if m else 0
    curved = _curved(mesh, label, count)
    fresh = count
    order = np.flatnonzero(curved & (np.bincount(label, minlength=count) >= _LEAST_GROUP))
    order = order[np.argsort(-np.bincount(label, weights=areas, minlength=count)[order], kind="stable")]
    inside_curved = curved[label] if m else np.zeros(0, dtype=bool)
    out = label.copy()
    out[inside_curved] = -1
    looks = _MOST_LOOKS * m
    middles = mesh.centroids() if len(order) else np.zeros((0, 3))
    neighbours = coo_array((np.ones(len(links), dtype=np.int8), (links[:, 0], links[:, 1])), shape=(m, m)).tocsr()
    by_label = np.argsort(label, kind="stable") if len(order) else label
    heads = np.cumsum(np.bincount(label, minlength=count)) if m else label
    for group in order:
        members = np.sort(by_label[heads[group - 1] if group else 0 : heads[group]])
        whole = areas[members].sum()
        while len(members) > 1 and looks > 0:
            looks -= len(members)
            seed = members[np.argmax(areas[members])]
            near = normals[members] @ normals[seed] > np.cos(np.radians(_FLAT))
            off = np.abs((middles[members] - middles[seed]) @ normals[seed])
            near &= off <= _OFF_PLANE * np.sqrt(areas[seed]) * 4
            close = members[near]
            _, piece = connected_components(neighbours[close][:, close], directed=False)
            taken = piece == piece[np.searchsorted(close, seed)]
            few = np.count_nonzero(taken) < 4
            if np.count_nonzero(taken) < 2 or areas[close[taken]].sum() < (_LEAST_PAIR if few else _LEAST_SHARE) * whole:
                break
            out[close[taken]] = fresh
            fresh += 1
            near[np.flatnonzero(near)[~taken]] = False
            members = members[~near]
    alone = np.flatnonzero(out < 0)
    out[alone] = fresh + np.arange(len(alone))
    return np.asarray(np.unique(out, return_inverse=True)[1].astype(np.int32)).reshape(-1)


def _components(m: int, links: Ints) -> Ints:
    graph = coo_array((np.ones(len(links), dtype=np.int8), (links[:, 0], links[:, 1])), shape=(m, m))
    return np.asarray(connected_components(graph, directed=False)[1], dtype=np.int64)


def _curved(mesh: Mesh, label: Ints, count: int) -> Bools:
    """(count,) which groups of faces are in no plane."""
    cross = mesh.cross()
    mean = unit_rows(np.column_stack([np.bincount(label, weights=cross[:, k], minlength=count) for k in range(3)]))
    lean = np.einsum("ij,ij->i", mesh.normals(), mean[label])
    worst = np.ones(count)
    real = mesh.face_areas() > 0
    np.minimum.at(worst, label[real], lean[real])
    height = np.einsum("ij,ij->i", mesh.centroids(), mean[label])
    high, low = np.full(count, -np.inf), np.full(count, np.inf)
    np.maximum.at(high, label, height)
    np.minimum.at(low, label, height)
    extent = np.sqrt(np.bincount(label, weights=mesh.face_areas(), minlength=count))
    return np.asarray((worst < np.cos(np.radians(_FLAT_TOGETHER))) | (high - low > _OFF_PLANE * 4 * extent))


def _runs(mesh: Mesh, ends: Ints) -> tuple[NDArray[np.int32], Ints]:
    """(edge of each segment (s,), corner vertices (c,)): segments that go on into one another are one edge."""
    s = len(ends)
    if not s:
        return np.zeros(0, dtype=np.int32), np.zeros(0, dtype=np.int64)
    vertex = ends.reshape(-1)
    along = unit_rows(mesh.vertices[ends[:, 1]] - mesh.vertices[ends[:, 0]])
    order = np.argsort(vertex, kind="stable")
    here, heads, degree = np.unique(vertex[order], return_index=True, return_counts=True)
    two = degree == 2
    first, second = order[heads[two]], order[heads[two] + 1]
    # Seen from the vertex one runs out at its start and the other at its end, or both alike.
    sign = np.where((first % 2) == (second % 2), -1.0, 1.0)
    straight = sign * np.einsum("ij,ij->i", along[first // 2], along[second // 2]) > np.cos(np.radians(CREASE))
    links = np.column_stack([first // 2, second // 2])[straight]
    edge_of = _components(s, links).astype(np.int32)
    corner = np.ones(len(here), dtype=bool)
    corner[np.flatnonzero(two)[straight]] = False
    return edge_of, here[corner]
