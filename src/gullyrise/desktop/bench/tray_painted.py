"""The tray and what belongs to it, painted over the picture of the bench."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from gullyrise.core.geometry import Box, Floats, Points
from gullyrise.desktop.bench.tray import Grip, Tray
from gullyrise.drawing.camera import Camera
from gullyrise.drawing.overlays import Size, plate
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import type_of

_FAR = 20_000.0


def _seen(camera: Camera, size: Size, places: Points) -> list[QPointF] | None:
    """Where places are in the picture; None where one is behind the eye or out of all bounds."""
    found = camera.to_picture(np.asarray(places), *size)[:, :2]
    if not np.isfinite(found).all() or np.abs(found).max() > _FAR:
        return None
    return [QPointF(float(x), float(y)) for x, y in found]


def tray(painter: QPainter, camera: Camera, size: Size, shown: Tray, held: Grip | None, palette: Palette) -> None:
    """The frame on the bed, its mast and stalks, and the grips; the one under the hand is filled."""
    accent, face = palette.colour("accent"), palette.colour("field")
    frame = _seen(camera, size, shown.frame())
    if frame is not None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(accent, 1.4))
        painter.drawPolygon(QPolygonF(frame))
    painter.setPen(QPen(accent, 1.2, Qt.PenStyle.DotLine))
    for start, end in shown.posts():
        line = _seen(camera, size, np.array([start, end]))
        if line is not None:
            painter.drawLine(*line)
    places = shown.places()
    for grip, place in places:
        found = _seen(camera, size, place[None])
        if found is not None:
            painter.setPen(QPen(accent, 1.6))
            painter.setBrush(accent if grip == held else face)
            _grip(painter, grip, found[0], _towards(camera, size, grip, place))


def _towards(camera: Camera, size: Size, grip: Grip, place: Floats) -> QPointF:
    """The direction in the picture, of length one, in which a grip moves."""
    axis = {"x": 0, "y": 1, "lift": 2}.get(grip)
    if axis is None:
        return QPointF(1, 0)
    found = camera.to_picture(np.array([place, place + np.eye(3)[axis]]), *size)[:, :2]
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


def amount(painter: QPainter, camera: Camera, size: Size, place: Floats, words: str, palette: Palette) -> None:
    """How far it has come, beside the grip."""
    found = _seen(camera, size, place[None])
    if found is None:
        return
    painter.setFont(type_of(12, strong=True))
    length = painter.fontMetrics().horizontalAdvance(words) + 16
    box = QRectF(found[0].x() + 16, found[0].y() - 34, length, 24)
    box.moveRight(min(box.right(), size[0] - 4))
    box.moveTop(max(box.top(), 4))
    plate(painter, box, palette)
    painter.setPen(palette.colour("ink"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def slack(painter: QPainter, camera: Camera, size: Size, lines: list[tuple[Floats, Floats, float]], palette: Palette) -> None:
    """On each side a line to the end of the room, with what is left; in the colour of failing where it sticks out."""
    painter.setFont(type_of(11, strong=True))
    for start, end, mm in lines:
        found = _seen(camera, size, np.array([start, end]))
        if found is None:
            continue
        colour = palette.colour("failed" if mm < 0 else "quiet")
        _measured(painter, found[0], found[1], f"{mm:.1f}", colour, palette)


def _measured(painter: QPainter, start: QPointF, end: QPointF, words: str, colour: QColor, palette: Palette) -> None:
    painter.setPen(QPen(colour, 1.4, Qt.PenStyle.DashLine))
    painter.drawLine(start, end)
    along = end - start
    length = float(np.hypot(along.x(), along.y()))
    if length > 1:
        across = QPointF(-along.y(), along.x()) / length * 5
        painter.setPen(QPen(colour, 1.4))
        painter.drawLine(end - across, end + across)
    wide = painter.fontMetrics().horizontalAdvance(words) + 8
    if length < 22 and not words.startswith("-"):
        return
    middle = (start + end) / 2
    box = QRectF(middle.x() - wide / 2, middle.y() - 8, wide, 16)
    face = palette.colour("panel")
    face.setAlpha(225)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(face)
    painter.drawRoundedRect(box, 3, 3)
    painter.setPen(colour)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def meeting(painter: QPainter, camera: Camera, size: Size, boxes: list[Box], palette: Palette) -> None:
    """The boxes of things that meet, in the colour of failing."""
    painter.setPen(QPen(palette.colour("failed"), 1.8))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for box in boxes:
        corners = _seen(camera, size, box.corners())
        if corners is None:
            continue
        for a, b in _EDGES:
            painter.drawLine(corners[a], corners[b])


_EDGES = [(a, a | bit) for a in range(8) for bit in (1, 2, 4) if not a & bit]
