"""The tray and what belongs to it, painted over the picture of the bench."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPolygonF

from gullyrise.core.geometry import Floats
from gullyrise.core.placing.gizmo import Gizmo, Grip
from gullyrise.drawing.canvas import SEE_THROUGH, Canvas


def tray(canvas: Canvas, shown: Gizmo, held: Grip | None) -> None:
    """The frame on the bed, its mast and stalks, and the grips; the one under the hand is filled."""
    painter = canvas.painter
    frame = canvas.all_at(shown.frame())
    if frame is not None:
        canvas.brush(None)
        canvas.pen("accent", 1.4)
        painter.drawPolygon(QPolygonF(frame))
    canvas.pen("accent", 1.2, Qt.PenStyle.DotLine)
    for start, end in shown.posts():
        line = canvas.all_at(np.array([start, end]))
        if line is not None:
            painter.drawLine(*line)
    for grip, place in shown.places():
        at = canvas.at(place)
        if at is not None:
            canvas.pen("accent", 1.6)
            canvas.brush("accent" if grip == held else "field")
            _grip(painter, grip, at, _towards(canvas, grip, place))


def _towards(canvas: Canvas, grip: Grip, place: Floats) -> QPointF:
    """The direction in the picture, of length one, in which a grip moves."""
    axis = {"x": 0, "y": 1, "lift": 2}.get(grip)
    if axis is None:
        return QPointF(1, 0)
    found = canvas.seen(np.array([place, place + np.eye(3)[axis]]))[:, :2]
    run = found[1] - found[0]
    length = float(np.hypot(*run))
    return QPointF(float(run[0]), float(run[1])) / length if np.isfinite(length) and length > 1e-9 else QPointF(1, 0)


def _grip(painter: QPainter, grip: Grip, at: QPointF, along: QPointF) -> None:
    across = QPointF(-along.y(), along.x())
    if grip == "carry":
        painter.drawRoundedRect(QRectF(at.x() - 7, at.y() - 7, 14, 14), 3, 3)
        painter.drawLine(at - QPointF(3.5, 0), at + QPointF(3.5, 0))
        painter.drawLine(at - QPointF(0, 3.5), at + QPointF(0, 3.5))
    elif grip == "spin":
        painter.drawEllipse(at, 6, 6)
        painter.drawPoint(at)
    elif grip in ("tilt-x", "tilt-y"):
        # Half a coin: flat on the side that stays.
        painter.drawChord(QRectF(at.x() - 7, at.y() - 7, 14, 14), 0, 180 * 16)
    else:
        # A lozenge drawn out along the way it goes.
        painter.drawPolygon(QPolygonF([at + along * 10, at + across * 5, at - along * 10, at - across * 5]))


def amount(canvas: Canvas, place: Floats, words: str) -> None:
    """How far it has come, beside the grip."""
    at = canvas.at(place)
    if at is None:
        return
    box = QRectF(at.x() + 16, at.y() - 34, canvas.length_of(words, 12) + 16, 24)
    box.moveRight(min(box.right(), canvas.size[0] - 4))
    box.moveTop(max(box.top(), 4))
    canvas.plate(box, words, cover=SEE_THROUGH)


def slack(canvas: Canvas, lines: list[tuple[Floats, Floats, float]]) -> None:
    """On each side a line to the end of the room, with what is left; in the colour of failing where it sticks out."""
    for start, end, mm in lines:
        found = canvas.all_at(np.array([start, end]))
        if found is not None:
            _measured(canvas, found[0], found[1], f"{mm:.1f}", canvas.colour("failed" if mm < 0 else "quiet"))


def _measured(canvas: Canvas, start: QPointF, end: QPointF, words: str, colour: QColor) -> None:
    canvas.pen(colour, 1.4, Qt.PenStyle.DashLine)
    canvas.painter.drawLine(start, end)
    along = end - start
    length = float(np.hypot(along.x(), along.y()))
    if length > 1:
        across = QPointF(-along.y(), along.x()) / length * 5
        canvas.pen(colour, 1.4)
        canvas.painter.drawLine(end - across, end + across)
    if length < 22 and not words.startswith("-"):
        return
    wide = canvas.length_of(words, 11) + 8
    middle = (start + end) / 2
    canvas.plate(QRectF(middle.x() - wide / 2, middle.y() - 8, wide, 16), words, cover=225, ink=colour, radius=3)
