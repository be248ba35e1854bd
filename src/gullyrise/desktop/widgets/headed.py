"""What the panels at the lower left have in common: a head with a stamp, and under it a column that scrolls."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QScrollArea, QWidget

from gullyrise.desktop.widgets.pieces import caption, column_box
from gullyrise.desktop.widgets.stamp import Stamp
from gullyrise.drawing.palette import Palette


class HeadedPanel(QWidget):
    """stamp : beside the title. What scrolls below it goes into `_column`."""

    def __init__(self, name: str, title: str, palette: Palette) -> None:
        super().__init__()
        self._palette = palette
        self.setObjectName(name)
        self.setProperty("panel", True)
        outer = column_box(self, (8, 6, 4, 0), 4)
        line = QHBoxLayout()
        head = caption(title, "head")
        self.stamp = Stamp(palette, 18)
        line.addWidget(head, 1)
        line.addWidget(self.stamp)
        outer.addLayout(line)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._body = QWidget()
        self._body.setProperty("panel", True)
        self._column = column_box(self._body, (0, 0, 6, 8), 4)
        scroll.setWidget(self._body)
        outer.addWidget(scroll, 1)
