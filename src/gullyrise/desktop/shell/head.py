"""The head of the window: the family bar, the machine plate, the finder, undo and redo."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QToolButton, QWidget

from gullyrise.desktop.commands import named_keys
from gullyrise.desktop.commands.registry import Action
from gullyrise.desktop.shell.action_finder import ActionFinder
from gullyrise.desktop.shell.family_bar import FamilyBar
from gullyrise.desktop.theme import icons
from gullyrise.desktop.widgets.pieces import named, row_box

HEIGHT = 38
_BUTTONS = (("job.undo", "Undo", "undo"), ("job.redo", "Redo", "redo"))


class Head(QWidget):
    """wanted : the id of an action."""

    wanted = pyqtSignal(str)

    def __init__(self, bar: FamilyBar, finder: ActionFinder, actions: dict[str, Action]) -> None:
        super().__init__()
        self.bar = bar
        self.setProperty("panel", True)
        self.setFixedHeight(HEIGHT)
        row = row_box(self, (4, 3, 6, 3), 3)
        row.addWidget(bar)
        row.addStretch(1)
        self._middle = QHBoxLayout()
        row.addLayout(self._middle)
        row.addSpacing(8)
        row.addWidget(finder)
        self.buttons: dict[str, QToolButton] = {}
        for id, words, icon in _BUTTONS:
            button = self.buttons[id] = QToolButton()
            named(button, "do_" + id.replace(".", "_").replace("-", "_"), words)
            button.setProperty("bare", True)
            icons.put(button, icon)
            named_keys.tip(button, id, actions[id].label)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _, id=id: self.wanted.emit(id))
            row.addWidget(button)
        self._narrowing: list[tuple[int, QWidget]] = []

    def add(self, widget: QWidget, gives_way: tuple[tuple[int, QWidget], ...] = ()) -> None:
        """Into the middle. gives_way : (width of the window below which it goes, part of it)"""
        self._middle.addWidget(widget)
        self._narrowing += gives_way

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.fit()

    def fit(self) -> None:
        """What there is no room for goes."""
        for least, widget in self._narrowing:
            widget.setVisible(self.width() >= least)
        self.bar.fit(self.width())

    def show_steps(self, undo: str | None, redo: str | None) -> None:
        """What undo and redo would do, in words."""
        for id, words, name in (("job.undo", "Undo", undo), ("job.redo", "Redo", redo)):
            self.buttons[id].setEnabled(name is not None)
            named_keys.tip(
                self.buttons[id], id, f"{words}: {name[:1].lower()}{name[1:]}" if name else f"Nothing to {words.lower()}"
            )


def rule() -> QFrame:
    """A line between two parts of the window."""
    line = QFrame()
    line.setProperty("rule", True)
    line.setFixedHeight(1)
    return line
