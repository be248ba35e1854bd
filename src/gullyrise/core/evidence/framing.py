"""How much of the part a picture of evidence shows, and from where."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gullyrise.core.camera.camera import Camera
from gullyrise.core.evidence.room import Room
from gullyrise.core.evidence.view import ASPECT, LEAST, MIDDLE, MOST
from gullyrise.core.geometry import Box, Floats, Points, Transform

FLAT_VIEWS = np.array([[0, -1, 0], [1, 0, 0], [0, 0, 1], [0, 1, 0], [-1, 0, 0], [0, 0, -1]], dtype=float)
"""To the eye, those that a person chooses first in front."""
_LIKING = np.array([1.0, 0.98, 0.96, 0.9, 0.88, 0.8])
_ROOMY, _CLOSE = 1.25, 0.5
"""How far within the bounds of scale a picture keeps, so that a wider or narrower one is still within them."""
_INNER = 0.85
_TURNED = (0.0, 45.0, 22.5, 67.5, 90.0, 112.5, 135.0, 157.5)
_WHOLE_ENOUGH = 0.55
_ASIDE = (30.0, 25.0)


def looking(toward: Floats) -> Camera:
    """A parallel camera that looks from a direction (3,) to the eye, upright."""
    level = float(np.hypot(toward[0], toward[1]))
    heading = float(np.degrees(np.arctan2(toward[0], -toward[1]))) % 360 if level > 1e-9 else 0.0
    elevation = float(np.degrees(np.arctan2(toward[2], level)))
    return Camera(np.zeros(3), heading, elevation, parallel=True)


def liking(toward: Points) -> Floats:
    """(n,) how near each direction (n, 3) is to a flat view, those that are chosen first the more; up to 1."""
    return np.asarray(((toward @ FLAT_VIEWS.T) * _LIKING).max(axis=1))


def square_to(along: Floats) -> Points:
    """(n, 3) unit directions square to one, flat views of those first."""
    start = FLAT_VIEWS[int(np.argmin(np.abs(FLAT_VIEWS @ along)))]
    start = start - along * float(start @ along)
    start /= np.linalg.norm(start)
    turned = [Transform.turned(along, degrees).matrix[:3, :3] @ start for degrees in _TURNED]
    found = np.array([*turned, *(-one for one in turned)])
    return np.asarray(found[np.argsort(-np.round(liking(found), 6), kind="stable")])


def span_of(room: Room, camera: Camera) -> float:
    """mm of the height of a picture that shows all bodies."""
    corners = room.subject.reshape(-1, 3) if len(room.subject) else room.box.corners()
    right, up, _ = camera.frame()
    wide, high = float(np.ptp(corners @ right)), float(np.ptp(corners @ up))
    return max(high, wide / ASPECT, 1e-6) * 1.12


def framed(room: Room, toward: Floats, marks: Points, around: Points, sizes: tuple[float, ...]) -> tuple[Camera, float]:
    """(camera, mm of what was measured as it is seen) of a picture from a direction: as much of the part in it as the scale of
    what was measured allows.

    marks : (k, 3) that lie in the middle;  around : (n, 3) of a region, may be none
    sizes : mm of what was measured where that is no region; the first is what must be to scale, the others where they can be
    """
    camera = looking(toward)
    right, up, _ = camera.frame()
    all_of = np.concatenate([marks, around])
    if len(around):
        wide, high = float(np.ptp(all_of @ right)), float(np.ptp(all_of @ up))
        sizes = (max(wide, high), *sizes)
    sizes = tuple(size for size in sizes if size > 0)
    whole = span_of(room, camera)
    if not sizes:
        size, span = 0.0, 0.3 * whole
    else:
        size = sizes[0]
        least, most = size / MOST, size / LEAST
        for other in sizes[1:]:
            if max(least, other / MOST) * _ROOMY < min(most, other / LEAST) * _CLOSE:
                least, most = max(least, other / MOST), min(most, other / LEAST)
        span = float(np.clip(whole, least * _ROOMY, max(most * _CLOSE, least * 1.02)))
    flat = np.column_stack([all_of @ right, all_of @ up])
    middle = (flat.max(axis=0) + flat.min(axis=0)) / 2
    # Marks come first: a region that reaches far to one side is moved aside for them.
    bound = np.array([ASPECT, 1.0]) * span / 2 * MIDDLE * _INNER
    own = np.column_stack([marks @ right, marks @ up])
    middle = np.clip(middle, own.max(axis=0) - bound, own.min(axis=0) + bound)
    deep = float(np.mean(marks @ camera.frame()[2]))
    target = right * middle[0] + up * middle[1] + camera.frame()[2] * deep
    return replace(camera, target=target, span=span), size


def whole_view(room: Room, camera: Camera) -> Camera | None:
    """The camera of a small second picture that shows where on the part a view is; None where that shows nearly all itself."""
    if camera.span >= _WHOLE_ENOUGH * span_of(room, camera):
        return None
    corners = room.subject.reshape(-1, 3) if len(room.subject) else room.box.corners()
    aslant = camera
    if camera.is_named:
        # A flat view says little of a shape: from a little to the side of it.
        heading, elevation = _ASIDE
        steep = abs(camera.elevation) > 60
        aslant = camera.looking(
            camera.heading + heading, np.sign(camera.elevation) * 50 if steep else camera.elevation + elevation
        )
    return replace(aslant, roll=0.0).framing(Box.of(corners), 400, 300)
