"""The drawing of a machine: from above and from the front, live while its form is filled in."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from gullyrise.core.machines import KeepOut, Machine
from gullyrise.desktop.widgets.pieces import named
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import type_of

_EDGE, _BETWEEN, _CAPTION = 34, 30, 18


class MachineDrawing(QWidget):
    """Shows the last machine that could be made of the form."""

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self._palette = palette
        self._machine: Machine | None = None
        named(self, "machine_drawing", "Drawing of the machine")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(230, 300)

    def sizeHint(self) -> QSize:
        return QSize(290, 460)

    def wear(self, palette: Palette) -> None:
        self._palette = palette
        self.update()

    def show_machine(self, machine: Machine | None) -> None:
        self._machine = machine
        self.update()

    @property
    def machine(self) -> Machine | None:
        return self._machine

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            palette = self._palette
            painter.fillRect(self.rect(), palette.colour("ground"))
            machine = self._machine
            if machine is None:
                return
            box = machine.envelope.box
            wide, deep, high = (float(side) for side in box.size)
            room_x = self.width() - 2 * _EDGE
            room_y = self.height() - 2 * _EDGE - _BETWEEN - 2 * _CAPTION
            scale = min(room_x / wide, room_y / (deep + high))
            left = (self.width() - wide * scale) / 2
            top = _EDGE / 2 + _CAPTION
            plan = QRectF(left, top, wide * scale, deep * scale)
            front = QRectF(left, plan.bottom() + _BETWEEN + _CAPTION, wide * scale, high * scale)
            self._caption(painter, plan, "From above")
            self._caption(painter, front, "From the front")
            self._plan(painter, machine, plan, scale)
            self._front(painter, machine, front, scale)

    def _caption(self, painter: QPainter, area: QRectF, words: str) -> None:
        painter.setFont(type_of(11))
        painter.setPen(self._palette.colour("quiet"))
        painter.drawText(QPointF(area.left(), area.top() - 6), words)

    def _plan(self, painter: QPainter, machine: Machine, area: QRectF, scale: float) -> None:
        palette, low = self._palette, machine.envelope.box.low
        edge = machine.margins.edge * scale

        def shape(outline: QRectF) -> None:
            if machine.envelope.shape == "cylinder":
                painter.drawEllipse(outline)
            else:
                painter.drawRect(outline)

        painter.setPen(QPen(palette.colour("ink"), 1.6))
        painter.setBrush(palette.colour("bed"))
        shape(area)
        painter.setPen(QPen(palette.colour("accent"), 1.2, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if edge > 0:
            shape(area.adjusted(edge, edge, -edge, -edge))
        for keep in machine.blocked:
            box = keep.box
            # Y goes up on the page, as seen by who stands before the machine.
            x, y = (box.low[0] - low[0]) * scale, (machine.envelope.box.high[1] - box.high[1]) * scale
            outline = QRectF(area.left() + x, area.top() + y, box.size[0] * scale, box.size[1] * scale)
            self._kept(painter, keep, outline, from_above=True)
        self._stock(painter, machine, area, scale)
        self._measure(painter, area, f"{machine.envelope.box.size[0]:g}", f"{machine.envelope.box.size[1]:g}")

    def _front(self, painter: QPainter, machine: Machine, area: QRectF, scale: float) -> None:
        palette, low = self._palette, machine.envelope.box.low
        painter.setPen(QPen(palette.colour("ink"), 1.6))
        painter.setBrush(palette.colour("panel"))
        painter.drawRect(area)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(palette.colour("accent"), 1.2, Qt.PenStyle.DashLine))
        edge, top = machine.margins.edge * scale, machine.margins.top * scale
        if edge or top:
            painter.drawRect(area.adjusted(edge, top, -edge, 0))
        for keep in machine.blocked:
            box = keep.box
            x, z = (box.low[0] - low[0]) * scale, (machine.envelope.box.high[2] - box.high[2]) * scale
            outline = QRectF(area.left() + x, area.top() + z, box.size[0] * scale, box.size[2] * scale)
            self._kept(painter, keep, outline, from_above=False)
        painter.setPen(QPen(palette.colour("ink"), 3))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        self._measure(painter, area, "", f"{machine.envelope.box.size[2]:g}")

    def _kept(self, painter: QPainter, keep: KeepOut, outline: QRectF, *, from_above: bool) -> None:
        colour = self._palette.colour("failed")
        fill = QColor(colour)
        fill.setAlpha(70)
        painter.setPen(QPen(colour, 1.2))
        painter.setBrush(fill)
        if keep.center is not None and from_above:
            painter.drawEllipse(outline)
        else:
            painter.drawRect(outline)

    def _stock(self, painter: QPainter, machine: Machine, area: QRectF, scale: float) -> None:
        stock = machine.stock
        if stock is None:
            return
        sides = np.array(stock.size[:2] if stock.size is not None else (stock.length or 0.0, stock.diameter or 0.0)) * scale
        middle = area.center()
        painter.setPen(QPen(self._palette.colour("quiet"), 1.2, Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(middle.x() - sides[0] / 2, middle.y() - sides[1] / 2, sides[0], sides[1]))

    def _measure(self, painter: QPainter, area: QRectF, across: str, along: str) -> None:
        painter.setFont(type_of(11))
        painter.setPen(self._palette.colour("quiet"))
        painter.drawText(QRectF(area.left(), area.bottom() + 4, area.width(), 16), Qt.AlignmentFlag.AlignCenter, across)
        painter.drawText(QRectF(area.right() + 4, area.top(), 40, area.height()), Qt.AlignmentFlag.AlignVCenter, along)
