"""Cuts, the strip below the bench, the handle of the cut in hand, flat profiles, splitting."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.desktop.context import Context
from gullyrise.desktop.features.sections import commands as commands
from gullyrise.desktop.features.sections.controller import SectionsController
from gullyrise.desktop.features.sections.panel import SectionStrip
from gullyrise.desktop.features.sections.plane_handle import PlaneHandle
from gullyrise.desktop.features.sections.profile_view import ProfileView
from gullyrise.desktop.features.sections.split import SplitController
from gullyrise.desktop.features.sections.split_form import SplitForm
from gullyrise.desktop.features.sections.split_preview import SplitPreview


@dataclass(frozen=True, slots=True)
class SectionsFeature:
    controller: SectionsController
    handle: PlaneHandle
    strip: SectionStrip
    split: SplitController
    split_form: SplitForm
    profile: ProfileView


def attach(context: Context) -> SectionsFeature:
    model, viewport, preferences = context.model, context.viewport, context.preferences
    cutting = SectionsController(model, context.notifier, preferences, context.tasks, viewport)
    handle = PlaneHandle(viewport)
    viewport.add_tool(handle)
    strip = SectionStrip(cutting, context.palette)
    form = SplitForm(viewport)
    split = SplitController(model, context.notifier, context.floating, cutting, form, SplitPreview(viewport))
    form.closed.connect(split.settle)
    profile = ProfileView(context.window, context.notifier, context.status, preferences, context.files, viewport, cutting, strip)
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
            split.settle()
            profile.lay_over(False)
        context.scene.show_cuts(cutting.cuts)
        context.panels.want_below(bool(cutting.cuts))

    cutting.changed.connect(changed)
    context.looks.changed.connect(strip.wear)
    preferences.follow(("cut.speed",), lambda: strip.show_speed(preferences["cut.speed"]))
    context.panels.set_below(strip, strip.line)
    context.floating.add_slip(form, lambda _: form.sizeHint())
    context.commands.serve(cutting, split, profile)
    return SectionsFeature(cutting, handle, strip, split, form, profile)
