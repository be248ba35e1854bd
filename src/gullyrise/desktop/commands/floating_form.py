"""What the forms that float over the bench have in common: a title, a button that closes them, and a column below."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.widgets.pieces import caption, column_box


class FloatingForm(QWidget):
    """closed : no longer wanted. What stands below the title goes into `_column`."""

    closed = pyqtSignal()

    def __init__(self, parent: QWidget, name: str, title: str, close: tuple[str, str]) -> None:
        """close : name and tooltip of the button that closes it"""
        super().__init__(parent)
        self.setObjectName(name)
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._column = column_box(self, (8, 6, 8, 8), 6)
        head = QHBoxLayout()
        self.title = caption(title, "title")
        button = small("Close", *close, do=self.closed)
        head.addWidget(self.title, 1)
        head.addWidget(button)
        self._column.addLayout(head)
