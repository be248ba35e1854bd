"""Finding one's way in the program itself."""

from __future__ import annotations

from gullyrise.desktop.commands.registry import JOB, ActionsOn
from gullyrise.desktop.shell.context_menu import ContextMenu
from gullyrise.desktop.shell.notifications import Notifications
from gullyrise.desktop.shell.panel_layout import PanelLayout
from gullyrise.desktop.shell.status_line import StatusStrip

finder = ActionsOn(PanelLayout, JOB)
panels = ActionsOn(PanelLayout, "D")
hint = ActionsOn(StatusStrip)
cards = ActionsOn(ContextMenu, JOB)
notices = ActionsOn(Notifications, JOB)

finder("help.find", "Find an action", "Ctrl+K", do=lambda it: it.find_action())
hint("help.scheme", "Pointer scheme", "D P", do=lambda it: it.choose_scheme())
notices("help.dismiss", "Dismiss the notices", "Ctrl+Backspace", do=lambda it: it.dismiss_all())
cards("help.card", "Card for what is under the pointer", "Shift+F10", do=lambda it: it.open_under_pointer())
panels("panels.sides", "Side panels", "F9", do=lambda it: it.swap_sides())
panels("panels.strip", "Panel of the cut", "F10", do=lambda it: it.swap_below())
panels("panels.bench-alone", "Bench alone", "F11", do=lambda it: it.bench_alone())
panels("panels.reset", "Reset the panels", "D Z", do=lambda it: it.reset())
