"""The least circle round points of the plane."""

from __future__ import annotations

import itertools

import numpy as np

from gullyrise.core.geometry import Floats, Points

_MOST_STEPS = 1000


def least_circle(points: Points) -> tuple[Floats, float]:
    """(middle (2,), radius) of the least circle that holds points (n, 2). Raises ValueError for none.

    Notes: a circle of two or three points; while one lies outside, the farthest joins them and the circle of those is taken
    anew. It grows at each step, so it comes to an end (after Gärtner, "Fast and robust smallest enclosing balls", ESA 1999).
    """
    if not len(points):
        raise ValueError("no points")
    # Near the origin no digits are lost in squares.
    base = points.mean(axis=0)
    places = points - base
    held = places[[int(np.argmax(np.hypot(places[:, 0], places[:, 1])))]]
    middle, radius = held[0], 0.0
    for _ in range(_MOST_STEPS):
        away = np.hypot(places[:, 0] - middle[0], places[:, 1] - middle[1])
        far = int(np.argmax(away))
        if away[far] <= radius * (1 + 1e-12) + 1e-12:
            break
        grown, fresh, wide = _of_few(np.vstack([held, places[far]]))
        if wide <= radius:
            # Rounding goes round in circles: what is left outside is less than that.
            radius = float(away[far])
            break
        held, middle, radius = grown, fresh, wide
    return middle + base, radius


def _of_few(points: Points) -> tuple[Points, Floats, float]:
    """(those that carry it, middle, radius) of the least circle round at most four points, the last one on it."""
    best: tuple[Points, Floats, float] | None = None
    last = len(points) - 1
    for count in (2, 3):
        for others in itertools.combinations(range(last), count - 1):
            chosen = points[[*others, last]]
            found = _through(chosen)
            if found is None:
                continue
            middle, radius = found
            if (np.hypot(*(points - middle).T) <= radius * (1 + 1e-10) + 1e-12).all() and (best is None or radius < best[2]):
                best = (chosen, middle, radius)
    if best is None:
        middle = points.mean(axis=0)
        return points[-3:], middle, float(np.hypot(*(points - middle).T).max())
    return best


def _through(points: Points) -> tuple[Floats, float] | None:
    """The circle that has two points as its diameter, or goes through three; None for three in a row."""
    if len(points) == 2:
        return points.mean(axis=0), float(np.hypot(*(points[1] - points[0]))) / 2
    a, b, c = points
    u, v = b - a, c - a
    cross = float(u[0] * v[1] - u[1] * v[0])
    if abs(cross) < 1e-14 * max(float(u @ u), float(v @ v), 1e-300):
        return None
    uu, vv = float(u @ u), float(v @ v)
    middle = a + np.array([v[1] * uu - u[1] * vv, u[0] * vv - v[0] * uu]) / (2 * cross)
    return middle, float(np.hypot(*(middle - a)))
