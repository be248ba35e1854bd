"""Measuring on the bench: the snap under the pointer, what is picked, the figure between with its legs, and kept dimensions."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from gullyrise.core.geometry import Floats
from gullyrise.core.measuring.picks import Pick
from gullyrise.desktop.bench.painted_bench import PaintedBench
from gullyrise.desktop.bench.panes import Pane
from gullyrise.desktop.bench.snaps import WORDS, Snap, snap_at
from gullyrise.desktop.bench.tool import Tool
from gullyrise.drawing import marks
from gullyrise.drawing.typeface import type_of

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


class MeasureHand(Tool):
    """picked : (a Pick or None, whether to add);  pointed : words on what a click would take, or empty."""

    order, over = 2, 1
    picked = pyqtSignal(object, bool)
    pointed = pyqtSignal(str)

    def __init__(self, bench: PaintedBench) -> None:
        super().__init__(bench)
        self._bench = bench
        self.active = False
        self.spots = False
        self.near: Snap | None = None
        self.held: tuple[Snap, ...] = ()
        self.shown: Shown | None = None
        self.kept: tuple[Shown, ...] = ()

    def under(self, local: tuple[float, float]) -> Snap | None:
        """What a click at a place of the active pane would take."""
        bench = self._bench
        return snap_at(bench.scene, bench.hit_at(local), local, bench.camera, bench.view_size(), spots=self.spots)

    def under_pointer(self) -> Snap | None:
        place = self._bench.pointer_place()
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
            self._bench.update()
        elif found is not None:
            self._bench.update()

    def leave(self) -> None:
        if self.near is not None:
            self.near = None
            self._bench.update()

    def click(self, local: tuple[float, float], *, add: bool) -> None:
        found = self.under(local)
        self.picked.emit(found.pick if found is not None else None, add)

    def show(self, held: tuple[Snap, ...], shown: Shown | None) -> None:
        """What is in hand."""
        self.held, self.shown = held, shown
        self._bench.update()

    def show_kept(self, kept: tuple[Shown, ...]) -> None:
        """Dimensions of the job."""
        if kept != self.kept:
            self.kept = kept
            self._bench.update()

    # --- painting --------------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter, pane: Pane) -> None:
        for one in self.kept:
            if not self._in_hand(one):
                self._figure(painter, pane, one)
        for snap in self.held:
            self._snap(painter, pane, snap, strong=True)
        if self.near is not None and pane is self._bench.panes.active:
            self._snap(painter, pane, self.near, strong=False)
        if self.shown is not None:
            self._figure(painter, pane, self.shown)

    def _in_hand(self, one: Shown) -> bool:
        """Whether a kept dimension lies just where what is in hand is drawn."""
        held = self.shown
        return held is not None and held.ends is not None and one.ends is not None and np.allclose(held.ends, one.ends, atol=1e-6)

    def _at(self, pane: Pane, place: object) -> QPointF | None:
        x, y, _ = pane.camera.to_picture(np.asarray(place, dtype=float)[None], *pane.size())[0]
        return QPointF(float(x), float(y)) if np.isfinite(x) and abs(x) < 2e4 and abs(y) < 2e4 else None

    def _snap(self, painter: QPainter, pane: Pane, snap: Snap, *, strong: bool) -> None:
        palette = self._bench.palette_worn
        colour = palette.colour("accent")
        pick: Pick = snap.pick
        width = 3.0 if strong else 2.2
        if pick.what == "face":
            self._face(painter, pane, pick, width)
        elif len(snap.lines):
            marks.feature(painter, pane.camera, pane.size(), snap.lines, colour, width if pick.what == "edge" else 1.6)
        at = self._at(pane, snap.place)
        if at is None:
            return
        painter.setPen(QPen(palette.colour("panel"), 4.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        # Each kind has a form of its own, drawn over a pale one so that it is seen on any ground.
        for pen in (QPen(palette.colour("panel"), 4.5), QPen(colour, width)):
            painter.setPen(pen)
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

    def _face(self, painter: QPainter, pane: Pane, pick: Pick, width: float) -> None:
        lines = self._bench.lines_of_face(pick.key, pick.index)
        if lines is not None:
            marks.feature(painter, pane.camera, pane.size(), lines, self._bench.palette_worn.colour("accent"), width)

    def _figure(self, painter: QPainter, pane: Pane, one: Shown) -> None:
        palette = self._bench.palette_worn
        colour = palette.verdict(one.verdict) if one.verdict else palette.colour("accent" if one.strong else "quiet")
        middle = self._at(pane, one.at)
        if one.ends is not None:
            a, b = (self._at(pane, end) for end in one.ends)
            if a is None or b is None:
                return
            if one.strong:
                self._legs(painter, pane, one)
            for pen in (QPen(palette.colour("panel"), 4.0), QPen(colour, 2.0 if one.strong else 1.4)):
                painter.setPen(pen)
                painter.drawLine(a, b)
            painter.setBrush(colour)
            painter.setPen(QPen(palette.colour("panel"), 1.2))
            for at in (a, b):
                painter.drawEllipse(at, 3.6, 3.6)
            along = b - a
            length = float(np.hypot(along.x(), along.y()))
            # Beside the line, not on it.
            off = QPointF(-along.y(), along.x()) / length * 16 if length > 1 else QPointF(0, -16)
            middle = (a + b) / 2 + (off if off.y() <= 0 else -off)
        elif middle is not None:
            # Over the place, on a leader, so that what is told of stays in sight.
            painter.setPen(QPen(colour, 1.4))
            painter.drawLine(middle + QPointF(0, -9), middle + QPointF(0, -26))
            middle += QPointF(0, -36)
        if middle is not None:
            self._plate(painter, middle, one.words, colour, strong=one.strong)

    def _legs(self, painter: QPainter, pane: Pane, one: Shown) -> None:
        """The parts of a way along three directions, one after another; the one pointed at is strong and tells its number."""
        if one.ends is None or len(one.legs) != 3:
            return
        palette = self._bench.palette_worn
        here, end = (np.array(place) for place in one.ends)
        for number, direction in enumerate(np.array(one.legs)):
            step = float((end - here) @ direction) * direction
            a, b = self._at(pane, here), self._at(pane, here + step)
            here = here + step
            if a is None or b is None or float(np.linalg.norm(step)) < 1e-9:
                continue
            strong = one.leg == number
            colour = palette.colour(AXES[number])
            for pen in (QPen(palette.colour("panel"), 4.0 if strong else 0.0), QPen(colour, 3.0 if strong else 1.2)):
                if pen.widthF() <= 0:
                    continue
                if not strong:
                    pen.setStyle(Qt.PenStyle.DashLine)
                painter.setPen(pen)
                painter.drawLine(a, b)
            if strong and number < len(one.leg_words):
                self._plate(painter, (a + b) / 2 + QPointF(0, 18), one.leg_words[number], colour, strong=True)

    def _plate(self, painter: QPainter, at: QPointF, words: str, colour: object, *, strong: bool) -> None:
        palette = self._bench.palette_worn
        painter.setFont(type_of(13 if strong else 11, strong=strong))
        width = painter.fontMetrics().horizontalAdvance(words) + 14.0
        tall = 22.0 if strong else 18.0
        plate = QRectF(at.x() - width / 2, at.y() - tall / 2, width, tall)
        painter.setPen(QPen(colour, 1.4 if strong else 1.0))  # type: ignore[call-overload]
        painter.setBrush(palette.colour("panel"))
        painter.drawRoundedRect(plate, 4, 4)
        painter.setPen(palette.colour("ink"))
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, words)


def middle_of(ends: _Ends) -> tuple[float, float, float]:
    middle: Floats = np.mean(ends, axis=0)
    return float(middle[0]), float(middle[1]), float(middle[2])
