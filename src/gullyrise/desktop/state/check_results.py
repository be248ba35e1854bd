"""What the checks have found, as it is told: rows over the parts in view, verdicts of parts, the finding that is flagged."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.checks.protocol import Check, Finding, Outcome, Verdict, gravest
from gullyrise.core.checks.walls import THIN
from gullyrise.core.geometry.spots import Spot
from gullyrise.core.job import PlacedPart
from gullyrise.core.number_words import number
from gullyrise.core.report.check_rows import RowView, not_judged, row_of
from gullyrise.desktop.state import text
from gullyrise.desktop.state.between_parts import BetweenParts
from gullyrise.desktop.state.check_runner import CheckRunner
from gullyrise.desktop.state.document_model import DocumentModel
from gullyrise.desktop.state.selection import Selection
from gullyrise.desktop.state.shown import Carried, Shown

_MOST_PLACES = 5


class CheckResults(QObject):
    """changed : something was found, or is of other parts than before"""

    changed = pyqtSignal()

    def __init__(
        self,
        document: DocumentModel,
        selection: Selection,
        shown: Shown,
        carried: Carried,
        runner: CheckRunner,
        between: BetweenParts,
    ) -> None:
        super().__init__()
        self._document, self._selection, self._shown, self._carried = document, selection, shown, carried
        self._cache, self._between = runner.cache, between
        self._places: dict[int, tuple[object, list[Finding]]] = {}
        # What is in the hand has left the place for which the verdicts are.
        for signal in (selection.parts_changed, carried.taken, runner.changed, between.changed):
            signal.connect(self.changed)

    def outcomes_of(self, placed: PlacedPart, check: str) -> tuple[Outcome, ...] | None:
        """The outcomes for the present digest, or None while there are none. A fixture shape is not judged."""
        if placed.is_fixture:
            return ()
        if self._document.job.unknown is not None:
            return (not_judged(check, placed, self._document.job.unknown),)
        return self._cache.of(self._document.job, placed, check)

    def verdict_of(self, placed: PlacedPart) -> tuple[Verdict, bool]:
        """(verdict of a part over all its checks, whether any of them is stale)."""
        verdicts: list[Verdict] = []
        stale = False
        for name, _ in self._document.active_checks():
            found = self.outcomes_of(placed, name)
            stale |= found is None or any(one.first_look for one in found)
            verdicts += [outcome.verdict for outcome in found or ()]
        stale |= self._between.is_waiting([placed])
        verdicts += [outcome.verdict for _, outcome in self._between.outcomes([placed])]
        return gravest(verdicts), stale

    def row(self, name: str, check: Check, of: list[PlacedPart] | None = None) -> RowView:
        """One Traveller row over the parts in view, or over others."""
        subjects = self._selection.in_view() if of is None else of
        limits = self._cache.limits(self._document.job)
        outcomes: list[tuple[PlacedPart, Outcome]] = []
        stale, running = False, False
        for placed in subjects:
            found = self.outcomes_of(placed, name)
            if found is None or any(one.first_look for one in found):
                stale = running = True
                if found is None or not found[0].check:
                    found = self._cache.last_seen.get((placed.id, name), ())
            outcomes += [(placed, outcome) for outcome in found]
        if check.ROW.between:
            outcomes += self._between.outcomes(subjects)
            running |= self._between.is_waiting(subjects)
            stale |= running
        stale |= bool(self._carried.placements) and (check.ROW.near or check.ROW.between)
        places = self._thinnest(name) if check.ROW.balls and self._shown.thinnest else []
        return row_of(check.ROW, outcomes, limits, places, stale=stale, running=running)

    def forget_places(self) -> None:
        self._places.clear()

    def _thinnest(self, check: str) -> list[tuple[PlacedPart, Finding]]:
        """The thinnest places of the parts in view, whatever the limit."""
        out = []
        for placed in self._selection.in_view():
            found = self._cache.evidence(placed, check)
            if found is not None:
                places = self._places.get(id(found))
                if places is None or places[0] is not found:
                    made = [_thin_at(value, at) for value, at in found[0].evidence.thinnest]
                    places = self._places[id(found)] = (found, made)
                out += [(placed, place) for place in places[1]]
        return sorted(out, key=lambda pair: pair[1].value or 0.0)[:_MOST_PLACES]


def _thin_at(value: float, at: Spot) -> Finding:
    return Finding(text.WALL.format(number(value)), value, "mm", at, code=THIN)
