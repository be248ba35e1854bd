"""Where straight edges and single triangles come nearest to each other, row by row.

C. Ericson, Real-Time Collision Detection (2005), 5.1.5 and 5.1.9.
"""

from __future__ import annotations

import numpy as np

from gullyrise.core.geometry.arrays import Floats, Points


def foot_on_triangles(points: Points, corners: Points) -> Points:
    """(n, 3) the place of each of (n, 3, 3) triangles that is nearest to its own of (n, 3) points.

    The foot in the plane where that lies inside, else the nearest place of the three sides.
    """
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    cross = np.cross(b - a, c - a)
    square = np.einsum("ij,ij->i", cross, cross)
    inside = square > 0
    best = np.full(len(points), np.inf)
    foot = points - (np.einsum("ij,ij->i", points - a, cross) / np.maximum(square, 1e-300))[:, None] * cross
    side = np.zeros_like(points)
    for start, end in ((a, b), (b, c), (c, a)):
        along, away = end - start, points - start
        inside &= np.einsum("ij,ij->i", np.cross(along, away), cross) >= 0
        share = np.einsum("ij,ij->i", away, along) / np.maximum(np.einsum("ij,ij->i", along, along), 1e-300)
        off = away - np.clip(share, 0, 1)[:, None] * along
        far = np.einsum("ij,ij->i", off, off)
        nearer = far < best
        best[nearer] = far[nearer]
        side[nearer] = (points - off)[nearer]
    return np.where(inside[:, None], foot, side)


def nearest_of_triangles(p: Points, q: Points) -> tuple[Points, Points]:
    """(places (n, 3) of p, places (n, 3) of q) where (n, 3, 3) triangles come nearest. Of two that cross a place on an edge."""
    best = np.full(len(p), np.inf)
    on_p, on_q = np.zeros((len(p), 3)), np.zeros((len(p), 3))

    def take(one: Points, other: Points) -> None:
        far = np.einsum("ij,ij->i", one - other, one - other)
        nearer = far < best
        best[nearer], on_p[nearer], on_q[nearer] = far[nearer], one[nearer], other[nearer]

    for corner in range(3):
        take(p[:, corner], foot_on_triangles(p[:, corner], q))
        take(foot_on_triangles(q[:, corner], p), q[:, corner])
    for one in range(3):
        for other in range(3):
            take(*nearest_of_segments(p[:, one], p[:, (one + 1) % 3], q[:, other], q[:, (other + 1) % 3]))
    return on_p, on_q


def nearest_of_segments(p: Points, p_end: Points, q: Points, q_end: Points) -> tuple[Points, Points]:
    """(places (n, 3), (n, 3)) where straight pieces come nearest."""
    d1, d2, r = p_end - p, q_end - q, p - q
    aa, ee, ff = (np.einsum("ij,ij->i", u, v) for u, v in ((d1, d1), (d2, d2), (d2, r)))
    cc, bb = np.einsum("ij,ij->i", d1, r), np.einsum("ij,ij->i", d1, d2)
    square = aa * ee - bb * bb
    with np.errstate(divide="ignore", invalid="ignore"):
        # Of parallel pieces the middle of what they share is taken, which is no end of either.
        s = np.where(square > 1e-12 * aa * ee, np.clip((bb * ff - cc * ee) / square, 0, 1), _shared_middle(d1, aa, r, d2))
        t = (bb * s + ff) / ee
        s = np.where(t < 0, np.clip(-cc / aa, 0, 1), np.where(t > 1, np.clip((bb - cc) / aa, 0, 1), s))
    t = np.clip(t, 0, 1)
    return np.asarray(p + s[:, None] * d1), np.asarray(q + t[:, None] * d2)


def _shared_middle(d1: Points, aa: Floats, r: Points, d2: Points) -> Floats:
    with np.errstate(divide="ignore", invalid="ignore"):
        low = np.clip(-np.einsum("ij,ij->i", r, d1) / aa, 0, 1)
        high = np.clip(np.einsum("ij,ij->i", d2 - r, d1) / aa, 0, 1)
    return np.asarray(np.nan_to_num((low + high) / 2))


def to_segments(place: Floats, segments: Points) -> Floats:
    """(s,) distance of a point from each straight piece (s, 2, 3)."""
    start, run = segments[:, 0], segments[:, 1] - segments[:, 0]
    length = np.einsum("ij,ij->i", run, run)
    share = np.clip(np.einsum("ij,ij->i", place - start, run) / np.maximum(length, 1e-300), 0, 1)
    return np.asarray(np.linalg.norm(start + share[:, None] * run - place, axis=1))
