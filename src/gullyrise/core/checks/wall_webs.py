"""Webs and necks: walls between inside edges, corners and points, which no face looks across."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.spatial import cKDTree

from gullyrise.core.geometry import Mesh
from gullyrise.core.geometry.arrays import Bools, Floats, Ints, Points, unit_rows
from gullyrise.core.geometry.ball import Balls, joined_balls, shrink_balls
from gullyrise.core.geometry.facets import SMOOTH, bends, facet_errors, whole_facets
from gullyrise.core.geometry.nearest import Surface
from gullyrise.core.geometry.necks import Necks, between_edges, downhill, empty, in_rings
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.reentrant import (
    Asked,
    InsideEdges,
    along_edges,
    at_corners,
    inside_corners,
    joined_asked,
    pinched,
    steepness,
)
from gullyrise.core.geometry.sampling import Samples, joined_samples
from gullyrise.core.geometry.topology import Edges, closed
from gullyrise.core.progress import Progress

_GENTLE = np.radians(5.0)
"""Bends under this are a round surface's, whose faces are asked one by one."""
_SHARP = np.radians(15.0)
_MANY_CORNERS, _MOST_CORNERS, _MOST_PLACES, _MOST = 40_000, 200_000, 60_000, 1_000_000
_PORTION = 20_000
_MOST_DOWNHILL, _MOST_RINGS = 6_000, 4_000
_ON = 1e-6
_SOUGHT = 1.5
_NOISE = 2e-3
_SQUARE = 0.995


@dataclass(frozen=True, slots=True, eq=False)
class Webs:
    """Readings at inside edges and corners, as those at samples.  whole : every one of them was asked"""

    samples: Samples
    balls: Balls
    whole: bool


def webs_in(
    mesh: Mesh,
    edges: Edges,
    every: InsideEdges,
    scene: RayScene,
    surface: Surface,
    cap: float,
    spacing: float,
    progress: Progress,
) -> Webs:
    """Balls at every inside edge and corner, up to `cap` mm, and what they lead to downhill.

    mesh : winding agrees, the outside out
    every : its inside edges
    spacing : along edges, mm

    Notes: the narrowest ways between two places of a surface lie between corner and face, corner and corner, two edges that pass
    each other, or an edge or face and a face that run level. Corners are asked in their whole cone, edges in their fan, passing
    edges pair by pair, faces by the samples: so none of these hides between samples.
    """
    progress("looking across webs", 0, 0)
    inside = every.take(every.bend >= _GENTLE)
    length = float(np.linalg.norm(mesh.vertices[inside.ends[:, 1]] - mesh.vertices[inside.ends[:, 0]], axis=1).sum())
    asked = along_edges(mesh, inside, max(spacing, length / _MOST_PLACES))
    corners = inside_corners(mesh, every, _GENTLE / 2)
    if len(corners) > _MANY_CORNERS:
        corners = inside_corners(mesh, every, _SHARP / 2)
    few = corners[:_MOST_CORNERS]
    asked = joined_asked([at_corners(mesh, edges, few), asked])
    whole = len(asked) <= _MOST and len(few) == len(corners)
    if len(asked) > _MOST:
        asked = _straightest(scene, asked)
    found = [_empty_balls()]
    for start in range(0, len(asked), _PORTION):
        part = asked.take(np.arange(start, min(start + _PORTION, len(asked))))
        found.append(shrink_balls(scene, surface, part.points, part.normals, cap))
        progress("looking across webs", min(start + _PORTION, len(asked)), len(asked))
    balls = joined_balls(found)
    thin = np.flatnonzero(balls.wall & ~balls.capped)
    asked, balls = asked.take(thin), balls.take(thin)
    seeds = _seeds(asked.points, balls, spacing)
    necks, led = downhill(mesh, surface, asked.points[seeds], balls.contact[seeds], asked.face[seeds], balls.contact_face[seeds])
    # What leads to a neck is read there: beside its place a ball may be held by the facets next to it.
    left = np.ones(len(balls.diameter), dtype=bool)
    left[seeds[led]] = False
    asked, balls = asked.take(left), balls.take(left)
    sharp = inside.take(inside.bend >= _SHARP)
    ways, all_pairs = between_edges(mesh, sharp, cap, min(_SOUGHT * spacing, cap))
    passing = ways.take(empty(surface, ways))
    rings, smaller = in_rings(mesh, surface, ways, sharp)
    held = _in_material(surface, asked.points, balls.contact)
    asked, balls = asked.take(held), balls.take(held)
    readings = [(_samples(asked.points, asked.normals, asked.face), balls)]
    sound = (one.take((one.width < cap) & _in_material(surface, one.start, one.end)) for one in (necks, passing))
    readings += [proven(one) for one in sound]
    clear = _in_material(surface, rings.start, rings.end) & _of_their_own(rings, smaller, (necks, passing))
    readings.append(_ragged(rings.take(clear), smaller[clear]))
    if closed(edges):
        readings.append(_of_no_thickness(mesh, edges))
    return Webs(joined_samples([one for one, _ in readings]), joined_balls([one for _, one in readings]), whole and all_pairs)


