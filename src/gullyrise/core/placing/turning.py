"""Would it fit turned? A search over rotations of the convex hull."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.optimize import minimize
from scipy.spatial import ConvexHull, QhullError
from scipy.spatial.transform import Rotation

from gullyrise.core.geometry import Floats, Points
from gullyrise.core.machines import Machine

_DIRECTIONS = 1500
_REFINED = 12


@dataclass(frozen=True, slots=True, eq=False)
class Turned:
    """The best turn found: `matrix` (3, 3), and by how much the worst side sticks out, mm (0 or less: it fits)."""

    matrix: Floats
    excess: float


def hull_points(points: Points) -> Points:
    """The corners of the convex hull; flat or tiny sets come back as they are, thinned of nothing."""
    try:
        return np.asarray(points[ConvexHull(points).vertices])
    except (QhullError, ValueError):
        return points


def excess(points: Points, machine: Machine, edge: float, top: float) -> float:
    """By how much points stick out of the room inside the margins when centred on the bed and lowered to it, mm."""
    low, high = points.min(axis=0), points.max(axis=0)
    room = machine.envelope.box.size - np.array([2 * edge, 2 * edge, top])
    tall = float(high[2] - low[2] - room[2])
    if machine.envelope.shape == "box":
        return float(max(*(high - low - room)[:2], tall))
    middle = (low + high) / 2
    radius = float(np.hypot(points[:, 0] - middle[0], points[:, 1] - middle[1]).max())
    return max(2 * radius - float(room[0]), tall)


def best_turn(points: Points, machine: Machine, edge: float, top: float) -> Turned:
    """The rotation with the least excess among many, the best of them refined.

    points : (n, 3) mm of the part or its hull. Notes: a pass of random but fixed rotations, the six faces of the
    principal box and turns about Z, then downhill simplex from the twelve best. A part wider in every direction than
    the room is long is refused by that search as by any; the search may miss a fit that is tighter than a few microns.
    """
    hull = hull_points(points)
    hull = hull - (hull.min(axis=0) + hull.max(axis=0)) / 2
    still = excess(hull, machine, edge, top)
    best = Turned(np.eye(3), still)
    if still <= 0:
        return best
    principal = np.linalg.svd(hull - hull.mean(axis=0), full_matrices=False)[2]
    if np.linalg.det(principal) < 0:
        principal[0] *= -1
    flats = Rotation.from_matrix([*_axis_turns()]) * Rotation.from_matrix(principal)
    about_z = Rotation.from_euler("z", np.arange(0, 180, 1.0)[:, None], degrees=True)
    spread = Rotation.random(_DIRECTIONS, rng=np.random.default_rng(7))
    tries = Rotation.concatenate([about_z, flats, about_z[::5] * flats[0], spread])
    scores = np.array([excess(hull @ turn.T, machine, edge, top) for turn in tries.as_matrix()])
    for index in np.argsort(scores)[:_REFINED]:
        start = tries[int(index)]

        def score(vector: Floats, start: Rotation = start) -> float:
            return excess(hull @ (Rotation.from_rotvec(vector) * start).as_matrix().T, machine, edge, top)

        found = minimize(score, np.zeros(3), method="Nelder-Mead", options={"xatol": 1e-7, "fatol": 1e-6, "maxiter": 400,
                         "initial_simplex": np.vstack([np.zeros(3), np.eye(3) * 0.08])})  # fmt: skip
        if found.fun < best.excess:
            best = Turned(np.asarray((Rotation.from_rotvec(found.x) * start).as_matrix()), float(found.fun))
        if best.excess <= 0:
            break
    return best


def _axis_turns() -> list[Floats]:
    """The six ways to lay a box down (each up to half turns)."""
    out = []
    for order in ((0, 1, 2), (0, 2, 1), (1, 0, 2), (1, 2, 0), (2, 0, 1), (2, 1, 0)):
        matrix = np.zeros((3, 3))
        matrix[range(3), order] = 1.0
        if np.linalg.det(matrix) < 0:
            matrix[0] *= -1
        out.append(matrix)
    return out
