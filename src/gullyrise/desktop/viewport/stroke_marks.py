"""What the hand does, shown while it does it; the last strokes for those who watch; the way back to what is out of view."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QObject, QPointF, QRectF
from PyQt6.QtGui import QPainter

from gullyrise.desktop.viewport.overlay import STROKE, Overlay
from gullyrise.desktop.viewport.panes import Pane
from gullyrise.desktop.viewport.pictures import Pictures
from gullyrise.desktop.viewport.pointer.hand import Hand
from gullyrise.desktop.widgets.timers import once
from gullyrise.drawing import marks, way_back
from gullyrise.drawing.canvas import Canvas

_STROKES_MS = 3000


class StrokeMarks(Overlay):
    """The point that is turned about, a rectangle that is drawn, the pane that is active. touching : whether a
    rectangle takes what it touches;  home_key : which key brings all back, for its words"""

    level = STROKE

    def __init__(self, pictures: Pictures, hand: Hand) -> None:
        self._pictures, self._hand = pictures, hand
        self.touching, self.home_key = True, ""

    def select_touching(self, touching: bool) -> None:
        self.touching = touching

    def name_home(self, key: str) -> None:
        """The key that brings all back, for its words."""
        self.home_key = key

    def paint(self, painter: QPainter, pane: Pane) -> None:
        scene, panes = self._pictures.scene, self._pictures.panes
        canvas = pane.canvas(painter, scene.palette)
        active = pane is panes.active
        if active:
            self._stroke(canvas)
        way_back.lost(canvas, scene.corners, self.home_key)
        if len(panes.shown) > 1 and active:
            canvas.brush(None)
            canvas.pen("accent", 1)
            painter.drawRect(QRectF(0, 0, *pane.size()).adjusted(0.5, 0.5, -1.5, -1.5))

    def _stroke(self, canvas: Canvas) -> None:
        stroke = self._hand.stroke
        if stroke is None or not stroke.moved:
            return
        if stroke.gesture in ("turn", "roll"):
            x, y, _ = canvas.seen(stroke.pivot)[0]
            if np.isfinite(x):
                marks.pivot_ring(canvas, QPointF(float(x), float(y)))
        elif stroke.gesture in ("frame", "choose"):
            inside = "touching" if self.touching else "inside"
            marks.band(canvas, *stroke.rectangle, "Zooms to this" if stroke.gesture == "frame" else f"Selects what is {inside}")


class StrokeWords:
    """The last strokes, for a while, where that is wanted."""

    def __init__(self, host: QObject, pictures: Pictures, changed: Callable[[], None]) -> None:
        self._pictures, self._changed = pictures, changed
        self.words: tuple[str, ...] = ()
        self._end = once(host, _STROKES_MS, self._forget)

    def note(self, words: str) -> None:
        if self._pictures.scene.display.strokes:
            if not self.words or self.words[-1] != words:
                self.words = (*self.words[-3:], words)
            self._end.start()
            self._changed()

    def _forget(self) -> None:
        self.words = ()
        self._changed()

    def paint(self, painter: QPainter, size: tuple[int, int]) -> None:
        """size : of the viewport, px"""
        marks.strokes(Canvas(painter, self._pictures.panes.free.camera, size, self._pictures.scene.palette), self.words)
