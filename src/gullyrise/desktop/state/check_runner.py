"""Running the checks: what is missing is sent to workers, what nobody wants any more is ended, what comes back is told."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.checks.protocol import Outcome
from gullyrise.core.checks.registry import has_first_look, judged_anew
from gullyrise.core.errors import GullyriseError
from gullyrise.core.job import PlacedPart
from gullyrise.core.job.result_cache import ResultCache
from gullyrise.desktop.state import text
from gullyrise.desktop.state.document_model import DocumentModel
from gullyrise.desktop.state.part_loader import PartLoader
from gullyrise.desktop.state.task_runner import RunningTask, TaskRunner
from gullyrise.desktop.upkeep.mishaps import tell
from gullyrise.desktop.widgets.timers import once
from gullyrise.workers.work import FirstLook, RunCheck, RunChecks

_TELL_MS, _MOST_TELL_MS = 25, 400
_LOT, _LOT_TRIANGLES = 25, 30_000
_WORTH_A_LOOK = 100_000
"""Triangles of a part from which on a first look comes before the check."""


class CheckRunner(QObject):
    """cache : what was found, by digest."""

    changed = pyqtSignal()
    _anew = pyqtSignal(str, object)

    def __init__(self, document: DocumentModel, loader: PartLoader, tasks: TaskRunner) -> None:
        super().__init__()
        self._document, self._loader, self._tasks = document, loader, tasks
        self.cache = ResultCache()
        self._running: dict[str, RunningTask] = {}
        self._looking: dict[str, RunningTask] = {}
        self._bench = ThreadPoolExecutor(1, thread_name_prefix="gullyrise-judge")
        self._judging: set[str] = set()
        self._still_wanted: frozenset[str] = frozenset()
        self._anew.connect(self._judged_anew)
        self._to_send: list[tuple[str, list[tuple[str, PlacedPart]]]] = []
        self._later, self._sending = once(self, 0, self._schedule), once(self, 0, self._send_next)
        self._telling = once(self, 0, self.changed.emit)
        document.replaced.connect(lambda: self.cache.last_seen.clear())
        document.edited.connect(lambda: self._to_send.clear())
        document.changed.connect(self._later.start)

    @property
    def idle(self) -> bool:
        return not self._judging and not any(timer.isActive() for timer in (self._later, self._sending, self._telling))

    def close(self) -> None:
        """Nothing more is sent or told."""
        self._to_send.clear()
        for timer in (self._later, self._sending, self._telling):
            timer.stop()
        self._still_wanted = frozenset()
        self._bench.shutdown(wait=True, cancel_futures=True)

    def _wanted(self) -> dict[str, tuple[PlacedPart, str]]:
        job = self._document.job
        if job.unknown is not None:
            return {}
        active = [name for name, _ in self._document.active_checks()]
        return {
            self.cache.digest(job, placed, name): (placed, name)
            for placed in job.parts
            if not placed.is_fixture
            for name in active
        }

    def _schedule(self) -> None:
        """Starts what is missing and ends what nobody wants any more. Waits until all files have been read."""
        wanted = self._wanted()
        self._still_wanted = frozenset(wanted)
        for digest in [digest for digest in self._looking if digest not in wanted]:
            self._tasks.cancel(self._looking.pop(digest))
        gone = [digest for digest in self._running if digest not in wanted]
        left = {id(task) for digest, task in self._running.items() if digest in wanted}
        for digest in gone:
            task = self._running.pop(digest)
            # Work on many parts goes on while one of them is still wanted.
            if id(task) not in left:
                self._tasks.cancel(task)
        # What stands now is told in a turn of the loop of its own: all at once would hold the interface up.
        self._telling.start(0)
        if self._loader.reading:
            return
        missing: dict[str, list[tuple[str, PlacedPart]]] = {}
        for digest, (placed, name) in wanted.items():
            if self.cache.has(digest) or digest in self._running or digest in self._judging:
                continue
            if not self.cache.has_any(digest) and self._judge_anew(digest, placed, name):
                continue
            missing.setdefault(name, []).append((digest, placed))
        for name, _ in self._document.active_checks():
            self._to_send += [(name, lot) for lot in _lots(missing.get(name, []))]
        self._send_next()

    def _judge_anew(self, digest: str, placed: PlacedPart, name: str) -> bool:
        """Where a part was measured under other limits, its verdict follows from that, beside the interface; whether it is so."""
        evidence = self.cache.evidence(placed, name)
        if evidence is None:
            return False
        limits = self.cache.limits(self._document.job)
        self._judging.add(digest)

        def judge() -> None:
            # While a limit is dragged only where it is now matters.
            found = None
            try:
                if digest in self._still_wanted:
                    found = judged_anew(name, evidence, limits)
            except Exception as error:  # It is measured in full then.
                tell(error)
            self._anew.emit(digest, found)

        self._bench.submit(judge)
        return True

    def _judged_anew(self, digest: str, found: tuple[Outcome, ...] | None) -> None:
        self._judging.discard(digest)
        if found is not None:
            self.cache.put(digest, found)
            self.changed.emit()
        if digest in self._still_wanted and not self.cache.has(digest):
            # Beyond what was measured for: that is measured now, and what follows from the old stands meanwhile.
            if found is None:
                self.cache.put(digest, (_UNSEEN,))
            self._later.start()

    def _send_next(self) -> None:
        """One lot a turn of the loop: hundreds at once would hold the interface up."""
        if self._to_send:
            self._send(*self._to_send.pop(0))
        if self._to_send:
            self._sending.start()

    def _send(self, name: str, lot: list[tuple[str, PlacedPart]]) -> None:
        """One check of some parts, in one process: starting one takes longer than many a check."""
        limits = self.cache.limits(self._document.job)
        work = RunChecks(
            tuple(RunCheck(name, self.cache.snapshot(self._document.job, placed, name), limits, True) for _, placed in lot)
        )

        def found(all_: tuple[tuple[Outcome, ...], ...]) -> None:
            for (digest, placed), one in zip(lot, all_, strict=True):
                self.cache.keep_evidence(placed, name, one)
                self._found(digest, one)

        def failed(error: GullyriseError) -> None:
            # One of them brought the process down, which must not cost the others their verdict: each by itself.
            for pair in lot:
                self._send(name, [pair])

        if len(lot) == 1:
            ((digest, placed),) = lot
            self._look_first(digest, placed, work.checks[0])

            def measured(one: tuple[Outcome, ...]) -> None:
                self.cache.keep_evidence(placed, name, one)
                self._found(digest, one)

            self._running[digest] = self._tasks.send(
                work.checks[0],
                measured,
                lambda error: self._not_run(digest, name, placed, error),
            )
            return
        task = self._tasks.send(work, found, failed)
        self._running |= {digest: task for digest, _ in lot}

    def _look_first(self, digest: str, placed: PlacedPart, check: RunCheck) -> None:
        """Of a large part something is shown at once, if the check has a way."""
        if placed.part.triangles < _WORTH_A_LOOK or self.cache.has_any(digest) or not has_first_look(check.check):
            return

        def seen(found: tuple[Outcome, ...]) -> None:
            self._looking.pop(digest, None)
            if not self.cache.has_any(digest):
                self.cache.put(digest, found)
                self._telling.start(0)

        def not_seen(error: GullyriseError) -> None:
            # The check itself will tell what is wrong.
            self._looking.pop(digest, None)

        work = FirstLook(check.check, check.snapshot, check.limits)
        self._looking[digest] = self._tasks.send(work, seen, not_seen, first=True)

    def _found(self, digest: str, found: tuple[Outcome, ...]) -> None:
        self._running.pop(digest, None)
        if digest in self._looking:
            self._tasks.cancel(self._looking.pop(digest))
        self.cache.put(digest, found)
        # Of hundreds of parts news come many times a second: they are told together, the rarer the more there are.
        if not self._telling.isActive():
            self._telling.start(min(_TELL_MS + 2 * len(self._document.job.parts), _MOST_TELL_MS))

    def _not_run(self, digest: str, name: str, placed: PlacedPart, error: GullyriseError) -> None:
        outcome = Outcome(name, placed.name, "not-run", str(error), None, {}, (), "", None)
        self._found(digest, (outcome,))
        self._document.said.emit(str(error), True)

    def cancel_all(self) -> None:
        """Ends all checks; what was being checked, or would have been, stays not run until something changes."""
        self._to_send.clear()
        cancelled = Outcome("", "", "not-run", text.CANCELLED, None, {}, (), "", None)
        for digest in self._wanted():
            if not self.cache.has(digest):
                self.cache.put(digest, (cancelled,))
        for task in (*self._running.values(), *self._looking.values()):
            self._tasks.cancel(task)
        self._running.clear()
        self._looking.clear()

    def run_again(self) -> None:
        """Runs once more what was cancelled or died."""
        self.cache.forget_not_run()
        self._schedule()


def _lots(missing: list[tuple[str, PlacedPart]]) -> list[list[tuple[str, PlacedPart]]]:
    """Parts whose check is short in lots for one process each; a large part has one for itself."""
    out: list[list[tuple[str, PlacedPart]]] = []
    weight = 0
    for digest, placed in missing:
        own = placed.part.triangles
        if not out or len(out[-1]) >= _LOT or weight + own > _LOT_TRIANGLES:
            out.append([])
            weight = 0
        out[-1].append((digest, placed))
        weight += own
    return out


_UNSEEN = Outcome("", "", "not-run", text.BEING_MEASURED, None, {}, (), "", None, first_look=True)
"""Stands where a verdict cannot follow from what was measured before."""