def _in_material(surface: Surface, start: Points, end: Points) -> Bools:
    """(n,) whether the middle of each way is inside: the normals of slivers may point anywhere."""
    return surface.inside((start + end) / 2)


def _straightest(scene: RayScene, asked: Asked) -> Asked:
    """Of too many those that have least straight behind them."""
    straight = scene.through(asked.points, asked.normals).distance
    return asked.take(np.sort(np.argsort(straight, kind="stable")[:_MOST]))


def _seeds(points: Points, balls: Balls, side: float) -> Ints:
    """The lowest readings of each cube of that side, the least first."""
    order = np.argsort(balls.diameter, kind="stable")
    if len(order) <= _MOST_DOWNHILL:
        return order
    _, first = np.unique(np.floor(points[order] / side).astype(np.int64), axis=0, return_index=True)
    rest = np.setdiff1d(np.arange(len(order)), first)
    return np.concatenate([order[np.sort(first)], order[rest]])[:_MOST_DOWNHILL]


def proven(necks: Necks) -> tuple[Samples, Balls]:
    """Necks as readings."""
    n = len(necks.face)
    yes, no = np.ones(n, dtype=bool), np.zeros(n, dtype=bool)
    width = necks.width
    way = unit_rows(necks.end - necks.start)
    return _samples(necks.start, -way, necks.face), Balls(
        width, width.copy(), yes, no, necks.end, necks.end_face, np.zeros(n), yes.copy(), yes.copy()
    )


def _of_their_own(rings: Necks, smaller: Floats, others: tuple[Necks, ...]) -> Bools:
    """(k,) which ways across rings are the largest round about: one that is off the ring's middle lies beside a larger one, or
    beside a neck that is held by two opposed places."""
    size = rings.width - smaller
    middle = (rings.start + rings.end) / 2
    taken = np.concatenate([(one.start + one.end) / 2 for one in others])
    kept = np.zeros(len(size), dtype=bool)
    beside = np.full(len(size), np.inf)
    if len(taken) and len(middle):
        beside = np.asarray(cKDTree(taken).query(middle)[0])
    chosen: list[int] = []
    for one in np.argsort(-size, kind="stable")[:_MOST_RINGS].tolist():
        if beside[one] > size[one] / 2 and all(
            float(np.linalg.norm(middle[one] - middle[other])) > size[other] / 2 for other in chosen
        ):
            chosen.append(one)
    kept[chosen] = True
    return kept


def _ragged(rings: Necks, smaller: Floats) -> tuple[Samples, Balls]:
    """Ways across rings, read as the ball in the middle that the ring leaves room for: the neck may be as thick as the way is
    long."""
    samples, balls = proven(rings)
    return samples, replace(balls, diameter=balls.diameter - smaller, loose=smaller)


def _of_no_thickness(mesh: Mesh, edges: Edges) -> tuple[Samples, Balls]:
    place, face = pinched(mesh, edges)
    samples, balls = proven(Necks(place, place, face, face))
    return Samples(samples.points, mesh.normals()[face], face, samples.weight), balls


def _samples(points: Points, normals: Points, face: Ints) -> Samples:
    """Samples that stand for no area of their own."""
    return Samples(points, normals, face, np.zeros(len(points)))


def _empty_balls() -> Balls:
    none, no = np.zeros(0), np.zeros(0, dtype=bool)
    return Balls(none, none, no, no, np.zeros((0, 3)), np.zeros(0, dtype=np.int64), none, no, no)


