"""What is marked in a picture of evidence: the ends of what was measured with their number, a ball, a rim, a tool."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPolygonF

from gullyrise.core.camera import before_eye
from gullyrise.core.checks.protocol import Finding
from gullyrise.core.evidence.view import EvidenceView, Stop
from gullyrise.core.geometry import Floats, Points
from gullyrise.drawing.canvas import Canvas

_ROUND = 72
_DOT, _RING = 3.4, 8.0
_AWAY = 40.0
_FAR = 1e5


def paint_marks(canvas: Canvas, view: EvidenceView, finding: Finding, words: str) -> None:
    """Paints what was found over its picture. finding : in the machine's coordinates;  words : the number at the marks"""
    if finding.lines is not None and len(finding.lines):
        lines(canvas, finding.lines, "failed", 3.2 if finding.own else 1.8)
    if view.stop is not None:
        _tool(canvas, view.stop)
    if view.circle is not None:
        _circle(canvas, *view.circle, "accent", 40)
    if finding.ball is not None and view.plane is not None and view.circle is None:
        _circle(canvas, np.array(finding.ball[0]), finding.ball[1], "accent", 60)
    if len(view.marks) == 2:
        dimension(canvas, view.marks[0], view.marks[1], words)
    else:
        _place(canvas, view.marks[0], words)


def lines(canvas: Canvas, pieces: Points, colour: str, width: float) -> None:
    """Lines (k, 2, 3) mm, seen over anything."""
    before, _ = before_eye.pieces(canvas.camera, pieces)
    ends = np.clip(canvas.seen(before)[:, :2].reshape(-1, 4), -_FAR, _FAR)
    for _ in canvas.outlined(colour, width, width + 2.2):
        for x, y, u, v in ends.tolist():
            canvas.painter.drawLine(QPointF(x, y), QPointF(u, v))


def dimension(canvas: Canvas, a: Floats, b: Floats, words: str) -> None:
    """From one place to another, both dotted, the number on a plate to one side so that it hides neither."""
    ends = canvas.all_at(np.array([a, b]))
    if ends is None:
        return
    start, end = ends
    painter = canvas.painter
    for _ in canvas.outlined("ink", 2.0, 4.6):
        painter.drawLine(start, end)
    _dots(canvas, ends)
    way = end - start
    length = float(np.hypot(way.x(), way.y()))
    # To the right of an upright line, above a level one.
    square = QPointF(0, -1) if length < 1 else QPointF(-way.y() / length, way.x() / length)
    if square.y() > 0.3 or (abs(square.y()) <= 0.3 and square.x() < 0):
        square = -square
    middle = (start + end) / 2
    _told(canvas, middle, middle + square * _AWAY, words)


def _place(canvas: Canvas, at: Floats, words: str) -> None:
    found = canvas.at(at)
    if found is None:
        return
    canvas.brush(None)
    for _ in canvas.outlined("failed", 2.0, 4.4):
        canvas.painter.drawEllipse(found, _RING, _RING)
    _dots(canvas, [found])
    if words:
        _told(canvas, found + QPointF(0.7, -0.7) * _RING, found + QPointF(_AWAY * 0.9, -_AWAY * 0.9), words)


def _dots(canvas: Canvas, places: list[QPointF]) -> None:
    canvas.pen("panel", 1.6)
    canvas.brush("failed")
    for place in places:
        canvas.painter.drawEllipse(place, _DOT, _DOT)


def _told(canvas: Canvas, foot: QPointF, at: QPointF, words: str) -> None:
    """A plate with a leader, kept inside the picture."""
    if not words:
        return
    wide = canvas.length_of(words, 14) + 18
    width, height = canvas.size
    before = wide / 2 if abs(at.x() - foot.x()) < 20 else 0 if at.x() > foot.x() else wide
    box = QRectF(min(max(at.x() - before, 6), width - wide - 6), min(max(at.y() - 13, 6), height - 32), wide, 26)
    for _ in canvas.outlined("ink", 1.2, 3.0):
        canvas.painter.drawLine(foot, QPointF(min(max(foot.x(), box.left()), box.right()), box.center().y()))
    canvas.length_of(words, 14)
    canvas.plate(box, words, edge="failed", edge_width=1.6)


def _circle(canvas: Canvas, centre: Floats, radius: float, colour: str, cover: int) -> None:
    """As large as it is, however it is looked at."""
    u, v, _ = canvas.camera.frame()
    turn = np.arange(_ROUND) * (2 * np.pi / _ROUND)
    outline = canvas.all_at(centre + radius * (np.cos(turn)[:, None] * u + np.sin(turn)[:, None] * v))
    if outline is None:
        return
    canvas.brush(colour, cover)
    for _ in canvas.outlined(colour, 2.0, 3.6):
        canvas.painter.drawPolygon(QPolygonF(outline))
        canvas.brush(None)


def _tool(canvas: Canvas, stop: Stop) -> None:
    """The cutter and its holder as outlines, where they are stopped."""
    across = np.cross(stop.along, canvas.camera.frame()[2])
    length = float(np.linalg.norm(across))
    across = across / length if length > 1e-9 else canvas.camera.frame()[0]
    held = stop.tip + stop.along * stop.reach
    for low, high, radius, blamed in (
        (stop.tip, held, stop.radius, not stop.by_holder),
        (held, held + stop.along * max(stop.reach, 4 * stop.holder_radius), stop.holder_radius, stop.by_holder),
    ):
        side = across * radius
        corners = canvas.all_at(np.array([low - side, low + side, high + side, high - side]))
        if corners is None:
            continue
        colour = "failed" if blamed else "accent"
        canvas.brush(colour, 46)
        for _ in canvas.outlined(colour, 1.8, 3.4):
            canvas.painter.drawPolygon(QPolygonF(corners))
            canvas.brush(None)
