"""What stands in the cells of the parts: numbers in words, a colour's chip, the eye."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QIcon, QPainter, QPixmap

from gullyrise.core.number_words import given, number
from gullyrise.drawing.palette import Palette


def words_of(id: str, value: Any) -> str:
    if value is None:
        return ""
    if id in ("volume", "area", "grams"):
        return number(value)
    if id in ("triangles", "shells"):
        return f"{value:,}"
    return str(value)


def size_words(values: Iterable[float]) -> str:
    return "×".join(given(float(number(value, 0.1 if 20 <= value < 1e5 else 0.0).replace(",", ""))) for value in values)


def chip(colour: tuple[float, float, float], ratio: float) -> QIcon:
    """A little field of a colour, round-cornered."""
    shade = QColor.fromRgbF(*colour)

    def draw(painter: QPainter) -> None:
        painter.setPen(shade.darker(150))
        painter.setBrush(shade)
        painter.drawRoundedRect(3, 3, 10, 10, 2, 2)

    return _icon(draw, ratio)


def eye(palette: Palette, seen: bool, ratio: float) -> QIcon:
    """An eye, or a closed one."""
    shade = palette.colour("quiet")

    def draw(painter: QPainter) -> None:
        pen = painter.pen()
        pen.setColor(shade)
        pen.setWidthF(1.2)
        painter.setPen(pen)
        if seen:
            painter.drawArc(1, 4, 14, 12, 30 * 16, 120 * 16)
            painter.drawArc(1, 0, 14, 12, 210 * 16, 120 * 16)
            painter.setBrush(shade)
            painter.drawEllipse(6, 6, 4, 4)
        else:
            painter.drawArc(1, 0, 14, 12, 210 * 16, 120 * 16)
            for x, dx in ((4, -1), (8, 0), (12, 1)):
                painter.drawLine(x, 11, x + dx, 14)

    return _icon(draw, ratio)


def _icon(draw: Callable[[QPainter], None], ratio: float) -> QIcon:
    picture = QPixmap(int(16 * ratio), int(16 * ratio))
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    with QPainter(picture) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw(painter)
    icon = QIcon(picture)
    icon.addPixmap(picture, QIcon.Mode.Selected)
    return icon
