"""The verdict as a stamp: shape, letter and colour differ, so that none of them alone has to tell."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPaintEvent, QPen, QPixmap, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import type_of

WORDS = {"pass": "Pass", "review": "Review", "fail": "Fail", "not-run": "Not run"}


def draw_stamp(painter: QPainter, box: QRectF, verdict: str, palette: Palette, *, stale: bool = False) -> None:
    """Pass a filled round with a tick, review a half-filled diamond, fail a notched square with a bar, not run an open dash."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    colour = palette.verdict(verdict)
    middle, half = box.center(), min(box.width(), box.height()) / 2 - 1
    pen = QPen(colour, max(1.4, half * 0.14))
    painter.setPen(pen)
    on = QColor(palette.panel)
    if verdict == "pass":
        painter.setBrush(colour)
        painter.drawEllipse(middle, half, half)
        painter.setPen(QPen(on, max(1.6, half * 0.22), Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        tick = [QPointF(-0.45, 0.05), QPointF(-0.1, 0.4), QPointF(0.5, -0.35)]
        painter.drawPolyline(QPolygonF([middle + point * half for point in tick]))
    elif verdict == "review":
        points = [QPointF(0, -1), QPointF(1, 0), QPointF(0, 1), QPointF(-1, 0)]
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(QPolygonF([middle + point * half for point in points]))
        painter.setBrush(colour)
        painter.drawPolygon(QPolygonF([middle + point * half for point in points[1:]]))
    elif verdict == "fail":
        side = half * 0.92
        path = QPainterPath()
        corners = [(-1, -1), (0.35, -1), (1, -0.35), (1, 1), (-1, 1)]
        path.addPolygon(QPolygonF([middle + QPointF(x, y) * side for x, y in corners]))
        path.closeSubpath()
        painter.setBrush(colour)
        painter.drawPath(path)
        painter.setPen(QPen(on, max(2.0, half * 0.28), Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
        painter.drawLine(middle + QPointF(-0.5, 0) * side, middle + QPointF(0.5, 0) * side)
    else:
        painter.drawLine(middle - QPointF(half * 0.6, 0), middle + QPointF(half * 0.6, 0))
    if stale and verdict != "not-run":
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QBrush(on, Qt.BrushStyle.BDiagPattern))
        painter.drawRect(box)
    painter.restore()


def stamp_picture(verdict: str, palette: Palette, size: int, ratio: float, *, stale: bool = False) -> QPixmap:
    picture = QPixmap(int(size * ratio), int(size * ratio))
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    with QPainter(picture) as painter:
        draw_stamp(painter, QRectF(0, 0, size, size), verdict, palette, stale=stale)
    return picture


class Stamp(QWidget):
    """A stamp as a widget, with its word beside it where there is room for one."""

    def __init__(self, palette: Palette, size: int = 20, *, word: bool = False) -> None:
        super().__init__()
        self._palette, self._size, self._word = palette, size, word
        self.verdict, self.stale = "not-run", False
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.setFixedSize(self.sizeHint())

    def sizeHint(self) -> QSize:
        return QSize(self._size + (56 if self._word else 0), self._size)

    def show_verdict(self, verdict: str, *, stale: bool, palette: Palette) -> None:
        if (verdict, stale, palette) != (self.verdict, self.stale, self._palette):
            self.verdict, self.stale, self._palette = verdict, stale, palette
            state = ", out of date" if stale else ""
            self.setToolTip(WORDS[verdict] + state)
            self.setAccessibleName(WORDS[verdict] + state)
            self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with QPainter(self) as painter:
            draw_stamp(painter, QRectF(0, 0, self._size, self._size), self.verdict, self._palette, stale=self.stale)
            if self._word:
                painter.setFont(type_of(12, strong=True))
                painter.setPen(self._palette.verdict(self.verdict))
                words = self.rect().adjusted(self._size + 6, 0, 0, 0)
                painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, WORDS[self.verdict])
