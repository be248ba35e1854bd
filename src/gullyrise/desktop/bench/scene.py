"""What stands on the bench, as plain values that the renderer compares and draws."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry import Box, Mesh
from gullyrise.core.geometry.prepared import Prepared
from gullyrise.core.machines import Machine
from gullyrise.desktop.bench.display import PLAIN, Display
from gullyrise.desktop.bench.measures import Scale
from gullyrise.desktop.theme.palette import Palette


@dataclass(frozen=True, slots=True, eq=False)
class Item:
    """One copy of a body.

    key : unique, (id of its standing, number of the copy);  matrix : (4, 4) from mesh to bench;  box : on the bench, may be loose
    opacity : 1 is solid;  prepared : what pointing and quick turning want, None until a worker has made it
    """

    key: tuple[int, int]
    name: str
    mesh: Mesh
    matrix: np.ndarray
    box: Box
    selected: bool
    values: np.ndarray | None = None
    scale: Scale | None = None
    opacity: float = 1.0
    prepared: Prepared | None = None

    @property
    def owner(self) -> int:
        return self.key[0]


@dataclass(frozen=True, slots=True, eq=False)
class CutPlane:
    """A clipping plane across an axis of the bench; what lies on the far side of `position` (or before it, flipped) is gone."""

    axis: int
    position: float
    flipped: bool

    def gone(self, points: np.ndarray) -> np.ndarray:
        """Which of (n, 3) points are cut away."""
        off = points[:, self.axis] - self.position
        return np.asarray(off < 0 if self.flipped else off > 0)


@dataclass(frozen=True, slots=True, eq=False)
class Scene:
    """A whole picture but for the camera."""

    items: tuple[Item, ...]
    machine: Machine
    palette: Palette
    cut: CutPlane | None = None
    out_of_room: bool = False
    display: Display = PLAIN

    @property
    def box(self) -> Box:
        """All that may be seen, bed included."""
        room = self.machine.envelope.box
        box = Box(room.low - np.array([0, 0, 6.0]), room.high)
        for item in self.items:
            box = box.joined(item.box)
        return box

    @property
    def parts_box(self) -> Box | None:
        boxes = [item.box for item in self.items]
        if not boxes:
            return None
        return Box(np.min([box.low for box in boxes], axis=0), np.max([box.high for box in boxes], axis=0))
