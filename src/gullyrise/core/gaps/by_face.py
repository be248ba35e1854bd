"""How near every face of a body is to the next one, as far as a ceiling."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from gullyrise.core.gaps.pieces import Piece
from gullyrise.core.geometry import Mesh, Points
from gullyrise.core.geometry.arrays import Floats, Ints
from gullyrise.core.geometry.material import near_boxes

_MOST = 2_000_000
# Of the ceiling: how closely a body is covered with places.
_FINE = 10.0


class Near:
    """A mesh made ready to tell which places may lie within a ceiling of it, so that only those ask for the exact distance."""

    def __init__(self, mesh: Mesh, ceiling: float) -> None:
        corners = mesh.triangles()
        middles = mesh.centroids()
        reach = np.linalg.norm(corners - middles[:, None], axis=2).max(axis=1)
        self._ceiling = ceiling
        points, radius = _covered(corners, middles, reach, max(ceiling / _FINE, float(np.median(reach))))
        self._tree: cKDTree | None = cKDTree(points) if points is not None else None
        self._radius = radius

    def may_be(self, points: Points) -> Ints:
        """Which of (n, 3) points may be within the ceiling; none that is, is left out."""
        if self._tree is None:
            return np.arange(len(points))
        distance, _ = self._tree.query(points, distance_upper_bound=self._ceiling + self._radius)
        return np.flatnonzero(np.isfinite(distance))


def _covered(corners: Points, middles: Points, reach: Floats, wanted: float) -> tuple[Points | None, float]:
    """(places so that each face lies within a radius of one of them, that radius mm); (None, inf) where it would take too many.

    Faces larger than wanted are quartered until they are not.
    """
    done, large = [middles[reach <= wanted]], corners[reach > wanted]
    count = len(done[0])
    while len(large):
        a, b, c = large[:, 0], large[:, 1], large[:, 2]
        ab, bc, ca = (a + b) / 2, (b + c) / 2, (c + a) / 2
        large = np.concatenate([np.stack(t, axis=1) for t in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))])
        middle = large.mean(axis=1)
        fits = np.linalg.norm(large - middle[:, None], axis=2).max(axis=1) <= wanted
        done.append(middle[fits])
        count += int(fits.sum())
        large = large[~fits]
        if count + len(large) > _MOST:
            return None, np.inf
    return np.concatenate(done), wanted


def gaps_of_faces(pieces: list[Piece], faces: list[int], ceiling: float) -> tuple[np.ndarray, ...]:
    """Per copy (m,) float32 mm from each face's middle to the nearest other piece, NaN beyond the ceiling.

    faces : how many faces each copy has
    """
    values = [np.full(count, np.nan, dtype=np.float32) for count in faces]
    near_to: dict[int, Near] = {}
    low, high = (np.array([getattr(piece.box, end) for piece in pieces]).reshape(-1, 3) for end in ("low", "high"))
    beside: list[list[int]] = [[] for _ in pieces]
    for a, b in near_boxes(low, high, ceiling).tolist():
        beside[a].append(b)
        beside[b].append(a)
    for number, piece in enumerate(pieces):
        middles = piece.mesh.centroids()
        for other in (pieces[one] for one in beside[number]):
            if piece.box.gap_to(other.box) > ceiling:
                continue
            reach = other.box.grown(ceiling)
            close = np.flatnonzero(((middles >= reach.low) & (middles <= reach.high)).all(axis=1))
            if not len(close):
                continue
            if id(other) not in near_to:
                near_to[id(other)] = Near(other.mesh, ceiling)
            close = close[near_to[id(other)].may_be(middles[close])]
            distance, _, _ = other.surface.nearest(middles[close])
            within = distance <= ceiling
            own = piece.faces[close[within]]
            np.fmin.at(values[piece.copy], own, distance[within].astype(np.float32))
    return tuple(values)
