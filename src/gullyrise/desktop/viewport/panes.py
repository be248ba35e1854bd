"""The panes of the bench: one, or three flat ones and a free one; each with a camera, its picture and its way back."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from PyQt6.QtCore import QPointF, QRect
from PyQt6.QtGui import QImage, QPainter

from gullyrise.core.camera.camera import NAMED, Camera
from gullyrise.core.camera.trail import Trail
from gullyrise.core.geometry import Floats
from gullyrise.drawing.arrays import image_over
from gullyrise.drawing.canvas import Canvas
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.requests import Frame

FREE = "free"
FLAT = ("top", "front", "right")
_GAP = 2


@dataclass(slots=True, eq=False)
class Pane:
    """name : `free` or that of its flat view;  asked, shown : numbers of the newest request and of the picture on screen
    in_motion : the newest request was for a picture in motion
    """

    name: str
    camera: Camera
    rect: QRect = field(default_factory=QRect)
    frame: Frame | None = None
    image: QImage | None = None
    asked: int = 0
    shown: int = 0
    in_motion: bool = False
    trail: Trail = field(default_factory=Trail)

    def size(self) -> tuple[int, int]:
        return max(self.rect.width(), 1), max(self.rect.height(), 1)

    def local(self, place: QPointF) -> tuple[float, float]:
        return place.x() - self.rect.x(), place.y() - self.rect.y()

    def to_widget(self, point: Floats) -> QPointF:
        x, y, _ = self.camera.to_picture(np.asarray(point, dtype=float)[None], *self.size())[0]
        return QPointF(float(x) + self.rect.x(), float(y) + self.rect.y())

    def ask(self, number: int, *, in_motion: bool) -> None:
        """A picture is on its way."""
        self.asked, self.in_motion = number, in_motion

    def look(self, camera: Camera) -> None:
        self.camera = camera

    def show(self, frame: Frame, ratio: float) -> None:
        self.frame = frame
        self.image = image_over(frame.pixels, QImage.Format.Format_RGBX8888)
        self.image.setDevicePixelRatio(ratio)
        self.shown = max(self.shown, frame.request.number)

    def depth_under(self, x: float, y: float) -> tuple[Floats, int, float] | None:
        """(point, index of the item or -1, mm before the eye) at a place of the newest picture, or None."""
        frame = self.frame
        if frame is None:
            return None
        height, width = frame.depth.shape
        column, row = int(x * width / self.size()[0]), int(y * height / self.size()[1])
        if not (0 <= column < width and 0 <= row < height):
            return None
        depth = frame.depth_at(column, row)
        if not np.isfinite(depth):
            return None
        owner = -1 if frame.owners is None else int(frame.owners[row, column])
        return frame.request.camera.from_picture(column + 0.5, row + 0.5, depth, width, height), owner, depth

    def hides(self, x: float, y: float, depth: float) -> bool:
        """Whether something of the newest picture stands before a place."""
        return self.frame is not None and self.frame.hides(x, y, depth, self.size())

    def canvas(self, painter: QPainter, palette: Palette) -> Canvas:
        """The pane to be painted on; the painter's origin is its left upper corner."""
        return Canvas(painter, self.camera, self.size(), palette, self.hides)


class Panes:
    """Which panes are shown and where; the active one is that which keys and the dial move."""

    def __init__(self, camera: Camera) -> None:
        self.free = Pane(FREE, camera)
        self.flat = [Pane(name, self._flat_camera(name, camera)) for name in FLAT]
        self.active = self.free
        self.four = False
        self.enlarged: Pane | None = None

    @staticmethod
    def _flat_camera(name: str, camera: Camera) -> Camera:
        _, heading, elevation = NAMED[name]
        return replace(camera.looking(heading, elevation, 0.0), parallel=True)

    @property
    def shown(self) -> list[Pane]:
        if not self.four:
            return [self.active]
        return [self.enlarged] if self.enlarged is not None else [*self.flat, self.free]

    def lay_out(self, width: int, height: int) -> None:
        """Top above front, right beside front, as on a drawing in third-angle projection; the free one in the corner left."""
        if len(self.shown) == 1:
            self.shown[0].rect = QRect(0, 0, width, height)
            return
        left, upper = (width - _GAP) // 2, (height - _GAP) // 2
        x, y = left + _GAP, upper + _GAP
        top, front, right = self.flat
        top.rect = QRect(0, 0, left, upper)
        front.rect = QRect(0, y, left, height - y)
        right.rect = QRect(x, y, width - x, height - y)
        self.free.rect = QRect(x, 0, width - x, upper)

    def at(self, place: QPointF) -> Pane:
        return next((pane for pane in self.shown if pane.rect.contains(place.toPoint())), self.active)

    def set_four(self, four: bool) -> None:
        self.four, self.enlarged = four, None
        self.active = self.free
        if four:
            for pane in self.flat:
                pane.camera = self._flat_camera(pane.name, pane.camera)

    def activate(self, pane: Pane) -> None:
        self.active = pane

    def enlarge(self) -> None:
        """The active pane alone, or all four again."""
        self.enlarged = None if self.enlarged is not None else self.active
