"""How a thing on the bed is moved: each function gives the rigid move of the machine's space that does it.

Several parts that are chosen together move as one: the same move goes to each of their placements (`placement.then(move)`).
points : (n, 3) mm on the machine, all corners of their convex hulls.
"""

from __future__ import annotations

import numpy as np

from gullyrise.core.geometry import Floats, Points, Transform

_DOWN = np.array([0.0, 0.0, -1.0])
_STANDS = 1e-6
"""mm from the bed within which a thing stands on it."""


def about(point: Floats, turn: Transform) -> Transform:
    """A turn or mirror about a point instead of the origin."""
    return Transform.moved(-point).then(turn).then(Transform.moved(point))


def middle_of(points: Points) -> Floats:
    """The middle of their box, (3,)."""
    return np.asarray((points.min(axis=0) + points.max(axis=0)) / 2)


def turned(points: Points, axis: Floats, degrees: float) -> Transform:
    """A turn about the middle of the things."""
    return about(middle_of(points), Transform.turned(axis, degrees))


def dropped(points: Points) -> Transform:
    """Straight down, or up, until the lowest point is on the bed."""
    return Transform.moved(np.array([0.0, 0.0, -float(points[:, 2].min())]))


def landed(points: Points, move: Transform) -> Transform:
    """A move after which what stood on the bed stands on it again: turned about its middle it would float, or be sunk."""
    if abs(float(points[:, 2].min())) > _STANDS:
        return move
    return move.then(dropped(move.apply(points)))


def to_middle(points: Points, middle: Floats) -> Transform:
    """The middle of their box over that of the bed; the height stays."""
    away = middle - middle_of(points)
    return Transform.moved(np.array([away[0], away[1], 0.0]))


def to_place(points: Points, x: float | None, y: float | None, z: float | None) -> Transform:
    """The middle of their box to x and y, their foot to z; None leaves that as it is."""
    middle, foot = middle_of(points), float(points[:, 2].min())
    return Transform.moved(
        np.array(
            [
                0.0 if x is None else x - middle[0],
                0.0 if y is None else y - middle[1],
                0.0 if z is None else z - foot,
            ]
        )
    )


def shortest_turn(start: Floats, end: Floats) -> Transform:
    """The least turn that takes one direction to another; half a turn about any axis across where they are opposed."""
    a, b = start / np.linalg.norm(start), end / np.linalg.norm(end)
    axis = np.cross(a, b)
    sine, cosine = float(np.linalg.norm(axis)), float(a @ b)
    if sine < 1e-12:
        if cosine > 0:
            return Transform.identity()
        # Of the axes across, the one that keeps most of the heading: an upright thing falls over sideways, not in a twist.
        axis = np.cross(a, np.eye(3)[int(np.argmin(np.abs(a)))])
    return Transform.turned(axis, float(np.degrees(np.arctan2(sine, cosine))))


def laid_on(points: Points, normal: Floats) -> Transform:
    """A turn that lays the face of that outward normal on the bed, about the middle of the things, and down to it."""
    turn = about(middle_of(points), shortest_turn(normal, _DOWN))
    return turn.then(dropped(turn.apply(points)))


def stood(points: Points, turn: Floats) -> Transform:
    """A turn (3, 3) about the middle of the things, and down to the bed."""
    matrix = np.eye(4)
    matrix[:3, :3] = turn
    move = about(middle_of(points), Transform(matrix))
    return move.then(dropped(move.apply(points)))


def mirrored(points: Points, axis: int) -> Transform:
    """A mirror across the middle of the things, along an axis of the machine."""
    return about(middle_of(points), Transform(np.diag([-1.0 if k == axis else 1.0 for k in range(3)] + [1.0])))


def face_against(point: Floats, normal: Floats, other: Floats, other_normal: Floats) -> Transform:
    """Lays a face against another: normals opposed, both in one plane; across that plane nothing is shifted."""
    turn = about(point, shortest_turn(normal, -other_normal))
    unit = other_normal / np.linalg.norm(other_normal)
    return turn.then(Transform.moved(unit * float((other - point) @ unit)))


def axis_onto(point: Floats, axis: Floats, other: Floats, other_axis: Floats) -> Transform:
    """Brings an axis onto another, whichever way round is the lesser turn; along it nothing is shifted."""
    unit = other_axis / np.linalg.norm(other_axis)
    towards = unit if float(axis @ unit) >= 0 else -unit
    away = other - point
    return about(point, shortest_turn(axis, towards)).then(Transform.moved(away - unit * float(away @ unit)))


def rounded(value: float, step: float) -> float:
    """The nearest whole number of steps; the value itself for no step."""
    return round(value / step) * step if step > 0 else value
