"""Cuts, the strip below the bench, the handle of the cut in hand, flat profiles, splitting."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.desktop.context import Context
from gullyrise.desktop.features.sections import commands as commands
from gullyrise.desktop.features.sections.controller import Cutting
from gullyrise.desktop.features.sections.panel import SectionStrip
from gullyrise.desktop.features.sections.plane_handle import CutHand
from gullyrise.desktop.features.sections.profile_view import Profiling
from gullyrise.desktop.features.sections.split import Splitting
from gullyrise.desktop.features.sections.split_form import SplitSlip
from gullyrise.desktop.widgets.placing import in_the_corner


@dataclass(frozen=True, slots=True)
class SectionsFeature:
    controller: Cutting
    handle: CutHand
    strip: SectionStrip
    split: Splitting
    split_form: SplitSlip
    profile: Profiling


def attach(context: Context) -> SectionsFeature:
    model, viewport, preferences = context.model, context.viewport, context.preferences
    cutting = Cutting(model, context.notifier, preferences, context.tasks, viewport)
    handle = CutHand(viewport)
    viewport.add_tool(handle)
    strip = SectionStrip(cutting, context.palette)
    form = SplitSlip(viewport)
    split = Splitting(model, context.notifier, context.floating, cutting, form)
    profile = Profiling(context.window, context.notifier, context.status, preferences, context.files, viewport, cutting, strip)
    strip.wanted.connect(context.commands.do)
    strip.moved.connect(cutting.move_to)
    strip.slab.connect(cutting.keep_slab)
    strip.tilted.connect(cutting.tilt)
    strip.taken.connect(cutting.take)
    strip.speed_set.connect(lambda speed: preferences.set("cut.speed", speed))
    handle.dragged.connect(cutting.aim)
    handle.held.connect(context.status.show_tool)

    def changed() -> None:
        handle.show_cut(cutting.cut if cutting.handle_shown else None, cutting.box())
        if cutting.cut is None:
            form.hide()
            profile.lay_over(False)
        context.scene.show_cuts(cutting.cuts)

    cutting.changed.connect(changed)
    context.looks.changed.connect(strip.wear)
    preferences.follow(("cut.speed",), lambda: strip.show_speed(preferences["cut.speed"]))
    context.panels.set_below(strip)
    context.floating.add(lambda room: in_the_corner(form, room))
    context.commands.serve(cutting, split, profile)
    return SectionsFeature(cutting, handle, strip, split, form, profile)
