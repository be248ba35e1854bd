"""What the features of one window share: the job, what is selected and shown of it, what is worked out and what was found."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.checks.protocol import Finding
from gullyrise.core.errors import GullyriseError
from gullyrise.core.job import Job, PlacedPart
from gullyrise.core.job.copies import Copies, copies
from gullyrise.core.job.file import is_job_file
from gullyrise.core.machines import Machine
from gullyrise.core.picking.prepared import Prepared
from gullyrise.desktop.state.between_parts import BetweenParts
from gullyrise.desktop.state.check_results import CheckResults
from gullyrise.desktop.state.check_runner import CheckRunner
from gullyrise.desktop.state.document_model import DocumentModel
from gullyrise.desktop.state.flag import Flag
from gullyrise.desktop.state.part_loader import PartLoader
from gullyrise.desktop.state.ready_bodies import ReadyBodies
from gullyrise.desktop.state.selection import Selection
from gullyrise.desktop.state.shown import Carried, Shown
from gullyrise.desktop.state.task_runner import RunningTask, TaskRunner
from gullyrise.workers.process import Bounds
from gullyrise.workers.work import Work


class Workbench(QObject):
    """Each part of it is told of an edit in the order in which it is made here."""

    job_file_wanted = pyqtSignal(str)
    cancelled = pyqtSignal()

    def __init__(self, tasks: TaskRunner, machine: Machine | None = None, usual_machine: str = "") -> None:
        super().__init__()
        self._tasks = tasks
        self.document = document = DocumentModel(machine, usual_machine)
        self.selection = Selection(document)
        self.ready = ReadyBodies(document, tasks)
        self.loader = PartLoader(document, self.ready, tasks)
        self.checks = CheckRunner(document, self.loader, tasks)
        self.between = BetweenParts(document, self.loader, self.checks.cache, tasks)
        self.shown, self.carried = Shown(), Carried()
        self.results = CheckResults(document, self.selection, self.shown, self.carried, self.checks, self.between)
        self.flag = Flag(document, self.results)
        # What is flagged and hidden is of the job before.
        for tell in (self.flag.drop, self.shown.show_everything):
            document.replaced.connect(tell)
        self.shown.measure_changing.connect(self.flag.drop)
        self.flag.changed.connect(self.shown.changed)
        self.ready.changed.connect(self.shown.changed)

    @property
    def job(self) -> Job:
        return self.document.job

    def copies(self) -> Copies:
        return copies(self.job)

    def prepared_of(self, placed: PlacedPart) -> tuple[Prepared, ...] | None:
        return self.ready.of(placed)

    @property
    def idle(self) -> bool:
        return not self._tasks.busy and all(one.idle for one in (self.ready, self.loader, self.checks, self.between))

    def open_files(self, paths: list[str]) -> None:
        """Reads files in the background; each that can be used joins the job, each that cannot is told in a sentence. A job file
        takes the place of what is open."""
        jobs = [path for path in paths if is_job_file(path)]
        parts = [path for path in paths if path not in jobs]
        if parts:
            self.loader.open_files(parts)
        for path in jobs:
            self.job_file_wanted.emit(path)

    def let_go(self, digests: set[str]) -> None:
        """Of all that was worked out of parts keeps what is wanted of these, and verdicts of those that are in the job."""
        self.ready.let_go(digests)
        self.results.forget_places()
        self.checks.cache.let_go(self.job.parts)

    def put_flag(self, placed: int, finding: Finding) -> None:
        self.flag.put(placed, finding)
        self.shown.changed.emit()

    def is_flagged(self, placed: PlacedPart, finding: Finding) -> bool:
        """Whether it is the flagged one; parts that are alike share their findings, so the part counts too."""
        held = self.flag.held
        return held is not None and held[0] == placed.id and held[1] is finding

    # --- work beside the interface ---------------------------------------------------------------------------------

    def aside(self, work: Work, done: Callable[[Any], None]) -> RunningTask:
        """Work beside the checks, before those that wait; a failure is said."""
        return self.task(work, done, lambda error: self.document.said.emit(str(error), True))

    def aside_as_it_stands(self, work: Work, done: Callable[[Any], None], otherwise: Callable[[], None]) -> RunningTask:
        """The same for what is true only of these parts, as they stand, on this machine. otherwise : is called instead where an
        edit, or another job, came before the answer"""
        asked = self.job

        def came(found: Any) -> None:
            as_it_was = self.job.parts is asked.parts and self.job.machine is asked.machine
            done(found) if as_it_was else otherwise()

        return self.aside(work, came)

    def task(
        self, work: Work, done: Callable[[Any], None], failed: Callable[[GullyriseError], None], bounds: Bounds | None = None
    ) -> RunningTask:
        """The same, a failure being told to who asked."""
        return self._tasks.send(work, done, failed, first=True, bounds=bounds)

    def recall(self, task: RunningTask) -> None:
        """What was sent for is not wanted any more."""
        self._tasks.cancel(task)

    def cancel_all(self) -> None:
        """Ends all background work; what was being checked, or would have been, stays not run until something changes."""
        self.loader.forget()
        self.checks.cancel_all()
        self.between.cancel_all()
        self._tasks.cancel_all()
        self.cancelled.emit()
        self.results.changed.emit()

    def run_again(self) -> None:
        """Runs once more what was cancelled or died."""
        for placed in {placed.digest: placed for placed in self.job.parts}.values():
            self.ready.make(placed)
        self.checks.run_again()
        self.between.run_again()
