"""One figure as a row that can be chosen: its name at the left, its number at the right, what is not known about it below."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QPushButton, QSizePolicy

from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import type_of

_TALL, _LOW = 36, 24


class FigureRow(QPushButton):
    """A row with two columns. Checked is the one in front."""

    def __init__(self, palette: Palette, name: str, number: str, doubt: str) -> None:
        super().__init__()
        self._palette, self._name, self._number, self._doubt = palette, name, number, doubt
        self.setCheckable(True)
        self.setProperty("flat", True)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(f"{name} {number} {doubt}")

    def sizeHint(self) -> QSize:
        return QSize(200, _LOW if self._doubt == "exact" else _TALL)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = self._palette
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
            if self.isChecked() or self.hasFocus() or self.underMouse():
                painter.setPen(QPen(p.colour("accent"), 2) if self.hasFocus() else Qt.PenStyle.NoPen)
                painter.setBrush(p.colour("line") if self.isChecked() else p.colour("ground"))
                painter.drawRoundedRect(box, 4, 4)
            line = QRectF(box.left() + 8, box.top(), box.width() - 16, _LOW - 2)
            painter.setFont(type_of(13, strong=True))
            painter.setPen(p.colour("ink"))
            painter.drawText(line, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, self._number)
            taken = painter.fontMetrics().horizontalAdvance(self._number) + 8
            painter.setFont(type_of(13))
            name = painter.fontMetrics().elidedText(self._name, Qt.TextElideMode.ElideRight, int(line.width() - taken))
            painter.drawText(line, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, name)
            if self._doubt != "exact":
                painter.setFont(type_of(11))
                painter.setPen(p.colour("quiet"))
                foot = QRectF(line.left(), line.bottom() - 4, line.width(), 14)
                painter.drawText(foot, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, self._doubt)
