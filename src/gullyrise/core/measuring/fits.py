"""Planes, circles, cylinders and spheres through points, with what is not known about them.

A fit moves by at most the sum of the sizes of a row of its pseudo-inverse times the largest distance of a point from it: that
bound holds to first order whatever way the points are off, and is what is stated.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.optimize import least_squares

from gullyrise.core.geometry import Floats, Plane, Points
from gullyrise.core.geometry.outline import fitted_circle

SINGLE = float(np.finfo(np.float32).eps)


@dataclass(frozen=True, slots=True, eq=False)
class FittedPlane:
    """middle : (3,) of the points
    normal : unit
    residual : mm by which a point is off at most
    lean : radians
    """

    middle: Floats
    normal: Floats
    residual: float
    lean: float


@dataclass(frozen=True, slots=True, eq=False)
class FittedCircle:
    """centre, normal : (3,)
    radius_off, off : mm by which radius and centre may be wrong
    lean : radians, of the normal
    """

    centre: Floats
    normal: Floats
    radius: float
    residual: float
    radius_off: float
    off: float
    lean: float


@dataclass(frozen=True, slots=True, eq=False)
class FittedCylinder:
    """point : on the axis, beside the middle of the points;  else as a circle's"""

    point: Floats
    direction: Floats
    radius: float
    residual: float
    radius_off: float
    off: float
    lean: float


@dataclass(frozen=True, slots=True, eq=False)
class FittedSphere:
    """As a circle's."""

    centre: Floats
    radius: float
    residual: float
    radius_off: float
    off: float


def grain(points: Points) -> float:
    """mm to which coordinates of single precision are known: half a step at the farthest of them, and its rounding on the way."""
    return SINGLE * float(np.abs(points).max(initial=0.0))


def _scatter(residual: float, points: Points, unknowns: int) -> float:
    """mm that points are off, told from what a fit of so many unknowns leaves of it: of few points it takes most up itself. By
    degrees of freedom, as GUM (JCGM 100:2008, H.3) has it; what passes through all of them tells nothing but their grain."""
    free = len(points) - unknowns
    return max(residual, grain(points)) * (float(np.sqrt(len(points) / free)) if free > 0 else 1.0)


def fit_plane(points: Points, seen: Floats | None = None) -> FittedPlane | None:
    """The plane of least squares of (n, 3) points; None for fewer than three or points on a line.

    seen : (3,) a direction to whose side the normal is to point
    """
    if len(points) < 3:
        return None
    middle = points.mean(axis=0)
    away = points - middle
    _, strength, ways = np.linalg.svd(away, full_matrices=False)
    if strength[1] <= 1e-9 * max(strength[0], 1e-300):
        return None
    normal = ways[2]
    if seen is not None and normal @ seen < 0:
        normal = -normal
    residual = float(np.abs(away @ normal).max())
    moved = np.abs(np.linalg.pinv(away @ ways[:2].T)).sum(axis=1)
    return FittedPlane(middle, normal, residual, float(np.linalg.norm(moved)) * _scatter(residual, points, 3))


def fit_circle(points: Points) -> FittedCircle | None:
    """The circle of least squares in the plane of (n, 3) points; None where they lie on none."""
    plane = fit_plane(points)
    if plane is None or len(points) < 4:
        return None
    u, v = Plane(plane.middle, plane.normal).frame()
    flat = np.column_stack([(points - plane.middle) @ u, (points - plane.middle) @ v])
    centre, radius, _ = fitted_circle(flat)
    if not np.isfinite(radius):
        return None

    def off(p: Floats) -> Floats:
        return np.asarray(np.hypot(flat[:, 0] - p[0], flat[:, 1] - p[1]) - p[2])

    found = least_squares(off, [*centre, radius], method="lm")
    x, y, radius = (float(value) for value in found.x)
    residual = float(max(np.abs(found.fun).max(), plane.residual))
    moved = _bound(found.jac, _scatter(residual, points, 3))
    at = plane.middle + x * u + y * v
    return FittedCircle(at, plane.normal, radius, residual, moved[2], float(np.hypot(*moved[:2])) + plane.residual, plane.lean)


