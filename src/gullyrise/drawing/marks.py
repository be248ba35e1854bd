"""What is painted over a pane to mark things: flags, outlines, features, rectangles, the pivot."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen, QPolygonF

from gullyrise.core.geometry import Points
from gullyrise.drawing import before_eye
from gullyrise.drawing.arrays import image_over
from gullyrise.drawing.camera import Camera
from gullyrise.drawing.overlays import Size
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.requests import Frame
from gullyrise.drawing.typeface import type_of

_MOST_LINES = 6_000


@dataclass(frozen=True, slots=True)
class Flag:
    """A numbered tag on a place of the bench."""

    number: int
    words: str
    place: tuple[float, float, float]
    verdict: str
    chosen: bool


def outline(frame: Frame, items: set[int], colour: QColor, width: int) -> QImage | None:
    """The rim of some items in a still picture, so many pixels wide; None where none of them is in it."""
    if frame.owners is None or not items:
        return None
    inside = np.isin(frame.owners, list(items)) if len(items) > 1 else frame.owners == next(iter(items))
    rows, columns = np.flatnonzero(inside.any(axis=1)), np.flatnonzero(inside.any(axis=0))
    if not len(rows):
        return None
    height, length = inside.shape
    top, foot = max(rows[0] - width, 0), min(rows[-1] + width + 1, height)
    left, right = max(columns[0] - width, 0), min(columns[-1] + width + 1, length)
    part = inside[top:foot, left:right]
    grown = part.copy()
    for _ in range(width):
        wider = grown.copy()
        wider[1:] |= grown[:-1]
        wider[:-1] |= grown[1:]
        wider[:, 1:] |= grown[:, :-1]
        wider[:, :-1] |= grown[:, 1:]
        grown = wider
    pixels = np.zeros((*part.shape, 4), dtype=np.uint8)
    pixels[grown & ~part] = (colour.red(), colour.green(), colour.blue(), 255)
    image = image_over(pixels, QImage.Format.Format_RGBA8888).copy()
    image.setOffset(QPointF(float(left), float(top)).toPoint())
    return image


def draw_outline(painter: QPainter, image: QImage, ratio: float) -> None:
    place = QPointF(image.offset()) / ratio
    painter.drawImage(QRectF(place, QPointF(place.x() + image.width() / ratio, place.y() + image.height() / ratio)), image)


def feature(painter: QPainter, camera: Camera, size: Size, lines: Points, colour: QColor, width: float) -> None:
    """Lines (k, 2, 3) on the bench; one without length is a corner."""
    if not len(lines):
        return
    before, _ = before_eye.pieces(camera, lines[:_MOST_LINES])
    ends = camera.to_picture(before.reshape(-1, 3), *size)[:, :2].reshape(-1, 2, 2)
    painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    if len(lines) == 1 and np.array_equal(lines[0, 0], lines[0, 1]):
        painter.setBrush(colour)
        for (x, y), _ in ends:
            painter.drawEllipse(QPointF(float(x), float(y)), 2 + width, 2 + width)
        return
    reach = 4.0 * max(size)
    ends = np.clip(ends, -reach, 2 * reach)
    painter.drawLines(*(QLineF(a, b, c, d) for (a, b), (c, d) in ends.tolist()))


def flags(painter: QPainter, camera: Camera, size: Size, shown: list[Flag], palette: Palette) -> None:
    """Numbered tags on a leader, the chosen one last and with its words."""
    painter.setFont(type_of(11, strong=True))
    width, height = size
    for flag in sorted(shown, key=lambda flag: flag.chosen):
        x, y, _ = camera.to_picture(np.array(flag.place)[None], *size)[0]
        if not (np.isfinite(x) and -200 < x < width + 200 and -200 < y < height + 200):
            continue
        at = QPointF(float(x), float(y))
        colour = palette.verdict(flag.verdict)
        words = f"{flag.number}  {flag.words}" if flag.chosen else str(flag.number)
        box = painter.fontMetrics().boundingRect(words)
        tag = QRectF(at.x() + 16, at.y() - 34, box.width() + 14, 20)
        painter.setPen(QPen(colour, 1.5))
        painter.drawLine(at, QPointF(tag.left(), tag.center().y()))
        painter.setBrush(colour)
        painter.drawEllipse(at, 3, 3)
        # A tag with one slanted end, like a label on a wire.
        shape = QPolygonF([tag.topLeft(), tag.topRight(), tag.bottomRight(), tag.bottomLeft() + QPointF(6, 0)])
        painter.setPen(QPen(QColor(palette.panel), 1))
        painter.setBrush(colour if flag.chosen else palette.colour("panel"))
        painter.drawPolygon(shape)
        painter.setPen(palette.colour("panel") if flag.chosen else colour)
        painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, words)


def pivot_ring(painter: QPainter, place: QPointF, palette: Palette) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(palette.colour("panel"), 4))
    painter.drawEllipse(place, 9, 9)
    painter.setPen(QPen(palette.colour("accent"), 2))
    painter.drawEllipse(place, 9, 9)


def band(painter: QPainter, low: tuple[float, float], high: tuple[float, float], words: str, palette: Palette) -> None:
    """A rectangle being drawn, and what it will do."""
    box = QRectF(QPointF(*low), QPointF(*high))
    colour = palette.colour("accent")
    wash = QColor(colour)
    wash.setAlpha(36)
    painter.setBrush(wash)
    painter.setPen(QPen(colour, 1.4))
    painter.drawRect(box)
    painter.setFont(type_of(11, strong=True))
    width = painter.fontMetrics().horizontalAdvance(words) + 12
    plate = QRectF(box.left(), box.top() - 22, width, 18)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.colour("panel"))
    painter.drawRoundedRect(plate, 4, 4)
    painter.setPen(palette.colour("ink"))
    painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, words)


def lens(painter: QPainter, image: QImage, at: QPointF, radius: float, words: str, palette: Palette) -> None:
    """The magnifier: a round picture round the pointer."""
    painter.save()
    path = QPainterPath()
    path.addEllipse(at, radius, radius)
    painter.setClipPath(path)
    painter.drawImage(QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius), image)
    painter.restore()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(palette.colour("ink"), 2))
    painter.drawEllipse(at, radius, radius)
    painter.setPen(QPen(palette.colour("accent"), 1))
    painter.drawLine(at - QPointF(6, 0), at + QPointF(6, 0))
    painter.drawLine(at - QPointF(0, 6), at + QPointF(0, 6))
    painter.setFont(type_of(11, strong=True))
    plate = QRectF(at.x() - 22, at.y() + radius - 22, 44, 18)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.colour("panel"))
    painter.drawRoundedRect(plate, 4, 4)
    painter.setPen(palette.colour("ink"))
    painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, words)


def strokes(painter: QPainter, size: Size, words: list[str], palette: Palette) -> None:
    """The last strokes, newest below, for those who watch."""
    painter.setFont(type_of(15, strong=True))
    for back, text in enumerate(reversed(words)):
        width = painter.fontMetrics().horizontalAdvance(text) + 24
        plate = QRectF((size[0] - width) / 2, size[1] - 76 - back * 32, width, 28)
        ground = palette.colour("ink")
        ground.setAlpha(max(220 - 50 * back, 60))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ground)
        painter.drawRoundedRect(plate, 6, 6)
        painter.setPen(palette.colour("panel"))
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, text)
