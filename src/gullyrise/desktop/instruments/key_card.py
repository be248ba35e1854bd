"""The key card: the second keys of a family, at the pointer, to read or to click."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from gullyrise.desktop.actions.registry import FAMILIES, Action
from gullyrise.desktop.theme.look import type_of
from gullyrise.desktop.theme.palette import Palette

_ROW, _WIDTH, _HEAD = 26, 236, 32


class KeyCard(QWidget):
    """Floats over the window; `chosen` gives an action's id."""

    chosen = pyqtSignal(str)

    def __init__(self, actions: dict[str, Action], palette: Palette, parent: QWidget) -> None:
        super().__init__(parent)
        self._actions, self._palette = actions, palette
        self._family = ""
        self._rows: list[tuple[str, Action]] = []
        self._over = -1
        self.setObjectName("key_card")
        self.setMouseTracking(True)
        self.hide()

    @property
    def rows(self) -> list[tuple[str, Action]]:
        return self._rows

    def open(self, family: str, at: QPoint, palette: Palette) -> None:
        """Shows a family's keys beside a place in the parent; empty closes."""
        self._family, self._palette, self._over = family, palette, -1
        if not family:
            self.hide()
            return
        self._rows = [
            (keys.partition(" ")[2], entry)
            for entry in self._actions.values()
            for keys in entry.keys
            if keys.startswith(family + " ")
        ]
        self.setAccessibleName(f"{FAMILIES[family]} keys")
        height = _HEAD + _ROW * max(len(self._rows), 1) + 8
        parent = self.parentWidget()
        room = parent.rect() if parent is not None else self.rect()
        x = min(max(at.x() + 12, 8), room.width() - _WIDTH - 8)
        y = min(max(at.y() + 12, 8), room.height() - height - 8)
        self.setGeometry(x, y, _WIDTH, height)
        self.show()
        self.raise_()

    def _row_at(self, place: QPoint) -> int:
        row = (place.y() - _HEAD) // _ROW
        return row if 0 <= row < len(self._rows) else -1

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._over = self._row_at(event.position().toPoint())
            self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        row = self._row_at(event.position().toPoint())
        self.hide()
        if row >= 0:
            self.chosen.emit(self._rows[row][1].id)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = self._palette
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(p.colour("panel"))
        painter.setPen(QPen(p.colour("quiet"), 1))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)
        painter.setFont(type_of(12, strong=True))
        painter.setPen(p.colour("quiet"))
        painter.drawText(QRectF(12, 0, _WIDTH - 24, _HEAD), Qt.AlignmentFlag.AlignVCenter, FAMILIES.get(self._family, ""))
        if not self._rows:
            painter.drawText(QRectF(12, _HEAD, _WIDTH - 24, _ROW), Qt.AlignmentFlag.AlignVCenter, "No keys here yet")
        for number, (key, entry) in enumerate(self._rows):
            row = QRectF(6, _HEAD + number * _ROW, _WIDTH - 12, _ROW)
            if number == self._over:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(p.colour("ground_far"))
                painter.drawRoundedRect(row, 4, 4)
            cap = QRectF(12, row.y() + 4, 20, 18)
            painter.setPen(QPen(p.colour("line"), 1))
            painter.setBrush(p.colour("field"))
            painter.drawRoundedRect(cap, 3, 3)
            painter.setPen(p.colour("accent"))
            painter.setFont(type_of(11, strong=True))
            painter.drawText(cap, Qt.AlignmentFlag.AlignCenter, key)
            painter.setPen(p.colour("ink"))
            painter.setFont(type_of(13))
            painter.drawText(row.adjusted(36, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, entry.label)
