"""What is near a place of a flat cut: its corners, the middles of its circles, its lines and arcs; and each as a thing to
measure."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from gullyrise.core.cutting.fill import in_room
from gullyrise.core.cutting.thickness import nearest_on
from gullyrise.core.geometry import Floats, Plane
from gullyrise.core.geometry.outline import Outline, circle_of
from gullyrise.core.geometry.spots import spot
from gullyrise.core.measuring.figures import EXACT, Figure
from gullyrise.core.measuring.fits import grain
from gullyrise.core.measuring.things import Line, Point, Thing

Kind = Literal["corner", "centre", "line", "arc"]
WORDS: dict[Kind, str] = {"corner": "corner", "centre": "circle-centre", "line": "straight-edge", "arc": "arc"}


@dataclass(frozen=True, slots=True, eq=False)
class Snapped:
    """outline, way : numbers of the outline, and of its line or arc, or the corner at which that begins
    place : (2,) mm
    """

    kind: Kind
    outline: int
    way: int
    place: Floats

    @property
    def name(self) -> tuple[str, int, int]:
        """Which line, arc or corner it is; the same for the same one."""
        return self.kind, self.outline, self.way


def snapped(outlines: tuple[Outline, ...], place: Floats, reach: float) -> Snapped | None:
    """The nearest corner or middle of a circle within `reach` mm of a place (2,), else the nearest line or arc; None where none
    is."""
    points: list[tuple[float, Snapped]] = []
    ways: list[tuple[float, Snapped]] = []
    for number, outline in enumerate(outlines):
        starts, ends, bulges = outline.ways()
        if not len(starts):
            continue
        away = np.linalg.norm(outline.points - place, axis=1)
        best = int(np.argmin(away))
        if away[best] <= reach:
            points.append((float(away[best]), Snapped("corner", number, best, outline.points[best])))
        flat = np.flatnonzero(bulges == 0)
        if len(flat):
            distance, at, way = nearest_on(starts[flat], ends[flat], place)
            if distance <= reach:
                ways.append((distance, Snapped("line", number, int(flat[way]), at)))
        for way in np.flatnonzero(bulges).tolist():
            centre, radius = circle_of(starts[way], ends[way], float(bulges[way]))
            off = float(np.linalg.norm(place - centre))
            if off <= reach:
                points.append((off, Snapped("centre", number, way, centre)))
            run, out = ends[way] - starts[way], place - starts[way]
            # On the side of its chord where the arc is.
            if abs(off - radius) <= reach and (run[0] * out[1] - run[1] * out[0]) * bulges[way] <= reach * abs(run).max():
                at = centre + (place - centre) / max(off, 1e-300) * radius
                ways.append((abs(off - radius), Snapped("arc", number, way, at)))
    found = points or ways
    return min(found, key=lambda pair: pair[0])[1] if found else None


def thing_of(outlines: tuple[Outline, ...], found: Snapped, plane: Plane, *, exact: bool) -> Thing:
    """What was snapped to, in the room. exact : the outlines come from exact surfaces"""
    outline = outlines[found.outline]
    method = EXACT if exact else "outline of the cut triangles"
    off = 0.0 if exact else grain(plane.point) + grain(outline.points)
    if found.kind == "corner":
        return Thing("corner", method, point=Point(in_room(plane, found.place[None])[0], off, "corner"))
    starts, ends, bulges = outline.ways()
    a, b, bulge = starts[found.way], ends[found.way], float(bulges[found.way])
    if found.kind == "line":
        room = in_room(plane, np.array([a, b]))
        length = float(np.linalg.norm(b - a))
        own = (Figure("length", length, "length", 2 * off, method, spot(room[0]), spot(room[1])),)
        line = Line(room.mean(axis=0), (room[1] - room[0]) / max(length, 1e-300), off, 2 * off / max(length, 1e-12), "edge")
        return Thing("straight-edge", method, line=line, own=own, segments=room[None])
    return _round(outline, a, b, bulge, plane, method, off)


def _round(outline: Outline, a: Floats, b: Floats, bulge: float, plane: Plane, method: str, off: float) -> Thing:
    centre, radius = circle_of(a, b, bulge)
    sweep = 0.0
    # Its other pieces lie on the same circle.
    for start, end, bent in zip(*outline.ways(), strict=True):
        if bent:
            other, other_radius = circle_of(start, end, float(bent))
            if (
                np.linalg.norm(other - centre) <= 1e-6 * radius + outline.off
                and abs(other_radius - radius) <= 1e-6 * radius + outline.off
            ):
                sweep += abs(4 * float(np.arctan(bent)))
    whole = sweep > np.radians(350)
    doubt = off + outline.off + (0.0 if method == EXACT else _chord_sag(radius, sweep, outline))
    own = (
        Figure("diameter", 2 * radius, "length", 2 * doubt, method),
        Figure("radius", radius, "length", doubt, method),
        Figure("around" if whole else "arc-length", radius * sweep, "length", doubt * sweep, method),
    )
    room = in_room(plane, centre[None])[0]
    drawn = in_room(plane, Outline(np.array([a, b]), np.array([bulge, 0.0]), False).drawn(radius * 1e-3))
    return Thing(
        "circle" if whole else "arc", method, Point(room, doubt, "centre"), Line(room, plane.normal, doubt, 0.0, "axis"), own=own,
        radius=radius, segments=np.stack([drawn[:-1], drawn[1:]], axis=1), sag=doubt,
    )  # fmt: skip


def _chord_sag(radius: float, sweep: float, outline: Outline) -> float:
    """mm between an arc and the chords that it was drawn through: facets of 32 degrees and more are never taken for an arc."""
    step = outline.step or min(sweep, np.radians(32.0))
    return float(radius * (1 - np.cos(step / 2)))
