"""Planes, and the words for them on the command line."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.errors import PlaneError
from gullyrise.core.geometry.arrays import Floats, Points, frozen

AXES = "xyz"


@dataclass(frozen=True, slots=True, eq=False)
class Plane:
    """A plane through `point` (3,) mm with unit `normal` (3,)."""

    point: Floats
    normal: Floats

    def __post_init__(self) -> None:
        normal = np.asarray(self.normal, dtype=np.float64)
        length = float(np.linalg.norm(normal))
        if not np.isfinite(length) or length < 1e-12 or not np.isfinite(self.point).all():
            raise PlaneError("The plane has no direction or no place; give finite numbers and a normal that is not zero.")
        object.__setattr__(self, "point", frozen(self.point, np.float64))
        object.__setattr__(self, "normal", frozen(normal / length, np.float64))

    @classmethod
    def across(cls, axis: int, position: float) -> Plane:
        """The plane square to axis 0, 1 or 2 at a position in mm, facing along it."""
        normal = np.zeros(3)
        normal[axis] = 1.0
        return cls(normal * position, normal)

    @classmethod
    def from_words(cls, words: str) -> Plane:
        """Reads `x=12`, `y=-3.5`, `z=0` or `px,py,pz,nx,ny,nz`. Raises PlaneError."""
        try:
            if "=" in words:
                name, _, number = words.partition("=")
                return cls.across(AXES.index(name.strip().lower()), float(number))
            numbers = [float(word) for word in words.split(",")]
        except ValueError:
            numbers = []
        if len(numbers) != 6:
            raise PlaneError(f"The plane '{words}' is not understood; write x=12, y=12, z=12 or px,py,pz,nx,ny,nz.")
        return cls(np.array(numbers[:3]), np.array(numbers[3:]))

    def heights(self, points: Points) -> Floats:
        """Signed distance of (n, 3) points, positive on the side that the normal points to."""
        return (points - self.point) @ self.normal

    def frame(self) -> tuple[Floats, Floats]:
        """Two unit directions u, v in the plane with u x v = normal; for a plane across an axis they are axes."""
        axis = int(np.argmax(np.abs(self.normal)))
        u = np.zeros(3)
        u[(axis + 1) % 3] = 1.0
        u -= self.normal * (u @ self.normal)
        u /= np.linalg.norm(u)
        return u, np.cross(self.normal, u)


def flat(points: Points, plane: Plane) -> np.ndarray:
    """(n, 2) coordinates of points in the plane's own frame, mm from its point."""
    u, v = plane.frame()
    away = points - plane.point
    return np.column_stack([away @ u, away @ v])
