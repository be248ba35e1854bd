"""Panels that fold away and come back."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window

COLUMNS, ROWS, LEFT = [296, 674, 310], [620, 118], [250, 370]
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
        window.report.show()
        window.columns.setSizes(COLUMNS)
        window.rows.setSizes(ROWS)
        window.left.setSizes(LEFT)

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
        window.report.setVisible(not shown)
        window.report.refresh()

    def strip(self) -> None:
        self._window.strip.setVisible(not self._window.strip.isVisible())

    def bench_alone(self) -> None:
        self.alone = not self.alone
        self._show_all(not self.alone)

    def _show_all(self, shown: bool) -> None:
        window = self._window
        for widget in (window.left, window.traveller, window.strip, window.head):
            widget.setVisible(shown)
