"""The evidence view of a finding, of a measurement and of a dimension."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gullyrise.core.checks.protocol import Finding
from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.evidence.across import across
from gullyrise.core.evidence.by_tool import along_corner, along_tool
from gullyrise.core.evidence.framing import FLAT_VIEWS, framed, liking, whole_view
from gullyrise.core.evidence.outside import all_round, below, clear, from_the_side, outside
from gullyrise.core.evidence.room import Room
from gullyrise.core.evidence.view import Beside, EvidenceView, proved
from gullyrise.core.geometry import Floats, Points
from gullyrise.core.machines.machine import Tool

_NONE = np.zeros((0, 3))
_FINE, _GRAZING = 5e-4, 0.05


def compose(finding: Finding, room: Room, tools: tuple[Tool, ...] = ()) -> EvidenceView:
    """The view of a finding whose places are the machine's coordinates, as those of the room are.

    tools : of a mill

    Notes: first as its kind asks for, then, where the proof does not hold, from outside, with a cut, through what hides it. A
    view whose proof does not hold is the best there is, and says so.
    """
    view = proved(_as_its_kind(finding, room, tools), room)
    if not view.proof.holds:
        place, around, sizes = np.array(finding.at), _around(finding), _sizes(finding)
        other = outside(room, place, around, sizes, all_round(), _first(finding))
        if not other.proof.holds and view.proof.hidden:
            other = clear(room, place, around, sizes, room.keys, finding.solid, all_round())
        view = other if other.proof.holds else view
    return replace(view, whole=whole_view(room, view.camera))


def compose_between(a: Floats, b: Floats, room: Room) -> EvidenceView:
    """The view of what was measured by hand between two places (3,), which may be one: from outside where both are seen, else on
    a cut that holds both."""
    if float(np.linalg.norm(b - a)) <= room.grain:
        view = outside(room, a, _NONE, (), all_round())
    else:
        way = (b - a) / np.linalg.norm(b - a)
        views = np.concatenate([FLAT_VIEWS, all_round()])
        view = from_the_side(room, a, b, way, views) if (np.abs(views @ way) < 0.1).any() else across(room, a, b)
        if not view.proof.holds or view.cuts or not _shown(room, view):
            view = across(room, a, b)
    view = proved(view, room)
    return replace(view, whole=whole_view(room, view.camera))


def _shown(room: Room, view: EvidenceView) -> bool:
    """Whether the surface at each mark is turned to the eye, and not only its outline seen."""
    slack = max(_FINE * view.camera.span, 4 * room.grain)
    return bool((room.facing(view.marks, np.tile(view.toward, (len(view.marks), 1)), slack) > _GRAZING).all())


def _as_its_kind(finding: Finding, room: Room, tools: tuple[Tool, ...]) -> EvidenceView:
    place, around, sizes = np.array(finding.at), _around(finding), _sizes(finding)
    along = None if finding.along is None else np.array(finding.along)
    if finding.shown == "across":
        return _across(finding, room, place)
    if finding.shown == "below":
        return replace(below(room, place, around, sizes), beside=_profile(room, place, around, sizes))
    if finding.shown == "tool" and along is not None:
        view = along_tool(room, place, along, around, sizes, tools)
        return replace(view, beside=Beside(framed(room, along, view.marks, around, sizes)[0]))
    if finding.shown == "corner" and along is not None and finding.ball is not None:
        return along_corner(room, place, along, finding.value or 0.0, finding.ball[1])
    if finding.shown == "side" and along is not None and finding.ends is not None:
        a, b = np.array(finding.ends)
        return replace(from_the_side(room, a, b, along, FLAT_VIEWS), on_bed=True)
    if finding.shown == "clear":
        if finding.solid is not None:
            around = np.concatenate([around, finding.solid.box.corners()])
        return clear(room, place, around, sizes, room.keys, finding.solid, all_round())
    return outside(room, place, around, sizes, all_round(), _first(finding))


def _across(finding: Finding, room: Room, place: Floats) -> EvidenceView:
    if finding.ball is None:
        a, b = (place, place) if finding.ends is None else np.array(finding.ends)
        around = _NONE if finding.solid is None else finding.solid.box.corners()
        return across(room, a, b, between=True, around=around)
    centre, radius = np.array(finding.ball[0]), finding.ball[1]
    a, b = (place, place) if finding.ends is None else np.array(finding.ends)
    if float(np.linalg.norm(a - place)) > 4 * radius and finding.value == 0:
        # A taper ends beyond its ball: the tip is the place, the ball says across what.
        view = across(room, a, b, third=centre)
        return replace(view, marks=place[None])
    void = not room.holds(centre[None], _square(b - a)[None])[0]
    third = centre if float(np.linalg.norm(a - b)) < 1.98 * radius else None
    return across(room, a, b, third=third, between=void)


def _square(way: Floats) -> Floats:
    """A direction square to another; any where that is none."""
    axis = np.eye(3)[int(np.argmin(np.abs(way)))]
    found = np.cross(way, axis)
    length = float(np.linalg.norm(found))
    return np.asarray(found / length) if length > 0 else np.eye(3)[2]


def _profile(room: Room, place: Floats, around: Points, sizes: tuple[float, ...]) -> Beside | None:
    """A section upright through an overhanging face, in which its angle against the vertical is seen as it is; None where no face
    is found there."""
    leaning = _leaning(room, place)
    if leaning is None:
        return None
    out = leaning * np.array([1.0, 1.0, 0.0])
    across = np.array([-out[1], out[0], 0.0]) / float(np.linalg.norm(out))
    # Of its two sides the one that a person stands at first.
    toward = across if liking(across[None])[0] >= liking(-across[None])[0] else -across
    camera, _ = framed(room, toward, place[None], around, sizes)
    return Beside(camera, (Cut.through(place, toward),), leaning)


def _leaning(room: Room, place: Floats) -> Floats | None:
    """The way up an overhanging face at a place: in it, as steep as it goes; level where it is a ceiling."""
    normal = room.normal_at(place, np.array([0.0, 0.0, -1.0]), max(8 * room.grain, 1e-4 * room.box.diagonal))
    if normal is None or normal[2] >= 0:
        return None
    out = np.array([normal[0], normal[1], 0.0])
    if float(np.linalg.norm(out)) < 1e-6:
        return np.array([1.0, 0.0, 0.0])
    out /= np.linalg.norm(out)
    up = out * -normal[2] + np.array([0.0, 0.0, 1.0]) * float(np.hypot(normal[0], normal[1]))
    return np.asarray(up / np.linalg.norm(up))


def _around(finding: Finding) -> Points:
    return _NONE if finding.around is None else np.asarray(finding.around)


def _sizes(finding: Finding) -> tuple[float, ...]:
    """mm that the scale goes by besides the region's own extent: a length, or the side of a square of its area."""
    out = []
    if finding.unit == "mm" and finding.value:
        out.append(abs(finding.value))
    if finding.area:
        out.append(float(np.sqrt(finding.area)))
    return tuple(out)


def _first(finding: Finding) -> Floats | None:
    return None if finding.seen_from is None else np.array(finding.seen_from)
