"""A measured number: never without unit, place, method and uncertainty."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from gullyrise.core.geometry import Transform
from gullyrise.core.geometry.spots import Spot

Quantity = Literal["length", "area", "volume", "angle", "mass"]
EXACT = "exact"


@dataclass(frozen=True, slots=True)
class Figure:
    """One number about one thing or about what lies between two.

    value : mm, mm2, mm3, degrees or g;  uncertainty : in the same, 0 where it is exact to the rounding of the numbers
    method : how it was found;  a, b : where it begins and ends, mm, where it is a way from one place to another
    """

    name: str
    value: float
    quantity: Quantity
    uncertainty: float
    method: str
    a: Spot | None = None
    b: Spot | None = None

    def placed(self, place: Transform) -> Figure:
        """The same where a rigid placement puts its ends."""
        if self.a is None or self.b is None:
            return self
        (ax, ay, az), (bx, by, bz) = place.apply([self.a, self.b]).tolist()  # type: ignore[arg-type]
        return replace(self, a=(ax, ay, az), b=(bx, by, bz))
