"""The key card: the second keys of a family, or what can be done with what is under the pointer; to read, to type or to click."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QModelIndex, QObject, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QLineEdit, QListView, QWidget

from gullyrise.desktop.commands.registry import Action, found_by_words
from gullyrise.desktop.shell.card_rows import ROWS, CardRow, CardRowPainter, CardRows
from gullyrise.desktop.widgets.pieces import caption, column_box, named
from gullyrise.drawing.palette import Palette

_LONGEST = 36
_HEAD, _SEARCH, _FOOT, _EDGE = 26, 36, 6, 8
_KEYS = (
    Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Escape,
    Qt.Key.Key_PageUp, Qt.Key.Key_PageDown,
)  # fmt: skip


class KeyCard(QFrame):
    """Floats over the window. chosen : an action's id;  turned : to the card beside it, -1 or 1;  shut : it went away

    A card that is walked has the focus: arrows and Enter move in it, what is typed finds rows, here first and then on all cards.
    """

    chosen = pyqtSignal(str)
    turned = pyqtSignal(int)
    shut = pyqtSignal()
    takes_keys = frozenset(_KEYS)

    def __init__(self, palette: Palette, parent: QWidget, elsewhere: Callable[[str], list[CardRow]]) -> None:
        """elsewhere : finds rows of all cards by words"""
        super().__init__(parent)
        self._elsewhere = elsewhere
        self._rows: list[CardRow] = []
        self._hangs = False
        named(self, "key_card", "Key card")
        self.setProperty("floating", True)
        column = column_box(self, (1, 4, 1, _FOOT), 0)
        self.head = caption("", "head")
        self.head.setContentsMargins(12, 4, 12, 4)
        self.search = named(QLineEdit(), "card_search", "Find on this card")
        self.search.setPlaceholderText("Type to find")
        self.search.setMaxLength(80)
        self.search.installEventFilter(self)
        self.search.textChanged.connect(self._find)
        self.rows_model = CardRows()
        self._painter = CardRowPainter(palette)
        self.list = named(QListView(), "card_rows", "Actions")
        self.list.setModel(self.rows_model)
        self.list.setItemDelegate(self._painter)
        self.list.setFlow(QListView.Flow.TopToBottom)
        self.list.setWrapping(True)
        self.list.setUniformItemSizes(True)
        self.list.setResizeMode(QListView.ResizeMode.Adjust)
        self.list.setMouseTracking(True)
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        for bar in (self.list.setVerticalScrollBarPolicy, self.list.setHorizontalScrollBarPolicy):
            bar(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.clicked.connect(self._choose)
        self.list.entered.connect(self.list.setCurrentIndex)
        for widget in (self.head, self.search, self.list):
            column.addWidget(widget)
        self.setFocusProxy(self.search)
        self.hide()

    @property
    def rows(self) -> list[tuple[str, Action]]:
        """(keys, action) of what is seen on it."""
        return [(row.keys, row.action) for row in self.rows_model.shown]

    @property
    def title(self) -> str:
        return self.head.text()

    def open(
        self, title: str, rows: list[CardRow], at: QPoint, palette: Palette, *, walk: bool = False, hangs: bool = False
    ) -> None:
        """Shows rows beside a place in the parent. walk : takes the focus;  hangs : below that place, from the family bar"""
        self._rows, self._hangs = rows, hangs
        self.head.setText(title if len(title) <= _LONGEST else f"{title[: _LONGEST - 1]}…")
        self.head.setToolTip(title)
        self.head.setVisible(not hangs)
        self.list.setAccessibleName(title)
        self._painter.measure(rows, palette)
        self.search.blockSignals(True)
        self.search.clear()
        self.search.blockSignals(False)
        self.search.setVisible(walk)
        parent = self.parentWidget()
        room = parent.rect() if parent is not None else self.rect()
        top = at.y() if hangs else _EDGE
        frame = _HEAD * (not hangs) + _SEARCH * walk + 2 * _FOOT
        for row in ROWS:
            most = max((room.height() - top - frame - _EDGE) // row, 1)
            columns = max(-(-len(rows) // most), 1)
            if columns * self._painter.width <= room.width() - 2 * _EDGE:
                break
        self._painter.take_height(row)
        self._per_column = max(-(-len(rows) // columns), 1)
        # A list wraps as soon as a row touches its edge.
        self.list.setFixedSize(self._painter.width * columns + 2, row * self._per_column + 2)
        self.adjustSize()
        off = 0 if hangs else 12
        x = min(max(at.x() + off, _EDGE), max(room.width() - self.width() - _EDGE, _EDGE))
        y = at.y() if hangs else min(max(at.y() + off, _EDGE), max(room.height() - self.height() - _EDGE, _EDGE))
        self.move(x, y)
        self._put(rows)
        self.show()
        self.raise_()
        if walk:
            self._stand_on(0)
            self.search.setFocus()

    def _put(self, rows: list[CardRow]) -> None:
        self.rows_model.put(rows)
        if not rows:
            self.list.clearSelection()

    def _find(self, words: str) -> None:
        """What is typed, on this card; where nothing here fits, on all others."""
        if not words.strip():
            self._put(self._rows)
        else:
            by_id = {row.action.id: row for row in self._rows}
            found = found_by_words(words, [row.action for row in self._rows])
            self._put([by_id[one.id] for one in found] or self._elsewhere(words)[: max(len(self._rows), 4)])
        self._stand_on(0)

    def _stand_on(self, row: int) -> None:
        self.list.setCurrentIndex(self.rows_model.index(row) if self.rows_model.shown else QModelIndex())

    def place_of(self, row: int) -> QPoint:
        """The middle of a row, in the pixels of the list that shows it."""
        return self.list.visualRect(self.rows_model.index(row)).center()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and watched is self.search and isinstance(event, QKeyEvent):
            if event.type() == QEvent.Type.KeyPress and event.key() in _KEYS:
                return self._walk(event)
        elif event is not None and watched is self.search and event.type() == QEvent.Type.FocusOut and not self._still_ours():
            self.shut_down()
        return False

    def _still_ours(self) -> bool:
        """The focus went with the whole window, and comes back with it."""
        return not self.isActiveWindow()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and not self._walk(event):
            super().keyPressEvent(event)

    def _walk(self, event: QKeyEvent) -> bool:
        """Whether it was a key that moves on the card."""
        key, here, count = event.key(), self.list.currentIndex().row(), len(self.rows_model.shown)
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            if self.search.text() or not self._hangs:
                return False
            self.turned.emit(1 if key == Qt.Key.Key_Right else -1)
        elif key == Qt.Key.Key_Escape:
            self.shut_down()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._choose(self.list.currentIndex())
        elif key in _KEYS and count:
            page = self._per_column
            steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_PageUp: -page, Qt.Key.Key_PageDown: page}
            by = steps[Qt.Key(key)]
            self._stand_on((here + by) % count if abs(by) == 1 else min(max(here + by, 0), count - 1))
        else:
            return False
        return True

    def shut_down(self) -> None:
        if self.isVisible():
            self.hide()
            self.shut.emit()

    def _choose(self, index: QModelIndex) -> None:
        row = self.rows_model.shown[index.row()] if index.isValid() else None
        self.shut_down()
        if row is not None:
            self.chosen.emit(row.action.id)