_NO_FIT = 0.01
"""A share of the radius: whoever is further off has not found the cylinder, if there is one."""


def fit_cylinder(points: Points, direction: Floats) -> FittedCylinder | None:
    """The cylinder of least squares of (n, 3) points near a first guess of its axis' direction; None where there is none."""
    if len(points) < 6:
        return None
    middle = points.mean(axis=0)
    scale = max(float(np.abs(points - middle).max()), 1e-12)
    away = (points - middle) / scale
    u, v = Plane(np.zeros(3), direction).frame()
    direction = direction / np.linalg.norm(direction)
    centre, radius, _ = fitted_circle(np.column_stack([away @ u, away @ v]))
    if not np.isfinite(radius):
        return None

    def off(p: Floats) -> Floats:
        along = direction + p[2] * u + p[3] * v
        along = along / np.linalg.norm(along)
        beside = away - (p[0] * u + p[1] * v)
        across = beside - (beside @ along)[:, None] * along
        return np.asarray(np.linalg.norm(across, axis=1) - p[4])

    def from_(start: Floats, radius: float) -> Any:
        return least_squares(off, [start[0], start[1], 0.0, 0.0, radius], method="lm", xtol=1e-15, ftol=1e-15, gtol=1e-15)

    found = from_(centre, radius)
    if np.abs(found.fun).max() > _NO_FIT * abs(found.x[4]):
        # Of a short piece seen askew the circle may be far too small, or bend to the other side: a false end of the search.
        outward = centre / max(float(np.linalg.norm(centre)), 1e-12)
        starts = [(side * outward * times * radius, times * radius) for side in (1.0, -1.0) for times in (1.0, 2.5, 6.0)]
        found = min([found, *(from_(*start) for start in starts)], key=lambda one: float(one.cost))
    p = found.x
    along = direction + p[2] * u + p[3] * v
    along /= np.linalg.norm(along)
    residual = float(np.abs(found.fun).max()) * scale
    moved = _bound(found.jac, _scatter(residual, points, 5) / scale)
    base = middle + scale * (p[0] * u + p[1] * v)
    point = base + ((middle - base) @ along) * along
    return FittedCylinder(
        point, along, float(abs(p[4]) * scale), residual, moved[4] * scale, float(np.hypot(moved[0], moved[1])) * scale,
        float(np.hypot(moved[2], moved[3])),
    )  # fmt: skip


def fit_sphere(points: Points) -> FittedSphere | None:
    """The sphere of least squares of (n, 3) points; None for fewer than four or points in a plane."""
    if len(points) < 4:
        return None
    middle = points.mean(axis=0)
    away = points - middle
    found, _, rank, _ = np.linalg.lstsq(np.column_stack([2 * away, np.ones(len(away))]), (away**2).sum(axis=1), rcond=1e-12)
    squared = float(found[3] + found[:3] @ found[:3])
    if rank < 4 or squared <= 0:
        return None

    def off(p: Floats) -> Floats:
        return np.asarray(np.linalg.norm(away - p[:3], axis=1) - p[3])

    better = least_squares(off, [*found[:3], np.sqrt(squared)], method="lm")
    residual = float(np.abs(better.fun).max())
    moved = _bound(better.jac, _scatter(residual, points, 4))
    return FittedSphere(middle + better.x[:3], float(better.x[3]), residual, moved[3], float(np.linalg.norm(moved[:3])))


def _bound(jacobian: Any, off: float) -> Floats:
    """How far each unknown may be moved by residuals of at most `off`."""
    return np.asarray(np.abs(np.linalg.pinv(jacobian)).sum(axis=1) * off)
