"""A place as plain numbers, as findings, figures and files hold it."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from gullyrise.core.geometry.arrays import Points

Spot = tuple[float, float, float]
"""mm"""


def spot(place: Iterable[float]) -> Spot:
    """Three plain numbers of anything with three."""
    x, y, z = (float(value) for value in place)
    return x, y, z


_WAYS = np.array([(x, y, z) for x in (-1, 0, 1) for y in (-1, 0, 1) for z in (-1, 0, 1) if (x, y, z) != (0, 0, 0)], dtype=float)


def outermost(points: Points) -> Points:
    """(k, 3) of points (n, 3) those that lie farthest out along the axes and between them, at most 26; none of none."""
    if not len(points):
        return points
    return np.asarray(points[np.unique(np.argmax(points @ _WAYS.T, axis=0))])
