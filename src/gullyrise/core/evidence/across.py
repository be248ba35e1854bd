"""What lies between two places, on a cut that holds both and is looked at straight: walls, slots, gaps, distances."""

from __future__ import annotations

import numpy as np

from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.evidence.framing import FLAT_VIEWS, framed, liking
from gullyrise.core.evidence.room import Room
from gullyrise.core.evidence.view import EvidenceView
from gullyrise.core.geometry import Floats, Points

_TURNS = 12
_BENT = 0.05
_BESIDE, _BEYOND, _BEHIND = 0.5, 0.2, 0.02
_ENOUGH = 0.8
_SMALL = 0.02
_NONE = np.zeros((0, 3))


def planes_through(a: Floats, b: Floats, third: Floats | None) -> Points:
    """(n, 3) unit directions to the eye of cuts that hold two places, the likeliest first.

    third : a place that the cut goes through, too, where it lies beside the line of the two
    """
    way = b - a
    length = float(np.linalg.norm(way))
    if length <= 0:
        turn = np.radians(45)
        slanted = [[np.sin(turn), -np.cos(turn), 0], [np.sin(turn), np.cos(turn), 0]]
        return np.concatenate([FLAT_VIEWS, slanted, np.negative(slanted)])
    way = way / length
    if third is not None:
        across = np.cross(way, third - a)
        if float(np.linalg.norm(across)) > _BENT * length:
            across /= np.linalg.norm(across)
            both = np.array([across, -across])
            return np.asarray(both[np.argsort(-liking(both), kind="stable")])
    # Square to the way and as flat as can be, then round it.
    level = np.cross(way, np.eye(3))
    level = level[np.linalg.norm(level, axis=1) > 0.05]
    level /= np.linalg.norm(level, axis=1)[:, None]
    other = np.cross(way, level[0])
    angles = np.arange(_TURNS) * (np.pi / _TURNS)
    round_ = np.cos(angles)[:, None] * level[0] + np.sin(angles)[:, None] * other
    found = np.concatenate([level, round_])
    found = np.concatenate([found, -found])
    return np.asarray(found[np.argsort(-np.round(liking(found), 6), kind="stable")])


def across(
    room: Room, a: Floats, b: Floats, *, third: Floats | None = None, between: bool = False, around: Points = _NONE,
    sizes: tuple[float, ...] = (),
) -> EvidenceView:  # fmt: skip
    """The view of what was measured between two places (3,), which may be one.

    third : a place that the cut has to go through besides
    between : there is no material between the two, and some on both sides of them: a cut that shows that is sought
    around, sizes : as `framed` has them
    """
    length = float(np.linalg.norm(b - a))
    marks = np.array([a, b]) if length > 0 else a[None]
    choices = planes_through(a, b, third)
    reach = length or _SMALL * room.box.diagonal
    best = choices[0]
    if between:
        best = _fullest(room, a, b, choices, reach)
    cut = Cut.through((a + b) / 2, best)
    camera, size = framed(room, best, marks, around, (length, *sizes) if length > 0 else sizes)
    return EvidenceView(camera, (cut,), marks=marks, size=size)


def _fullest(room: Room, a: Floats, b: Floats, choices: Points, reach: float) -> Floats:
    """The direction whose cut shows most material on both sides of two places: the first that shows nearly nothing else."""
    best, most = choices[0], -1.0
    # From its other side a cut shows the same.
    told = [one for number, one in enumerate(choices) if not (choices[:number] @ one < -0.999).any()]
    for toward in told:
        share = _shares(room, a, b, toward, reach)
        if share > most + 1e-9:
            best, most = toward, share
        if most >= _ENOUGH:
            break
    return np.asarray(best)


def _shares(room: Room, a: Floats, b: Floats, toward: Floats, reach: float) -> float:
    """Of places just behind a cut and beyond its two ends, the share that lies in material, the lesser of both sides."""
    way = b - a
    length = float(np.linalg.norm(way))
    behind = toward * (_BEHIND * reach)
    if length <= 0:
        # The two touch, nobody knows along which direction: material all round is the best that a cut can show.
        side = np.cross(toward, _least_along(toward))
        side /= np.linalg.norm(side)
        other = np.cross(toward, side)
        turns = (np.arange(8) * (np.pi / 4) + np.pi / 8)[:, None]
        places = a - behind + reach * (np.cos(turns) * side + np.sin(turns) * other)
        return float(room.holds(places, np.tile(-toward, (8, 1))).mean())
    way = way / length
    side = np.cross(toward, way)
    steps = np.array([-_BESIDE, 0.0, _BESIDE])[:, None] * reach * side - behind
    places = np.concatenate([a - way * (_BEYOND * reach) + steps, b + way * (_BEYOND * reach) + steps])
    shares = room.holds(places, np.tile(-toward, (6, 1))).reshape(2, 3).mean(axis=1)
    return float(shares.min() + 0.01 * shares.sum())


def _least_along(direction: Floats) -> Floats:
    return np.asarray(np.eye(3)[int(np.argmin(np.abs(direction)))])
