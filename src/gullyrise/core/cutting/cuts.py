"""A cut through the room: a plane whose one side is taken away, or a slab of which both are."""

from __future__ import annotations

import math
from typing import Annotated

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, field_validator

from gullyrise.core.geometry import Floats, Plane, Points
from gullyrise.core.geometry.arrays import Bools
from gullyrise.core.geometry.plane import AXES

Row = tuple[float, float, float]
Key = tuple[int, int]
_FAR = 1e7
MOST = 24
"""Cuts at a time."""


class Cut(BaseModel):
    """A plane across a direction at a position. What lies past it is gone; flipped, what lies before it.

    along : unit direction
    position : mm along it from the machine's origin
    depth : mm that are kept behind the plane, None for all
    only : (part, copy) of the bodies that it cuts, None for all
    opened : the direction in which it was opened, where it has been tilted since
    """

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    along: Row
    position: Annotated[float, Field(ge=-_FAR, le=_FAR)]
    flipped: bool = False
    depth: Annotated[float, Field(gt=0, le=_FAR)] | None = None
    only: Annotated[tuple[Key, ...], Field(max_length=20_000)] | None = None
    opened: Row | None = None

    @field_validator("along", "opened")
    @classmethod
    def _unit(cls, given: Row | None) -> Row | None:
        if given is None:
            return None
        length = math.hypot(*given)
        if not 1e-9 < length < 1e9:
            raise ValueError("a cut needs a direction")
        # One that is a unit already keeps its digits.
        return given if abs(length - 1) <= 1e-15 else (given[0] / length, given[1] / length, given[2] / length)

    @classmethod
    def across(cls, axis: int, position: float, *, flipped: bool = False) -> Cut:
        """Square to axis 0, 1 or 2."""
        return cls(along=tuple(np.eye(3)[axis].tolist()), position=position, flipped=flipped)

    @classmethod
    def through(cls, point: Floats, along: Floats, *, flipped: bool = False) -> Cut:
        """Through a point (3,), across a direction."""
        unit = np.asarray(along, dtype=float) / np.linalg.norm(along)
        return cls(along=(float(unit[0]), float(unit[1]), float(unit[2])), position=float(point @ unit), flipped=flipped)

    @property
    def axis(self) -> int | None:
        """0, 1 or 2 where it is square to that axis."""
        found = np.flatnonzero(np.abs(self.along) == 1.0)
        return int(found[0]) if len(found) else None

    @property
    def words(self) -> str:
        """Where it is, such as Z 12.5 mm."""
        axis = self.axis
        name = AXES[axis].upper() if axis is not None else "Tilted"
        slab = f", {self.depth:g} mm thick" if self.depth is not None else ""
        return f"{name} {self.position * (1 if axis is None else self.along[axis]):.6g} mm{slab}"

    @property
    def plane(self) -> Plane:
        """The cut face, its normal towards what is gone."""
        along = np.array(self.along)
        return Plane(along * self.position, -along if self.flipped else along)

    def sides(self) -> tuple[Plane, ...]:
        """The faces that bound what is kept, normals towards what is gone: one, of a slab two."""
        near = self.plane
        if self.depth is None:
            return (near,)
        return near, Plane(near.point - near.normal * self.depth, -near.normal)

    def touches(self, key: Key) -> bool:
        """Whether it goes through the body with this key, (id of the part, number of the copy)."""
        return self.only is None or key in self.only

    def moved_to(self, position: float) -> Cut:
        """The same at another distance along its normal, mm."""
        return self.model_copy(update={"position": float(position)})

    def tilted(self, about: Floats, axis: Floats, degrees: float) -> Cut:
        """Turned about an axis through a point (3,)."""
        from gullyrise.core.geometry import Transform

        return self._looking(Transform.turned(axis, degrees).matrix[:3, :3] @ np.array(self.along), about)

    @property
    def tilt(self) -> tuple[float, float]:
        """Degrees by which it leans from how it was opened: (sideways, over), about its second direction, then its first."""
        normal = np.array(self.along if self.opened is None else self.opened)
        u, v = Plane(np.zeros(3), normal).frame()
        way = np.array(self.along)
        sideways = np.degrees(np.arcsin(np.clip(way @ u, -1, 1)))
        return float(sideways), float(np.degrees(np.arctan2(-(way @ v), way @ normal)))

    def tilted_to(self, about: Floats, sideways: float, over: float) -> Cut:
        """Leaning so many degrees from how it was opened, turned through a point (3,)."""
        normal = np.array(self.along if self.opened is None else self.opened)
        u, v = Plane(np.zeros(3), normal).frame()
        s, o = np.radians(sideways), np.radians(over)
        return self._looking(np.cos(s) * (np.cos(o) * normal - np.sin(o) * v) + np.sin(s) * u, about)

    def _looking(self, along: Floats, about: Floats) -> Cut:
        fresh = Cut.through(about, along, flipped=self.flipped)
        return fresh.model_copy(update={"depth": self.depth, "only": self.only, "opened": self.opened or self.along})


def gone(cuts: tuple[Cut, ...], points: Points) -> Bools:
    """(n,) which points any of some cuts takes away."""
    out = np.zeros(len(points), dtype=bool)
    for cut in cuts:
        for side in cut.sides():
            out |= side.heights(points) > 0
    return out


def kept_ways(cuts: tuple[Cut, ...], origins: Points, directions: Points) -> tuple[Floats, Floats]:
    """(from (n,), to (n,)) of rays (n, 3) as `kept_way` has them of one."""
    start, end = np.full(len(origins), -np.inf), np.full(len(origins), np.inf)
    for cut in cuts:
        for side in cut.sides():
            height, slope = side.heights(origins), directions @ side.normal
            with np.errstate(divide="ignore", invalid="ignore"):
                at = -height / slope
            start = np.where(slope < 0, np.maximum(start, at), start)
            end = np.where(slope > 0, np.minimum(end, at), end)
            level = (slope == 0) & (height > 0)
            start[level], end[level] = np.inf, -np.inf
    return start, end


def kept_way(cuts: tuple[Cut, ...], origin: Floats, direction: Floats) -> tuple[float, float]:
    """(from, to) in lengths of `direction` where a ray runs through what cuts leave; from > to where it never does."""
    start, end = -np.inf, np.inf
    for cut in cuts:
        for side in cut.sides():
            height, slope = float((origin - side.point) @ side.normal), float(direction @ side.normal)
            if slope == 0:
                if height > 0:
                    return np.inf, -np.inf
            elif slope < 0:
                start = max(start, -height / slope)
            else:
                end = min(end, -height / slope)
    return float(start), float(end)
