"""What a solid's faces and edges are, in plain arrays: no kernel is needed to ask them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gullyrise.core.geometry.arrays import Bools, Floats, Ints, Points, frozen

SURFACES = ("plane", "cylinder", "cone", "sphere", "torus", "other")
CURVES = ("line", "circle", "ellipse", "other")


@dataclass(frozen=True, slots=True, eq=False)
class Facts:
    """(f) faces, numbered as in the body's anatomy, and (e) edges, numbered likewise. Lengths mm, in the body's coordinates.

    surface  : (f,) uint8, place in SURFACES
    area     : (f,) exact area, mm2
    origin   : (f, 3) a point of a plane; on the axis of a cylinder; the tip of a cone; the middle of a sphere or torus; else NaN
    axis     : (f, 3) unit: a plane's outward normal, else the axis; NaN where there is none
    radius   : (f,) of a cylinder or sphere, the larger of a torus; NaN else
    second   : (f,) the smaller radius of a torus; degrees between a cone's axis and its side; NaN else
    hollow   : (f,) whether the material lies outside a round face, as at a hole
    curve    : (e,) uint8, place in CURVES
    length   : (e,) exact
    bend     : (e,) radius of a circle, NaN else
    middle, normal : (e, 3) of a circle: its middle and the axis of its plane; NaN else
    points, starts : (p, 3) polylines of all edges one after another, edge k from starts[k] to starts[k + 1]
    """

    surface: NDArray[np.uint8]
    area: Floats
    origin: Points
    axis: Points
    radius: Floats
    second: Floats
    hollow: Bools
    curve: NDArray[np.uint8]
    length: Floats
    bend: Floats
    middle: Points
    normal: Points
    points: Points
    starts: Ints

    def __post_init__(self) -> None:
        for name in self.__slots__:
            value = getattr(self, name)
            object.__setattr__(self, name, frozen(value, value.dtype))

    def scaled(self, factor: float) -> Facts:
        """Lengths times a factor."""
        torus = self.surface == SURFACES.index("torus")
        return Facts(
            self.surface, self.area * factor**2, self.origin * factor, self.axis, self.radius * factor,
            np.where(torus, self.second * factor, self.second), self.hollow, self.curve, self.length * factor,
            self.bend * factor, self.middle * factor, self.normal, self.points * factor, self.starts,
        )  # fmt: skip

    def counts(self) -> dict[str, int]:
        """How many faces there are of each kind of surface that occurs."""
        found = np.bincount(self.surface, minlength=len(SURFACES))
        return {name: int(found[number]) for number, name in enumerate(SURFACES) if found[number]}
