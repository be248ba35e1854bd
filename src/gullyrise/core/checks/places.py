"""Readings at scattered places gathered into places that hang together, quickly for any choice of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from gullyrise.core.geometry.arrays import Bools, Floats, Ints, Points
from gullyrise.core.geometry.sampling import touching_cubes


@dataclass(frozen=True, slots=True, eq=False)
class Cells:
    """Readings dealt into cubes once, so that any choice of them is gathered without asking for neighbours again.

    of : (n,) cube of each reading;  far : (n,) cube of the far side of each, which is one place with it
    touching : (p, 2) cubes side by side;  count : how many there are
    """

    of: Ints
    far: Ints
    touching: Ints
    count: int

    @classmethod
    def dealt(cls, points: Points, far: Points, side: float) -> Cells:
        """points, far : (n, 3) mm;  side : of the cubes, mm. Readings one to two cubes apart hang together."""
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

    def lowest_apart(self, value: Floats, chosen: Bools, most: int, apart: float, points: Points) -> Ints:
        """Up to `most` chosen readings, the lowest first, each at least `apart` mm from those before it."""
        index = np.flatnonzero(chosen)
        order = index[np.lexsort((value[index], self.of[index]))]
        first = np.ones(len(order), dtype=bool)
        first[1:] = self.of[order][1:] != self.of[order][:-1]
        best = order[first]
        best = best[np.argsort(value[best], kind="stable")]
        found: list[int] = []
        for one in best:
            if len(found) >= most:
                break
            if all(np.linalg.norm(points[one] - points[other]) >= apart for other in found):
                found.append(int(one))
        return np.array(found, dtype=np.int64)
