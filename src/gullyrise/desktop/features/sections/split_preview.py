"""What a split would make, drawn before it is done: on which side each half lies, and where its pegs would stand."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPolygonF

from gullyrise.core.geometry import Floats, Plane
from gullyrise.desktop.viewport.overlay import EVIDENCE, Overlay
from gullyrise.desktop.viewport.panes import Pane
from gullyrise.desktop.viewport.widget import Viewport

_ROUND = 32


@dataclass(frozen=True, slots=True, eq=False)
class Halves:
    """plane : on the bench, its normal into the first half;  words : what the halves will be called;  at : (3,) mm between them
    reach : mm from there to where their names stand;  feet : (k, 3) mm where pegs stand;  diameter, length : of the pegs, mm
    """

    plane: Plane
    words: tuple[str, str]
    at: Floats
    reach: float
    feet: Floats
    diameter: float
    length: float


class SplitPreview(Overlay):
    level = EVIDENCE

    def __init__(self, viewport: Viewport) -> None:
        self._viewport = viewport
        self.shown: Halves | None = None
        viewport.add_overlay(self)

    def show(self, halves: Halves | None) -> None:
        """None for nothing that would be split."""
        if halves is not self.shown:
            self.shown = halves
            self._viewport.update()

    def paint(self, painter: QPainter, pane: Pane) -> None:
        halves = self.shown
        if halves is None:
            return
        canvas = pane.canvas(painter, self._viewport.scene.palette)
        across, up = halves.plane.frame()
        turn = np.arange(_ROUND) * (2 * np.pi / _ROUND)
        ring = halves.diameter / 2 * (np.cos(turn)[:, None] * across + np.sin(turn)[:, None] * up)
        for foot in halves.feet:
            tip = foot + halves.plane.normal * halves.length
            ends = [canvas.all_at(end + ring) for end in (foot, tip)]
            if ends[0] is None or ends[1] is None:
                continue
            for _ in canvas.outlined("accent", 1.6, 3.4):
                canvas.brush(None)
                for end in (ends[0], ends[1]):
                    painter.drawPolygon(QPolygonF(end))
                for side in range(0, _ROUND, _ROUND // 4):
                    painter.drawLine(ends[0][side], ends[1][side])
        for words, way in zip(halves.words, (1.0, -1.0), strict=True):
            place = canvas.at(halves.at + way * halves.reach * halves.plane.normal)
            if place is not None:
                wide = canvas.length_of(words, 12) + 14
                canvas.plate(QRectF(place.x() - wide / 2, place.y() - 11, wide, 22), words, edge="accent")
