"""Which things on the beds meet: by their true surfaces, whatever their boxes say."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry import Floats, Mesh, Points, Transform
from gullyrise.core.geometry.nearest import Tree
from gullyrise.core.geometry.spots import spot
from gullyrise.core.geometry.topology import points_of_shells
from gullyrise.core.geometry.transform import MIRROR
from gullyrise.core.geometry.winding import inside

_ROOM = 1e-6
_MOST_ASKED = 4


@dataclass(frozen=True, slots=True)
class Stand:
    """A thing at a place.

    digest : names its shape, which the yard has been given before
    matrix : (4, 4) rigid, row by row
    """

    id: int
    digest: str
    matrix: tuple[float, ...]


Pair = tuple[int, int]


@dataclass(frozen=True, slots=True)
class Near:
    """The smallest gap of what is moved to what stands.

    distance : mm
    a, b : its ends, mm
    """

    distance: float
    a: tuple[float, float, float]
    b: tuple[float, float, float]


class Yard:
    """Keeps the shapes that it was given made ready; asking then costs microseconds a pair that is apart."""

    def __init__(self) -> None:
        self._meshes: dict[str, Mesh] = {}
        self._pieces: dict[str, Points] = {}
        self._trees: dict[tuple[str, bool], Tree] = {}
        self._boxes: dict[str, tuple[Floats, Floats]] = {}
        self._twins: dict[str, Tree] = {}

    def take(self, digest: str, bodies: list[Mesh]) -> None:
        """A shape by its digest: the meshes of its bodies where they stand in it."""
        from gullyrise.core.geometry.mesh import merged

        whole = merged(bodies)
        self._meshes[digest] = whole
        # One point of each piece of surface says whether one that crosses nothing lies in another part.
        self._pieces[digest] = np.concatenate([points_of_shells(body) for body in bodies])
        self._boxes[digest] = (whole.vertices.min(axis=0), whole.vertices.max(axis=0))

    def knows(self, digest: str) -> bool:
        """Whether a part with this digest stands ready in it."""
        return digest in self._meshes

    def _tree(self, digest: str, mirrored: bool) -> Tree:
        tree = self._trees.get((digest, mirrored))
        if tree is None:
            mesh = self._meshes[digest]
            tree = self._trees[digest, mirrored] = Tree(mesh.placed(MIRROR) if mirrored else mesh)
        return tree

    def pairs(self, stands: list[Stand], moved: set[int] | None = None) -> list[Pair]:
        """Pairs of ids that meet, touching included. moved : these move as one, so that only pairs of one of them and one of the
        others are asked; None for all.

        Notes: boxes first, then triangles by their tree (fcl), then whether one lies wholly in the other's material.
        """
        if len(stands) < 2:
            return []
        matrices = np.array([stand.matrix for stand in stands]).reshape(-1, 4, 4)
        low, high = self._placed_boxes(stands, matrices)
        first, second = np.triu_indices(len(stands), 1)
        near = ((low[first] <= high[second] + _ROOM) & (low[second] <= high[first] + _ROOM)).all(axis=1)
        if moved is not None:
            of_moved = np.array([stand.id in moved for stand in stands])
            near &= of_moved[first] ^ of_moved[second]
        out = []
        for a, b in zip(first[near], second[near], strict=True):
            one, other = stands[a], stands[b]
            contained = (low[a] >= low[b]).all() and (high[a] <= high[b]).all()
            contains = (low[b] >= low[a]).all() and (high[b] <= high[a]).all()
            if self._meet(one, matrices[a], other, matrices[b], contained=bool(contained), contains=bool(contains)):
                out.append((min(one.id, other.id), max(one.id, other.id)))
        return sorted(out)

    def nearest(self, stands: list[Stand], moved: set[int], within: float) -> Near | None:
        """The smallest gap between what is moved as one and what stands, if that is at most so many mm by their boxes."""
        matrices = np.array([stand.matrix for stand in stands]).reshape(-1, 4, 4)
        low, high = self._placed_boxes(stands, matrices)
        inside = np.array([stand.id in moved for stand in stands])
        pairs = []
        for a in np.flatnonzero(inside).tolist():
            apart = np.maximum(np.maximum(low - high[a], low[a] - high), 0.0)
            off = np.where(inside, np.inf, np.linalg.norm(apart, axis=1))
            pairs += [(float(off[b]), a, b) for b in np.flatnonzero(off <= within).tolist()]
        best: Near | None = None
        for least, one, other in sorted(pairs)[:_MOST_ASKED]:
            if best is not None and least >= best.distance:
                break
            tree_a, place_a = self._placed(stands[one], matrices[one])
            tree_b, place_b = self._placed(stands[other], matrices[other])
            if tree_a is tree_b:
                # One object has one place at a time: the shape's own twin stands in for its copy.
                tree_b = self._twin(stands[other].digest, tree_b)
            gap = tree_a.gap_at(tree_b, place_a, place_b)
            if best is None or gap.distance < best.distance:
                best = Near(gap.distance, spot(gap.point_a), spot(gap.point_b))
        return best

    def _twin(self, digest: str, tree: Tree) -> Tree:
        if digest not in self._twins:
            mesh = self._meshes[digest]
            self._twins[digest] = Tree(mesh.placed(MIRROR) if tree is self._trees.get((digest, True)) else mesh)
        return self._twins[digest]

    def _placed_boxes(self, stands: list[Stand], matrices: np.ndarray) -> tuple[Points, Points]:
        own = np.array([self._boxes[stand.digest] for stand in stands])
        middle, half = own.mean(axis=1), np.ptp(own, axis=1) / 2
        centre = np.einsum("nij,nj->ni", matrices[:, :3, :3], middle) + matrices[:, :3, 3]
        reach = np.einsum("nij,nj->ni", np.abs(matrices[:, :3, :3]), half)
        return centre - reach, centre + reach

    def _meet(self, one: Stand, at: np.ndarray, other: Stand, other_at: np.ndarray, *, contained: bool, contains: bool) -> bool:
        tree_a, place_a = self._placed(one, at)
        tree_b, place_b = self._placed(other, other_at)
        if tree_a.meets(tree_b, place_a, place_b):
            return True
        # Of a part of several pieces one may lie in the other's material while the rest is outside.
        contained |= len(self._pieces[one.digest]) > 1
        contains |= len(self._pieces[other.digest]) > 1
        return (contained and self._lies_in(one, at, other, other_at)) or (contains and self._lies_in(other, other_at, one, at))

    def _placed(self, stand: Stand, matrix: np.ndarray) -> tuple[Tree, Transform]:
        """The tree and its rigid place; a mirror is in the tree, for its kind of place knows none."""
        place = Transform(matrix)
        if place.mirrors:
            return self._tree(stand.digest, True), MIRROR.then(place)
        return self._tree(stand.digest, False), place

    def _lies_in(self, one: Stand, at: np.ndarray, other: Stand, other_at: np.ndarray) -> bool:
        points = Transform(np.linalg.inv(other_at) @ at).apply(self._pieces[one.digest])
        low, high = self._boxes[other.digest]
        within = points[((points >= low) & (points <= high)).all(axis=1)]
        return bool(inside(self._meshes[other.digest], within).any())
