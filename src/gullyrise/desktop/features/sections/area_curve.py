"""The cut area along the axis: the curve is the ruler that the plane is dragged on."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from gullyrise.core.cutting.along import AreaCurve
from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.number_words import number
from gullyrise.desktop.widgets.kept_picture import KeptPicture
from gullyrise.desktop.widgets.pieces import named
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import type_of

_EDGE, _UNDER_WORDS = 12.0, 28.0
"""px: beside the ruler, and above the largest area, where the words for it stand."""
_MOST_LINED, _MOST_LANES = 2, 5


class AreaCurveRuler(QWidget):
    """moved : the position asked for, mm; let_go : the drag has ended."""

    moved = pyqtSignal(float)
    let_go = pyqtSignal()

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self._palette = palette
        self._curve: AreaCurve | None = None
        self._low, self._high = 0.0, 1.0
        self._cut: Cut | None = None
        self._picture = KeptPicture()
        named(self, "area_curve", "Cut area along the axis", "Drag to move the cut; the curve is the cut area along the axis")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setCursor(Qt.CursorShape.SplitHCursor)

    def sizeHint(self) -> QSize:
        return QSize(400, 90)

    def show_range(self, low: float, high: float) -> None:
        self._low, self._high = low, max(high, low + 1e-6)
        self.update()

    def show_curve(self, curve: AreaCurve | None) -> None:
        self._curve = curve
        self.update()

    def show_position(self, cut: Cut | None, palette: Palette) -> None:
        self._cut, self._palette = cut, palette
        self.update()

    def x_of(self, position: float) -> float:
        """Pixel of a position."""
        return _EDGE + (position - self._low) / (self._high - self._low) * (self.width() - 2 * _EDGE)

    def _ask(self, event: QMouseEvent) -> None:
        share = (event.position().x() - _EDGE) / max(self.width() - 2 * _EDGE, 1)
        self.moved.emit(self._low + float(np.clip(share, 0, 1)) * (self._high - self._low))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._ask(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._ask(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.let_go.emit()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = self._palette
        floor = self.height() - 18.0
        with QPainter(self) as painter:
            painter.drawPixmap(0, 0, self._picture.of(self, (self._curve, self._low, self._high, p), self._draw_curve))
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            if self._cut is not None:
                x = self.x_of(self._cut.position)
                if self._cut.depth is not None:
                    # What is left of a slab.
                    far = self.x_of(self._cut.position + (self._cut.depth if self._cut.flipped else -self._cut.depth))
                    kept = QColor(p.colour("accent"))
                    kept.setAlpha(50)
                    painter.fillRect(QRectF(min(x, far), 6, abs(far - x), floor - 6), kept)
                painter.setPen(QPen(p.colour("accent"), 2))
                painter.drawLine(QPointF(x, 4), QPointF(x, floor))
                painter.setBrush(p.colour("accent"))
                painter.drawPolygon(QPolygonF([QPointF(x - 6, 2), QPointF(x + 6, 2), QPointF(x, 12)]))
            self._write_largest(painter)

    def _write_largest(self, painter: QPainter) -> None:
        """On the side where the plane does not stand."""
        if self._curve is None or not self._curve.area.max() > 0:
            return
        left = self._cut is not None and self.x_of(self._cut.position) > self.width() / 2
        # The curve is that of stations through triangles: a cut through the solid beside it may have a little more.
        words = f"up to about {number(float(f'{self._curve.area.max():.3g}'))} mm²"
        painter.setFont(type_of(10))
        painter.setPen(self._palette.colour("quiet"))
        box = QRectF(_EDGE + 6.0, 9, self.width() - 2 * _EDGE - 12, 16)
        side = Qt.AlignmentFlag.AlignLeft if left else Qt.AlignmentFlag.AlignRight
        painter.drawText(box, side | Qt.AlignmentFlag.AlignVCenter, words)

    def _draw_curve(self, painter: QPainter) -> None:
        """What stays while the plane is dragged."""
        p = self._palette
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        floor = self.height() - 18.0
        painter.fillRect(QRectF(_EDGE, 6, self.width() - 2 * _EDGE, floor - 6), p.colour("ground"))
        painter.setFont(type_of(10))
        curve = self._curve
        if curve is not None and curve.area.max() > 0:
            top = float(curve.area.max())
            xs = [self.x_of(float(s)) for s in curve.stations]
            ys = floor - curve.area / top * (floor - _UNDER_WORDS)
            line = [QPointF(x, float(y)) for x, y in zip(xs, ys, strict=True)]
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(p.colour("part"))
            painter.drawPolygon(QPolygonF([QPointF(xs[0], floor), *line, QPointF(xs[-1], floor)]))
            painter.setPen(QPen(p.colour("edge"), 1.2))
            painter.drawPolyline(QPolygonF(line))
            self._draw_limits(painter, curve, floor)
            for station, sure in zip(curve.stations, curve.sure, strict=True):
                if not sure:
                    painter.setPen(QPen(p.colour("failed"), 2))
                    painter.drawLine(QPointF(self.x_of(float(station)), floor), QPointF(self.x_of(float(station)), floor + 3))
        if self._low == 0.0 and self._high == 1.0 and curve is None:
            painter.setPen(p.colour("quiet"))
            painter.setFont(type_of(11))
            box = QRectF(_EDGE, 6, self.width() - 2 * _EDGE, floor - 6)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "The area along the cut stands here, and is dragged to move it")
        else:
            self._draw_ruler(painter, floor)

    def _draw_limits(self, painter: QPainter, curve: AreaCurve, floor: float) -> None:
        """Where the material of each body begins and ends, and where the area leaps."""
        painter.setPen(QPen(self._palette.colour("accent"), 1, Qt.PenStyle.DashLine))
        shown = curve.ends if len(curve.ends) <= _MOST_LINED else np.array([[curve.ends.min(), curve.ends.max()]])
        for end in np.unique(shown):
            x = self.x_of(float(end))
            painter.drawLine(QPointF(x, 6), QPointF(x, floor))
        if len(curve.ends) > 1:
            # Of several bodies a bar each along the foot, so that neighbours and gaps are seen on the way.
            for lane, (low, high) in zip(_lanes(curve.ends), curve.ends.tolist(), strict=True):
                if lane < _MOST_LANES:
                    y = floor - 3.0 - 3.5 * lane
                    painter.setPen(QPen(self._palette.colour("accent"), 2))
                    painter.drawLine(QPointF(self.x_of(low) + 1, y), QPointF(self.x_of(high) - 1, y))

    def _draw_ruler(self, painter: QPainter, floor: float) -> None:
        painter.setPen(self._palette.colour("quiet"))
        span = self._high - self._low
        step = float(10 ** np.floor(np.log10(max(span / 4, 1e-9))))
        for factor in (5, 2, 1):
            if span / (step * factor) >= 4:
                step *= factor
                break
        for tick in np.arange(np.ceil(self._low / step) * step, self._high + step * 1e-6, step):
            x = self.x_of(float(tick))
            painter.drawLine(QPointF(x, floor), QPointF(x, floor + 4))
            painter.drawText(QRectF(x - 24, floor + 3, 48, 14), Qt.AlignmentFlag.AlignCenter, f"{tick:g}")


def _lanes(ends: np.ndarray) -> list[int]:
    """Of each stretch the lowest lane in which it lies on no earlier one."""
    taken: list[list[tuple[float, float]]] = []
    out = []
    for low, high in ends.tolist():
        lane = next((n for n, others in enumerate(taken) if all(high <= a or low >= b for a, b in others)), len(taken))
        if lane == len(taken):
            taken.append([])
        taken[lane].append((low, high))
        out.append(lane)
    return out
