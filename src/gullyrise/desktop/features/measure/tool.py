"""Measuring on the bench: the snap under the pointer, what is picked, the figure between with its legs, and kept dimensions."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPolygonF

from gullyrise.core.geometry import Floats
from gullyrise.core.picking.snapping import WORDS, Snap, snap_at
from gullyrise.desktop.viewport.overlay import HAND
from gullyrise.desktop.viewport.panes import Pane
from gullyrise.desktop.viewport.tool import Tool
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.drawing import marks
from gullyrise.drawing.canvas import Canvas

AXES = ("axis_x", "axis_y", "axis_z")
_Ends = tuple[tuple[float, float, float], tuple[float, float, float]]


@dataclass(frozen=True, slots=True)
class Shown:
    """A figure on the bench. words : its number;  ends : in the room, None where it has none, then `at` is where it is told
    legs : directions (three unit rows) along which its parts are drawn;  leg : the one that is pointed at, or none
    verdict : colours it, empty for none;  strong : it is the one in hand
    """

    words: str
    ends: _Ends | None
    at: tuple[float, float, float]
    legs: tuple[tuple[float, float, float], ...] = ()
    leg: int | None = None
    leg_words: tuple[str, ...] = ()
    verdict: str = ""
    strong: bool = True


class MeasureTool(Tool):
    """picked : (a Pick or None, whether to add);  pointed : words on what a click would take, or empty."""

    order, level = 2, HAND + 1
    picked = pyqtSignal(object, bool)
    pointed = pyqtSignal(str)

    def __init__(self, bench: Viewport) -> None:
        super().__init__(bench)
        self._viewport = bench
        self.active = False
        self.spots = False
        self.near: Snap | None = None
        self.held: tuple[Snap, ...] = ()
        self.shown: Shown | None = None
        self.kept: tuple[Shown, ...] = ()

    def take_up(self, active: bool) -> None:
        """Whether clicks are its own."""
        self.active = active
        self.leave()

    def take_spots(self, spots: bool) -> None:
        self.spots = spots

    def under(self, local: tuple[float, float]) -> Snap | None:
        """What a click at a place of the active pane would take."""
        bench = self._viewport
        return snap_at(bench.scene, bench.aim.hit(local), local, bench.camera, bench.view_size(), spots=self.spots)

    def under_pointer(self) -> Snap | None:
        place = self._viewport.aim.place
        return self.under(place) if place is not None else None

    @property
    def takes_clicks(self) -> bool:
        return self.active

    def point(self, local: tuple[float, float]) -> None:
        found = self.under(local)
        before = self.near
        self.near = found
        if (found.pick.name if found else None) != (before.pick.name if before else None):
            self.pointed.emit(WORDS[found.pick.what] if found is not None else "")
            self._viewport.update()
        elif found is not None:
            self._viewport.update()

    def leave(self) -> None:
        if self.near is not None:
            self.near = None
            self._viewport.update()

    def click(self, local: tuple[float, float], *, add: bool) -> None:
        found = self.under(local)
        self.picked.emit(found.pick if found is not None else None, add)

    def show(self, held: tuple[Snap, ...], shown: Shown | None) -> None:
        """What is in hand."""
        self.held, self.shown = held, shown
        self._viewport.update()

    def show_kept(self, kept: tuple[Shown, ...]) -> None:
        """Dimensions of the job."""
        if kept != self.kept:
            self.kept = kept
            self._viewport.update()

    # --- painting --------------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter, pane: Pane) -> None:
        canvas = pane.canvas(painter, self._viewport.scene.palette)
        for one in self.kept:
            if not self._in_hand(one):
                self._figure(canvas, one)
        for snap in self.held:
            self._snap(canvas, snap, strong=True)
        if self.near is not None and pane is self._viewport.panes.active:
            self._snap(canvas, self.near, strong=False)
        if self.shown is not None:
            self._figure(canvas, self.shown)

    def _in_hand(self, one: Shown) -> bool:
        """Whether a kept dimension lies just where what is in hand is drawn."""
        held = self.shown
        return held is not None and held.ends is not None and one.ends is not None and np.allclose(held.ends, one.ends, atol=1e-6)

    def _snap(self, canvas: Canvas, snap: Snap, *, strong: bool) -> None:
        painter, pick = canvas.painter, snap.pick
        width = 3.0 if strong else 2.2
        if pick.what == "face":
            lines = self._viewport.selection.of_face(pick.key, pick.index)
            if lines is not None:
                marks.feature(canvas, lines, "accent", width)
        elif len(snap.lines):
            marks.feature(canvas, snap.lines, "accent", width if pick.what == "edge" else 1.6)
        at = canvas.at(snap.place)
        if at is None:
            return
        canvas.brush(None)
        # Each kind has a form of its own, drawn over a pale one so that it is seen on any ground.
        for _ in canvas.outlined("accent", width, 4.5):
            if pick.what == "corner":
                painter.drawRect(QRectF(at.x() - 5, at.y() - 5, 10, 10))
            elif pick.what == "middle":
                painter.drawPolygon(QPolygonF([at + QPointF(-6, 5), at + QPointF(6, 5), at + QPointF(0, -6)]))
            elif pick.what == "centre":
                painter.drawEllipse(at, 5.5, 5.5)
                painter.drawLine(at + QPointF(-10, 0), at + QPointF(10, 0))
                painter.drawLine(at + QPointF(0, -10), at + QPointF(0, 10))
            elif pick.what in ("spot", "face") and strong:
                painter.drawEllipse(at, 3, 3)
            elif pick.what == "spot":
                painter.drawLine(at + QPointF(-6, -6), at + QPointF(6, 6))
                painter.drawLine(at + QPointF(-6, 6), at + QPointF(6, -6))

    def _figure(self, canvas: Canvas, one: Shown) -> None:
        painter = canvas.painter
        colour = canvas.palette.verdict(one.verdict) if one.verdict else canvas.colour("accent" if one.strong else "quiet")
        middle = canvas.at(one.at)
        if one.ends is not None:
            a, b = (canvas.at(end) for end in one.ends)
            if a is None or b is None:
                return
            if one.strong:
                self._legs(canvas, one)
            for _ in canvas.outlined(colour, 2.0 if one.strong else 1.4, 4.0):
                painter.drawLine(a, b)
            canvas.brush(colour)
            canvas.pen("panel", 1.2)
            for at in (a, b):
                painter.drawEllipse(at, 3.6, 3.6)
            along = b - a
            length = float(np.hypot(along.x(), along.y()))
            # Beside the line, not on it.
            off = QPointF(-along.y(), along.x()) / length * 16 if length > 1 else QPointF(0, -16)
            middle = (a + b) / 2 + (off if off.y() <= 0 else -off)
        elif middle is not None:
            # Over the place, on a leader, so that what is told of stays in sight.
            canvas.pen(colour, 1.4)
            painter.drawLine(middle + QPointF(0, -9), middle + QPointF(0, -26))
            middle += QPointF(0, -36)
        if middle is not None:
            self._plate(canvas, middle, one.words, colour, strong=one.strong)

    def _legs(self, canvas: Canvas, one: Shown) -> None:
        """The parts of a way along three directions, one after another; the one pointed at is strong and tells its number."""
        if one.ends is None or len(one.legs) != 3:
            return
        here, end = (np.array(place) for place in one.ends)
        for number, direction in enumerate(np.array(one.legs)):
            step = float((end - here) @ direction) * direction
            a, b = canvas.at(here), canvas.at(here + step)
            here = here + step
            if a is None or b is None or float(np.linalg.norm(step)) < 1e-9:
                continue
            if one.leg != number:
                canvas.pen(AXES[number], 1.2, Qt.PenStyle.DashLine)
                canvas.painter.drawLine(a, b)
                continue
            for _ in canvas.outlined(AXES[number], 3.0, 4.0):
                canvas.painter.drawLine(a, b)
            if number < len(one.leg_words):
                middle = (a + b) / 2 + QPointF(0, 18)
                self._plate(canvas, middle, one.leg_words[number], canvas.colour(AXES[number]), strong=True)

    @staticmethod
    def _plate(canvas: Canvas, at: QPointF, words: str, colour: QColor, *, strong: bool) -> None:
        width = canvas.length_of(words, 13 if strong else 11, strong=strong) + 14.0
        tall = 22.0 if strong else 18.0
        box = QRectF(at.x() - width / 2, at.y() - tall / 2, width, tall)
        canvas.plate(box, words, edge=colour, edge_width=1.4 if strong else 1.0)


def middle_of(ends: _Ends) -> tuple[float, float, float]:
    middle: Floats = np.mean(ends, axis=0)
    return float(middle[0]), float(middle[1]), float(middle[2])
