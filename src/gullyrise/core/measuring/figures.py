"""A measured number: never without unit, place, method and uncertainty."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from gullyrise.core.geometry import Transform
from gullyrise.core.geometry.spots import Spot

Quantity = Literal["length", "area", "volume", "angle", "mass"]
EXACT = "exact"
NAMES = {
    "axis-length": "length along the axis",
    "cone-angle": "angle of the cone",
    "side-to-axis": "side to axis",
    "ring-radius": "radius of the ring",
    "arc-length": "arc length",
    "arc-angle": "angle of the arc",
    "angle-at-second": "angle at the second",
    "smallest-gap": "smallest gap",
    "thickness-through": "thickness here, straight through",
    "thickness-ball": "thickness here, by a ball",
    "at-x": "at X",
    "at-y": "at Y",
    "at-z": "at Z",
}
"""Codes whose words are others than they themselves."""


@dataclass(frozen=True, slots=True)
class Figure:
    """One number about one thing or about what lies between two.

    code : which of all that can be measured, by which it is found again
    said : its name where the code alone does not give it
    value : mm, mm2, mm3, degrees or g
    uncertainty : in the same, 0 where it is exact to the rounding of the numbers
    method : how it was found
    a, b : where it begins and ends, mm, where it is a way from one place to another
    """

    code: str
    value: float
    quantity: Quantity
    uncertainty: float
    method: str
    a: Spot | None = None
    b: Spot | None = None
    said: str = ""

    @property
    def name(self) -> str:
        """In words."""
        return self.said or NAMES.get(self.code, self.code)

    def placed(self, place: Transform) -> Figure:
        """The same where a rigid placement puts its ends."""
        if self.a is None or self.b is None:
            return self
        (ax, ay, az), (bx, by, bz) = place.apply([self.a, self.b]).tolist()  # type: ignore[arg-type]
        return replace(self, a=(ax, ay, az), b=(bx, by, bz))


def legs_of(figure: Figure, directions: tuple[Spot, ...]) -> tuple[Figure, ...]:
    """The parts of a way along three directions, unit rows; none where the figure is no way."""
    if figure.a is None or figure.b is None or figure.quantity != "length":
        return ()
    way = np.array(figure.b) - np.array(figure.a)
    return tuple(
        Figure(f"along {axis}", abs(float(way @ np.array(direction))), "length", figure.uncertainty, figure.method)
        for axis, direction in zip("XYZ", directions, strict=True)
    )
