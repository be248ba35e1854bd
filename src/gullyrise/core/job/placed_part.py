"""A part as it stands in a job."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from gullyrise.core.geometry import Box, Points, Transform
from gullyrise.core.job.origins import Origin, Step
from gullyrise.core.part import Part
from gullyrise.core.placing.moves import to_place


@dataclass(frozen=True, slots=True, eq=False)
class Hull:
    """corners : of a part's convex hull, (n, 3) mm in the file's coordinates. One record for a part however often it is moved and
    copied, so that it can be laid aside with the part's other arrays
    """

    corners: Points


@dataclass(frozen=True, slots=True, eq=False)
class PlacedPart:
    """box : in the file's coordinates
    figures : as `info` gives them
    digest : of the part's geometry
    centre : of mass, in the file's coordinates
    material : its id, empty for what the machine's parts usually are of
    hull : None where it is not known
    origin, steps : where the part came from, and what was done to its shape since, in order
    copy : of its file, from 1
    ground : its box as it stands, mm
    """

    id: int
    part: Part
    box: Box
    figures: dict[str, Any]
    digest: str
    placement: Transform
    centre: tuple[float, float, float] | None = None
    material: str = ""
    hull: Hull | None = None
    origin: Origin | None = None
    steps: tuple[Step, ...] = ()
    copy: int = 1
    ground: Box = field(init=False)

    def __post_init__(self) -> None:
        matrix = self.placement.matrix
        plain = self.hull is None or all(body.kind == "mesh" for body in self.part.bodies)
        if plain and (matrix[:3, :3] == np.eye(3)).all():
            # Most parts are only moved; the hull of a fine round mesh has as many corners as the mesh, and takes its time.
            ground = Box(self.box.low + matrix[:3, 3], self.box.high + matrix[:3, 3])
        else:
            ground = Box.of(self.outline())
        object.__setattr__(self, "ground", ground)

    def says_the_same(self, other: PlacedPart) -> bool:
        """Whether it is the same part at the same place."""
        same = (self.id, self.digest, self.copy, self.material, self.steps) == (
            other.id, other.digest, other.copy, other.material, other.steps,
        )  # fmt: skip
        return same and self.part is other.part and bool((self.placement.matrix == other.placement.matrix).all())

    @property
    def name(self) -> str:
        """As people call it: the part's name, numbered where it is a copy."""
        return self.part.name if self.copy == 1 else f"{self.part.name} · {self.copy}"

    @property
    def is_fixture(self) -> bool:
        """Whether it stands for a thing of the shop that is not made: it is in the way, and is not judged."""
        return self.part.format == "stand-in"

    def outline(self) -> Points:
        """(n, 3) mm on the machine: corners of its hull as it stands, or of its box where no hull is known."""
        return self.outline_at(self.placement)

    def outline_at(self, placement: Transform) -> Points:
        """The same as it would be there."""
        return placement.apply(self.box.corners() if self.hull is None else self.hull.corners)

    def moved(self, move: Transform) -> PlacedPart:
        """After a move of the machine's space."""
        return replace(self, placement=self.placement.then(move))

    def as_it_came(self) -> PlacedPart:
        """Turned as in its file, on the bed, its middle where it is."""
        middle = self.ground.middle
        plain = replace(self, placement=Transform.identity())
        return plain.moved(to_place(plain.outline(), float(middle[0]), float(middle[1]), 0.0))

    def reshaped(self, made: PlacedPart) -> PlacedPart:
        """Another shape of the part in its place: the middle of its box and its foot stay where they were."""
        before, foot = self.ground.middle, float(self.ground.low[2])
        fresh = replace(made, id=self.id, placement=self.placement, copy=self.copy, material=self.material)
        return fresh.moved(to_place(fresh.outline(), float(before[0]), float(before[1]), foot))


def outline_of(parts: list[PlacedPart]) -> Points:
    """(n, 3) mm: the outlines of several, for what moves as one. Raises ValueError for none."""
    return np.concatenate([placed.outline() for placed in parts])
