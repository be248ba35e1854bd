"""The window's model: the job, the outcomes that stand, what is selected and shown. Panels read it and listen to it."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any

from pydantic import ValidationError
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from gullyrise.core.checks.protocol import Check, Finding, Outcome, Verdict, gravest
from gullyrise.core.checks.registry import applies, checks
from gullyrise.core.errors import GullyriseError
from gullyrise.core.geometry import Box, Transform
from gullyrise.core.geometry.prepared import Prepared
from gullyrise.core.job import Document, Job, Standing
from gullyrise.core.job.file import is_job_file
from gullyrise.core.machines import Machine
from gullyrise.core.machines.library import default_machine, library
from gullyrise.core.part import Body
from gullyrise.desktop.bench.picking import Feature
from gullyrise.desktop.check_rows import RowView, row_of
from gullyrise.desktop.crew import Crew, Errand
from gullyrise.desktop.outcomes import Outcomes
from gullyrise.desktop.receiving import Receiving
from gullyrise.desktop.sight import Key, Sight
from gullyrise.workers.process import Bounds
from gullyrise.workers.work import Prepare, Received, RunCheck, RunChecks, Work

_TELL_MS, _MOST_TELL_MS = 25, 400
_LOT, _LOT_TRIANGLES = 25, 30_000


class BenchJob(QObject):
    """One job in one window."""

    job_changed = pyqtSignal()
    outcomes_changed = pyqtSignal()
    selection_changed = pyqtSignal()
    shown_changed = pyqtSignal()
    carried_changed = pyqtSignal()
    job_file_wanted = pyqtSignal(str)
    said = pyqtSignal(str, bool)

    def __init__(self, crew: Crew, machine: Machine | None = None) -> None:
        super().__init__()
        self._crew = crew
        shelf = tuple(library())
        self.document = Document(Job(machine or default_machine(), shelf))
        self._outcomes = Outcomes()
        self._running: dict[str, Errand] = {}
        self.bodies: frozenset[Key] = frozenset()
        self._selection: tuple[frozenset[Key], frozenset[int]] = (frozenset(), frozenset())
        self.features: tuple[Feature, ...] = ()
        self.sight = Sight()
        self.prepared: dict[str, tuple[Prepared, ...]] = {}
        self._asked_ready: set[str] = set()
        self.carried: dict[int, Transform] = {}
        """Placements of parts that are in the hand: not in the job before they are let go."""
        self.carried_by: Transform | None = None
        self.measure: str | None = None
        self.flagged: tuple[int, Finding] | None = None
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(0)
        self._later.timeout.connect(self._schedule)
        self.job_changed.connect(self._later.start)
        self._to_send: list[tuple[str, list[tuple[str, Standing]]]] = []
        self._sending = QTimer(self)
        self._sending.setSingleShot(True)
        self._sending.setInterval(0)
        self._sending.timeout.connect(self._send_next)
        self._telling = QTimer(self)
        self._telling.setSingleShot(True)
        self._telling.setInterval(_TELL_MS)
        self._telling.timeout.connect(self.outcomes_changed)
        self._ready_telling = QTimer(self)
        self._ready_telling.setSingleShot(True)
        self._ready_telling.setInterval(_TELL_MS)
        self._ready_telling.timeout.connect(self.shown_changed)
        self.receiving = Receiving(self, crew)

    @property
    def job(self) -> Job:
        return self.document.job

    @property
    def selection(self) -> frozenset[int]:
        """Ids of the parts of which a body is chosen."""
        if self._selection[0] is not self.bodies:
            self._selection = (self.bodies, frozenset(owner for owner, _ in self.bodies))
        return self._selection[1]

    def copies(self) -> dict[Key, tuple[Standing, Body, Transform]]:
        """Every copy of every body by its key, with its placement in its part."""
        out: dict[Key, tuple[Standing, Body, Transform]] = {}
        for standing in self.job.standings:
            number = itertools.count()
            for body in standing.part.bodies:
                for place in body.placements:
                    out[standing.id, next(number)] = (standing, body, place)
        return out

    def own_boxes(self) -> dict[Key, Box]:
        """The box of every copy in its body's own coordinates, as far as workers have made the bodies ready."""
        out: dict[Key, Box] = {}
        for standing in self.job.standings:
            number = itertools.count()
            ready = self.ready(standing)
            for index, body in enumerate(standing.part.bodies):
                for _ in body.placements:
                    key = (standing.id, next(number))
                    box = ready[index].blocks.box if ready is not None else None
                    if box is not None:
                        out[key] = box
        return out

    @property
    def idle(self) -> bool:
        waits = (self._later, self._sending, self._telling, self._ready_telling, self.receiving.gathering)
        return not self._crew.busy and not any(timer.isActive() for timer in waits)

    # --- receiving -------------------------------------------------------------------------------------------------

    def open_files(self, paths: list[str]) -> None:
        """Reads files in the background; each that can be used joins the job, each that cannot is told in a sentence. A job file
        takes the place of what is open."""
        jobs = [path for path in paths if is_job_file(path)]
        parts = [path for path in paths if path not in jobs]
        if parts:
            self.receiving.open_files(parts)
        for path in jobs:
            self.job_file_wanted.emit(path)

    def ready(self, standing: Standing) -> tuple[Prepared, ...] | None:
        """What the bench wants of each body of a part, once a worker has made it."""
        return self.prepared.get(standing.digest)

    def make_ready(self, standing: Standing) -> None:
        if self.ready(standing) is None:
            self._crew.send(
                Prepare(standing.part),
                lambda ready: self._made_ready(standing.digest, ready),
                lambda error: self.said.emit(f"{standing.name} can be seen but not pointed at: {error}", True),
                first=True,
            )

    def take_ready(self, found: Received) -> None:
        """Keeps what came along with a part, so that it is not made once more."""
        if found.ready is not None:
            self._asked_ready.add(found.digest)
            self.prepared[found.digest] = found.ready

    def _made_ready(self, digest: str, ready: tuple[Prepared, ...]) -> None:
        self.prepared[digest] = ready
        self._ready_telling.start()

    # --- edits -----------------------------------------------------------------------------------------------------

    def edit(self, name: str, change: Any, merging: object = None) -> None:
        if self.document.edit(name, change, merging):
            self._after_edit()

    def undo(self) -> None:
        if self.document.undo():
            self._after_edit()

    def redo(self) -> None:
        if self.document.redo():
            self._after_edit()

    def _after_edit(self) -> None:
        present = {standing.id for standing in self.job.standings}
        kept = frozenset(key for key in self.bodies if key[0] in present)
        if kept != self.bodies:
            self.bodies = kept
            self.selection_changed.emit()
        self.features = tuple(feature for feature in self.features if feature.key[0] in present)
        for standing in self.job.standings:
            if standing.digest not in self._asked_ready:
                self._asked_ready.add(standing.digest)
                self.make_ready(standing)
        if self.flagged is not None and self.flagged[0] not in present:
            self.flagged = None
            self.shown_changed.emit()
        self._to_send.clear()
        # What is to be checked is told with it, in the next turn of the loop.
        self.job_changed.emit()

    def set_limit(self, name: str, value: float) -> bool:
        """Sets a limit by hand; False, with a sentence, for a value that it cannot take."""
        try:
            self.edit(f"Set {name.replace('_', ' ')}", lambda job: job.with_limit(name, value))
        except ValidationError as error:
            self.said.emit(f"{value:g} is no {name.replace('_', ' ')}: {error.errors()[0]['msg'].lower()}.", True)
            return False
        return True

    def set_machine(self, machine: Machine) -> None:
        if machine.id != self.job.machine.id:
            self.edit(f"Machine {machine.name}", lambda job: job.on(machine))

    def put_library(self, shelf: tuple[Machine, ...]) -> None:
        """Another library of machines: no edit of the job, and there before any undo too."""
        self.document.amend(lambda job: replace(job, library=shelf))
        self._after_edit()

    def remove(self, numbers: set[int]) -> None:
        if numbers:
            self.edit("Remove", lambda job: job.without(numbers))

    def select(self, numbers: set[int]) -> None:
        """Chooses whole parts."""
        self.select_bodies({key for key in self.copies() if key[0] in numbers})

    def select_bodies(self, keys: Iterable[Key], features: tuple[Feature, ...] = ()) -> None:
        """Chooses copies of bodies, and perhaps faces, edges or corners of them."""
        # An answer from beside the interface may speak of a part that is gone by now.
        present = {standing.id for standing in self.job.standings}
        chosen = frozenset(key for key in keys if key[0] in present)
        features = tuple(feature for feature in features if feature.key[0] in present)
        if (chosen, features) != (self.bodies, self.features):
            parts_before = self.selection
            self.bodies, self.features = chosen, features
            self.selection_changed.emit()
            if self.selection != parts_before:
                self.outcomes_changed.emit()

    def placement_of(self, standing: Standing) -> Transform:
        """Where a part is seen: in the hand, or where it stands."""
        return self.carried.get(standing.id, standing.placement)

    def carry(self, placements: dict[int, Transform], by: Transform | None = None) -> None:
        """Parts in the hand; none where they are let go. by : the one move by which all of them have come"""
        self.carried, self.carried_by = placements, by
        self.carried_changed.emit()

    # --- sight -----------------------------------------------------------------------------------------------------

    def look(self, sight: Sight) -> None:
        if sight != self.sight:
            self.sight = sight
            self.shown_changed.emit()

    def aside(self, work: Work, done: Callable[[Any], None]) -> None:
        """Work beside the checks, before those that wait; a failure is said."""
        self.errand(work, done, lambda error: self.said.emit(str(error), True))

    def errand(
        self, work: Work, done: Callable[[Any], None], failed: Callable[[GullyriseError], None], bounds: Bounds | None = None
    ) -> None:
        """The same, a failure being told to who asked."""
        self._crew.send(work, done, failed, first=True, bounds=bounds)

    def show_measure(self, check: str | None) -> None:
        if check != self.measure:
            self.measure, self.flagged = check, None
            self.shown_changed.emit()

    def flag(self, standing: int, finding: Finding) -> None:
        self.flagged = (standing, finding)
        self.shown_changed.emit()

    def is_flagged(self, standing: Standing, finding: Finding) -> bool:
        """Whether it is the flagged one; parts that are alike share their findings, so the part counts too."""
        return self.flagged is not None and self.flagged[0] == standing.id and self.flagged[1] is finding

    # --- checking --------------------------------------------------------------------------------------------------

    def active_checks(self) -> list[tuple[str, Check]]:
        return [(name, check) for name, check in checks().items() if applies(check, self.job.machine)]

    def _wanted(self) -> dict[str, tuple[Standing, str]]:
        job = self.job
        return {
            self._outcomes.digest(job, standing, name): (standing, name)
            for standing in job.standings
            if not standing.is_stand_in
            for name, _ in self.active_checks()
        }

    def _schedule(self) -> None:
        """Starts what is missing and ends what nobody wants any more. Waits until all files have been read."""
        wanted = self._wanted()
        gone = [digest for digest in self._running if digest not in wanted]
        left = {id(errand) for digest, errand in self._running.items() if digest in wanted}
        for digest in gone:
            errand = self._running.pop(digest)
            # Work on many parts goes on while one of them is still wanted.
            if id(errand) not in left:
                self._crew.cancel(errand)
        if self.receiving.reading:
            self.outcomes_changed.emit()
            return
        missing: dict[str, list[tuple[str, Standing]]] = {}
        for digest, (standing, name) in wanted.items():
            if not self._outcomes.has(digest) and digest not in self._running:
                missing.setdefault(name, []).append((digest, standing))
        for name, _ in self.active_checks():
            self._to_send += [(name, lot) for lot in _lots(missing.get(name, []))]
        self._send_next()
        self.outcomes_changed.emit()

    def _send_next(self) -> None:
        """One lot a turn of the loop: hundreds at once would hold the interface up."""
        if self._to_send:
            self._send(*self._to_send.pop(0))
        if self._to_send:
            self._sending.start()

    def _send(self, name: str, lot: list[tuple[str, Standing]]) -> None:
        """One check of some parts, in one process: starting one takes longer than many a check."""
        limits = self._outcomes.limits(self.job)
        work = RunChecks(tuple(RunCheck(name, self._outcomes.snapshot(self.job, standing, name), limits) for _, standing in lot))

        def found(all_: tuple[tuple[Outcome, ...], ...]) -> None:
            for (digest, _), one in zip(lot, all_, strict=True):
                self._found(digest, one)

        def failed(error: GullyriseError) -> None:
            # One of them brought the process down, which must not cost the others their verdict: each by itself.
            for pair in lot:
                self._send(name, [pair])

        if len(lot) == 1:
            ((digest, standing),) = lot
            self._running[digest] = self._crew.send(
                work.checks[0],
                lambda one: self._found(digest, one),
                lambda error: self._not_run(digest, name, standing, error),
            )
            return
        errand = self._crew.send(work, found, failed)
        self._running |= {digest: errand for digest, _ in lot}

    def _found(self, digest: str, found: tuple[Outcome, ...]) -> None:
        self._running.pop(digest, None)
        self._outcomes.put(digest, found)
        # Of hundreds of parts news come many times a second: they are told together, the rarer the more there are.
        if not self._telling.isActive():
            self._telling.start(min(_TELL_MS + 2 * len(self.job.standings), _MOST_TELL_MS))

    def _not_run(self, digest: str, name: str, standing: Standing, error: GullyriseError) -> None:
        outcome = Outcome(name, standing.name, "not-run", str(error), None, {}, (), "", None)
        self._found(digest, (outcome,))
        self.said.emit(str(error), True)

    def cancel_all(self) -> None:
        """Ends all background work; what was being checked, or would have been, stays not run until something changes."""
        self.receiving.forget()
        self._to_send.clear()
        cancelled = Outcome("", "", "not-run", "It was cancelled; run it again.", None, {}, (), "", None)
        for digest in self._wanted():
            if not self._outcomes.has(digest):
                self._outcomes.put(digest, (cancelled,))
        for errand in self._running.values():
            self._crew.cancel(errand)
        self._running.clear()
        self._crew.cancel_all()
        self.outcomes_changed.emit()

    def run_again(self) -> None:
        """Runs once more what was cancelled or died."""
        self._outcomes.forget_not_run()
        for standing in {standing.digest: standing for standing in self.job.standings}.values():
            self.make_ready(standing)
        self._schedule()

    def outcomes_of(self, standing: Standing, check: str) -> tuple[Outcome, ...] | None:
        """The outcomes for the present digest, or None while there are none. A stand-in is not judged."""
        return () if standing.is_stand_in else self._outcomes.of(self.job, standing, check)

    def verdict_of(self, standing: Standing) -> tuple[Verdict, bool]:
        """(verdict of a part over all its checks, whether any of them is stale)."""
        verdicts: list[Verdict] = []
        stale = False
        for name, _ in self.active_checks():
            found = self.outcomes_of(standing, name)
            stale |= found is None
            verdicts += [outcome.verdict for outcome in found or ()]
        return gravest(verdicts), stale

    def in_view(self) -> list[Standing]:
        """The selected parts, or all where none is selected."""
        chosen = [standing for standing in self.job.standings if standing.id in self.selection]
        return chosen or list(self.job.standings)

    def row(self, name: str, check: Check) -> RowView:
        """One Traveller row over the parts in view."""
        limit = getattr(self._outcomes.limits(self.job), check.ROW.limit) if check.ROW.limit else None
        outcomes: list[tuple[Standing, Outcome]] = []
        stale, running = False, False
        for standing in self.in_view():
            found = self.outcomes_of(standing, name)
            if found is None:
                stale = running = True
                found = self._outcomes.last_seen.get((standing.id, name), ())
            outcomes += [(standing, outcome) for outcome in found]
        return row_of(check.ROW, outcomes, limit, stale=stale, running=running)


def _lots(missing: list[tuple[str, Standing]]) -> list[list[tuple[str, Standing]]]:
    """Parts whose check is short in lots for one process each; a large part has one for itself."""
    out: list[list[tuple[str, Standing]]] = []
    weight = 0
    for digest, standing in missing:
        own = standing.part.triangles
        if not out or len(out[-1]) >= _LOT or weight + own > _LOT_TRIANGLES:
            out.append([])
            weight = 0
        out[-1].append((digest, standing))
        weight += own
    return out
