"""Key cards: of a family after its first key or from the family bar, and of what is under the pointer."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PyQt6.QtCore import QPoint

from gullyrise.core.picking.feature import Hit
from gullyrise.desktop.commands.registry import CARDS, FAMILIES, RECENT, Action, found_by_words, on_card
from gullyrise.desktop.commands.runner import ActionRunner
from gullyrise.desktop.ports import Looks
from gullyrise.desktop.shell.card_rows import CardRow
from gullyrise.desktop.shell.family_bar import FamilyBar
from gullyrise.desktop.shell.key_card import KeyCard
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.viewport.widget import Viewport


class ContextMenu:
    """Opens the window's one card. words : what an action is called now, where that is another thing than its label"""

    def __init__(
        self, model: Workbench, commands: ActionRunner, looks: Looks, viewport: Viewport, card: KeyCard, bar: FamilyBar,
        words: Callable[[], dict[str, str]],
    ) -> None:  # fmt: skip
        self._model, self._commands, self._looks, self._viewport = model, commands, looks, viewport
        self._card, self._bar, self._words = card, bar, words
        bar.opened.connect(self.show_card)
        card.turned.connect(bar.turn)
        card.shut.connect(lambda: bar.show_open(""))

    def _rows(self, pairs: Iterable[tuple[str, Action]]) -> list[CardRow]:
        words, lacks = self._words(), self._commands.lacks
        return [CardRow(keys, entry, words.get(entry.id, entry.label), lacks(entry)) for keys, entry in pairs]

    def _with_first_keys(self, entries: Iterable[Action]) -> list[CardRow]:
        keys_of = self._commands.keymap.keys_of
        return self._rows((next(iter(keys_of(entry.id)), ""), entry) for entry in entries)

    def rows_by_words(self, words: str) -> list[CardRow]:
        """Of all cards."""
        return self._with_first_keys(found_by_words(words))

    def _absent(self) -> set[str]:
        """Recent jobs that are not there."""
        named = self._words()
        return {id for id in self._commands.actions if id.startswith(RECENT) and id not in named}

    def _place(self) -> QPoint:
        bench = self._viewport
        at = QPoint(bench.width() // 2 - 120, 60) if bench.aim.pointer is None else bench.aim.pointer.toPoint()
        return self._in_window(at)

    def _in_window(self, at: QPoint) -> QPoint:
        window = self._viewport.window()
        return at if window is None else self._viewport.mapTo(window, at)

    def show_card(self, letter: str, below: QPoint) -> None:
        """A card of the family bar, below its button; none closes it."""
        self._bar.show_open(letter)
        if not letter:
            self._card.shut_down()
            self._viewport.setFocus()
            return
        # A place for a recent job that is not there is nothing to read.
        absent = self._absent()
        rows = [row for row in self._with_first_keys(on_card(letter)) if row.action.id not in absent]
        self._card.open(CARDS[letter], rows, below, self._looks.palette, walk=True, hangs=True)

    def show_family(self, family: str) -> None:
        """The second keys of a family; none closes the card."""
        if not family:
            self._card.shut_down()
            return
        rows = self._rows(self._commands.keymap.family(family))
        self._card.open(FAMILIES[family], rows, self._place(), self._looks.palette)

    def open_under_pointer(self) -> None:
        """For those who have no right button: the card takes the focus, and arrows walk it."""
        at = self._viewport.aim.pointer
        place = QPoint(self._viewport.width() // 2 - 120, 60) if at is None else at.toPoint()
        self.open_on(place, self._viewport.aim.hit_under_pointer(), walk=True)

    def open_on(self, at: QPoint, hit: Hit | None, *, walk: bool = False) -> None:
        """What can be done with a part, a face or the bench; a part that was not selected becomes so first. at : on the bench"""
        on, place, palette = self._commands.keymap.on, self._in_window(at), self._looks.palette
        if hit is None:
            self._card.open("Bench", self._rows(on("bench")), place, palette, walk=walk)
            return
        item = self._viewport.scene.items[hit.item]
        if item.key not in self._model.selection.bodies:
            self._model.selection.select_bodies({item.key})
        self._card.open(item.name, self._rows([*on("face"), *on("part")]), place, palette, walk=walk)
