"""Finding one's way in the program itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.registry import action

if TYPE_CHECKING:
    from gullyrise.desktop.features.preferences.sheets import Sheets
    from gullyrise.desktop.shell.context_menu import Cards
    from gullyrise.desktop.shell.panel_layout import Folding
    from gullyrise.desktop.shell.status_line import HintLine


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
