"""Measuring by hand, and the dimensions that the job keeps."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.desktop.context import Context
from gullyrise.desktop.features.measure import commands as commands
from gullyrise.desktop.features.measure.card import MeasureCard
from gullyrise.desktop.features.measure.controller import MeasureController
from gullyrise.desktop.features.measure.dimension_list import DimensionList
from gullyrise.desktop.features.measure.dimensions import Dimensions
from gullyrise.desktop.features.measure.tool import MeasureTool
from gullyrise.desktop.ports import Column, Navigator


@dataclass(frozen=True, slots=True)
class MeasureFeature:
    controller: MeasureController
    tool: MeasureTool
    card: MeasureCard
    dimensions: Dimensions
    dimension_list: DimensionList


def attach(context: Context, column: Column, navigator: Navigator) -> MeasureFeature:
    """column : in which the card and the list stand"""
    model, viewport, preferences = context.model, context.viewport, context.preferences
    tool = MeasureTool(viewport)
    viewport.add_tool(tool)
    measuring = MeasureController(model, context.notifier, context.status, preferences, context.tasks, tool)
    card = MeasureCard(measuring, context.palette)
    kept = Dimensions(model, context.notifier, context.files, viewport, tool, measuring, navigator)
    listed = DimensionList(kept, context.palette)
    for foot in (card, listed):
        column.pin(foot)
        context.looks.changed.connect(foot.wear)
    card.wanted.connect(context.commands.do)
    card.fronted.connect(measuring.front)
    card.leg_pointed.connect(measuring.point_at_leg)
    measuring.changed.connect(lambda: column.reveal(card) if measuring.picked_by_hand else None)
    listed.wanted.connect(context.commands.do)
    listed.chosen.connect(kept.choose)
    listed.removed.connect(kept.remove)
    listed.renamed.connect(kept.rename)
    listed.hidden.connect(kept.hide)
    listed.size_wanted.connect(kept.want)
    listed.mistyped.connect(lambda sentence: context.notifier.say(sentence, True))

    def word() -> None:
        measuring.changed.emit()
        measuring.settle()
        kept.changed.emit()
        kept.settle()

    preferences.follow(("measure.unit", "measure.digits", "measure.axes"), word)
    context.commands.serve(measuring, kept)
    return MeasureFeature(measuring, tool, card, kept, listed)
