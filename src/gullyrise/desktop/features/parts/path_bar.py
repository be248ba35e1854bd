"""Where one is among assemblies, and the way back out of them."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QSizePolicy, QWidget

from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.widgets.pieces import caption, named, row_box


class PathBar(QWidget):
    """wanted : the trail of the file or assembly to be in, empty for all files. Hidden where one is in none."""

    wanted = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        named(self, "path_bar", "Assembly that is shown")
        self._row = row_box(self, (0, 0, 0, 0), 2)
        self.hide()

    def show_trail(self, trail: tuple[str, ...]) -> None:
        while (item := self._row.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.setParent(None)
                widget.deleteLater()
        for number, name in enumerate(("All files", *trail)):
            if number:
                between = caption("›", "quiet")
                self._row.addWidget(between)
            last = number == len(trail)
            tip = "Where you are" if last else f"Back to {name[:1].lower() + name[1:] if not number else name}"
            step = small(name, f"path_{number}", tip)
            step.setProperty("flat", True)
            step.setEnabled(not last)
            step.setSizePolicy(QSizePolicy.Policy.Ignored if last else QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
            step.clicked.connect(lambda _, to=trail[:number]: self.wanted.emit(to))
            self._row.addWidget(step, 1 if last else 0)
        self.setVisible(bool(trail))
