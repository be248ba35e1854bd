"""Where parts stand on the bed: by hand, by number, by suggestion; what collides meanwhile."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QSize

from gullyrise.desktop.context import Context
from gullyrise.desktop.features.placement import commands as commands
from gullyrise.desktop.features.placement.collisions import Collisions
from gullyrise.desktop.features.placement.controller import PlacementController
from gullyrise.desktop.features.placement.form import PANEL, PlacementForm
from gullyrise.desktop.features.placement.gizmo_tool import GizmoTool
from gullyrise.desktop.features.placement.panel import PlacementPanel
from gullyrise.desktop.features.placement.suggestions import Suggestions
from gullyrise.desktop.ports import MachineChoice


@dataclass(frozen=True, slots=True)
class PlacementFeature:
    controller: PlacementController
    tray: GizmoTool
    panel: PlacementPanel
    form: PlacementForm
    suggestions: Suggestions
    collisions: Collisions


def attach(context: Context, machines: MachineChoice) -> PlacementFeature:
    model, viewport, preferences = context.model, context.viewport, context.preferences
    tray = GizmoTool(viewport)
    viewport.add_tool(tray)
    panel = PlacementPanel(context.palette)
    suggestions = Suggestions(context.palette, viewport)
    collisions = Collisions(context.window, model, viewport)
    placing = PlacementController(context.window, model, context.notifier, context.status, preferences, viewport, tray, panel)
    form = PlacementForm(
        model, context.notifier, preferences, context.commands, context.floating, context.panels, placing, panel, suggestions
    )
    panel.machine_wanted.connect(machines.use_machine)
    context.panels.add_slot(PANEL, panel)
    context.panels.slot_changed.connect(placing.settle)

    context.floating.add_slip(suggestions, lambda room: QSize(suggestions.wanted_width, min(room.height() - 110, 420)))
    preferences.follow(("place.",), placing.settle)
    for part in (panel, suggestions):
        context.looks.changed.connect(part.wear)
    context.commands.serve(placing, form)
    return PlacementFeature(placing, tray, panel, form, suggestions, collisions)
