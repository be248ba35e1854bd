"""A place as it is seen from outside, and what is done where it is not: another side, a cut before it, the body seen through."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.evidence.framing import framed, liking, square_to
from gullyrise.core.evidence.room import Key, Room
from gullyrise.core.evidence.view import EvidenceView, proved
from gullyrise.core.geometry import Floats, Points
from gullyrise.core.geometry.blocks import Blocks, along_ray, blocks_of
from gullyrise.core.geometry.mesh import Mesh

_NEAR = np.cos(np.radians(40))
_HALF, _BEFORE = 0.5, 0.3
_LIKED = 0.15
_GRAZING = 0.08
_FINE = 5e-4
_PROBES, _TRIED = 9, 16


def all_round() -> Points:
    """(n, 3) unit directions to the eye, those that a person would choose first in front: a little from above, then level."""
    return _at_elevations((30, 10, 60, -20, 85, -60))


def from_below() -> Points:
    """(n, 3) the same from below, and level last."""
    return _at_elevations((-25, -12, -45, -70, -88))


def _at_elevations(elevations: Sequence[float]) -> Points:
    out = []
    for elevation in elevations:
        step = 30 if abs(elevation) < 69 else 90
        for heading in range(0, 360, step):
            h, e = np.radians(heading), np.radians(elevation)
            out.append([np.sin(h) * np.cos(e), -np.cos(h) * np.cos(e), np.sin(e)])
    return np.array(out)


def outside(
    room: Room, place: Floats, around: Points, sizes: tuple[float, ...], choices: Points, first: Floats | None = None
) -> EvidenceView:
    """The view of a place (3,) from where nothing hides it; where everything does, with a cut before it.

    choices : (n, 3) directions to the eye, the likelier first
    first : (3,) one that is thought to be free, tried before the others
    around, sizes : as `framed` has them
    """
    marks = place[None]

    def seen_from(toward: Floats, cuts: tuple[Cut, ...] = ()) -> EvidenceView:
        camera, size = framed(room, toward, marks, around, sizes)
        return proved(EvidenceView(camera, cuts, marks=marks, size=size), room)

    fine = max(_FINE * framed(room, choices[0], marks, around, sizes)[0].span, 4 * room.grain)
    if first is not None and room.facing(marks, first[None], fine)[0] > 3 * _GRAZING:
        view = seen_from(first)
        if view.proof.holds:
            return view
    places = np.tile(place, (len(choices), 1))
    ahead, facing = room.hides(places, choices, fine), room.facing(places, choices, fine)
    free = ahead == np.inf
    alike = choices @ choices.T > _NEAR
    # Down the middle of what is free, straight at the surface, and as a person would look.
    roomy = alike @ free.astype(float) / np.maximum(alike.sum(axis=1), 1)
    worth = roomy * (0.25 + facing) + _LIKED * liking(choices)
    for one in np.argsort(-np.where(free, worth, -np.inf), kind="stable")[:6]:
        if free[one] and facing[one] > _GRAZING:
            view = seen_from(choices[one])
            if view.proof.holds:
                return view
    # Nothing sees it: what stands before it is cut away where there is the most room to do so.
    best: EvidenceView | None = None
    reach = np.where(np.isfinite(ahead), ahead, room.box.diagonal) * (0.25 + facing)
    for one in np.argsort(-reach, kind="stable")[:4]:
        toward = choices[one]
        span = framed(room, toward, marks, around, sizes)[0].span
        before = min(_HALF * float(min(ahead[one], room.box.diagonal)), _BEFORE * span)
        view = seen_from(toward, (Cut.through(place + toward * before, toward),))
        if view.proof.holds:
            return view
        best = best or view
    # Inside of material, or between coincident faces: only through the body can it be seen.
    return clear(room, place, around, sizes, room.keys, None, choices)


def clear(
    room: Room,
    place: Floats,
    around: Points,
    sizes: tuple[float, ...],
    faded: frozenset[Key],
    solid: Mesh | None,
    choices: Points,
) -> EvidenceView:
    """The view of a place with bodies let see through. solid : what alone is drawn as a body, and may not hide the place"""
    marks = place[None]
    blocks = blocks_of(solid) if solid is not None and len(solid.faces) else None
    best: tuple[float, EvidenceView] | None = None
    for toward in choices:
        camera, size = framed(room, toward, marks, around, sizes)
        worth = liking(toward[None])[0] * _LIKED
        if solid is not None and blocks is not None:
            worth += _bare(solid, blocks, place, toward, _FINE * camera.span)
        if len(around):
            right, up, _ = camera.frame()
            worth += 0.5 * min(1.0, float(np.ptp(around @ right)) * float(np.ptp(around @ up)) / max(size, 1e-12) ** 2)
        if best is None or worth > best[0]:
            best = worth, EvidenceView(camera, (), faded, marks, size)
    assert best is not None
    return proved(best[1], room)


def _bare(solid: Mesh, blocks: Blocks, place: Floats, toward: Floats, slack: float) -> float:
    """1 where a body does not hide a place on it, else 0."""
    distances, _ = along_ray(solid, blocks, place, toward)
    return float(not (distances > max(slack, 1e-6 * solid.box.diagonal)).any())


def from_the_side(room: Room, a: Floats, b: Floats, along: Floats, choices: Points) -> EvidenceView:
    """The flat view in which something sticks out along a direction, with a cut through both ends only where that is needed."""
    marks = np.array([a, b])
    length = float(np.linalg.norm(b - a))
    square = choices[np.abs(choices @ along) < 0.1]
    if not len(square):
        square = square_to(along)
    best: EvidenceView | None = None
    for cuts in (False, True):
        for toward in square:
            camera, size = framed(room, toward, marks, marks[:0], (length,))
            made = EvidenceView(camera, (Cut.through(a, toward),) if cuts else (), marks=marks, size=size)
            view = proved(made, room)
            if view.proof.holds:
                return view
            best = best or view
    assert best is not None
    return best


def below(room: Room, place: Floats, around: Points, sizes: tuple[float, ...]) -> EvidenceView:
    """The view of what hangs over air, from under it; where its own part hides it, on an upright cut through it."""
    view = outside_or_none(room, place, around, sizes, from_below())
    if view is not None:
        return replace(view, on_bed=True)
    marks = place[None]
    best: EvidenceView | None = None
    for heading in (0, 90, 270, 180, 30, 60, 120, 150, 210, 240, 300, 330):
        h = np.radians(heading)
        level = np.array([np.sin(h), -np.cos(h), 0.0])
        for elevation in (-15.0, 0.0):
            e = np.radians(elevation)
            toward = np.array([level[0] * np.cos(e), level[1] * np.cos(e), np.sin(e)])
            camera, size = framed(room, toward, marks, around, sizes)
            view = proved(EvidenceView(camera, (Cut.through(place, level),), marks=marks, size=size, on_bed=True), room)
            if view.proof.holds:
                return view
            best = best or view
    assert best is not None
    return best


def outside_or_none(room: Room, place: Floats, around: Points, sizes: tuple[float, ...], choices: Points) -> EvidenceView | None:
    """The best uncut view of a place out of some directions, None where nothing sees it."""
    marks = place[None]
    probes = place + 0.8 * (around[:_PROBES] - place) if len(around) else marks
    fine = max(_FINE * framed(room, choices[0], marks, around, sizes)[0].span, 4 * room.grain)
    places = np.tile(place, (len(choices), 1))
    facing = room.facing(places, choices, fine)
    free = np.flatnonzero((room.hides(places, choices, fine) == np.inf) & (facing > _GRAZING))[:_TRIED]
    if not len(free):
        return None
    asked, toward = np.tile(probes, (len(free), 1)), np.repeat(choices[free], len(probes), axis=0)
    seen = (room.hides(asked, toward, 20 * fine) == np.inf).reshape(len(free), -1).mean(axis=1)
    worth = seen * (0.4 + facing[free]) + _LIKED * liking(choices[free])
    for one in free[np.argsort(-worth, kind="stable")][:4]:
        camera, size = framed(room, choices[one], marks, around, sizes)
        view = proved(EvidenceView(camera, (), marks=marks, size=size), room)
        if view.proof.holds:
            return view
    return None
