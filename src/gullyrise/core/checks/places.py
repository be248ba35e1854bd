"""Readings at scattered places gathered into places that hang together, quickly for any choice of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from gullyrise.core.geometry.arrays import Bools, Floats, Ints, Points
from gullyrise.core.geometry.sampling import touching_cubes

_ABOUT = 0.95


@dataclass(frozen=True, slots=True, eq=False)
class Cells:
    """Readings dealt into cubes once, so that any choice of them is gathered without asking for neighbours again.

    of : (n,) cube of each reading
    far : (n,) cube of the far side of each, which is one place with it
    touching : (p, 2) cubes side by side
    count : how many there are
    """

    of: Ints
    far: Ints
    touching: Ints
    count: int

    @classmethod
    def dealt(cls, points: Points, far: Points, side: float) -> Cells:
        """points, far : (n, 3) mm
        side : of the cubes, mm. Readings one to two cubes apart hang together.
        """
        n = len(points)
        if not n:
            none = np.zeros(0, dtype=np.int64)
            return cls(none, none, np.zeros((0, 2), dtype=np.int64), 0)
        of, touching, count = touching_cubes(np.concatenate([points, far]), side)
        return cls(of[:n], of[n:], touching, count)

    def gathered(self, chosen: Bools, linked: Bools) -> Ints:
        """(n,) number of the place of each chosen reading, -1 for the others. linked : (n,) whether its far side hangs on too"""
        on = np.zeros(self.count, dtype=bool)
        on[self.of[chosen]] = True
        both = np.flatnonzero(chosen & linked)
        on[self.far[both]] = True
        near = self.touching[on[self.touching].all(axis=1)]
        pairs = np.concatenate([near, np.column_stack([self.of[both], self.far[both]])])
        graph = coo_array((np.ones(len(pairs), dtype=np.int8), (pairs[:, 0], pairs[:, 1])), shape=(self.count,) * 2)
        _, label = connected_components(graph, directed=False)
        return np.where(chosen, label[self.of], -1)

    def lows(self, value: Floats, chosen: Bools) -> Ints:
        """The least of the chosen readings in each place round which no reading is less, rising.

        Notes: cube by cube. Cubes side by side that are about as low are one place, and so are the two sides of a wall.
        """
        index = np.flatnonzero(chosen)
        if not len(index):
            return index
        lowest = np.full(self.count, np.inf)
        np.minimum.at(lowest, self.of[index], value[index])
        pairs = np.concatenate([self.touching, np.column_stack([self.of[index], self.far[index]])])
        low = np.isfinite(lowest)
        for a, b in ((0, 1), (1, 0)):
            low[pairs[lowest[pairs[:, b]] < _ABOUT * lowest[pairs[:, a]], a]] = False
        near = pairs[low[pairs].all(axis=1)]
        graph = coo_array((np.ones(len(near), dtype=np.int8), (near[:, 0], near[:, 1])), shape=(self.count,) * 2)
        _, label = connected_components(graph, directed=False)
        own = index[low[self.of[index]]]
        order = own[np.lexsort((value[own], label[self.of[own]]))]
        first = np.diff(label[self.of[order]], prepend=-1) != 0
        return np.asarray(order[first][np.argsort(value[order[first]], kind="stable")])
