"""Finding one's way in the program itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.actions.registry import action

if TYPE_CHECKING:
    from gullyrise.desktop.cards import Cards
    from gullyrise.desktop.folding import Folding
    from gullyrise.desktop.panels.hint_line import HintLine
    from gullyrise.desktop.settings.sheets import Sheets


@action("help.keys", "Key sheet", "F1")
def keys(sheets: Sheets) -> None:
    sheets.open_keys()


@action("help.find", "Find an action", "Ctrl+K")
def find(folding: Folding) -> None:
    folding.find_action()


@action("help.settings", "Settings", "Ctrl+,")
def settings(sheets: Sheets) -> None:
    sheets.open_settings()


@action("help.scheme", "Choose a pointer scheme", "D P")
def scheme(hint: HintLine) -> None:
    hint.choose_scheme()


@action("help.card", "Card for what is under the pointer", "Shift+F10")
def card(cards: Cards) -> None:
    cards.open_under_pointer()
