"""Find an action by words: a field in the head of the window, its answers below it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QLineEdit, QListWidget, QListWidgetItem

from gullyrise.desktop.commands import named_keys
from gullyrise.desktop.commands.registry import Action, found_by_words
from gullyrise.desktop.widgets.pieces import named

_MOST = 12
_ID = Qt.ItemDataRole.UserRole


class ActionFinder(QLineEdit):
    """chosen : an action's id;  left : the field was left without choosing."""

    chosen = pyqtSignal(str)
    left = pyqtSignal()

    def __init__(self, keys_of: Callable[[str], str]) -> None:
        super().__init__()
        self._keys_of = keys_of
        named(self, "action_finder", "Find an action")
        named_keys.caption(self, "help.find", "Find…{}", "  {}")
        named_keys.tip(self, "help.find", "Type a word or two of what you want to do")
        self.setMinimumWidth(100)
        self.setMaximumWidth(150)
        self.answers: QListWidget | None = None
        self.textEdited.connect(self._ask)

    def begin(self) -> None:
        self.clear()
        self.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self._ask("")

    def _list(self) -> QListWidget:
        if self.answers is None:
            self.answers = QListWidget(self.window())
            named(self.answers, "action_answers", "Actions found")
            self.answers.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            self.answers.itemClicked.connect(self._take)
        return self.answers

    def _ask(self, words: str) -> None:
        answers = self._list()
        answers.clear()
        for entry in found_by_words(words)[:_MOST]:
            answers.addItem(self._row(entry))
        if not answers.count():
            empty = QListWidgetItem("No action has these words; try another.")
            empty.setFlags(Qt.ItemFlag.NoItemFlags)
            answers.addItem(empty)
        answers.setCurrentRow(0)
        window = self.window()
        if window is not None:
            at = self.mapTo(window, QPoint(0, self.height() + 2))
            wide = max(self.width(), 380)
            left = max(min(at.x(), window.width() - wide - 8), 0)
            answers.setGeometry(left, at.y(), wide, 8 + 28 * answers.count())
        answers.show()
        answers.raise_()

    def _row(self, entry: Action) -> QListWidgetItem:
        keys = self._keys_of(entry.id)
        item = QListWidgetItem(f"{entry.label}    {keys}" if keys else entry.label)
        item.setData(_ID, entry.id)
        return item

    def _take(self, item: QListWidgetItem | None) -> None:
        id = None if item is None else item.data(_ID)
        if id is not None:
            self._close()
            self.chosen.emit(id)

    def _close(self) -> None:
        self.clear()
        if self.answers is not None:
            self.answers.hide()
        self.left.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        answers = self.answers
        if event is None:
            return
        if event.key() == Qt.Key.Key_Escape:
            self._close()
        elif answers is not None and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and answers.count():
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            answers.setCurrentRow((answers.currentRow() + step) % answers.count())
        elif answers is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._take(answers.currentItem())
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.FocusOut and self.answers is not None:
            self.answers.hide()
        return super().event(event)

    def offered(self) -> list[str]:
        """The ids of the actions on offer."""
        if self.answers is None or not self.answers.isVisible():
            return []
        rows = [self.answers.item(row) for row in range(self.answers.count())]
        return [row.data(_ID) for row in rows if row is not None and row.data(_ID) is not None]
