"""Key cards: of a family after its first key, and of what is under the pointer."""

from __future__ import annotations

from PyQt6.QtCore import QPoint

from gullyrise.core.picking.feature import Hit
from gullyrise.desktop.commands.registry import FAMILIES
from gullyrise.desktop.commands.runner import ActionRunner
from gullyrise.desktop.ports import Looks
from gullyrise.desktop.shell.key_card import KeyCard
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.viewport.widget import Viewport


class ContextMenu:
    """Opens the window's one card."""

    def __init__(self, model: Workbench, commands: ActionRunner, looks: Looks, viewport: Viewport, card: KeyCard) -> None:
        self._model, self._commands, self._looks, self._viewport, self._card = model, commands, looks, viewport, card

    def _place(self) -> QPoint:
        bench = self._viewport
        return QPoint(bench.width() // 2 - 120, 60) if bench.aim.pointer is None else bench.aim.pointer.toPoint()

    def show_family(self, family: str) -> None:
        """The second keys of a family; none closes the card."""
        if not family:
            self._card.hide()
            return
        self._card.open(FAMILIES[family], self._commands.keymap.family(family), self._place(), self._looks.palette)

    def open_under_pointer(self) -> None:
        """For those who have no right button: the card takes the focus, and arrows walk it."""
        self.open_on(self._place(), self._viewport.aim.hit_under_pointer(), walk=True)

    def open_on(self, at: QPoint, hit: Hit | None, *, walk: bool = False) -> None:
        """What can be done with a part, a face or the empty bench; a part that was not chosen becomes so first."""
        if hit is None:
            self._card.open("Bench", self._commands.keymap.on("bench"), at, self._looks.palette, walk=walk)
            return
        item = self._viewport.scene.items[hit.item]
        if item.key not in self._model.selection.bodies:
            self._model.selection.select_bodies({item.key})
        rows = [*self._commands.keymap.on("face"), *self._commands.keymap.on("part")]
        self._card.open(item.name, rows, at, self._looks.palette, walk=walk)
