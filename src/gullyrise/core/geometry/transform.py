"""Affine placements."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry.arrays import Floats, Points, frozen


@dataclass(frozen=True, slots=True, eq=False)
class Transform:
    """A 4x4 affine `matrix` that takes column vectors of mm to mm."""

    matrix: Floats

    def __post_init__(self) -> None:
        object.__setattr__(self, "matrix", frozen(np.asarray(self.matrix, dtype=np.float64).reshape(4, 4), np.float64))

    @classmethod
    def identity(cls) -> Transform:
        """What moves nothing."""
        return cls(np.eye(4))

    @classmethod
    def moved(cls, by: Floats) -> Transform:
        """A shift by (3,) mm."""
        matrix = np.eye(4)
        matrix[:3, 3] = by
        return cls(matrix)

    @classmethod
    def scaled(cls, factor: float) -> Transform:
        """Larger by one factor about the origin."""
        return cls(np.diag([factor, factor, factor, 1.0]))

    @classmethod
    def turned(cls, axis: Floats, degrees: float) -> Transform:
        """A turn about an axis through the origin (Rodrigues' formula)."""
        x, y, z = np.asarray(axis, dtype=np.float64) / np.linalg.norm(axis)
        skew = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
        angle = np.radians(degrees)
        matrix = np.eye(4)
        matrix[:3, :3] += np.sin(angle) * skew + (1 - np.cos(angle)) * skew @ skew
        return cls(matrix)

    def inverse(self) -> Transform:
        """What takes back where this puts things. Raises numpy.linalg.LinAlgError for one that flattens."""
        return Transform(np.asarray(np.linalg.inv(self.matrix), dtype=np.float64))

    def then(self, later: Transform) -> Transform:
        """This one, and after it another."""
        return Transform(later.matrix @ self.matrix)

    def apply(self, points: Points) -> Points:
        """Places (n, 3) mm, moved."""
        return points @ self.matrix[:3, :3].T + self.matrix[:3, 3]

    @property
    def determinant(self) -> float:
        """By how much volumes grow, negative where it mirrors."""
        return float(np.linalg.det(self.matrix[:3, :3]))

    @property
    def mirrors(self) -> bool:
        """Whether left becomes right."""
        return self.determinant < 0

    @property
    def is_rigid(self) -> bool:
        """Whether lengths stay as they are (turns, moves and mirrors), within 1e-6."""
        linear = self.matrix[:3, :3]
        return bool(np.allclose(linear @ linear.T, np.eye(3), atol=1e-6))


MIRROR = Transform(np.diag([-1.0, 1.0, 1.0, 1.0]))
"""Along X: any placement that mirrors is this one, then turns and moves."""
