"""Ties the placing panel, the suggestions and the machine sheet to the job."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from pydantic import ValidationError

from gullyrise.core.checks.protocol import Outcome
from gullyrise.core.geometry import Transform
from gullyrise.core.job import PlacedPart
from gullyrise.core.placing import moves
from gullyrise.core.placing.fixture_shapes import FixtureShape
from gullyrise.core.placing.suggesting import Suggestion
from gullyrise.core.report.fit import fit_view, turn_that_fits
from gullyrise.desktop.features.placement import text
from gullyrise.desktop.features.placement.controller import PlacementController
from gullyrise.desktop.features.placement.panel import PlacementPanel
from gullyrise.desktop.features.placement.suggestions import Suggestions
from gullyrise.desktop.ports import Commands, FloatingLayout, Notifier, PanelPlaces, Preferences
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.workers.placing import Suggest

PANEL = "placing"
"""The name of the panel's place."""


class PlacementForm:
    """What is typed there becomes edits; what the job is is shown there."""

    def __init__(
        self, model: Workbench, notifier: Notifier, preferences: Preferences, commands: Commands, floating: FloatingLayout,
        panels: PanelPlaces, placing: PlacementController, panel: PlacementPanel, suggestions: Suggestions,
    ) -> None:  # fmt: skip
        self._model, self._notifier, self._preferences, self._floating = model, notifier, preferences, floating
        self._panels, self._placing, self._panel, self._suggestions = panels, placing, panel, suggestions
        self._suggested_for: tuple[int, str, Transform] | None = None
        panel.wanted.connect(commands.do)
        panel.at.connect(self._put_at)
        panel.turned.connect(self._turn)
        panel.sized.connect(self._size)
        panel.copies.connect(placing.copy)
        panel.fixture.connect(self._add_fixture)
        panel.option_set.connect(self._option)
        panel.unit.currentIndexChanged.connect(lambda _: self.refresh())
        suggestions.applied.connect(self._apply)
        suggestions.compared.connect(self._compare)
        suggestions.closed.connect(suggestions.hide)
        placing.changed.connect(self.refresh)
        self._model.results.changed.connect(self.refresh)
        self._model.carried.changed.connect(self._show_place)
        self._preferences.changed.connect(lambda _: self.refresh())

    def swap_panel(self) -> None:
        """The panel in its place, or what stood there at first."""
        if self._panels.slot == PANEL:
            self._panels.show_first_slot()
        else:
            self._panels.show_slot(PANEL)

    def type_into(self, name: str) -> None:
        """A field of the panel. name : of a row of fields"""
        self._panels.show_slot(PANEL)
        field = self._panel.fields[name][0]
        field.setFocus()
        field.selectAll()

    def type_fixture(self) -> None:
        self._panels.show_slot(PANEL)
        self._panel.shape.setFocus()

    def copy(self) -> None:
        """As many times as the panel says."""
        self._placing.copy(int(self._panel.count.value()))

    # --- the panel --------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        if self._panel.isHidden():
            return
        self._show_place()
        self._panel.show_options(self._preferences["place.gap"], self._preferences["place.outline"])
        self._panel.show_fit(fit_view(self._model.job, self._placing.chosen(), self._found, self._model.carried.placements))

    def _found(self, placed: PlacedPart) -> tuple[Outcome, ...] | None:
        return self._model.results.outcomes_of(placed, "fit")

    def _show_place(self) -> None:
        panel, placing = self._panel, self._placing
        ground = None if panel.isHidden() else placing.ground()
        if panel.isHidden():
            return
        if ground is None:
            panel.show_place(text.NOTHING_CHOSEN, None, None)
        else:
            home = placing.home_of(ground)
            at = (float(ground.middle[0] - home[0]), float(ground.middle[1] - home[1]), float(ground.low[2]))
            panel.show_place(placing.title(), at, tuple(float(side) for side in ground.size))

    def _put_at(self, axis: int, value: float) -> None:
        self._placing.put_at(*(value if k == axis else None for k in range(3)))

    def _turn(self, axis: int, value: float) -> None:
        if value:
            self._placing.turn(axis, value)
        self._panel.fields["place_turn"][axis].setModified(False)
        self.refresh()

    def _size(self, axis: int, value: float) -> None:
        ground = self._placing.ground()
        if ground is None:
            return
        share = value / 100 if self._panel.by_share else value / max(float(ground.size[axis]), 1e-12)
        if share <= 0:
            self._notifier.say(text.SIZE_OF_NOTHING, True)
            return
        factors = np.ones(3)
        factors[:] = share if self._panel.together.isChecked() else 1.0
        factors[axis] = share
        if not np.allclose(factors, 1.0, rtol=0, atol=1e-12):
            self._placing.stretch(factors)

    def _add_fixture(self, shape: str, sizes: list[float]) -> None:
        try:
            spec = FixtureShape(shape=shape, size=tuple(sizes))  # type: ignore[arg-type]
        except ValidationError as error:
            self._notifier.say(text.TYPE_OTHERS.format(error.errors()[0]["msg"].removeprefix("Value error, ").capitalize()), True)
            return
        self._placing.add_fixture(spec)

    def _option(self, id: str, value: object) -> None:
        self._preferences.set(id, value)

    def fit_turned(self, which: str) -> None:
        """Applies the turn that the check of fit found."""
        job = self._model.job
        for placed in self._placing.chosen() or job.parts:
            move = turn_that_fits(job, placed, self._found(placed), which)
            if move is not None:
                break
        else:
            self._notifier.say(text.NO_SUCH_TURN, False)
            return
        # Asked for of all, it is done to the first that wants it.
        self._model.selection.select({placed.id})
        self._placing.apply(text.TURN_TO, move)

    # --- suggestions -----------------------------------------------------------------------------------------------

    def suggest(self, *, stand_at_best: bool = False) -> None:
        """Ways in which the chosen part could stand. stand_at_best : the best is applied, and no table shown"""
        chosen = self._placing.chosen()
        if len(chosen) != 1:
            self._notifier.say(text.SUGGESTIONS_ARE, False)
            return
        placed = chosen[0]
        if not stand_at_best:
            self._suggestions.show_waiting(placed.name)
            self._floating.settle()
        job = self._model.job
        work = Suggest(placed.part, placed.placement, job.machine, job.limits)
        self._model.aside(work, lambda ways: self._suggested(placed, ways, stand_at_best=stand_at_best))

    def _suggested(self, placed: PlacedPart, ways: tuple[Suggestion, ...], *, stand_at_best: bool) -> None:
        self._suggested_for = (placed.id, placed.digest, placed.placement)
        if stand_at_best:
            best = next((way for way in ways if way.fits and way.stands), ways[0] if ways else None)
            if best is not None:
                self._stand(placed.id, best, text.STAND_ON_BEST)
            return
        self._suggestions.show_ways(placed.name, ways, applied=False)

    def _apply(self, row: int) -> None:
        asked = self._suggested_for
        ways = self._suggestions.ways
        if asked is not None and row < len(ways):
            self._stand(asked[0], ways[row], f"Orientation {row + 1}")

    def _stand(self, number: int, way: Suggestion, name: str) -> None:
        """The way as it was measured: from how the part stood when it was asked for, over the place where it is now."""
        asked = self._suggested_for
        placed = self._model.job.part(number)
        if asked is None or placed is None or placed.digest != asked[1]:
            self._notifier.say(text.CHANGED_MEANWHILE, False)
            return
        first = replace(placed, placement=asked[2])
        stood = first.moved(moves.stood(first.outline(), way.turn))
        middle = placed.ground.middle
        stood = stood.moved(moves.to_place(stood.outline(), float(middle[0]), float(middle[1]), 0.0))
        self._model.document.edit(f"{name}, {placed.name}", lambda job: job.placed([stood]))

    def _compare(self, before: bool) -> None:
        """Shows the part as it stood before, as long as the button is held."""
        asked = self._suggested_for
        if asked is not None:
            self._model.carried.carry({asked[0]: asked[2]} if before else {})
