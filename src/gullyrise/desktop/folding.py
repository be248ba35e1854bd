"""Panels that fold away and come back."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window

COLUMNS, ROWS, LEFT = [296, 674, 310], [612, 126], [250, 370]
"""Sizes of parts, bench and traveller, of those and the section strip, and of parts and receiving report, as they come."""


class Folding:
    """alone : the bench has the window for itself. What is folded keeps its size (the splitters remember it)."""

    def __init__(self, window: Window) -> None:
        self._window = window
        self.alone = False

    def reset(self) -> None:
        """Every panel where it was at first."""
        window = self._window
        self.alone = False
        self._show_all(True)
        window.slip.hide()
        window.report.show()
        window.columns.setSizes(COLUMNS)
        window.rows.setSizes(ROWS)
        window.placing.settle()
        window.left.setSizes([*LEFT, LEFT[1]])

    def sides(self) -> None:
        window = self._window
        shown = window.left.isVisible() or window.traveller.isVisible()
        window.left.setVisible(not shown)
        window.traveller.setVisible(not shown)

    def report(self) -> None:
        """The receiving report alone, or back again."""
        window = self._window
        shown = window.report.isVisible()
        if not shown:
            window.left.show()
            window.slip.hide()
        window.report.setVisible(not shown)
        window.placing.settle()
        window.report.refresh()

    def slip(self) -> None:
        """The placing slip in the place of the receiving report, or back again."""
        if self._window.slip.isVisible():
            self._window.slip.hide()
            self._window.report.show()
            self._window.report.refresh()
            self._window.placing.settle()
        else:
            self.show_slip()

    def show_slip(self) -> None:
        window = self._window
        window.left.show()
        window.report.hide()
        window.slip.show()
        window.placing.settle()

    def strip(self) -> None:
        self._window.strip.setVisible(not self._window.strip.isVisible())

    def bench_alone(self) -> None:
        self.alone = not self.alone
        self._show_all(not self.alone)

    def _show_all(self, shown: bool) -> None:
        window = self._window
        for widget in (window.left, window.traveller, window.strip, window.head):
            widget.setVisible(shown)
