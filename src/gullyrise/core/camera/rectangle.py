"""What is seen to meet a rectangle of the picture."""

from __future__ import annotations

import numpy as np

from gullyrise.core.camera import before_eye
from gullyrise.core.camera.camera import Camera
from gullyrise.core.geometry import Bools, Faces, Floats, Points


def edges_meet(camera: Camera, size: tuple[int, int], ends: Points, low: Floats, high: Floats) -> Bools:
    """(k,) which straight pieces (k, 2, 3) of the room are seen to meet a rectangle of the picture."""
    before, of = before_eye.pieces(camera, ends)
    seen = camera.to_picture(before.reshape(-1, 3), *size)[:, :2]
    out = np.zeros(len(ends), dtype=bool)
    out[of] = _meet(seen[0::2], seen[1::2], low, high)
    return out


def faces_meet(camera: Camera, size: tuple[int, int], places: Points, faces: Faces, low: Floats, high: Floats) -> Bools:
    """(m,) which triangles over places (n, 3) of the room are seen to meet a rectangle: with a side, or by covering it."""
    seen = camera.to_picture(places, *size)[:, :2]
    known = np.isfinite(seen[:, 0])[faces]
    out = _cover(seen[faces[:, 0]], seen[faces[:, 1]], seen[faces[:, 2]], low, high) & known.all(axis=1)
    partly = np.flatnonzero(known.any(axis=1) & ~known.all(axis=1))
    if len(partly):
        before, of = before_eye.triangles(camera, places[faces[partly]])
        corners = camera.to_picture(before.reshape(-1, 3), *size)[:, :2].reshape(-1, 3, 2)
        met = _cover(corners[:, 0], corners[:, 1], corners[:, 2], low, high)
        out[partly[of[met]]] = True
    return np.asarray(out)


def _meet(start: Points, end: Points, low: Floats, high: Floats) -> Bools:
    """(n,) which straight pieces between places (n, 2) of the picture meet a rectangle.

    Y.-D. Liang, B. A. Barsky, "A new concept and method for line clipping", ACM Transactions on Graphics 3 (1984).
    """
    run = end - start
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        a, b = (low - start) / run, (high - start) / run
    # A piece along an axis has no run across it: it is between the two sides all the way, or never.
    level = run == 0
    between = (start >= low) & (start <= high)
    first = np.where(level, np.where(between, -np.inf, np.inf), np.fmin(a, b))
    last = np.where(level, np.where(between, np.inf, -np.inf), np.fmax(a, b))
    return np.asarray(np.maximum(first.max(axis=1), 0.0) <= np.minimum(last.min(axis=1), 1.0))


def _cover(a: Points, b: Points, c: Points, low: Floats, high: Floats) -> Bools:
    """(n,) which triangles of the picture meet a rectangle."""
    met = np.zeros(len(a), dtype=bool)
    turns = []
    for start, end in ((a, b), (b, c), (c, a)):
        met |= _meet(start, end, low, high)
        run, away = end - start, (low + high) / 2 - start
        turns.append(run[:, 0] * away[:, 1] - run[:, 1] * away[:, 0])
    turn = np.array(turns)
    # With no side in the rectangle, a triangle that has its middle has all of it.
    return np.asarray(met | (((turn >= 0).all(axis=0) | (turn <= 0).all(axis=0)) & (turn != 0).any(axis=0)))
