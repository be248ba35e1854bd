"""All findings of all checks in one order, worst first: stepping through them, flying to them, accepting them with a note."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.checks.protocol import Finding, Row, Verdict
from gullyrise.core.job import PlacedPart
from gullyrise.core.job.acceptances import Acceptance
from gullyrise.core.report.check_rows import RowView, alike_in
from gullyrise.desktop.features.checks import text
from gullyrise.desktop.ports import Navigator, Notifier
from gullyrise.desktop.state.workbench import Workbench


@dataclass(frozen=True, slots=True, eq=False)
class Listed:
    """A finding in the list. acceptance : None where it is not accepted;  stale : what it was measured on has changed since;
    copies : further parts that are alike and have the same;  number : among those of its check, as its flag has it"""

    row: Row
    placed: PlacedPart
    finding: Finding
    verdict: Verdict
    acceptance: Acceptance | None
    stale: bool
    copies: tuple[PlacedPart, ...] = ()
    number: int = 0


def _once(listed: list[Listed]) -> list[Listed]:
    """Copies of a part share what was found on them: that is one line."""
    out: dict[int, Listed] = {}
    for one in listed:
        known = out.get(id(one.finding))
        out[id(one.finding)] = one if known is None else replace(known, copies=(*known.copies, one.placed))
    return list(out.values())


class Findings(QObject):
    """changed : the list or the flagged one is another."""

    changed = pyqtSignal()
    note_wanted = pyqtSignal()

    def __init__(
        self,
        parent: QObject,
        model: Workbench,
        notifier: Notifier,
        navigator: Navigator,
        views: Callable[[], Mapping[str, RowView]],
    ) -> None:
        super().__init__(parent)
        self._model, self._notifier, self._navigator, self._views = model, notifier, navigator, views
        self._kept: tuple[Listed, ...] | None = None
        self._model.results.changed.connect(self._forget)
        self._model.document.changed.connect(self._forget)
        self._model.selection.changed.connect(self._forget)
        self._model.shown.changed.connect(self.changed)

    def _forget(self) -> None:
        self._kept = None
        self.changed.emit()

    @property
    def all(self) -> tuple[Listed, ...]:
        """Of the parts in view, worst first; those that were accepted last."""
        if self._kept is None:
            model = self._model
            found = []
            # The traveller has just worked its rows out.
            for name, view in self._views().items():
                numbers = {id(finding): number for number, (_, finding, _) in enumerate(alike_in(view.findings), 1)}
                for placed, finding, verdict in view.judged:
                    acceptance = model.job.acceptance_of(placed, name, finding)
                    number = numbers[id(finding)]
                    found.append(Listed(view.row, placed, finding, verdict, acceptance, view.stale, number=number))
            found.sort(key=lambda one: (one.acceptance is not None, *one.finding.cost, one.row.order))
            self._kept = tuple(_once(found))
        return self._kept

    @property
    def only(self) -> str | None:
        """The check whose findings alone are listed, as it is shown; None for all."""
        shown = self._model.shown.measure
        return shown if shown in self._views() else None

    @property
    def flagged(self) -> int | None:
        """The place of the flagged one in the list."""
        return next((at for at, one in enumerate(self.all) if self._is_flagged(one)), None)

    def _is_flagged(self, one: Listed) -> bool:
        return any(self._model.is_flagged(placed, one.finding) for placed in (one.placed, *one.copies))

    def step(self, by: int) -> None:
        """To the next or previous one: of the check that is shown, or of all where none is."""
        model = self._model
        listed = [one for one in self.all if model.shown.measure in (None, one.row.id)]
        if not listed:
            words = text.NOTHING_TO_STEP_THROUGH
            self._notifier.say(words, False)
            return
        here = next((at for at, one in enumerate(listed) if self._is_flagged(one)), -1 if by > 0 else 0)
        one = listed[(here + by) % len(listed)]
        self._navigator.fly_to(one.placed, one.finding)
        following = listed[(here + 2 * by) % len(listed)]
        self._navigator.make_ready(following.placed, following.finding)
        self.changed.emit()

    def go_to(self, place: int) -> None:
        """Shows the check of a listed finding and flies there."""
        if 0 <= place < len(self.all):
            one = self.all[place]
            self._model.shown.show_measure(one.row.id)
            self._navigator.fly_to(one.placed, one.finding)
            for near in self.all[place + 1 : place + 3]:
                self._navigator.make_ready(near.placed, near.finding)

    def ask_for_note(self) -> None:
        """Puts the writing mark where the note to the flagged finding goes."""
        if self.flagged is None:
            self._notifier.say(text.ACCEPTING_NEEDS, False)
        else:
            self.note_wanted.emit()

    def accept(self, note: str) -> None:
        """Accepts the flagged finding; a note has to say why."""
        place = self.flagged
        if place is None:
            return
        if not note.strip():
            self._notifier.say(text.NOTE_WANTED, False)
            return
        one = self.all[place]
        self._model.document.edit(
            text.ACCEPT.format(one.finding.what), lambda job: job.with_acceptance(one.placed, one.row.id, one.finding, note)
        )

    def take_back(self) -> None:
        """The flagged finding is no longer accepted."""
        place = self.flagged
        if place is None or self.all[place].acceptance is None:
            self._notifier.say(text.NO_ACCEPTED_FLAGGED, False)
            return
        one = self.all[place]
        self._model.document.edit(
            text.TAKE_BACK.format(one.finding.what), lambda job: job.without_acceptance(one.placed, one.row.id, one.finding)
        )
