"""How much surface has which value, with the limit as a line to drag."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from gullyrise.core.checks.tally import Tally
from gullyrise.desktop.widgets.timers import once
from gullyrise.drawing.colour_maps import Scale
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import type_of

_TALL, _FOOT, _HEAD = 92, 18, 16
_TELL_MS = 30
_STEPS = {
    Qt.Key.Key_Left: -1.0, Qt.Key.Key_Right: 1.0, Qt.Key.Key_Down: -1.0, Qt.Key.Key_Up: 1.0, Qt.Key.Key_PageDown: -10.0,
    Qt.Key.Key_PageUp: 10.0,
}  # fmt: skip


class Histogram(QWidget):
    """dragged : (limit, number of the stroke), while the line is dragged and once more where it is let go; a stroke by keys is
    one step. Bars stand by the square root of their area, so that a small thin place beside a large wall is seen."""

    dragged = pyqtSignal(float, int)
    takes_keys = frozenset(_STEPS)

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self._palette = palette
        self._tally: Tally | None = None
        self._scale: Scale | None = None
        self.limit: float | None = None
        self._held, self._stroke = False, 0
        self._wanted: float | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(_TALL)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("How much surface has which value; the line is the limit")
        # Many moves of the pointer make one step of the limit.
        self._telling = once(self, _TELL_MS, self._tell)

    def sizeHint(self) -> QSize:
        return QSize(240, _TALL)

    def show_tally(self, tally: Tally | None, scale: Scale | None, limit: float | None, palette: Palette) -> None:
        """scale : the colours of the same values on the parts;  limit : None where nothing is asked"""
        self._tally, self._scale, self._palette = tally, scale, palette
        if not self._held:
            self.limit = limit
        self.setCursor(Qt.CursorShape.SplitHCursor if limit is not None else Qt.CursorShape.ArrowCursor)
        self.setVisible(tally is not None and scale is not None and not scale.yes_or_no)
        if scale is not None:
            self.setToolTip(f"Surface by {scale.title}; drag the line to change the limit")
        self.update()

    def _plot(self) -> QRectF:
        return QRectF(4, _HEAD, self.width() - 8, self.height() - _HEAD - _FOOT)

    def _x(self, value: float) -> float:
        assert self._tally is not None
        low, high = self._tally.edges[0], self._tally.edges[-1]
        return float(self._plot().left() + (value - low) / (high - low) * self._plot().width())

    def _value_at(self, x: float) -> float:
        assert self._tally is not None
        low, high = float(self._tally.edges[0]), float(self._tally.edges[-1])
        share = (x - self._plot().left()) / max(self._plot().width(), 1.0)
        value = low + min(max(share, 0.0), 1.0) * (high - low)
        # As coarse as the eye: a hundredth of what is shown.
        step = 10.0 ** np.floor(np.log10((high - low) / 100))
        return float(np.round(value / step) * step)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton or self._tally is None or self.limit is None:
            return
        self._held = True
        self._stroke += 1
        self._move_to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._held:
            self._move_to(event.position().x())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._held:
            self._held = False
            self._telling.stop()
            self._tell()

    def _move_to(self, x: float) -> None:
        self.limit = self._wanted = self._value_at(x)
        if not self._telling.isActive():
            self._telling.start()
        self.update()

    def _tell(self) -> None:
        if self._wanted is not None:
            wanted, self._wanted = self._wanted, None
            self.dragged.emit(wanted, self._stroke)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or event.key() not in _STEPS or self.limit is None or self._tally is None:
            super().keyPressEvent(event)
            return
        width = float(self._tally.edges[-1] - self._tally.edges[0])
        step = _STEPS[Qt.Key(event.key())] * 10.0 ** np.floor(np.log10(width / 50))
        self._stroke += 1
        self._wanted = float(np.clip(np.round(self.limit + step, 9), self._tally.edges[0], self._tally.edges[-1]))
        self.limit = self._wanted
        self._tell()
        self.update()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        tally, scale = self._tally, self._scale
        if tally is None or scale is None:
            return
        palette, plot = self._palette, self._plot()
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setFont(type_of(11))
            middles = (tally.edges[:-1] + tally.edges[1:]) / 2
            shown = scale if self.limit is None else scale.with_limit(self.limit)
            heights = np.sqrt(tally.area / max(float(tally.area.max()), 1e-300)) * plot.height()
            painter.setPen(Qt.PenStyle.NoPen)
            for edge, height, colour in zip(tally.edges, heights, shown.colours(middles), strict=False):
                if height > 0:
                    painter.setBrush(QColor(*(int(part) for part in colour)))
                    wide = plot.width() / len(middles)
                    painter.drawRect(
                        QRectF(self._x(float(edge)), plot.bottom() - max(height, 1.5), max(wide - 0.8, 1.0), max(height, 1.5))
                    )
            painter.setPen(QPen(palette.colour("line"), 1))
            painter.drawLine(plot.bottomLeft(), plot.bottomRight())
            painter.setPen(palette.colour("quiet"))
            foot = QRectF(plot.left(), plot.bottom() + 2, plot.width(), _FOOT - 2)
            last = f"{tally.edges[-1]:g} {scale.unit}{' and more' if scale.unit == 'mm' else ''}"
            painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, f"{tally.edges[0]:g}")
            painter.drawText(foot, Qt.AlignmentFlag.AlignRight, last)
            if self.limit is not None and tally.edges[0] <= self.limit <= tally.edges[-1]:
                self._paint_limit(painter, plot, scale.unit)
            if self.hasFocus():
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(palette.colour("accent"), 2))
                painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)

    def _paint_limit(self, painter: QPainter, plot: QRectF, unit: str) -> None:
        palette = self._palette
        x = self._x(self.limit or 0.0)
        for pen in (QPen(palette.colour("panel"), 4), QPen(palette.colour("ink"), 1.6)):
            painter.setPen(pen)
            painter.drawLine(QPointF(x, plot.top() - 2), QPointF(x, plot.bottom() + 4))
        painter.setBrush(palette.colour("ink"))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawPolygon(
            QPolygonF([QPointF(x - 5, plot.top() - 6), QPointF(x + 5, plot.top() - 6), QPointF(x, plot.top() + 2)])
        )
        painter.setFont(type_of(11, strong=True))
        painter.setPen(palette.colour("ink"))
        words = f"{self.limit:g} {unit}".strip()
        wide = painter.fontMetrics().horizontalAdvance(words)
        at = x + 8 if x + 12 + wide < plot.right() else x - 8 - wide
        painter.drawText(QPointF(at, plot.top() - 2), words)
