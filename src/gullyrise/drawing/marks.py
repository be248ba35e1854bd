"""What marks things in a picture: flags, outlines, features, collisions, rectangles, the pivot."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen, QPolygonF

from gullyrise.core.camera import before_eye
from gullyrise.core.geometry import Box, Points
from gullyrise.drawing.arrays import image_over
from gullyrise.drawing.canvas import Canvas
from gullyrise.drawing.requests import Frame

_MOST_LINES = 6_000
_MOST_PICTURES = 12
_TAG, _TALL = QPointF(16, -34), 20.0
"""From a flag's place to its tag, and how high that is."""


@dataclass(frozen=True, slots=True)
class Flag:
    """A numbered tag on a place of the bench. picture : small, of what the finding shows; None for none"""

    number: int
    words: str
    place: tuple[float, float, float]
    verdict: str
    chosen: bool
    picture: QImage | None = None


def outline(frame: Frame, items: set[int], colour: QColor, width: int) -> QImage | None:
    """The border of some items in a still picture, so many pixels wide; None where none of them is in it."""
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
    """Paints the picture of an outline where its offset says."""
    place = QPointF(image.offset()) / ratio
    painter.drawImage(QRectF(place, QPointF(place.x() + image.width() / ratio, place.y() + image.height() / ratio)), image)


