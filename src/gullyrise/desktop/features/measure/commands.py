"""Measuring by hand, and the dimensions that are kept."""

from __future__ import annotations

from gullyrise.desktop.commands.needs import A_PART
from gullyrise.desktop.commands.registry import ActionsOn
from gullyrise.desktop.features.measure.controller import MeasureController
from gullyrise.desktop.features.measure.dimensions import Dimensions

measuring = ActionsOn(MeasureController)
dimensions = ActionsOn(Dimensions)

measuring("measure.clicks", "Measure by clicks", "M M", do=lambda it: it.set_by_clicks(not it.by_clicks), needs=A_PART)
measuring("measure.here", "Measure what is under the pointer", "M H", do=lambda it: it.take_pointed(), needs=A_PART, on=("face",))
measuring("measure.places", "Clicks take places or whole faces", "M P", do=lambda it: it.set_spots(not it.spots), needs=A_PART)


def _following(measuring: MeasureController) -> None:
    count = len(measuring.figures)
    if count:
        measuring.front((measuring.main + 1) % count)


measuring("measure.next", "Next figure in front", "M N", do=_following)
dimensions("measure.keep", "Keep as a dimension", "M K", do=lambda it: it.keep(), needs=A_PART)
dimensions("measure.copy", "Copy the figures", "M C", do=lambda it: it.copy())
measuring("measure.axes", "Machine's axes or the part's own", "M A", do=lambda it: it.switch_axes())
measuring("measure.unit", "Next unit", "M U", do=lambda it: it.next_unit())
dimensions("measure.again", "Measure stale dimensions again", "M R", do=lambda it: it.measure_again())
dimensions("measure.show", "Dimensions on the bench", "M D", do=lambda it: it.show_on_bench(not it.shown_on_bench))
dimensions("measure.export", "Save the dimensions", "M E", do=lambda it: it.ask_where())
dimensions("measure.evidence", "Look straight at the measurement", "M L", do=lambda it: it.look_straight(), needs=A_PART)
measuring("measure.drop", "Let go of what is picked", "M O", do=lambda it: it.clear())
