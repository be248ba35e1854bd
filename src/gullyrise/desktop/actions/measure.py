"""Measuring by hand, and the dimensions that are kept."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.actions.registry import action

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window


@action("measure.clicks", "Measure by clicks, or choose again", "M M", needs="part")
def clicks(window: Window) -> None:
    window.measuring.set_by_clicks(not window.measuring.by_clicks)


@action("measure.here", "Measure what is under the pointer", "M H", needs="part", on=("face",))
def here(window: Window) -> None:
    window.measuring.take_pointed()


@action("measure.places", "Clicks on faces take places, or the faces", "M P", needs="part")
def places(window: Window) -> None:
    window.measuring.set_spots(not window.measuring.spots)


@action("measure.next", "The next figure in front", "M N")
def following(window: Window) -> None:
    count = len(window.measuring.figures)
    if count:
        window.measuring.front((window.measuring.main + 1) % count)


@action("measure.keep", "Keep the figure as a dimension", "M K", needs="part")
def keep(window: Window) -> None:
    window.dimensions.keep()


@action("measure.copy", "Copy the figures", "M C")
def copy(window: Window) -> None:
    window.dimensions.copy()


@action("measure.axes", "Parts along the machine's axes, or the part's own", "M A")
def axes(window: Window) -> None:
    window.measuring.switch_axes()


@action("measure.unit", "The next unit", "M U")
def unit(window: Window) -> None:
    window.measuring.next_unit()


@action("measure.again", "Measure stale dimensions again", "M R")
def again(window: Window) -> None:
    window.dimensions.measure_again()


@action("measure.show", "Dimensions on the bench, or none", "M D")
def show(window: Window) -> None:
    window.dimensions.show_on_bench(not window.dimensions.shown_on_bench)


@action("measure.export", "Save the dimensions", "M E")
def export(window: Window) -> None:
    window.dimensions.ask_where()


@action("measure.drop", "Let go of what is picked", "M O")
def drop(window: Window) -> None:
    window.measuring.clear()
