"""Axis-parallel boxes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry.arrays import Floats, Points, frozen


@dataclass(frozen=True, slots=True, eq=False)
class Box:
    """An axis-parallel box, `low` and `high` corners (3,) in mm."""

    low: Floats
    high: Floats

    def __post_init__(self) -> None:
        object.__setattr__(self, "low", frozen(self.low, np.float64))
        object.__setattr__(self, "high", frozen(self.high, np.float64))

    @classmethod
    def of(cls, points: Points) -> Box:
        """The box of (n, 3) points. Raises ValueError for none."""
        # Column by column: along rows of three the library is eight times slower.
        columns = [points[:, k] for k in range(3)]
        return cls(np.array([column.min() for column in columns]), np.array([column.max() for column in columns]))

    @classmethod
    def around(cls, boxes: Sequence[Box]) -> Box:
        """The box round some. Raises ValueError for none."""
        return cls(np.min([box.low for box in boxes], axis=0), np.max([box.high for box in boxes], axis=0))

    @property
    def size(self) -> Floats:
        """(3,) mm."""
        return self.high - self.low

    @property
    def middle(self) -> Floats:
        """(3,) mm."""
        return (self.low + self.high) / 2

    @property
    def diagonal(self) -> float:
        """mm from the low corner to the high one."""
        return float(np.linalg.norm(self.size))

    def joined(self, other: Box) -> Box:
        """Round both."""
        return Box(np.minimum(self.low, other.low), np.maximum(self.high, other.high))

    def grown(self, by: float) -> Box:
        """Larger by so many mm on every side."""
        return Box(self.low - by, self.high + by)

    def gap_to(self, other: Box) -> float:
        """Distance between two boxes, 0 where they meet."""
        apart = np.maximum(0.0, np.maximum(self.low - other.high, other.low - self.high))
        return float(np.linalg.norm(apart))

    def corners(self) -> Points:
        """(8, 3) corner points."""
        pick = np.array([[i & 1, i >> 1 & 1, i >> 2 & 1] for i in range(8)], dtype=bool)
        return np.where(pick, self.high, self.low)
