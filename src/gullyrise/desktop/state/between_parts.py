"""Clearances between the parts of a job, as they stand: what comes near is measured, and judged in the row of clearances."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.checks.clearances import Limits as ClearanceLimits
from gullyrise.core.checks.clearances import Pair
from gullyrise.core.checks.protocol import Finding, Outcome
from gullyrise.core.errors import GullyriseError
from gullyrise.core.job import PlacedPart
from gullyrise.core.job.between import Across, Key, Two, judged_two, key_of, told_of_all
from gullyrise.core.job.near import within_reach
from gullyrise.core.job.result_cache import ResultCache
from gullyrise.desktop.state import text
from gullyrise.desktop.state.document_model import DocumentModel
from gullyrise.desktop.state.part_loader import PartLoader
from gullyrise.desktop.state.task_runner import RunningTask, TaskRunner
from gullyrise.desktop.widgets.timers import once
from gullyrise.workers.clearing import PairsAcross

_LOT, _MOST_NEAR, _MOST_KEPT = 20, 2_000, 20_000
_SLACK, _SHARE = 4.0, 0.01
"""mm, and a share of the largest part, by which surfaces may be nearer than the boxes of their triangles: what facets hide."""


class BetweenParts(QObject):
    """Measures anew what moved, and nothing else."""

    changed = pyqtSignal()

    def __init__(self, document: DocumentModel, loader: PartLoader, cache: ResultCache, tasks: TaskRunner) -> None:
        super().__init__()
        self._document, self._loader, self._cache, self._tasks = document, loader, cache, tasks
        self._found: dict[Key, Across] = {}
        self._judged: dict[Key, tuple[Across, ClearanceLimits, list[Outcome]]] = {}
        self._running: dict[Key, RunningTask] = {}
        self._near: tuple[Two, ...] = ()
        self._near_of: dict[int, list[Two]] = {}
        self._made, self._fixtures = 0, 0
        """How many parts are to be made, and how many only stand there; asked hundreds of times a second with many."""
        self._too_many = 0
        self._made_of: tuple[object, float] = (None, -1.0)
        self._later = once(self, 0, self._measure)
        document.changed.connect(self._look)

    @property
    def idle(self) -> bool:
        return not self._running and not self._later.isActive()

    def close(self) -> None:
        self._later.stop()

    def _limits(self) -> ClearanceLimits:
        found = self._cache.limits(self._document.job)
        return ClearanceLimits(found.min_gap or 0.0, found.pair_gaps)

    def _reach(self) -> float:
        limits = self._limits()
        largest = max((float(one.box.size.max()) for one in self._document.job.parts), default=0.0)
        wanted = max([limits.min_gap, *(pair.gap or 0.0 for pair in limits.pair_gaps or ())])
        return wanted + max(_SLACK, _SHARE * largest)

    def _look(self) -> None:
        """Which parts stand near each other now; asked at once, so that nothing passes meanwhile."""
        job, reach = self._document.job, self._reach()
        if self._made_of[0] is job.parts and self._made_of[1] == reach:
            return
        self._made_of = (job.parts, reach)
        # A fixture is no part, but a part has to stay clear of it, or to fit it: the part's is the verdict.
        near = [
            (b, a) if a.is_fixture else (a, b) for a, b in within_reach(job.parts, reach) if not (a.is_fixture and b.is_fixture)
        ]
        self._near, self._too_many = tuple(near[:_MOST_NEAR]), max(len(near) - _MOST_NEAR, 0)
        self._fixtures = sum(one.is_fixture for one in job.parts)
        self._made = len(job.parts) - self._fixtures
        self._near_of = {}
        for two in self._near:
            for one in two:
                self._near_of.setdefault(one.id, []).append(two)
        wanted = {key_of(two) for two in self._near}
        for task in {id(one): one for key, one in self._running.items() if key not in wanted}.values():
            # A lot of which one is not wanted any more goes on for the others.
            if not any(one is task for key, one in self._running.items() if key in wanted):
                self._tasks.cancel(task)
                self._running = {key: one for key, one in self._running.items() if one is not task}
        self._later.start()

    def _known(self, two: Two) -> Across | None:
        found = self._found.get(key_of(two))
        return found if found is not None and found.reach >= self._made_of[1] else None

    def _measure(self) -> None:
        if self._loader.reading:
            # All files first, as the checks.
            self._later.start(50)
            return
        missing = [two for two in self._near if self._known(two) is None and key_of(two) not in self._running]
        for start in range(0, len(missing), _LOT):
            self._send(missing[start : start + _LOT])

    def _send(self, lot: list[Two]) -> None:
        reach = self._made_of[1]

        def came(found: tuple[tuple[tuple[Pair, ...], int], ...]) -> None:
            self._take(lot, [Across(pairs, left, reach) for pairs, left in found])

        def failed(error: GullyriseError) -> None:
            if len(lot) > 1:
                # One of them brought the process down, which must not cost the others their verdict.
                for two in lot:
                    self._running.pop(key_of(two), None)
                    self._send([two])
                return
            self._take(lot, [Across((), 0, reach, str(error))])

        stood = tuple(tuple((one.name, one.part, one.placement) for one in two) for two in lot)
        task = self._tasks.send(PairsAcross(stood, reach), came, failed)  # type: ignore[arg-type]
        self._running |= {key_of(two): task for two in lot}

    def _take(self, lot: list[Two], found: list[Across]) -> None:
        for two, one in zip(lot, found, strict=True):
            self._running.pop(key_of(two), None)
            self._found[key_of(two)] = one
        while len(self._found) > _MOST_KEPT:
            del self._found[next(iter(self._found))]
        self.changed.emit()

    # --- what is told ----------------------------------------------------------------------------------------------

    def cancel_all(self) -> None:
        """Ends the measuring; what was to be measured is not run until something changes."""
        self._later.stop()
        for two in self._near:
            if self._known(two) is None:
                self._found[key_of(two)] = Across((), 0, self._made_of[1], text.CANCELLED)
        for task in self._running.values():
            self._tasks.cancel(task)
        self._running.clear()

    def run_again(self) -> None:
        self._found = {key: one for key, one in self._found.items() if not one.error}
        self._later.start()

    def is_waiting(self, parts: Iterable[PlacedPart]) -> bool:
        """Whether something between these parts and others is still being measured."""
        return any(self._known(two) is None for two in self._of(parts))

    def outcomes(self, parts: Iterable[PlacedPart]) -> list[tuple[PlacedPart, Outcome]]:
        """The verdict on each two bodies of these parts and others that come near each other, told of the first; and one on all
        that stand further apart."""
        chosen = tuple(parts)
        return [(chosen[0] if two is None else two[0], outcome) for two, outcome in self.pairs(chosen)]

    def pairs(self, chosen: Sequence[PlacedPart]) -> list[tuple[Two | None, Outcome]]:
        """The same with both parts of each; None with the one on all that stand further apart."""
        limits = self._limits()
        out: list[tuple[Two | None, Outcome]] = []
        near, clear = self._of(one for one in chosen if not one.is_fixture), 0
        for two in near:
            found = self._known(two)
            if found is None:
                continue
            # Boxes may meet where surfaces are far from each other.
            clear += not (found.pairs or found.left or found.error)
            out += [(two, outcome) for outcome in self._judged_two(two, found, limits)]
        told = told_of_all(chosen, len(near) - clear, self._made, self._fixtures, self._too_many, limits.min_gap)
        return out if told is None else [*out, (None, told[1])]

    def other_of(self, placed: PlacedPart, finding: Finding) -> PlacedPart | None:
        """The second part of a finding that is told of a part, where it is about two."""
        for two, outcome in self.pairs((placed,)):
            if two is not None and any(one is finding for one in outcome.findings):
                return two[1]
        return None

    def _judged_two(self, two: Two, found: Across, limits: ClearanceLimits) -> list[Outcome]:
        """Judged once, so that a finding stays the same one for as long as it is asked for."""
        key = key_of(two)
        known = self._judged.get(key)
        if known is not None and known[0] is found and known[1] == limits:
            return known[2]
        out = judged_two(two, found, limits)
        if len(self._judged) > _MOST_KEPT:
            self._judged.clear()
        self._judged[key] = (found, limits, out)
        return out

    def _of(self, parts: Iterable[PlacedPart]) -> list[Two]:
        if self._document.job.unknown is not None:
            return []
        found = {id(two): two for one in parts for two in self._near_of.get(one.id, ())}
        return list(found.values())
