"""Measuring by hand, and the dimensions that are kept."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.needs import A_PART
from gullyrise.desktop.commands.registry import action

if TYPE_CHECKING:
    from gullyrise.desktop.features.measure.controller import MeasureController
    from gullyrise.desktop.features.measure.dimensions import Dimensions


@action("measure.clicks", "Measure by clicks, or choose again", "M M", needs=A_PART)
def clicks(measuring: MeasureController) -> None:
    measuring.set_by_clicks(not measuring.by_clicks)


@action("measure.here", "Measure what is under the pointer", "M H", needs=A_PART, on=("face",))
def here(measuring: MeasureController) -> None:
    measuring.take_pointed()


@action("measure.places", "Clicks on faces take places, or the faces", "M P", needs=A_PART)
def places(measuring: MeasureController) -> None:
    measuring.set_spots(not measuring.spots)


@action("measure.next", "The next figure in front", "M N")
def following(measuring: MeasureController) -> None:
    count = len(measuring.figures)
    if count:
        measuring.front((measuring.main + 1) % count)


@action("measure.keep", "Keep the figure as a dimension", "M K", needs=A_PART)
def keep(dimensions: Dimensions) -> None:
    dimensions.keep()


@action("measure.copy", "Copy the figures", "M C")
def copy(dimensions: Dimensions) -> None:
    dimensions.copy()


@action("measure.axes", "Parts along the machine's axes, or the part's own", "M A")
def axes(measuring: MeasureController) -> None:
    measuring.switch_axes()


@action("measure.unit", "The next unit", "M U")
def unit(measuring: MeasureController) -> None:
    measuring.next_unit()


@action("measure.again", "Measure stale dimensions again", "M R")
def again(dimensions: Dimensions) -> None:
    dimensions.measure_again()


@action("measure.show", "Dimensions on the bench, or none", "M D")
def show(dimensions: Dimensions) -> None:
    dimensions.show_on_bench(not dimensions.shown_on_bench)


@action("measure.export", "Save the dimensions", "M E")
def export(dimensions: Dimensions) -> None:
    dimensions.ask_where()


@action("measure.drop", "Let go of what is picked", "M O")
def drop(measuring: MeasureController) -> None:
    measuring.clear()
