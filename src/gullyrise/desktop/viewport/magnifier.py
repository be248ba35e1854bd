"""A round, larger picture of what is under the pointer."""

from __future__ import annotations

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from gullyrise.desktop.viewport.aim import Aim
from gullyrise.desktop.viewport.pictures import Pictures
from gullyrise.drawing import marks
from gullyrise.drawing.palette import Palette

_RADIUS, _TIMES = 90, 4.0


class Magnifier:
    def __init__(self, host: QWidget, pictures: Pictures, aim: Aim) -> None:
        self._host, self._pictures, self._aim = host, pictures, aim

    @property
    def held(self) -> bool:
        return self._pictures.lens is not None

    def hold(self, held: bool) -> None:
        """Holds it over the pointer, or puts it away."""
        if held == self.held:
            return
        self._pictures.hold_lens(held)
        if held and self._aim.pointer is None:
            self._aim.point(QPointF(self._host.rect().center()))
        self.ask()
        self._host.update()

    def ask(self) -> None:
        """For a new picture, while it is held."""
        place = self._aim.place
        if not self.held or place is None:
            return
        pane = self._pictures.panes.active
        (x, y), (width, height) = place, pane.size()
        # Of a window as high as the lens, the picture is so many times larger than in the pane.
        times = _TIMES * height / (2 * _RADIUS)
        window = ((2 * x / width - 1) * width / height * times, (1 - 2 * y / height) * times, times)
        self._pictures.ask_lens(pane.camera, max(int(2 * _RADIUS * self._pictures.ratio), 1), window)

    def paint(self, painter: QPainter, palette: Palette) -> None:
        lens, pointer = self._pictures.lens, self._aim.pointer
        if lens is not None and lens.image is not None and pointer is not None:
            marks.lens(lens.canvas(painter, palette), lens.image, pointer, _RADIUS, f"{_TIMES:g} ×")
