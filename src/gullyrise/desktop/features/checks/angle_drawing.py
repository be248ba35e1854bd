"""What is meant by an overhang angle, drawn: the trade uses two conventions."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import type_of


class AngleDrawing(QWidget):
    """A wall, 0 degrees, and a face that leans out from it by the limit."""

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self._palette, self._limit = palette, 45.0
        self.setFixedHeight(74)
        self.setAccessibleName("Overhang angle: 0 degrees is a vertical wall, 90 a flat ceiling")

    def sizeHint(self) -> QSize:
        return QSize(220, 74)

    def show_limit(self, limit: float, palette: Palette) -> None:
        self._limit, self._palette = limit, palette
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = self._palette
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            foot, length = QPointF(28, 64), 52.0
            lean = math.radians(self._limit)
            tip = foot + QPointF(math.sin(lean) * length, -math.cos(lean) * length)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(p.colour("part"))
            painter.drawPolygon(
                QPolygonF([foot, tip, QPointF(tip.x(), foot.y() - length), QPointF(10, foot.y() - length), QPointF(10, foot.y())])
            )
            painter.setPen(QPen(p.colour("quiet"), 1, Qt.PenStyle.DashLine))
            painter.drawLine(foot, foot + QPointF(0, -length - 6))
            painter.drawLine(foot, foot + QPointF(length + 10, 0))
            painter.setPen(QPen(p.colour("review"), 2))
            painter.drawLine(foot, tip)
            painter.drawArc(QRectF(foot.x() - 26, foot.y() - 26, 52, 52), int((90 - self._limit) * 16), int(self._limit * 16))
            painter.setFont(type_of(11))
            painter.setPen(p.colour("quiet"))
            painter.drawText(QPointF(100, 18), "0° is a vertical wall,")
            painter.drawText(QPointF(100, 34), "90° a flat ceiling.")
            painter.setPen(p.colour("ink"))
            painter.drawText(QPointF(100, 56), f"Up to {self._limit:g}° holds itself.")
