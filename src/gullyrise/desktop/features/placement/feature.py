"""Where parts stand on the bed: by hand, by number, by suggestion; what collides meanwhile."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QSize

from gullyrise.desktop.context import Context
from gullyrise.desktop.features.placement import commands as commands
from gullyrise.desktop.features.placement.collisions import Meeting
from gullyrise.desktop.features.placement.controller import Placing
from gullyrise.desktop.features.placement.form import PANEL, Slips
from gullyrise.desktop.features.placement.gizmo_tool import TrayHand
from gullyrise.desktop.features.placement.panel import PlacingSlip
from gullyrise.desktop.features.placement.suggestions import Suggestions
from gullyrise.desktop.ports import MachineChoice
from gullyrise.desktop.widgets.placing import in_the_corner


@dataclass(frozen=True, slots=True)
class PlacementFeature:
    controller: Placing
    tray: TrayHand
    slip: PlacingSlip
    form: Slips
    suggestions: Suggestions
    collisions: Meeting


def attach(context: Context, machines: MachineChoice) -> PlacementFeature:
    model, viewport, preferences = context.model, context.viewport, context.preferences
    tray = TrayHand(viewport)
    viewport.add_tool(tray)
    slip = PlacingSlip(context.palette)
    suggestions = Suggestions(context.palette, viewport)
    collisions = Meeting(context.window, model, viewport)
    placing = Placing(context.window, model, context.notifier, context.status, preferences, viewport, tray, slip)
    form = Slips(
        model, context.notifier, preferences, context.commands, context.floating, context.panels, placing, slip, suggestions
    )
    slip.machine_wanted.connect(machines.use_machine)
    context.panels.add_slot(PANEL, slip)
    context.panels.slot_changed.connect(placing.settle)

    def settle(room: QSize) -> None:
        suggestions.resize(suggestions.width(), min(max(room.height() - 110, 200), 420))
        in_the_corner(suggestions, room)

    context.floating.add(settle)
    preferences.follow(("place.",), placing.settle)
    for part in (slip, suggestions):
        context.looks.changed.connect(part.wear)
    context.commands.serve(placing, form)
    return PlacementFeature(placing, tray, slip, form, suggestions, collisions)
