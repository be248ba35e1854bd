"""Key cards: of a family after its first key, and of what is under the pointer."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint

from gullyrise.desktop.actions.registry import FAMILIES
from gullyrise.desktop.bench.picking import Hit

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window


class Cards:
    """Opens the window's one card."""

    def __init__(self, window: Window) -> None:
        self._window = window

    def _place(self) -> QPoint:
        bench = self._window.bench
        return QPoint(bench.width() // 2 - 120, 60) if bench.pointer is None else bench.pointer.toPoint()

    def show_family(self, family: str) -> None:
        """The second keys of a family; none closes the card."""
        window = self._window
        if not family:
            window.card.hide()
            return
        window.card.open(FAMILIES[family], window.keymap.family(family), self._place(), window.palette_worn)

    def open_under_pointer(self) -> None:
        """For those who have no right button: the card takes the focus, and arrows walk it."""
        self.open_on(self._place(), self._window.bench.hit_under_pointer(), walk=True)

    def open_on(self, at: QPoint, hit: Hit | None, *, walk: bool = False) -> None:
        """What can be done with a part, a face or the empty bench; a part that was not chosen becomes so first."""
        window = self._window
        if hit is None:
            window.card.open("Bench", window.keymap.on("bench"), at, window.palette_worn, walk=walk)
            return
        item = window.bench.scene.items[hit.item]
        if item.key not in window.model.bodies:
            window.model.select_bodies({item.key})
        rows = [*window.keymap.on("face"), *window.keymap.on("part")]
        window.card.open(item.name, rows, at, window.palette_worn, walk=walk)
