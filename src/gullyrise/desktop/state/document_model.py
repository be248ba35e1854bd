"""The window's model: the job, the outcomes that stand, what is selected and shown. Panels read it and listen to it."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any

from pydantic import ValidationError
from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.checks.protocol import Check, Finding, Outcome, Verdict, gravest
from gullyrise.core.checks.registry import applies, checks
from gullyrise.core.checks.walls import THIN
from gullyrise.core.errors import GullyriseError
from gullyrise.core.geometry import Box, Transform
from gullyrise.core.geometry.spots import Spot
from gullyrise.core.job import Document, Job, Standing
from gullyrise.core.job.file import is_job_file
from gullyrise.core.machines import Machine
from gullyrise.core.machines.library import default_machine, library_told
from gullyrise.core.number_words import number
from gullyrise.core.part import Body
from gullyrise.core.picking.prepared import Prepared
from gullyrise.desktop.state.between_parts import BetweenParts
from gullyrise.desktop.state.check_rows import RowView, not_judged, row_of
from gullyrise.desktop.state.check_runner import Judging
from gullyrise.desktop.state.flag import Flag
from gullyrise.desktop.state.part_loader import Receiving
from gullyrise.desktop.state.task_runner import Crew, Errand
from gullyrise.desktop.state.visibility import Key, Sight
from gullyrise.desktop.widgets.timers import once
from gullyrise.drawing.picking import Feature
from gullyrise.workers.process import Bounds
from gullyrise.workers.work import Prepare, Received, Work

_TELL_MS = 25
_MOST_PLACES = 5


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
        found, self.left_out = library_told()
        shelf = tuple(found)
        self.document = Document(Job(machine or default_machine(), shelf))
        self._last_job = self._seen_job = 0
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
        self.thinnest_shown = False
        self._places: dict[int, tuple[object, list[Finding]]] = {}
        self.judging = Judging(self, crew)
        self._ready_telling = once(self, _TELL_MS, self.shown_changed.emit)
        self.receiving = Receiving(self, crew)
        self.between = BetweenParts(self, crew)
        self.flag = Flag(self)

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
        waits = (self._ready_telling, self.receiving.gathering, self.receiving.starting)
        return not self._crew.busy and self.judging.idle and self.between.idle and not any(timer.isActive() for timer in waits)

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

    def let_go(self, digests: set[str]) -> None:
        """Of all that was worked out of parts keeps what the bench wants of these, and verdicts of those that stand on it."""
        self.prepared = {digest: ready for digest, ready in self.prepared.items() if digest in digests}
        self._asked_ready &= digests
        self._places.clear()
        self.judging.outcomes.let_go(self.job.standings)

    def _made_ready(self, digest: str, ready: tuple[Prepared, ...]) -> None:
        if digest in self._asked_ready:
            self.prepared[digest] = ready
            self._ready_telling.start()

    # --- edits -----------------------------------------------------------------------------------------------------

    def edit(self, name: str, change: Any, merging: object = None, *, opens: bool = False) -> None:
        def numbered(job: Job) -> Job:
            made: Job = change(job)
            if made.number == job.number and bool(made.standings) != bool(job.standings):
                return replace(made, number=self.fresh_job(), title=made.title if made.standings else "")
            return made

        if self.document.edit(name, numbered, merging, opens=opens):
            self._after_edit()

    @property
    def title(self) -> str:
        """What the job is called: by its own title, else after its parts, which may come one after another."""
        stands = self.job.standings
        return self.job.title or (
            "New job" if not stands else stands[0].part.name if len(stands) == 1 else f"{len(stands)} parts"
        )

    def entitle(self, title: str, number: int | None = None) -> Callable[[Job], Job]:
        """Gives a title to all states of a job, as that is no step. number : of the job, by default the present one
        Gives what makes of any state of it the one that it is then.
        """
        of = self.job.number if number is None else number
        known: dict[int, tuple[Job, Job]] = {}

        def entitled(job: Job) -> Job:
            if job.number != of or job.title == title:
                return job
            return known.setdefault(id(job), (job, replace(job, title=title)))[1]

        self.document.amend(entitled)
        self.job_changed.emit()
        return entitled

    def fresh_job(self) -> int:
        """The number of a job that begins."""
        self._last_job += 1
        return self._last_job

    def undo(self) -> None:
        if self.document.undo():
            self._after_edit()

    def redo(self) -> None:
        if self.document.redo():
            self._after_edit()

    def _after_edit(self) -> None:
        if self.job.number != self._seen_job:
            self._seen_job = self.job.number
            self._forget_what_was_pointed_at()
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
        self.judging.hold()
        # What is to be checked is told with it, in the next turn of the loop.
        self.job_changed.emit()

    def _forget_what_was_pointed_at(self) -> None:
        """Another job is open. Its parts may have the same numbers: what was chosen, hidden or judged is none of them."""
        if self.bodies:
            self.bodies = frozenset()
            self.selection_changed.emit()
        self.features = ()
        self.flag.drop()
        self.judging.outcomes.last_seen.clear()
        self.look(self.sight.everything())

    def set_limit(self, name: str, value: object, stroke: int | None = None) -> bool:
        """Sets a limit by hand; False, with a sentence, for a value that it cannot take. stroke : edits of one are undone
        together"""
        merging = None if stroke is None else ("limit", name, stroke)
        try:
            self.edit(f"Set {name.replace('_', ' ')}", lambda job: job.with_limit(name, value), merging)
        except ValidationError as error:
            self.said.emit(f"{value} is no {name.replace('_', ' ')}: {error.errors()[0]['msg'].lower()}.", True)
            return False
        return True

    def set_machine(self, machine: Machine) -> None:
        if machine.id != self.job.machine.id or self.job.unknown is not None:
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
        taken_up_or_let_go = bool(placements) != bool(self.carried)
        self.carried, self.carried_by = placements, by
        self.carried_changed.emit()
        if taken_up_or_let_go:
            # What is in the hand has left the place for which the verdicts are.
            self.outcomes_changed.emit()

    # --- sight -----------------------------------------------------------------------------------------------------

    def look(self, sight: Sight) -> None:
        if sight != self.sight:
            self.sight = sight
            self.shown_changed.emit()

    def aside(self, work: Work, done: Callable[[Any], None]) -> Errand:
        """Work beside the checks, before those that wait; a failure is said."""
        return self.errand(work, done, lambda error: self.said.emit(str(error), True))

    def aside_as_it_stands(self, work: Work, done: Callable[[Any], None], otherwise: Callable[[], None]) -> Errand:
        """The same for what is true only of these parts, as they stand, on this machine. otherwise : is called instead where an
        edit, or another job, came before the answer"""
        asked = self.job

        def came(found: Any) -> None:
            as_it_was = self.job.standings is asked.standings and self.job.machine is asked.machine
            done(found) if as_it_was else otherwise()

        return self.aside(work, came)

    def recall(self, errand: Errand) -> None:
        """What was sent for is not wanted any more."""
        self._crew.cancel(errand)

    def errand(
        self, work: Work, done: Callable[[Any], None], failed: Callable[[GullyriseError], None], bounds: Bounds | None = None
    ) -> Errand:
        """The same, a failure being told to who asked."""
        return self._crew.send(work, done, failed, first=True, bounds=bounds)

    def show_measure(self, check: str | None) -> None:
        if check != self.measure:
            self.measure = check
            self.flag.drop()
            self.shown_changed.emit()

    @property
    def flagged(self) -> tuple[int, Finding] | None:
        return self.flag.held

    def put_flag(self, standing: int, finding: Finding) -> None:
        self.flag.put(standing, finding)
        self.shown_changed.emit()

    def is_flagged(self, standing: Standing, finding: Finding) -> bool:
        """Whether it is the flagged one; parts that are alike share their findings, so the part counts too."""
        return self.flagged is not None and self.flagged[0] == standing.id and self.flagged[1] is finding

    # --- checking --------------------------------------------------------------------------------------------------

    def active_checks(self) -> list[tuple[str, Check]]:
        return [(name, check) for name, check in checks().items() if applies(check, self.job.machine)]

    def cancel_all(self) -> None:
        """Ends all background work; what was being checked, or would have been, stays not run until something changes."""
        self.receiving.forget()
        self.judging.cancel_all()
        self.between.cancel_all()
        self._crew.cancel_all()
        self.outcomes_changed.emit()

    def run_again(self) -> None:
        """Runs once more what was cancelled or died."""
        for standing in {standing.digest: standing for standing in self.job.standings}.values():
            self.make_ready(standing)
        self.judging.run_again()
        self.between.run_again()

    def outcomes_of(self, standing: Standing, check: str) -> tuple[Outcome, ...] | None:
        """The outcomes for the present digest, or None while there are none. A stand-in is not judged."""
        if standing.is_stand_in:
            return ()
        if self.job.unknown is not None:
            return (not_judged(check, standing, self.job.unknown),)
        return self.judging.outcomes.of(self.job, standing, check)

    def verdict_of(self, standing: Standing) -> tuple[Verdict, bool]:
        """(verdict of a part over all its checks, whether any of them is stale)."""
        verdicts: list[Verdict] = []
        stale = False
        for name, _ in self.active_checks():
            found = self.outcomes_of(standing, name)
            stale |= found is None or any(one.first_look for one in found)
            verdicts += [outcome.verdict for outcome in found or ()]
        stale |= self.between.is_waiting([standing])
        verdicts += [outcome.verdict for _, outcome in self.between.outcomes([standing])]
        return gravest(verdicts), stale

    def in_view(self) -> list[Standing]:
        """The selected parts, or all where none is selected."""
        chosen = [standing for standing in self.job.standings if standing.id in self.selection]
        return chosen or list(self.job.standings)

    def row(self, name: str, check: Check, of: list[Standing] | None = None) -> RowView:
        """One Traveller row over the parts in view, or over others."""
        subjects = self.in_view() if of is None else of
        limits = self.judging.outcomes.limits(self.job)
        outcomes: list[tuple[Standing, Outcome]] = []
        stale, running = False, False
        for standing in subjects:
            found = self.outcomes_of(standing, name)
            if found is None or any(one.first_look for one in found):
                stale = running = True
                if found is None or not found[0].check:
                    found = self.judging.outcomes.last_seen.get((standing.id, name), ())
            outcomes += [(standing, outcome) for outcome in found]
        if check.ROW.between:
            outcomes += self.between.outcomes(subjects)
            running |= self.between.is_waiting(subjects)
            stale |= running
        stale |= bool(self.carried) and (check.ROW.near or check.ROW.between)
        places = self._thinnest(name) if check.ROW.balls and self.thinnest_shown else []
        return row_of(check.ROW, outcomes, limits, places, stale=stale, running=running)

    def _thinnest(self, check: str) -> list[tuple[Standing, Finding]]:
        """The thinnest places of the parts in view, whatever the limit."""
        out = []
        for standing in self.in_view():
            found = self.judging.outcomes.evidence(standing, check)
            if found is not None:
                places = self._places.get(id(found))
                if places is None or places[0] is not found:
                    made = [_thin_at(value, at) for value, at in found[0].evidence.thinnest]
                    places = self._places[id(found)] = (found, made)
                out += [(standing, place) for place in places[1]]
        return sorted(out, key=lambda pair: pair[1].value or 0.0)[:_MOST_PLACES]

    def show_thinnest(self, shown: bool) -> None:
        self.thinnest_shown = shown
        self.shown_changed.emit()


def _thin_at(value: float, at: Spot) -> Finding:
    return Finding(f"wall of {number(value)} mm", value, "mm", at, code=THIN)
