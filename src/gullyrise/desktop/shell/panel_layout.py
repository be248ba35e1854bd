"""Where the panels stand round the bench; they fold away and come back."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QSplitter, QWidget

from gullyrise.desktop.preferences.window_state import WindowState
from gullyrise.desktop.shell.action_finder import ActionFinder
from gullyrise.desktop.shell.head import Head, rule
from gullyrise.desktop.widgets.pieces import column_box

LEFT, RIGHT, BELOW = 264, 312, 168
"""Widths of the parts' side and of the checks', and the height of what opens below the bench, as they come."""
UPPER = (280, 330)
"""Heights on the parts' side: the parts, and what stands below them."""
LEAST = (232, 308)
"""Widths of the two sides under which their words would be cut off."""


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
        self._line: QWidget | None = None
        self._below_wanted, self._below_folded = False, False
        self.alone = False
        self._came_with: list[int] = []
        self.left = _splitter(Qt.Orientation.Vertical)
        self.rows = _splitter(Qt.Orientation.Vertical, bench)
        self.rows.setStretchFactor(0, 1)
        self._middle = QWidget()
        self._column = column_box(self._middle, (0, 0, 0, 0), 0)
        self._column.addWidget(self.rows, 1)
        self.columns = _splitter(Qt.Orientation.Horizontal, self.left, self._middle)
        self.columns.setStretchFactor(1, 1)
        self.left.setMinimumWidth(LEAST[0])
        column = column_box(self, (0, 0, 0, 0), 0)
        for widget, stretch in ((head, 0), (rule(), 0), (self.columns, 1), (rule(), 0), (foot, 0)):
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
        panel.setMinimumWidth(LEAST[1])
        self.columns.addWidget(panel)

    def set_below(self, panel: QWidget, line: QWidget) -> None:
        """panel : opens below the bench where it has something to show;  line : stands at the foot of the bench for good"""
        self._below, self._line = panel, line
        panel.hide()
        self.rows.addWidget(panel)
        self._column.addWidget(rule())
        self._column.addWidget(line)

    def want_below(self, wanted: bool) -> None:
        """Whether what is below the bench has something to show."""
        if wanted != self._below_wanted:
            self._below_wanted = wanted
            self._settle_below()

    def _settle_below(self) -> None:
        if self._below is not None:
            self._below.setVisible(self._below_wanted and not self._below_folded and not self.alone)

    def size_all(self) -> None:
        """Every panel as large as it was at first."""
        middle = max(self.width() - LEFT - RIGHT, 200)
        self.columns.setSizes([LEFT, middle, RIGHT])
        self.rows.setSizes([max(self.height() - BELOW, 200), BELOW])
        self.left.setSizes([*UPPER, *UPPER[1:] * (len(self._slots) - 1)])

    def take_state(self, state: WindowState) -> None:
        """Sizes and folds as they were left. Those of a window of another size keep the sides and give the bench the rest."""
        if len(state.columns) == self.columns.count():
            left, _, right = state.columns
            self.columns.setSizes([left, max(self.width() - left - right, 200), right])
        if len(state.left) == self.left.count():
            self.left.setSizes(state.left)
        if len(state.below) == self.rows.count():
            self.rows.setSizes(state.below)
        self._below_folded = state.below_folded
        if state.sides_folded:
            self._show_sides(False)
            self._came_with = state.columns

    def state_after(self, state: WindowState) -> WindowState:
        """Sizes and folds as they are now. state : as the window was left before"""
        folded = self.left.isHidden()
        now = replace(
            state, below_folded=self._below_folded, sides_folded=folded, below=self._known_sizes(self.rows, state.below)
        )
        if self.alone or folded:
            return now
        return replace(now, columns=self.columns.sizes(), left=self._known_sizes(self.left, state.left))

    @staticmethod
    def _known_sizes(splitter: QSplitter, before: list[int]) -> list[int]:
        """What is hidden has no size of its own now: it keeps that of before."""
        sizes = splitter.sizes()
        old = before if len(before) == len(sizes) else sizes
        return [size or known for size, known in zip(sizes, old, strict=True)]

    def reset(self) -> None:
        """Every panel where it was at first."""
        self.alone = self._below_folded = False
        self._show_all(True)
        self.show_first_slot()
        self.size_all()

    def swap_sides(self) -> None:
        """What stands left and right of the bench, away or back."""
        self._show_sides(not any(side is not None and side.isVisible() for side in (self.left, self._right)))

    def _show_sides(self, shown: bool) -> None:
        for side in (self.left, self._right):
            if side is not None:
                side.setVisible(shown)
        if shown and len(self._came_with) == self.columns.count():
            # What was folded from the start has no size of its own yet.
            left, _, right = self._came_with
            self._came_with = []
            self.columns.setSizes([left, max(self.width() - left - right, 200), right])

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
        """The panel below the bench folded into its line, or opened again."""
        self._below_folded = not self._below_folded
        self._settle_below()

    def bench_alone(self) -> None:
        self.alone = not self.alone
        self._show_all(not self.alone)

    def _show_all(self, shown: bool) -> None:
        for widget in (self.left, self._right, self._line, self._head):
            if widget is not None:
                widget.setVisible(shown)
        self._settle_below()

    def find_action(self) -> None:
        """Opens the finder; with the bench alone the head comes back for as long as it is used."""
        self._head.setVisible(True)
        self._finder.show()
        self._finder.begin()

    def finder_left(self) -> None:
        self._head.setVisible(not self.alone)
        self._head.fit()
