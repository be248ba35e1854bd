"""What a picked thing is: a point, a line, a plane, and what it measures by itself."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from gullyrise.core.geometry import Floats, Mesh, Points, Transform
from gullyrise.core.measuring.figures import EXACT, Figure

WORDS = {
    "flat-face": "flat face",
    "free-form-face": "free-form face",
    "straight-edge": "straight edge",
    "curved-edge": "curved edge",
    "circle-centre": "centre of a circle",
    "edge-middle": "middle of an edge",
    "axis-of": "axis of a {}",
    "place-on": "place on a {}",
}
"""Kinds whose words are others than they themselves."""


@dataclass(frozen=True, slots=True, eq=False)
class Point:
    """A place (3,) mm, known within `off` mm. kind : such as corner or centre"""

    place: Floats
    off: float
    kind: str

    @property
    def words(self) -> str:
        """What it is, for a reader."""
        return WORDS.get(self.kind, self.kind)


@dataclass(frozen=True, slots=True, eq=False)
class Line:
    """A straight line without end: through `origin` (3,) mm, which is known within `off` mm, along a unit direction known within
    `lean` radians. kind : edge or axis"""

    origin: Floats
    direction: Floats
    off: float
    lean: float
    kind: str

    @property
    def words(self) -> str:
        """What it is, for a reader."""
        return WORDS.get(self.kind, self.kind)


@dataclass(frozen=True, slots=True, eq=False)
class Flat:
    """A plane through `origin` (3,) mm, known within `off` mm along its outward unit normal, which is known within `lean`
    radians."""

    origin: Floats
    normal: Floats
    off: float
    lean: float


@dataclass(frozen=True, slots=True, eq=False)
class Thing:
    """What was picked.

    kind : what it is, such as hole or straight-edge
    of : the kind that an axis or a place is of
    point, line, plane : what it is as geometry without extent, as far as it is that
    own : what it measures by itself, the foremost first
    method : how it is known
    radius : of a round one, mm
    surface, segments : what there is of it as triangles, or as straight pieces (k, 2, 3) mm, within `sag` mm of it
    """

    kind: str
    method: str = EXACT
    point: Point | None = None
    line: Line | None = None
    plane: Flat | None = None
    own: tuple[Figure, ...] = ()
    radius: float | None = None
    surface: Mesh | None = None
    segments: Points | None = None
    sag: float = 0.0
    of: str = ""

    @property
    def words(self) -> str:
        """What it is, for a reader."""
        own = WORDS.get(self.kind, self.kind)
        return own.format(WORDS.get(self.of, self.of)) if self.of else own

    def placed(self, place: Transform) -> Thing:
        """The same where a rigid placement puts it."""
        turn = place.matrix[:3, :3]

        def moved(at: Floats) -> Floats:
            return np.asarray(place.apply(at[None])[0])

        point, line, plane = self.point, self.line, self.plane
        # A mirror leaves normals outward: they are turned like any direction.
        return replace(
            self,
            point=replace(point, place=moved(point.place)) if point else None,
            line=replace(line, origin=moved(line.origin), direction=turn @ line.direction) if line else None,
            plane=replace(plane, origin=moved(plane.origin), normal=turn @ plane.normal) if plane else None,
            own=tuple(figure.placed(place) for figure in self.own),
            surface=self.surface.placed(place) if self.surface is not None else None,
            segments=np.asarray(place.apply(self.segments.reshape(-1, 3))).reshape(-1, 2, 3)
            if self.segments is not None
            else None,
        )
