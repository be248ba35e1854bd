"""Finding one's way in the program itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.registry import action

if TYPE_CHECKING:
    from gullyrise.desktop.shell.context_menu import ContextMenu
    from gullyrise.desktop.shell.panel_layout import PanelLayout
    from gullyrise.desktop.shell.status_line import StatusStrip


@action("help.find", "Find an action", "Ctrl+K")
def find(panels: PanelLayout) -> None:
    panels.find_action()


@action("help.scheme", "Choose a pointer scheme", "D P")
def scheme(hint: StatusStrip) -> None:
    hint.choose_scheme()


@action("help.card", "Card for what is under the pointer", "Shift+F10")
def card(cards: ContextMenu) -> None:
    cards.open_under_pointer()


@action("panels.sides", "Side panels", "F9")
def sides(panels: PanelLayout) -> None:
    panels.swap_sides()


@action("panels.strip", "Section strip", "F10")
def strip(panels: PanelLayout) -> None:
    panels.swap_below()


@action("panels.bench-alone", "Bench alone", "F11")
def bench_alone(panels: PanelLayout) -> None:
    panels.bench_alone()


@action("panels.reset", "Panels as they came", "D Z")
def reset_panels(panels: PanelLayout) -> None:
    panels.reset()
