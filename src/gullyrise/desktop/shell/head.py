"""The head of the window: the job's name, the machine plate, the finder, and what is done all the time."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from gullyrise.desktop.commands import named_keys
from gullyrise.desktop.commands.registry import Action
from gullyrise.desktop.shell.action_finder import ActionFinder
from gullyrise.desktop.widgets.pieces import caption, row_box

_BUTTONS = (("job.undo", "Undo"), ("job.redo", "Redo"), ("job.open", "Open…"), ("job.save", "Save"))


class Head(QWidget):
    """wanted : the id of an action."""

    wanted = pyqtSignal(str)

    def __init__(self, finder: ActionFinder, actions: dict[str, Action]) -> None:
        super().__init__()
        self.setProperty("panel", True)
        self.setFixedHeight(44)
        row = row_box(self, (12, 4, 12, 4), 8)
        self.job_name = caption("", "title", name="job_name")
        row.addWidget(self.job_name)
        row.addStretch(1)
        self._middle = QHBoxLayout()
        row.addLayout(self._middle)
        row.addStretch(1)
        row.addWidget(finder)
        self.buttons: dict[str, QPushButton] = {}
        for id, words in _BUTTONS:
            button = self.buttons[id] = QPushButton(words)
            button.setObjectName("do_" + id.replace(".", "_").replace("-", "_"))
            named_keys.tip(button, id, actions[id].label)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _, id=id: self.wanted.emit(id))
            row.addWidget(button)

    def add(self, widget: QWidget) -> None:
        """Into the middle."""
        self._middle.addWidget(widget)

    def show_steps(self, undo: str | None, redo: str | None) -> None:
        """What undo and redo would do, in words."""
        for id, words, name in (("job.undo", "Undo", undo), ("job.redo", "Redo", redo)):
            named_keys.tip(
                self.buttons[id], id, f"{words}: {name[:1].lower()}{name[1:]}" if name else f"Nothing to {words.lower()}"
            )


def rule() -> QFrame:
    """A line between two parts of the window."""
    line = QFrame()
    line.setProperty("rule", True)
    line.setFixedHeight(1)
    return line
