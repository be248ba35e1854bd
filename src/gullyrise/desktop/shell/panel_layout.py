"""Panels that fold away and come back."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtWidgets import QSplitter

from gullyrise.desktop.features.checks.panel import Traveller
from gullyrise.desktop.features.parts.report_panel import ReceivingReport
from gullyrise.desktop.features.placement.controller import Placing
from gullyrise.desktop.features.placement.panel import PlacingSlip
from gullyrise.desktop.features.sections.panel import SectionStrip
from gullyrise.desktop.shell.action_finder import ActionFinder
from gullyrise.desktop.shell.head import Head

COLUMNS, ROWS, LEFT = [296, 674, 310], [612, 126], [250, 370]
"""Sizes of parts, bench and traveller, of those and the section strip, and of parts and receiving report, as they come."""


@dataclass(frozen=True, slots=True)
class Panels:
    """Those of one window, with the splitters between them: columns, rows, and the parts' side."""

    columns: QSplitter
    rows: QSplitter
    left: QSplitter
    head: Head
    finder: ActionFinder
    report: ReceivingReport
    slip: PlacingSlip
    traveller: Traveller
    strip: SectionStrip


class Folding:
    """alone : the bench has the window for itself. What is folded keeps its size (the splitters remember it)."""

    def __init__(self, panels: Panels, placing: Placing) -> None:
        self._panels, self._placing = panels, placing
        self.alone = False

    def reset(self) -> None:
        """Every panel where it was at first."""
        self.alone = False
        self._show_all(True)
        self._panels.slip.hide()
        self._panels.report.show()
        self._panels.columns.setSizes(COLUMNS)
        self._panels.rows.setSizes(ROWS)
        self._placing.settle()
        self._panels.left.setSizes([*LEFT, LEFT[1]])

    def sides(self) -> None:
        shown = self._panels.left.isVisible() or self._panels.traveller.isVisible()
        self._panels.left.setVisible(not shown)
        self._panels.traveller.setVisible(not shown)

    def report(self) -> None:
        """The receiving report alone, or back again."""
        shown = self._panels.report.isVisible()
        if not shown:
            self._panels.left.show()
            self._panels.slip.hide()
        self._panels.report.setVisible(not shown)
        self._placing.settle()
        self._panels.report.refresh()

    def slip(self) -> None:
        """The placing slip in the place of the receiving report, or back again."""
        if self._panels.slip.isVisible():
            self._panels.slip.hide()
            self._panels.report.show()
            self._panels.report.refresh()
            self._placing.settle()
        else:
            self.show_slip()

    def show_slip(self) -> None:
        self._panels.left.show()
        self._panels.report.hide()
        self._panels.slip.show()
        self._placing.settle()

    def strip(self) -> None:
        self._panels.strip.setVisible(not self._panels.strip.isVisible())

    def bench_alone(self) -> None:
        self.alone = not self.alone
        self._show_all(not self.alone)

    def _show_all(self, shown: bool) -> None:
        for widget in (self._panels.left, self._panels.traveller, self._panels.strip, self._panels.head):
            widget.setVisible(shown)

    # --- what has its place on a panel -----------------------------------------------------------------------------

    def find_action(self) -> None:
        """Opens the finder; with the bench alone the head comes back for as long as it is used."""
        self._panels.head.setVisible(True)
        self._panels.finder.begin()

    def finder_left(self) -> None:
        self._panels.head.setVisible(not self.alone)

    def type_into(self, name: str) -> None:
        """A field of the placing slip. name : of a row of fields"""
        self.show_slip()
        field = self._panels.slip.fields[name][0]
        field.setFocus()
        field.selectAll()

    def type_stand_in(self) -> None:
        self.show_slip()
        self._panels.slip.shape.setFocus()
