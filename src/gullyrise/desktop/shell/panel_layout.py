"""Where the panels stand round the bench; they fold away and come back."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QSplitter, QWidget

from gullyrise.desktop.shell.action_finder import ActionFinder
from gullyrise.desktop.shell.head import Head, rule
from gullyrise.desktop.widgets.pieces import column_box

COLUMNS, ROWS, LEFT = [296, 674, 310], [612, 126], [250, 370]
"""Sizes of the parts' side, the bench and the checks', of those and what is below, and of the two on the parts' side, as they
come."""


def _splitter(along: Qt.Orientation, *widgets: QWidget) -> QSplitter:
    made = QSplitter(along)
    made.setHandleWidth(1)
    made.setChildrenCollapsible(False)
    for widget in widgets:
        made.addWidget(widget)
    return made


class PanelLayout(QWidget):
    """alone : the bench has the window for itself. What is folded keeps its size (the splitters remember it).

    slot_changed : another panel stands below the parts, or none
    """

    slot_changed = pyqtSignal()

    def __init__(self, head: Head, finder: ActionFinder, bench: QWidget, foot: QWidget) -> None:
        super().__init__()
        self.setObjectName("centre")
        self._head, self._finder = head, finder
        self._slots: dict[str, QWidget] = {}
        self._right: QWidget | None = None
        self._below: QWidget | None = None
        self.alone = False
        self.left = _splitter(Qt.Orientation.Vertical)
        self.columns = _splitter(Qt.Orientation.Horizontal, self.left, bench)
        self.columns.setStretchFactor(1, 1)
        self.rows = _splitter(Qt.Orientation.Vertical, self.columns)
        self.rows.setStretchFactor(0, 1)
        column = column_box(self, (0, 0, 0, 0), 0)
        for widget, stretch in ((head, 0), (rule(), 0), (self.rows, 1), (rule(), 0), (foot, 0)):
            column.addWidget(widget, stretch)

    def add_left(self, panel: QWidget) -> None:
        self.left.insertWidget(0, panel)

    def add_slot(self, name: str, panel: QWidget) -> None:
        """One of those that stand below the parts, one at a time; the first is there at first."""
        panel.setVisible(not self._slots)
        self._slots[name] = panel
        self.left.addWidget(panel)

    def set_right(self, panel: QWidget) -> None:
        self._right = panel
        self.columns.addWidget(panel)

    def set_below(self, panel: QWidget) -> None:
        self._below = panel
        self.rows.addWidget(panel)

    def size_all(self) -> None:
        """Every panel as large as it was at first."""
        self.columns.setSizes(COLUMNS)
        self.rows.setSizes(ROWS)
        self.left.setSizes([*LEFT, *LEFT[1:] * (len(self._slots) - 1)])

    def reset(self) -> None:
        """Every panel where it was at first."""
        self.alone = False
        self._show_all(True)
        self.show_first_slot()
        self.size_all()

    def swap_sides(self) -> None:
        """What stands left and right of the bench, away or back."""
        sides = [side for side in (self.left, self._right) if side is not None]
        shown = any(side.isVisible() for side in sides)
        for side in sides:
            side.setVisible(not shown)

    @property
    def slot(self) -> str:
        """The panel that is seen below the parts, or none."""
        return next((name for name, panel in self._slots.items() if panel.isVisible()), "")

    def show_slot(self, name: str) -> None:
        """Another panel below the parts; none for an empty name."""
        if name:
            self.left.show()
        for other, panel in self._slots.items():
            panel.setVisible(other == name)
        self.slot_changed.emit()

    def show_first_slot(self) -> None:
        self.show_slot(next(iter(self._slots), ""))

    def swap_below(self) -> None:
        if self._below is not None:
            self._below.setVisible(not self._below.isVisible())

    def bench_alone(self) -> None:
        self.alone = not self.alone
        self._show_all(not self.alone)

    def _show_all(self, shown: bool) -> None:
        for widget in (self.left, self._right, self._below, self._head):
            if widget is not None:
                widget.setVisible(shown)

    def find_action(self) -> None:
        """Opens the finder; with the bench alone the head comes back for as long as it is used."""
        self._head.setVisible(True)
        self._finder.begin()

    def finder_left(self) -> None:
        self._head.setVisible(not self.alone)
