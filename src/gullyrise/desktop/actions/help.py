"""Finding one's way in the program itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.actions.registry import action

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window


@action("help.keys", "Key sheet", "F1")
def keys(window: Window) -> None:
    window.sheets.open_keys()


@action("help.find", "Find an action", "Ctrl+K")
def find(window: Window) -> None:
    window.find_action()


@action("help.settings", "Settings", "Ctrl+,")
def settings(window: Window) -> None:
    window.sheets.open_settings()


@action("help.scheme", "Choose a pointer scheme", "D P")
def scheme(window: Window) -> None:
    window.hint.choose_scheme()


@action("help.card", "Card for what is under the pointer", "Shift+F10")
def card(window: Window) -> None:
    window.cards.open_under_pointer()
