"""Where things stand that float over the bench."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.desktop.features.checks.clearance_panel import ClearanceMatrix
from gullyrise.desktop.features.files.start_page import ReceivingPage
from gullyrise.desktop.features.navigation.view_shelf import PICTURE, ViewShelf
from gullyrise.desktop.features.placement.suggestions import Suggestions
from gullyrise.desktop.features.sections.split_form import SplitSlip
from gullyrise.desktop.features.selection.bars import PickBar, SightBar
from gullyrise.desktop.shell.notifications import Notices
from gullyrise.desktop.viewport.widget import Viewport


@dataclass(frozen=True)
class Floating:
    """Of one window."""

    bench: Viewport
    page: ReceivingPage
    notices: Notices
    pick_bar: PickBar
    sight_bar: SightBar
    shelf: ViewShelf
    suggestions: Suggestions
    split_slip: SplitSlip
    matrix: ClearanceMatrix

    def settle_bars(self) -> None:
        """Keeps the bars and the shelf in their places."""
        bench, shelf, sight = self.bench, self.shelf, self.sight_bar
        self.pick_bar.stand(upright=bench.width() < 600 or len(bench.panes.shown) > 1)
        width = min(3 * (PICTURE[0] + 16) + 24, bench.width() - 16)
        height = min(shelf.wanted_height(width), max(bench.height() - 140, 120))
        shelf.setGeometry(8, 72, max(width, 200), height)
        sight.move(8, max(bench.height() - sight.height() - 56, 72))

    def settle(self) -> None:
        """Everything, as the window or what floats may have another size."""
        page, bench = self.page, self.bench
        page.fit(bench.width() - 16)
        page.move(max((bench.width() - page.width()) // 2, 0), max((bench.height() - page.height()) // 2, 0))
        self.notices.place()
        self.settle_bars()
        way, matrix = self.suggestions, self.matrix
        way.resize(way.width(), min(max(bench.height() - 110, 200), 420))
        matrix.resize(min(560, bench.width() - 20), min(max(bench.height() - 130, 200), matrix.wanted_height(), 340))
        for slip in (way, self.split_slip, matrix):
            slip.move(max(bench.width() - slip.width() - 10, 0), max(bench.height() - slip.height() - 44, 40))
