"""Pictures asked for, and what comes back."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.camera.camera import Camera
from gullyrise.drawing.scene import Scene

PROXY_ABOVE = 80_000
"""Triangles in all above which a reduced stand-in is drawn while moving."""


@dataclass(frozen=True, slots=True, eq=False)
class Request:
    """A picture asked for: width and height in real pixels.

    pane : for whom; a newer request of the same pane replaces it
    lens : (x, y, factor) draws only what lies round a place of the pane's picture (-1 to 1 from its left and foot), so many
           times as large as in one of the same height; None for the whole
    """

    scene: Scene
    camera: Camera
    width: int
    height: int
    moving: bool
    number: int
    pane: str = "free"
    lens: tuple[float, float, float] | None = None

    def is_of_the_same_as(self, other: Request) -> bool:
        """Whether another request, whatever its number, is for just this picture of the same scene and camera."""
        return (
            self.scene is other.scene
            and self.camera is other.camera
            and (self.width, self.height, self.moving, self.pane, self.lens)
            == (other.width, other.height, other.moving, other.pane, other.lens)
        )


@dataclass(frozen=True, slots=True, eq=False)
class Frame:
    """A picture.

    pixels : (h, w, 4) uint8, top row first
    depth : (h, w) float32 as the depth buffer has it, 0 to 1, between the distances near and far in mm
    owners : (h, w) int16 index into the scene's items or -1, None while moving
    final : nothing better follows for this request.
    """

    request: Request
    pixels: np.ndarray
    depth: np.ndarray
    owners: np.ndarray | None
    near: float
    far: float
    final: bool = False

    def depth_at(self, column: int, row: int) -> float:
        """mm before the eye of what is seen at a pixel, inf where nothing is. Taken one by one: few pixels are ever asked for."""
        return float(self._depths(self.depth[row, column]))

    def _depths(self, raw: np.ndarray) -> np.ndarray:
        """mm before the eye, inf where nothing is, of depths as the picture has them."""
        raw = np.asarray(raw, dtype=float)
        if self.request.camera.parallel:
            found = self.near + raw * (self.far - self.near)
        else:
            found = self.near * self.far / np.maximum(self.far - raw * (self.far - self.near), 1e-12)
        return np.where(raw < 1.0, found, np.inf)

    def hidden(self, places: np.ndarray, size: tuple[int, int]) -> np.ndarray:
        """(n,) whether something stands before each place; nothing does outside the picture.

        places : (n, 3) x and y in px of the picture shown in a size of px, and the depth in mm
        """
        height, width = self.depth.shape
        column, row = (places[:, axis] * (width, height)[axis] / size[axis] for axis in (0, 1))
        within = (column >= 0) & (column < width) & (row >= 0) & (row < height)
        found = np.full(len(places), np.inf)
        found[within] = self._depths(self.depth[row[within].astype(int), column[within].astype(int)])
        return np.asarray(found < places[:, 2] - 0.005 * np.abs(places[:, 2]))

    def hides(self, x: float, y: float, depth: float, size: tuple[int, int]) -> bool:
        """The same of one place."""
        return bool(self.hidden(np.array([[x, y, depth]]), size)[0])
