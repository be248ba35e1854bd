"""What a check measured, drawn over the bench: the ball in a wall, the rim and the columns of what hangs over."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from gullyrise.core.geometry import Floats, Plane, Points
from gullyrise.drawing import before_eye
from gullyrise.drawing.camera import Camera
from gullyrise.drawing.overlays import Size
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import type_of

_ROUND = 64


@dataclass(frozen=True, slots=True, eq=False)
class Ball:
    """A ball between two contacts, mm on the bench. a, b : (3,) where it touches;  words : its diameter
    across : the plane of a cut that goes through it, None where none does; the ball is drawn in it"""

    centre: Floats
    radius: float
    a: Floats
    b: Floats
    words: str
    across: Plane | None = None


@dataclass(frozen=True, slots=True, eq=False)
class CheckMarks:
    """ball : in a wall;  lines : (k, 2, 3) mm of the flagged finding;  verdict : that these are drawn in"""

    ball: Ball | None = None
    lines: Points | None = None
    verdict: str = "fail"


NO_MARKS = CheckMarks()


@dataclass(frozen=True, slots=True, eq=False)
class Way:
    """From one place to another, (3,) mm each, with its length in words."""

    a: Floats
    b: Floats
    words: str


def way(painter: QPainter, camera: Camera, size: Size, shown: Way, palette: Palette) -> None:
    """The gap to the next part, while one is moved."""
    _lines(painter, camera, size, np.stack([shown.a, shown.b])[None], palette.colour("accent"), palette)
    x, y, _ = camera.to_picture(((shown.a + shown.b) / 2)[None], *size)[0]
    if np.isfinite(x) and np.isfinite(y):
        _plate(painter, QPointF(float(x), float(y) + 8), shown.words, palette)


def paint(painter: QPainter, camera: Camera, size: Size, shown: CheckMarks, palette: Palette) -> None:
    if shown.lines is not None and len(shown.lines):
        _lines(painter, camera, size, shown.lines, palette.verdict(shown.verdict), palette)
    if shown.ball is not None:
        _ball(painter, camera, size, shown.ball, palette)


def _lines(painter: QPainter, camera: Camera, size: Size, lines: Points, colour: QColor, palette: Palette) -> None:
    before, _ = before_eye.pieces(camera, lines)
    ends = np.clip(camera.to_picture(before.reshape(-1, 3), *size)[:, :2].reshape(-1, 4), -1e5, 1e5)
    for pen in (QPen(palette.colour("panel"), 3.4), QPen(colour, 1.5)):
        painter.setPen(pen)
        for x, y, u, v in ends.tolist():
            painter.drawLine(QPointF(x, y), QPointF(u, v))


def _ball(painter: QPainter, camera: Camera, size: Size, ball: Ball, palette: Palette) -> None:
    """As a disc in the cut that goes through it, else as the round that it shows to the eye."""
    right, up, _ = camera.frame()
    centre, radius = ball.centre, ball.radius
    u, v = right, up
    if ball.across is not None:
        off = float((centre - ball.across.point) @ ball.across.normal)
        if abs(off) < radius:
            centre, radius = centre - off * ball.across.normal, float(np.sqrt(radius**2 - off**2))
            u, v = ball.across.frame()
    turn = np.arange(_ROUND) * (2 * np.pi / _ROUND)
    rim = centre + radius * (np.cos(turn)[:, None] * u + np.sin(turn)[:, None] * v)
    seen = camera.to_picture(np.concatenate([rim, [ball.a, ball.b, centre]]), *size)[:, :2]
    if not np.isfinite(seen).all() or np.abs(seen).max() > 1e5:
        return
    outline = QPolygonF([QPointF(float(x), float(y)) for x, y in seen[:_ROUND]])
    wash = QColor(palette.colour("accent"))
    wash.setAlpha(70)
    painter.setBrush(wash)
    for pen in (QPen(palette.colour("panel"), 4.0), QPen(palette.colour("accent"), 2.0)):
        painter.setPen(pen)
        painter.drawPolygon(outline)
        painter.setBrush(Qt.BrushStyle.NoBrush)
    a, b, middle = (QPointF(float(x), float(y)) for x, y in seen[_ROUND:])
    painter.setPen(QPen(palette.colour("ink"), 1.4))
    painter.drawLine(a, b)
    painter.setBrush(palette.colour("ink"))
    for place in (a, b):
        painter.drawEllipse(place, 3.0, 3.0)
    _plate(painter, QPointF(middle.x(), float(seen[:_ROUND, 1].max()) + 6), ball.words, palette)


def _plate(painter: QPainter, top: QPointF, words: str, palette: Palette) -> None:
    painter.setFont(type_of(12, strong=True))
    wide = painter.fontMetrics().horizontalAdvance(words) + 12
    plate = QRectF(top.x() - wide / 2, top.y(), wide, 20)
    painter.setPen(QPen(palette.colour("accent"), 1.2))
    painter.setBrush(palette.colour("panel"))
    painter.drawRoundedRect(plate, 4, 4)
    painter.setPen(palette.colour("ink"))
    painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, words)
