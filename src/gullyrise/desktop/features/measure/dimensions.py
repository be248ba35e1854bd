"""Dimensions kept with the job: on the bench, in the traveller, judged, stale, taken anew, and saved as a table."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QApplication

from gullyrise.core.errors import GullyriseError
from gullyrise.core.geometry import Transform
from gullyrise.core.geometry.spots import Spot
from gullyrise.core.measuring.figures import Figure
from gullyrise.core.measuring.keeping import hangs_on_machine, is_stale, judged, kept, limits_of
from gullyrise.core.measuring.picks import Dimension, Pick, Tolerance
from gullyrise.core.measuring.taking import Taken
from gullyrise.core.measuring.words import Wording
from gullyrise.core.report.cells import as_csv
from gullyrise.core.report.dimensions import DIMENSION_HEADS, as_json, rows_of
from gullyrise.core.safe_files import write_safely
from gullyrise.desktop.features.measure import text
from gullyrise.desktop.features.measure.tool import MeasureTool, Shown, middle_of
from gullyrise.desktop.ports import FilePicker, Navigator, Notifier
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.workers.measuring import TakeMeasure

if TYPE_CHECKING:
    from gullyrise.desktop.features.measure.controller import MeasureController


class Dimensions(QObject):
    """changed : what is kept, or which of it is in front

    chosen : the id of the one in front, or none;  shown_on_bench : whether any are
    """

    changed = pyqtSignal()

    def __init__(
        self, model: Workbench, notifier: Notifier, files: FilePicker, viewport: Viewport, hand: MeasureTool,
        measuring: MeasureController, navigator: Navigator,
    ) -> None:  # fmt: skip
        super().__init__()
        self._model, self._notifier, self._files = model, notifier, files
        self._viewport, self._hand, self._measuring, self._navigator = viewport, hand, measuring, navigator
        self.chosen: int | None = None
        self.shown_on_bench = True
        self._model.document.changed.connect(self._job_changed)
        self._model.shown.changed.connect(self.settle)
        self._model.carried.changed.connect(self.settle)

    @property
    def wording(self) -> Wording:
        return self._measuring.wording

    def settle(self) -> None:
        """Brings the bench in step."""
        self._hand.show_kept(self._kept_shown())

    def _job_changed(self) -> None:
        if self.dimension(self.chosen) is None:
            self.chosen = None
        self.changed.emit()
        self.settle()

    @property
    def all(self) -> tuple[Dimension, ...]:
        return self._model.job.dimensions

    def said_of(self, one: Dimension) -> tuple[str, str]:
        """(number and unit, uncertainty) of a kept dimension."""
        return self._measuring.words(_figure_of(one))

    def _kept_shown(self) -> tuple[Shown, ...]:
        if not self.shown_on_bench:
            return ()
        out = []
        copies = self._model.copies()
        for one in self._model.job.dimensions:
            found = copies.get(one.picks[0].key)
            if one.hidden or found is None:
                continue
            placed, _, place = found
            whole = place.then(self._model.carried.placement_of(placed))
            stale = self.is_stale(one)
            words = f"{one.name.partition(' ')[0]}  {self._measuring.words(_figure_of(one))[0]}{'  stale' if stale else ''}"
            ends = None
            if one.a is not None and one.b is not None:
                (ax, ay, az), (bx, by, bz) = whole.apply(np.array([one.a, one.b])).tolist()
                ends = ((ax, ay, az), (bx, by, bz))
            at = middle_of(ends) if ends is not None else _three(whole.apply(np.array([one.picks[0].spot]))[0])
            verdict = "" if stale else judged(one) or ""
            out.append(Shown(words, ends, at, verdict=verdict, strong=one.id == self.chosen))
        return tuple(out)

    def _state(self, picks: tuple[Pick, ...]) -> tuple[tuple[str | None, ...], tuple[Transform, ...]]:
        """(digest of each part or none, where each copy stands)."""
        copies = self._model.copies()
        digests: list[str | None] = []
        places = []
        for pick in picks:
            found = copies.get(pick.key)
            digests.append(found[0].digest if found is not None else None)
            places.append(found[2].then(found[0].placement) if found is not None else Transform.identity())
        return tuple(digests), tuple(places)

    def is_stale(self, one: Dimension) -> bool:
        return is_stale(one, *self._state(one.picks))

    def keep(self) -> None:
        """Keeps the figure in front with the job."""
        figure = self._measuring.figure
        if figure is None:
            self._notifier.say(text.NOTHING_MEASURED, False)
            return
        digests, places = self._state(self._measuring.picks)
        number = self._model.job.fresh_dimension_id()
        known = tuple(digest or "" for digest in digests)
        made = kept(number, self._measuring.picks, figure, known, places, turned=hangs_on_machine(figure.code))
        self.chosen = number
        said = f"{made.name}: {made.figure} {' '.join(self._measuring.words(figure))}".strip()
        of = sorted({pick.part for pick in self._measuring.picks})
        self._model.document.edit(
            text.KEEP.format(made.name), lambda job: job.with_dimension(made).noted(said, of, made.record_key)
        )

    def _changed_dimension(self, number: int, words: str, changes: dict[str, object]) -> None:
        one = self.dimension(number)
        if one is not None:
            fresh = one.model_copy(update=changes)
            if fresh != one:
                self._model.document.edit(f"{words} {one.name}", lambda job: job.with_dimension(fresh))

    def dimension(self, number: int | None) -> Dimension | None:
        return next((one for one in self._model.job.dimensions if one.id == number), None)

    def rename(self, number: int, words: str) -> None:
        name = " ".join(words.split())[:80]
        if name:
            self._changed_dimension(number, "Rename", {"name": name})

    def hide(self, number: int, hidden: bool) -> None:
        self._changed_dimension(number, "Hide" if hidden else "Show", {"hidden": hidden})

    def want(self, number: int, tolerance: Tolerance | None) -> None:
        """A wanted size for a dimension; what cannot be understood is said."""
        try:
            if tolerance is not None:
                limits_of(tolerance)
        except GullyriseError as error:
            self._notifier.say(str(error), True)
            return
        self._changed_dimension(number, text.WANTED_SIZE, {"tolerance": tolerance})

    def remove(self, number: int) -> None:
        one = self.dimension(number)
        if one is not None:
            self._model.document.edit(text.REMOVE.format(one.name), lambda job: job.without_dimension(number))

    def choose(self, number: int | None) -> None:
        """Brings a kept dimension to the front, with its picks in hand."""
        self.chosen = number
        one = self.dimension(number)
        if one is not None and not self.is_stale(one):
            self._measuring.hold(one.picks)
        self.changed.emit()
        self.settle()

    def look_straight(self) -> None:
        """Shows the figure in front, or the chosen dimension, as evidence."""
        figure = self._measuring.figure
        if figure is not None and figure.a is not None and figure.b is not None:
            self._navigator.look_between(figure.a, figure.b, self._measuring.words(figure)[0])
            return
        one = self.dimension(self.chosen)
        found = self._model.copies().get(one.picks[0].key) if one is not None else None
        if one is None or one.a is None or one.b is None or found is None or self.is_stale(one):
            self._notifier.say(text.NO_WAY_TO_LOOK_AT, False)
            return
        placed, _, place = found
        a, b = place.then(placed.placement).apply(np.array([one.a, one.b]))
        self._navigator.look_between(_three(a), _three(b), self._measuring.words(_figure_of(one))[0])

    def measure_again(self) -> None:
        """Takes every stale dimension anew whose things are still there."""
        stale = [one for one in self._model.job.dimensions if self.is_stale(one)]
        if not stale:
            self._notifier.say(text.NONE_STALE, False)
        for one in stale:
            subjects = self._measuring.subjects(one.picks)
            if subjects is None:
                self._notifier.say(text.PART_HAS_GONE.format(one.name), False)
                continue
            self._model.aside_as_it_stands(
                TakeMeasure(one.picks, subjects, True),
                partial(self._measured_again, one),
                partial(self._moved_meanwhile, one.name),
            )

    def _measured_again(self, one: Dimension, found: Taken) -> None:
        figure = next((figure for figure in found.figures if figure.code == one.code), None)
        now = self.dimension(one.id)
        if now is None:
            return
        if figure is None:
            self._notifier.say(text.ANOTHER_THING_NOW.format(one.name), False)
            return
        digests, places = self._state(one.picks)
        known = tuple(digest or "" for digest in digests)
        turned = hangs_on_machine(figure.code)
        fresh = kept(one.id, one.picks, figure, known, places, turned=turned)
        fresh = fresh.model_copy(update={"name": now.name, "hidden": now.hidden, "tolerance": now.tolerance})
        self._model.document.edit(text.MEASURE_AGAIN.format(now.name), lambda job: job.with_dimension(fresh), ("measure again",))

    def _moved_meanwhile(self, name: str) -> None:
        self._notifier.say(text.MOVED_MEANWHILE.format(name), False)

    def show_on_bench(self, shown: bool) -> None:
        self.shown_on_bench = shown
        self.changed.emit()
        self.settle()

    # --- out -------------------------------------------------------------------------------------------------------

    def copy(self) -> None:
        """The figures in hand, else all kept dimensions, as text with tabs."""
        lines = [
            f"{figure.name}\t{words}\t{how}\t{figure.method}"
            for figure in self._measuring.figures
            for words, how in [self._measuring.words(figure)]
        ]
        if not lines:
            lines = [
                f"{one.name}\t{self._measuring.words(_figure_of(one))[0]}\t{self._measuring.words(_figure_of(one))[1]}"
                for one in self._model.job.dimensions
            ]
        clipboard = QApplication.clipboard()
        if lines and clipboard is not None:
            clipboard.setText("\n".join(lines))
            self._notifier.say(text.COPIED.format(len(lines), "figure is" if len(lines) == 1 else "figures are"), False)
        else:
            self._notifier.say(text.NO_FIGURES, False)

    def ask_where(self) -> None:
        if not self._model.job.dimensions:
            self._notifier.say(text.NONE_KEPT, False)
            return
        kinds = [text.CSV, text.JSON]
        self._files.ask_where(text.SAVE_DIMENSIONS, "dimensions.csv", kinds, self.save)

    def save(self, name: str) -> None:
        path = Path(name)
        rows = rows_of((one, self.parts_of(one), self.is_stale(one)) for one in self._model.job.dimensions)
        told = as_json(rows) if path.suffix.lower() == ".json" else as_csv(DIMENSION_HEADS, rows)

        def tell(trouble: str) -> None:
            if trouble:
                self._notifier.say(text.CANNOT_BE_WRITTEN.format(path.name, trouble), True)
            else:
                self._notifier.say(text.DIMENSIONS_WRITTEN.format(path.name, path.parent), False)

        self._viewport.aside.write(lambda: write_safely(path, told.encode()), tell)

    def parts_of(self, one: Dimension) -> list[str]:
        """Names of the parts that a dimension is of."""
        found = [self._model.job.part(pick.part) for pick in one.picks]
        return list(dict.fromkeys(placed.name for placed in found if placed is not None))


def _figure_of(one: Dimension) -> Figure:
    return Figure(one.code, one.value, one.quantity, one.uncertainty, one.method, said=one.figure)


def _three(place: Any) -> Spot:
    return float(place[0]), float(place[1]), float(place[2])
