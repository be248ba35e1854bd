"""Tab goes in the order of the eye: region by region as they stand in the window, in each from the top and from the left."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QAbstractScrollArea, QAbstractSpinBox, QApplication, QScrollArea, QWidget

_LINE = 14
"""px within which things stand in one line."""


class TabOrder:
    """regions : those that are there now, in order; what stands in none comes last"""

    def __init__(self, window: QWidget, regions: Callable[[], Sequence[QWidget]]) -> None:
        self._window, self._regions = window, regions

    def widgets(self) -> list[QWidget]:
        """All that Tab stops at, in order."""
        regions = self._regions()
        found = [one for one in self._window.findChildren(QWidget) if self._is_a_stop(one)]

        def place(one: QWidget) -> tuple[int, int, int]:
            region = next((number for number, area in enumerate(regions) if area is one or area.isAncestorOf(one)), len(regions))
            at = one.mapTo(self._window, QPoint(0, one.height() // 2))
            # A region itself comes before what stands in it.
            return (region, -1 if one in regions else at.y() // _LINE, at.x())

        return sorted(found, key=place)

    def _is_a_stop(self, one: QWidget) -> bool:
        if not (one.focusPolicy() & Qt.FocusPolicy.TabFocus and one.isVisible() and one.isEnabled()):
            return False
        # The line within a spin box, and an area that only holds others.
        inner = isinstance(one.parentWidget(), QAbstractSpinBox) or isinstance(one, QScrollArea)
        return not inner and one.window() is self._window and one.focusProxy() is None

    def move(self, *, forward: bool) -> bool:
        """To the next stop, or the one before. Whether there is any."""
        stops, here = self.widgets(), QApplication.focusWidget()
        while here is not None and here not in stops and here is not self._window:
            here = here.parentWidget()
        if not stops:
            return False
        at = stops.index(here) if here in stops else (-1 if forward else 0)
        stop = stops[(at + (1 if forward else -1)) % len(stops)]
        stop.setFocus(Qt.FocusReason.TabFocusReason if forward else Qt.FocusReason.BacktabFocusReason)
        above = stop.parentWidget()
        while above is not None and not above.isWindow():
            if isinstance(above, QScrollArea) and not isinstance(stop, QAbstractScrollArea):
                above.ensureWidgetVisible(stop, 0, 24)
            above = above.parentWidget()
        return True