def _neighbours(edges: Edges, faces: int) -> Ints:
    """(m, 3) the face over each side of each face, -1 where there is none or more than one."""
    row = np.full(len(edges.uses), -1, dtype=np.int64)
    row[edges.pair_edge] = np.arange(len(edges.pair_edge))
    half = np.flatnonzero(edges.of >= 0)
    pair = row[edges.of[half]]
    out = np.full(3 * faces, -1, dtype=np.int64)
    shared = pair >= 0
    out[half[shared]] = edges.pairs[pair[shared]].sum(axis=1) - half[shared] // 3
    return out.reshape(-1, 3)


class Doubt:
    """How far the true surface may stand off a mesh at its places: at a corner or an edge as far as any face there, and where
    faces meet steeply the farther.

    Notes: corners lie on the surface that the facets were made from. A corner that stands out from all edges there towards the
    other end of a wall is that end, as long as the surface between corners rises less steeply than it falls away.
    """

    def __init__(self, mesh: Mesh, edges: Edges, every: InsideEdges, most: float) -> None:
        """every : inside edges of the mesh
        most : mm, where a chord error is known.
        """
        self._mesh = mesh
        self.outward, self.inward = (np.minimum(error, most) for error in facet_errors(mesh, edges))
        bend, curved, _ = bends(mesh, edges)
        round_ = np.zeros(len(mesh.faces))
        for side in (0, 1):
            np.maximum.at(round_, edges.pairs[curved, side], bend[curved])
        corners = mesh.faces.reshape(-1)
        self._corner = [self._most_at(corners, np.repeat(error, 3)) for error in (self.outward, self.inward)]
        # A facet that a cut has left a corner of tells too little: the whole ones next to it tell more.
        self._near = [self._most_at(corners, np.repeat(at[mesh.faces].max(axis=1), 3)) for at in self._corner]
        self._round = self._most_at(corners, np.repeat(round_, 3))
        inside = every.take(every.bend >= _GENTLE)
        steep = steepness(inside.bend, round_[inside.faces].max(axis=1))
        self._steep = np.maximum(self._most_at(inside.ends.reshape(-1), np.repeat(steep, 2)), 1.0)
        sharp = inside.take(inside.bend >= SMOOTH)
        self._line = self._lines(sharp)
        # A tessellation has corners of both surfaces where they meet; a mesh cut by another has them on the facets of one.
        wanted = self._most_at(sharp.ends.reshape(-1), np.repeat((round_[sharp.faces] > 0).sum(axis=1), 2))
        coarse = ((self._turn > SMOOTH) & (wanted > 0)) | self._beside_balls(mesh, edges, sharp, bend, curved)
        gentle = np.bincount(edges.ends[edges.pair_edge[curved]].reshape(-1), minlength=len(mesh.vertices))
        self._own = (gentle >= wanted) & np.isfinite(self._line) & ~coarse
        self._across = _neighbours(edges, len(mesh.faces))
        both = np.concatenate([edges.ends, edges.ends[:, ::-1]])
        both = both[np.argsort(both[:, 0], kind="stable")]
        self._next, self._heads = both[:, 1], np.searchsorted(both[:, 0], np.arange(len(mesh.vertices) + 1))

    def _most_at(self, corner: np.ndarray, value: Floats) -> Floats:
        at = np.zeros(len(self._mesh.vertices))
        np.maximum.at(at, corner, value)
        return at

    def _beside_balls(self, mesh: Mesh, edges: Edges, sharp: InsideEdges, bend: Floats, curved: Bools) -> Bools:
        """(n,) vertices of sharp edges beside facets that bend across the edge, too, as those of a ball: where such an edge runs
        through the middle of facets, its own bend does not tell how far it is off."""
        _, facet = whole_facets(edges, bend, len(mesh.faces))
        on_line = np.zeros(len(mesh.vertices), dtype=bool)
        on_line[sharp.ends.reshape(-1)] = True
        ends = edges.ends[edges.pair_edge]
        far = curved & (bend > _NOISE) & ~on_line[ends].any(axis=1)
        at_far = np.zeros(len(mesh.vertices), dtype=bool)
        at_far[ends[far].reshape(-1)] = True
        # Where a sharp edge passes, what bends there belongs to the surface beyond it.
        at_far[ends[bend >= SMOOTH].reshape(-1)] = False
        bent = np.zeros(int(facet.max(initial=0)) + 1, dtype=bool)
        bent[facet[at_far[mesh.faces].any(axis=1)]] = True
        out = np.zeros(len(mesh.vertices), dtype=bool)
        out[sharp.ends[bent[facet[sharp.faces]].any(axis=1)].reshape(-1)] = True
        return out

    def _lines(self, sharp: InsideEdges) -> Floats:
        """(n,) mm by which the curve that inside edges at a vertex stand for leaves them; inf where there are none."""
        vertices = self._mesh.vertices
        many = np.bincount(sharp.ends.reshape(-1), minlength=len(vertices))
        pull = np.zeros((len(vertices), 3))
        for end, sign in ((0, 1.0), (1, -1.0)):
            np.add.at(pull, sharp.ends[:, end], sign * sharp.along)
        # Two unit steps away from a corner add up to nothing where the edge goes straight on.
        turn = 2 * np.arcsin(np.clip(np.linalg.norm(pull, axis=1) / 2, 0, 1))
        turn[many != 2] = 0.0
        self._turn = turn
        turn = np.where(turn > SMOOTH, 0.0, turn)
        length = np.linalg.norm(vertices[sharp.ends[:, 1]] - vertices[sharp.ends[:, 0]], axis=1)
        sag = 1.2 * length * turn[sharp.ends].max(axis=1) / 8
        return np.where(many > 0, self._most_at(sharp.ends.reshape(-1), np.repeat(sag, 2)), np.inf)

    def at(self, points: Points, face: Ints, way: Points) -> tuple[Floats, Floats]:
        """(n,) mm outside and inside the mesh at places of faces; -1 names the first. way : (n, 3) unit, into the material"""
        face = np.maximum(face, 0)
        corners = self._mesh.faces[face]
        share = self._mesh.shares(points, face)
        on = share > _ON
        within = on.all(axis=1)
        steep = np.where(on, self._steep[corners], np.inf).min(axis=1)
        meant = np.zeros(len(face), dtype=bool)
        lone = np.flatnonzero(on.sum(axis=1) == 1)
        meant[lone] = self._stands_out(corners[lone, np.argmax(share[lone], axis=1)], way[lone])
        line = np.where(on, self._line[corners], np.inf).min(axis=1)
        as_drawn = (self._own[corners] | ~on).all(axis=1) & ~within
        out = []
        cut = np.isfinite(line)
        for own, at, near in zip((self.outward, self.inward), self._corner, self._near, strict=True):
            # Along an edge the lesser of its two ends says more of it than the greater.
            beside = np.where(on, np.where(cut[:, None], near[corners], at[corners]), np.inf).min(axis=1) * steep
            off = np.where(as_drawn, line, np.maximum(beside, own[face]))
            out.append(np.where(meant, 0.0, np.where(within, own[face], self._along(own, face, way, off))))
        return out[0], out[1]

    def _along(self, own: Floats, face: Ints, way: Points, off: Floats) -> Floats:
        """(n,) mm that a place on an edge may move along a way: where a face there lies square to it, what moves the edge slides
        it within that face, and only the face's own error counts."""
        normals = self._mesh.normals()
        for beside in (face, *self._across[face].T):
            there = np.maximum(beside, 0)
            lean = np.abs(np.einsum("ij,ij->i", normals[there], way))
            slid = own[there] + off * np.sqrt(np.maximum(1 - lean**2, 0.0))
            off = np.where((beside >= 0) & (lean > _SQUARE), np.minimum(off, slid), off)
        return off

    def _stands_out(self, corner: Ints, way: Points) -> Bools:
        many = self._heads[corner + 1] - self._heads[corner]
        if not len(corner) or not many.all():
            return np.zeros(len(corner), dtype=bool)
        row = np.repeat(np.arange(len(corner)), many)
        step = np.arange(len(row)) - np.repeat(np.cumsum(many) - many, many)
        edge = unit_rows(self._mesh.vertices[self._next[self._heads[corner[row]] + step]] - self._mesh.vertices[corner[row]])
        along = np.maximum.reduceat(np.einsum("ij,ij->i", edge, way[row]), np.cumsum(many) - many)
        return np.asarray(along < -np.sin(self._round[corner] / 2) - _ON)
