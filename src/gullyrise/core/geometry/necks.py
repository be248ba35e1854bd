"""Necks: where two places of a surface, with nothing but material between them, come nearest to each other.

A ball that is held by two opposed places is a wall. Going downhill from any such ball ends where the way between its two places
is square to the surface at both: there the wall is exact, whatever the spacing that it was found by.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from gullyrise.core.geometry.arrays import Bools, Floats, Ints, Points, unit_rows
from gullyrise.core.geometry.mesh import Mesh
from gullyrise.core.geometry.near_pieces import nearest_of_segments, nearest_of_triangles
from gullyrise.core.geometry.nearest import Surface
from gullyrise.core.geometry.reentrant import InsideEdges

_STEPS, _NEARER = 24, 0.62
_EMPTY = 1e-3
_SETTLED = 1e-7
_MOST_PAIRS = 3_000_000
_RAGGED = 0.2


@dataclass(frozen=True, slots=True, eq=False)
class Necks:
    """k ways straight through material.

    start, end : (k, 3)
    face, end_face : (k,) of the surface there
    """

    start: Points
    end: Points
    face: Ints
    end_face: Ints

    @property
    def width(self) -> Floats:
        """(n,) mm from side to side."""
        return np.asarray(np.linalg.norm(self.end - self.start, axis=1))

    def take(self, which: np.ndarray) -> Necks:
        """Some of them. which : (k,) their numbers, or (n,) whether each is one"""
        return Necks(self.start[which], self.end[which], self.face[which], self.end_face[which])


def downhill(mesh: Mesh, surface: Surface, start: Points, end: Points, face: Ints, end_face: Ints) -> tuple[Necks, Ints]:
    """(the necks that ways through material lead to, the number (k,) of the way that each comes from). Ways that lead to none,
    since they run out at a sharp edge or are held by a blunt end, are left out.

    mesh : that of the surface
    start, end : (n, 3) mm, on the surface, with material between

    Notes: the nearest surface point to a place near one end of the way is a better end; either end in turn. At most twelve rounds
    of two nearest questions. Between two flats that run nearly level those steps would be too short: there the way goes on to
    where the two faces at its ends come nearest, if nothing lies in between.
    """
    n = len(start)
    start, end, face, end_face = start.copy(), end.copy(), face.copy(), end_face.copy()
    before = np.linalg.norm(end - start, axis=1)
    active = np.flatnonzero(before > 0)
    lost = np.zeros(n, dtype=bool)
    width = before.copy()
    for step in range(_STEPS):
        if not len(active):
            break
        ours, theirs = (end, start) if step % 2 == 0 else (start, end)
        faces = end_face if step % 2 == 0 else face
        probe = theirs[active] + _NEARER * (ours[active] - theirs[active])
        distance, found, place = surface.nearest(probe)
        # What is much nearer than the end stands in the way: the ball between the ends is not empty there.
        reach = (1 - _NEARER) * width[active]
        blocked = distance < 0.5 * reach
        lost[active[blocked]] = True
        kept = ~blocked
        active, place, found = active[kept], place[kept], found[kept]
        ours[active], faces[active] = place, found
        if step % 2:
            _leap(mesh, surface, start, end, face, end_face, active)
        now = np.linalg.norm(end[active] - start[active], axis=1)
        gone = now < 1e-3 * before[active]
        lost[active[gone]] = True
        still = np.abs(width[active] - now) > _SETTLED * now
        width[active] = now
        # Both ends must have stood still before a way is done.
        active = active[~gone & (still | (step % 2 == 0) | (step < 2))]
    # What has not come to rest slides down a taper.
    lost[active] = True
    kept = np.flatnonzero(~lost & (width > 0))
    necks = Necks(start[kept], end[kept], face[kept], end_face[kept])
    sound = empty(surface, necks)
    return necks.take(sound), kept[sound]


def _leap(mesh: Mesh, surface: Surface, start: Points, end: Points, face: Ints, end_face: Ints, active: Ints) -> None:
    """Moves the ends of the active ways to where their two faces come nearest, where that is nearer and the way is free."""
    p, q = nearest_of_triangles(mesh.vertices[mesh.faces[face[active]]], mesh.vertices[mesh.faces[end_face[active]]])
    width, before = np.linalg.norm(q - p, axis=1), np.linalg.norm(end[active] - start[active], axis=1)
    nearer = np.flatnonzero((width > 0) & (width < (1 - _SETTLED) * before))
    some = active[nearer]
    free = empty(surface, Necks(p[nearer], q[nearer], face[some], end_face[some]))
    start[some[free]], end[some[free]] = p[nearer[free]], q[nearer[free]]


def empty(surface: Surface, necks: Necks) -> Bools:
    """(k,) whether nothing lies in the ball between the two ends of each, but for a thousandth of its radius."""
    if not len(necks.face):
        return np.zeros(0, dtype=bool)
    distance, _, _ = surface.nearest((necks.start + necks.end) / 2)
    return np.asarray(distance >= (1 - _EMPTY) * necks.width / 2)


def in_rings(mesh: Mesh, surface: Surface, ways: Necks, inside: InsideEdges) -> tuple[Necks, Floats]:
    """(ways across rings of inside edges, mm by which the ball in the middle of each is smaller than the way is long).

    Notes: round a neck of few facets lies a ring of inside edges that is no circle. The ball in its middle is held by three of
    them and by no two opposed ones, and is the neck all the same: what is in its way must be of the ring.
    """
    distance, face, place = surface.nearest((ways.start + ways.end) / 2)
    smaller = ways.width - 2 * distance
    on_ring = np.zeros(len(mesh.vertices), dtype=bool)
    on_ring[inside.ends.reshape(-1)] = True
    corners = mesh.faces[face]
    # The place lies on an edge or corner of the ring: no corner off it has a share in it.
    share = mesh.shares(place, face)
    held = ((np.abs(share) < 1e-6) | on_ring[corners]).all(axis=1) & ((np.abs(share) < 1e-6).any(axis=1))
    kept = held & (smaller > _EMPTY * ways.width) & (smaller < _RAGGED * ways.width)
    return ways.take(kept), smaller[kept]


def between_edges(mesh: Mesh, inside: InsideEdges, reach: float, sought: float) -> tuple[Necks, bool]:
    """(ways narrower than `reach` mm between two inside edges that pass each other, whether all those narrower than `sought` mm
    are among them). Whether nothing else lies between has still to be asked.

    Notes: a ball at a place of one edge sees the other only from a stretch as short as the web is thin, so that places along an
    edge would miss it; the pairs themselves do not. Edges are cut into pieces, those that come near are found by a tree.
    """
    nothing = Necks(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64))
    start, end = mesh.vertices[inside.ends[:, 0]], mesh.vertices[inside.ends[:, 1]]
    length = np.linalg.norm(end - start, axis=1)
    if not len(length) or reach <= 0:
        return nothing, True
    piece = max(reach, float(length.sum()) / 100_000)
    many = np.ceil(length / piece).astype(np.int64).clip(1)
    which = np.repeat(np.arange(len(many)), many)
    number = np.arange(len(which)) - np.repeat(np.cumsum(many) - many, many)
    step = (end - start)[which] / many[which][:, None]
    middle = start[which] + (number + 0.5)[:, None] * step
    tree = cKDTree(middle)
    within = reach + piece
    while len(middle) > 2_000 and tree.count_neighbors(tree, within) > 2 * _MOST_PAIRS + len(middle):
        within /= 2
    pairs = tree.query_pairs(within, output_type="ndarray")
    a, b = which[pairs[:, 0]], which[pairs[:, 1]]
    # Only edges whose fans look at each other can have a way between them. Those that meet at a corner are asked from there.
    half = inside.bend[a] / 2 + inside.bend[b] / 2 + 0.04
    facing = -np.einsum("ij,ij->i", inside.middle[a], inside.middle[b]) >= np.cos(np.minimum(half, np.pi))
    meet = (inside.ends[a][:, :, None] == inside.ends[b][:, None, :]).any(axis=(1, 2))
    a, b = a[facing & ~meet], b[facing & ~meet]
    if len(middle) > len(length):
        low, high = np.divmod(np.unique(np.minimum(a, b) * len(length) + np.maximum(a, b)), len(length))
        a, b = low, high
    p, q = nearest_of_segments(start[a], end[a], start[b], end[b])
    width = np.linalg.norm(q - p, axis=1)
    way = unit_rows(q - p)
    # Into the material at both ends: within half a fan and a little of the fan's middle.
    near = (width < reach) & (width > 0)
    for edge, toward in ((a, way), (b, -way)):
        near &= np.einsum("ij,ij->i", inside.middle[edge], toward) >= np.cos(np.minimum(inside.bend[edge] / 2 + 0.02, np.pi / 2))
    a, b = a[near], b[near]
    return Necks(p[near], q[near], inside.faces[a, 0], inside.faces[b, 0]), bool(
        within >= sought + piece or within >= reach + piece
    )
