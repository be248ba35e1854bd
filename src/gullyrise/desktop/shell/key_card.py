"""The key card: the second keys of a family, or what can be done with what is under the pointer; to read, to type or to click."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from gullyrise.desktop.commands.registry import Action
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import type_of

ROW, WIDTH, HEAD = 26, 268, 32
_FOOT = 8


class KeyCard(QWidget):
    """Floats over the window; `chosen` gives an action's id. Arrows and Enter walk it once it has the focus."""

    chosen = pyqtSignal(str)
    takes_keys = frozenset({Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter})

    def __init__(self, palette: Palette, parent: QWidget) -> None:
        super().__init__(parent)
        self._palette = palette
        self._title = ""
        self._rows: list[tuple[str, Action]] = []
        self._over = -1
        self._per_column = 1
        self.setObjectName("key_card")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.hide()

    @property
    def rows(self) -> list[tuple[str, Action]]:
        return self._rows

    @property
    def title(self) -> str:
        return self._title

    def open(self, title: str, rows: list[tuple[str, Action]], at: QPoint, palette: Palette, *, walk: bool = False) -> None:
        """Shows (keys, action) rows beside a place in the parent. walk : takes the focus, so that arrows move in it."""
        self._title, self._rows, self._palette, self._over = title, rows, palette, 0 if walk else -1
        self.setAccessibleName(f"{title} keys")
        parent = self.parentWidget()
        room = parent.rect() if parent is not None else self.rect()
        most = max((room.height() - HEAD - _FOOT - 16) // ROW, 1)
        columns = max(-(-len(rows) // most), 1)
        self._per_column = max(-(-len(rows) // columns), 1)
        width, height = WIDTH * columns, HEAD + ROW * self._per_column + _FOOT
        x = min(max(at.x() + 12, 8), max(room.width() - width - 8, 8))
        y = min(max(at.y() + 12, 8), max(room.height() - height - 8, 8))
        self.setGeometry(x, y, width, height)
        self.show()
        self.raise_()
        if walk:
            self.setFocus()
        self.update()

    def place_of(self, row: int) -> QPoint:
        """The middle of a row, in the card's own pixels."""
        column, line = divmod(row, self._per_column)
        return QPoint(column * WIDTH + WIDTH // 2, HEAD + line * ROW + ROW // 2)

    def _row_at(self, place: QPoint) -> int:
        line = (place.y() - HEAD) // ROW
        row = (place.x() // WIDTH) * self._per_column + line
        return row if 0 <= line < self._per_column and 0 <= row < len(self._rows) else -1

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._over = self._row_at(event.position().toPoint())
            self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._choose(self._row_at(event.position().toPoint()))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self._rows:
            return
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._over = (self._over + (1 if event.key() == Qt.Key.Key_Down else -1)) % len(self._rows)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._choose(self._over)
        else:
            super().keyPressEvent(event)

    def _choose(self, row: int) -> None:
        self.hide()
        if 0 <= row < len(self._rows):
            self.chosen.emit(self._rows[row][1].id)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = self._palette
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setBrush(p.colour("panel"))
            painter.setPen(QPen(p.colour("quiet"), 1))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)
            painter.setFont(type_of(12, strong=True))
            painter.setPen(p.colour("quiet"))
            title = painter.fontMetrics().elidedText(self._title, Qt.TextElideMode.ElideRight, self.width() - 24)
            painter.drawText(QRectF(12, 0, self.width() - 24, HEAD), Qt.AlignmentFlag.AlignVCenter, title)
            if not self._rows:
                painter.drawText(QRectF(12, HEAD, WIDTH - 24, ROW), Qt.AlignmentFlag.AlignVCenter, "No keys here yet")
            for number, (key, entry) in enumerate(self._rows):
                column, line = divmod(number, self._per_column)
                self._draw_row(
                    painter, QRectF(column * WIDTH + 6, HEAD + line * ROW, WIDTH - 12, ROW), key, entry, number == self._over
                )

    def _draw_row(self, painter: QPainter, row: QRectF, key: str, entry: Action, hot: bool) -> None:
        p = self._palette
        if hot:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(p.colour("ground_far"))
            painter.drawRoundedRect(row, 4, 4)
        painter.setFont(type_of(11, strong=True))
        wide = max(20.0, painter.fontMetrics().horizontalAdvance(key) + 10.0) if key else 20.0
        if key:
            cap = QRectF(row.x() + 6, row.y() + 4, wide, 18)
            painter.setPen(QPen(p.colour("line"), 1))
            painter.setBrush(p.colour("field"))
            painter.drawRoundedRect(cap, 3, 3)
            painter.setPen(p.colour("accent"))
            painter.drawText(cap, Qt.AlignmentFlag.AlignCenter, key)
        painter.setPen(p.colour("ink"))
        painter.setFont(type_of(13))
        words = row.adjusted(wide + 14, 0, 0, 0)
        text = painter.fontMetrics().elidedText(entry.label, Qt.TextElideMode.ElideRight, int(words.width()) - 6)
        painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, text)