def feature(canvas: Canvas, lines: Points, colour: str, width: float) -> None:
    """Lines (k, 2, 3) mm on the bench; one without length is a corner."""
    if not len(lines):
        return
    painter = canvas.painter
    before, _ = before_eye.pieces(canvas.camera, lines[:_MOST_LINES])
    ends = canvas.seen(before)[:, :2].reshape(-1, 2, 2)
    painter.setPen(QPen(canvas.colour(colour), width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    if len(lines) == 1 and np.array_equal(lines[0, 0], lines[0, 1]):
        canvas.brush(colour)
        for (x, y), _ in ends:
            painter.drawEllipse(QPointF(float(x), float(y)), 2 + width, 2 + width)
        return
    reach = 4.0 * max(canvas.size)
    ends = np.clip(ends, -reach, 2 * reach)
    painter.drawLines(*(QLineF(a, b, c, d) for (a, b), (c, d) in ends.tolist()))


def flags(canvas: Canvas, shown: Sequence[Flag], *, pictures: bool = True) -> None:
    """Numbered tags on a leader, the chosen one last and with its words. pictures : whether those wear theirs that have room for
    one"""
    painter, (width, height) = canvas.painter, canvas.size
    if pictures:
        _wear(canvas, [(flag, at) for flag in shown if (at := canvas.at(flag.place)) is not None])
    for flag in sorted(shown, key=lambda flag: flag.chosen):
        at = canvas.at(flag.place)
        if at is None or not (-200 < at.x() < width + 200 and -200 < at.y() < height + 200):
            continue
        colour = canvas.palette.verdict(flag.verdict)
        words = f"{flag.number}  {flag.words}" if flag.chosen else str(flag.number)
        canvas.length_of(words, 11)
        tag = QRectF(at + _TAG, QSizeF(painter.fontMetrics().boundingRect(words).width() + 14, _TALL))
        canvas.pen(colour, 1.5)
        painter.drawLine(at, QPointF(tag.left(), tag.center().y()))
        canvas.brush(colour)
        painter.drawEllipse(at, 3, 3)
        # A tag with one slanted end, like a label on a wire.
        shape = QPolygonF([tag.topLeft(), tag.topRight(), tag.bottomRight(), tag.bottomLeft() + QPointF(6, 0)])
        canvas.pen("panel", 1)
        canvas.brush(colour if flag.chosen else "panel")
        painter.drawPolygon(shape)
        canvas.write(tag, words, ink="panel" if flag.chosen else colour)


def _wear(canvas: Canvas, shown: list[tuple[Flag, QPointF]]) -> None:
    """The small pictures over their tags: the chosen one's first, then in their order; none over a place or another picture."""
    view = QRectF(0, 0, *canvas.size)
    taken = [QRectF(at.x() - 4, at.y() - 4, 8, 8) for _, at in shown]
    taken += [QRectF(at + _TAG, QSizeF(_TALL, _TALL)) for _, at in shown]
    worn = 0
    for flag, at in sorted(shown, key=lambda one: not one[0].chosen):
        if flag.picture is None or worn == _MOST_PICTURES:
            continue
        size = flag.picture.deviceIndependentSize()
        box = QRectF(at + _TAG - QPointF(0, size.height() + 3), size)
        if not view.contains(box) or any(box.intersects(other) for other in taken):
            continue
        worn += 1
        taken.append(box)
        canvas.plate(box, face="ground", radius=0)
        canvas.painter.drawImage(box.topLeft(), flag.picture)
        canvas.brush(None)
        canvas.pen(canvas.palette.verdict(flag.verdict), 1.5)
        canvas.painter.drawRect(box)
        # Its number again: where tags lie over one another it would not be told whose it is.
        words = str(flag.number)
        corner = QRectF(box.left(), box.top(), canvas.length_of(words, 10) + 6, 14)
        canvas.brush(canvas.palette.verdict(flag.verdict))
        canvas.painter.drawRect(corner)
        canvas.write(corner, words, ink="panel")


def collisions(canvas: Canvas, boxes: Sequence[Box]) -> None:
    """The boxes of things that meet, in the colour of failing."""
    canvas.pen("failed", 1.8)
    canvas.brush(None)
    for box in boxes:
        corners = canvas.all_at(box.corners())
        if corners is not None:
            for a, b in _EDGES:
                canvas.painter.drawLine(corners[a], corners[b])


_EDGES = [(a, a | bit) for a in range(8) for bit in (1, 2, 4) if not a & bit]


def pivot_ring(canvas: Canvas, place: QPointF) -> None:
    """A ring round the place that is turned about."""
    canvas.brush(None)
    for _ in canvas.outlined("accent", 2, 4):
        canvas.painter.drawEllipse(place, 9, 9)


def band(canvas: Canvas, low: tuple[float, float], high: tuple[float, float], words: str) -> None:
    """A rectangle being drawn, and what it will do."""
    box = QRectF(QPointF(*low), QPointF(*high))
    canvas.brush("accent", 36)
    canvas.pen("accent", 1.4)
    canvas.painter.drawRect(box)
    canvas.plate(QRectF(box.left(), box.top() - 22, canvas.length_of(words, 11) + 12, 18), words)


def lens(canvas: Canvas, image: QImage, at: QPointF, radius: float, words: str) -> None:
    """The magnifier: a round picture round the pointer."""
    painter = canvas.painter
    painter.save()
    path = QPainterPath()
    path.addEllipse(at, radius, radius)
    painter.setClipPath(path)
    painter.drawImage(QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius), image)
    painter.restore()
    canvas.brush(None)
    canvas.pen("ink", 2)
    painter.drawEllipse(at, radius, radius)
    canvas.pen("accent", 1)
    painter.drawLine(at - QPointF(6, 0), at + QPointF(6, 0))
    painter.drawLine(at - QPointF(0, 6), at + QPointF(0, 6))
    canvas.length_of(words, 11)
    canvas.plate(QRectF(at.x() - 22, at.y() + radius - 22, 44, 18), words)


def strokes(canvas: Canvas, words: Sequence[str]) -> None:
    """The last strokes, newest below, for those who watch."""
    for back, text in enumerate(reversed(words)):
        width = canvas.length_of(text, 15) + 24
        box = QRectF((canvas.size[0] - width) / 2, canvas.size[1] - 76 - back * 32, width, 28)
        canvas.plate(box, text, face="ink", cover=max(220 - 50 * back, 60), ink="panel", radius=6)
