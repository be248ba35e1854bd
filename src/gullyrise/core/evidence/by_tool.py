"""A place that a cutter does not reach: on a cut along the tool, with the tool where it is stopped; a corner from along it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.evidence.framing import framed, liking, square_to
from gullyrise.core.evidence.room import Room
from gullyrise.core.evidence.view import EvidenceView, Stop, proved
from gullyrise.core.geometry import Floats, Points
from gullyrise.core.machines.machine import Tool

_RINGS, _SPOKES, _FLANK = (0.5, 0.98), 8, 1.001
_AROUND = 0.02


def along_tool(
    room: Room, place: Floats, along: Floats, around: Points, sizes: tuple[float, ...], tools: tuple[Tool, ...]
) -> EvidenceView:
    """The view of a place (3,) on a cut that holds the tool's direction (3,), from where the tool comes."""
    marks = place[None]
    # From its other side a cut shows the same: the likelier one of each two.
    choices = square_to(along)
    choices = choices[[not (choices[:number] @ one < -0.999).any() for number, one in enumerate(choices)]]
    reach = _AROUND * framed(room, choices[0], marks, around, sizes)[0].span
    worth = np.round(_profiles(room, place, choices, reach) + 0.2 * liking(choices), 6)

    def seen_from(toward: Floats) -> EvidenceView:
        camera, size = framed(room, toward, marks, around, sizes)
        return proved(EvidenceView(camera, (Cut.through(place, toward),), marks=marks, size=size), room)

    order = choices[np.argsort(-worth, kind="stable")]
    view = next((found for found in map(seen_from, order[:4]) if found.proof.holds), None) or seen_from(order[0])
    return replace(view, stop=_stopped(room, place, along, view.toward, tools))


def along_corner(room: Room, place: Floats, along: Floats, radius: float, tool_radius: float) -> EvidenceView:
    """The view of an inside corner, straight along it on a cut across it, with the tool as it lies in the corner."""
    marks = place[None]
    sizes = (2 * radius,) if radius > 0 else (2 * tool_radius,)
    camera, size = framed(room, along, marks, marks[:0], sizes)
    view = proved(EvidenceView(camera, (Cut.through(place, along),), marks=marks, size=size), room)
    centre = _lies(room, place, along, tool_radius)
    return replace(view, circle=None if centre is None else (centre, tool_radius))


def _profiles(room: Room, place: Floats, toward: Points, reach: float) -> Floats:
    """(n,) how well a cut looked at from each direction (n, 3) shows the surface at a place: 1 where half of what lies round it
    is material, 0 where all or nothing is."""
    side = np.cross(toward, np.eye(3)[np.argmin(np.abs(toward), axis=1)])
    side /= np.linalg.norm(side, axis=1)[:, None]
    other = np.cross(toward, side)
    turns = np.arange(6) * (np.pi / 3) + 0.2
    out = np.cos(turns)[None, :, None] * side[:, None] + np.sin(turns)[None, :, None] * other[:, None]
    places = (place - toward * (0.05 * reach))[:, None] + reach * out
    held = room.holds(places.reshape(-1, 3), np.repeat(-toward, len(turns), axis=0)).reshape(len(toward), -1)
    return np.asarray(1 - 2 * np.abs(held.mean(axis=1) - 0.5))


def _stopped(room: Room, place: Floats, along: Floats, toward: Floats, tools: tuple[Tool, ...]) -> Stop | None:
    """The slimmest tool come down over a place until something of it meets the part."""
    if not tools:
        return None
    tool = min(tools, key=lambda one: (one.diameter, -one.reach))
    radius, holder = tool.diameter / 2, max(tool.holder_diameter, tool.diameter) / 2
    across = np.cross(toward, along)
    # Beside a wall the flank touches it, over a floor the end does: of both sides and the middle, where it comes deepest.
    axes = place + np.array([[0.0], [1.0], [-1.0]]) * (radius * _FLANK) * across
    tip, held = _heights(room, axes, along, radius), _heights(room, axes, along, holder) - tool.reach
    best = int(np.argmin(np.maximum(tip, held)))
    depth = max(float(tip[best]), float(held[best]))
    at = axes[best] + along * (depth - float(axes[best] @ along))
    return Stop(at, along, radius, tool.reach, holder, bool(held[best] > tip[best]))


def _heights(room: Room, axes: Points, along: Floats, radius: float) -> Floats:
    """(n,) mm along a direction of the highest thing under a disc round each axis, which goes through a place (n, 3)."""
    side = np.cross(along, np.eye(3)[int(np.argmin(np.abs(along)))])
    side /= np.linalg.norm(side)
    other = np.cross(along, side)
    turns = np.arange(_SPOKES) * (2 * np.pi / _SPOKES)
    spokes = np.cos(turns)[:, None] * side + np.sin(turns)[:, None] * other
    disc = np.concatenate([np.zeros((1, 3)), *(spokes * (radius * ring) for ring in _RINGS)])
    start = (axes[:, None] + disc).reshape(-1, 3)
    top = float((room.box.corners() @ along).max()) + 1.0
    start = start + along * (top - start @ along)[:, None]
    down = room.first(start, np.tile(-along, (len(start), 1)))
    lowest = float((room.box.corners() @ along).min())
    return np.asarray(np.maximum(top - down, lowest).reshape(len(axes), -1).max(axis=1))


def _lies(room: Room, place: Floats, along: Floats, radius: float) -> Floats | None:
    """The middle of a round tool pushed into a corner: on the line between its walls, as near as both let it."""
    side = np.cross(along, np.eye(3)[int(np.argmin(np.abs(along)))])
    side /= np.linalg.norm(side)
    other = np.cross(along, side)
    turns = np.arange(48) * (np.pi / 24)
    ways = np.cos(turns)[:, None] * side + np.sin(turns)[:, None] * other
    clear = room.first(place + ways * (0.05 * radius) - along * (1e-3 * radius), ways)
    open_ = clear > radius
    if not open_.any() or open_.all():
        return None
    middle = ways[open_].sum(axis=0)
    length = float(np.linalg.norm(middle))
    if length < 1e-6:
        return None
    middle /= length
    half = max(np.pi * float(open_.mean()), 0.1)
    # In a corner of opening 2 h the middle of a round of radius r is r / sin h from its point.
    return np.asarray(place + middle * radius / np.sin(min(half, np.pi / 2)))
