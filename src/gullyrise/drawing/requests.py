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
        raw = float(self.depth[row, column])
        if raw >= 1.0:
            return float("inf")
        if self.request.camera.parallel:
            return self.near + raw * (self.far - self.near)
        return self.near * self.far / (self.far - raw * (self.far - self.near))

    def hidden(self, places: np.ndarray, size: tuple[int, int]) -> np.ndarray:
        """(n,) whether something stands before each place, as in `hides`: places (n, 3) x and y in px and the depth in mm."""
        height, width = self.depth.shape
        column = np.clip((places[:, 0] * width / size[0]).astype(int), 0, width - 1)
        row = np.clip((places[:, 1] * height / size[1]).astype(int), 0, height - 1)
        raw = self.depth[row, column].astype(float)
        if self.request.camera.parallel:
            found = self.near + raw * (self.far - self.near)
        else:
            found = self.near * self.far / np.maximum(self.far - raw * (self.far - self.near), 1e-12)
        return np.asarray((raw < 1.0) & (found < places[:, 2] - 0.005 * np.abs(places[:, 2])))

    def hides(self, x: float, y: float, depth: float, size: tuple[int, int]) -> bool:
        """Whether something stands before a place: x, y in px of the picture shown in a size of px, depth in mm."""
        height, width = self.depth.shape
        column, row = int(x * width / size[0]), int(y * height / size[1])
        return 0 <= column < width and 0 <= row < height and self.depth_at(column, row) < depth - 0.005 * abs(depth)
