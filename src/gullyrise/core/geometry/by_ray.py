"""Where the pointer's ray meets a plane or passes a line of the room: what is dragged in the room follows it. Plain numbers."""

from __future__ import annotations

import numpy as np

from gullyrise.core.geometry import Floats

_LEVEL, END_ON = 1e-3, 0.03


def on_plane(origin: Floats, direction: Floats, at: Floats, normal: Floats) -> Floats | None:
    """The place (3,) of the plane through `at` that a ray (unit direction) meets; None where that would be behind the eye, as
    above a horizon, or nowhere near."""
    slope, way = float(direction @ normal), float((at - origin) @ normal)
    if abs(slope) < _LEVEL or way / slope <= 0:
        return None
    return np.asarray(origin + direction * (way / slope))


def is_end_on(direction: Floats, axis: Floats) -> bool:
    """Whether a line is seen so nearly from its end that no place of the picture says how far along it one is."""
    return 1.0 - float(direction @ axis) ** 2 < END_ON


def along(origin: Floats, direction: Floats, at: Floats, axis: Floats, sight: Floats) -> float | None:
    """mm from `at` along a line, which is not seen end on, to what a ray (unit direction) points at; None beyond where the line
    vanishes. sight : the direction in which `at` was taken hold of; the plane that the line lies in is square to it as nearly
    as it can be, and the ray is met with that: the nearest place of the line itself would jump where it vanishes."""
    met = on_plane(origin, direction, at, _unit(sight - axis * float(sight @ axis)))
    return None if met is None else float((met - at) @ axis)


def _unit(along: Floats) -> Floats:
    return np.asarray(along / np.linalg.norm(along))
