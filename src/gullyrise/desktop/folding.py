"""Panels that fold away and come back."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window

COLUMNS, ROWS = [280, 690, 310], [620, 118]
"""Sizes of parts, bench and traveller, and of those and the section strip, as they come."""


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
        window.columns.setSizes(COLUMNS)
        window.rows.setSizes(ROWS)

    def sides(self) -> None:
        window = self._window
        shown = window.parts.isVisible() or window.traveller.isVisible()
        window.parts.setVisible(not shown)
        window.traveller.setVisible(not shown)

    def strip(self) -> None:
        self._window.strip.setVisible(not self._window.strip.isVisible())

    def bench_alone(self) -> None:
        self.alone = not self.alone
        self._show_all(not self.alone)

    def _show_all(self, shown: bool) -> None:
        window = self._window
        for widget in (window.parts, window.traveller, window.strip, window.head):
            widget.setVisible(shown)
