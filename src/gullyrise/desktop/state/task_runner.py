"""Background work for the window: worker processes, heard by one thread, told to the interface by signals."""

from __future__ import annotations

import itertools
import os
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.errors import GullyriseError
from gullyrise.desktop.upkeep.mishaps import lost_answer, tell
from gullyrise.workers import forks
from gullyrise.workers.batch import wait_for
from gullyrise.workers.process import Bounds, Report, Worker
from gullyrise.workers.work import Work


@dataclass(slots=True, eq=False)
class RunningTask:
    """A piece of work on its way. done, failed : called in the interface's thread;  group : of tasks that are counted together
    begun : when a worker took it, s on the monotonic clock, 0 before
    """

    number: int
    work: Work
    done: Callable[[Any], None]
    failed: Callable[[GullyriseError], None]
    bounds: Bounds
    group: str = ""
    stage: str = "waiting"
    share: float = -1.0
    begun: float = 0.0
    ended: bool = False

    def seconds_left(self, now: float) -> float | None:
        """What is left at the pace so far; None while that is anybody's guess."""
        if not self.begun or self.share < 0.05 or now - self.begun < 0.5:
            return None
        return (now - self.begun) * (1 - self.share) / self.share


class TaskRunner(QObject):
    """At most as many workers at once as there are cores. Sending, hearing and ending happen in a thread of its own."""

    changed = pyqtSignal()
    _spoke = pyqtSignal(int, object)

    def __init__(self, bounds: Bounds | None = None) -> None:
        super().__init__()
        self._bounds = bounds or Bounds()
        self._numbers = itertools.count(1)
        self._under_way: dict[int, RunningTask] = {}
        self._tally: dict[str, tuple[int, float]] = {}
        self._lock = threading.Condition()
        self._inbox: list[RunningTask] = []
        self._to_end: set[int] = set()
        self._closing = self._began = False
        self._wake_read, self._wake_write = os.pipe()
        for handle in (self._wake_read, self._wake_write):
            os.set_blocking(handle, False)
        self._spoke.connect(self._hear)
        self._thread = threading.Thread(target=self._run, name="gullyrise-tasks", daemon=True)
        self._thread.start()

    @property
    def under_way(self) -> list[RunningTask]:
        return list(self._under_way.values())

    def tally(self, group: str) -> tuple[int, int, float | None]:
        """(how many of a group are done, how many there are in all, seconds left at the pace so far or None)."""
        done, since = self._tally.get(group, (0, 0.0))
        left = sum(task.group == group for task in self._under_way.values())
        passed = time.monotonic() - since
        return done, done + left, passed * left / done if done and passed > 0.5 else None

    @property
    def busy(self) -> bool:
        return bool(self._under_way)

    def send(
        self,
        work: Work,
        done: Callable[[Any], None],
        failed: Callable[[GullyriseError], None],
        *,
        first: bool = False,
        bounds: Bounds | None = None,
        group: str = "",
    ) -> RunningTask:
        """Puts work in the queue; `first` puts it before what waits, but after its own group. Once all is closed nothing is done
        and nobody hears of it."""
        task = RunningTask(next(self._numbers), work, done, failed, bounds or self._bounds, group)
        if self._closing:
            task.ended = True
            return task
        if not self._began:
            self._began = True
            forks.begin()
        self._under_way[task.number] = task
        if group and not any(other.group == group for other in self._under_way.values() if other is not task):
            self._tally[group] = (0, time.monotonic())
        with self._lock:
            place = len(self._inbox)
            if first:
                place = next((at for at, other in enumerate(self._inbox) if not group or other.group != group), place)
            self._inbox.insert(place, task)
        self._wake()
        self.changed.emit()
        return task

    def cancel(self, task: RunningTask) -> None:
        """Ends work without a word to who asked for it."""
        if task.ended:
            return
        task.ended = True
        self._under_way.pop(task.number, None)
        with self._lock:
            if task in self._inbox:
                self._inbox.remove(task)
            else:
                self._to_end.add(task.number)
        self._wake()
        self.changed.emit()

    def cancel_all(self) -> None:
        for task in self.under_way:
            self.cancel(task)

    def close(self) -> None:
        """Ends everything and waits for it; nothing is left behind."""
        self.cancel_all()
        with self._lock:
            self._closing = True
        self._wake()
        self._thread.join(10)
        os.close(self._wake_read)
        os.close(self._wake_write)

    def _wake(self) -> None:
        # Full, it wakes as well.
        with suppress(BlockingIOError):
            os.write(self._wake_write, b"x")

    def _run(self) -> None:
        running: dict[int, tuple[RunningTask, Worker]] = {}
        while True:
            try:
                self._serve(running)
                return
            except Exception as error:  # What was under way is lost; what comes later must not wait for ever.
                tell(error)
                for number, (_, worker) in list(running.items()):
                    self._spoke.emit(number, _ended(worker))
                running.clear()

    def _serve(self, running: dict[int, tuple[RunningTask, Worker]]) -> None:
        most = len(os.sched_getaffinity(0))
        while True:
            with self._lock:
                ending = [number for number in self._to_end if number in running]
                self._to_end.clear()
                fresh = [self._inbox.pop(0) for _ in range(min(most - len(running) + len(ending), len(self._inbox)))]
                closing = self._closing
            for number in ending:
                running.pop(number)[1].end()
            if closing:
                for _, worker in running.values():
                    worker.end()
                return
            # All are known before any is started: what fails there must not lose the others.
            running |= {task.number: (task, Worker(task.work, "forkserver", task.bounds)) for task in fresh}
            for task in fresh:
                task.begun = time.monotonic()
                try:
                    running[task.number][1].start()
                except (OSError, EOFError) as error:
                    tell(error)
                    self._spoke.emit(task.number, running.pop(task.number)[1].end(f"it could not be begun ({error})"))
            wait_for((worker for _, worker in running.values()), 1.0 if running else None, self._wake_read)
            with suppress(BlockingIOError):
                os.read(self._wake_read, 4096)
            for number, (_, worker) in list(running.items()):
                report = self._heard(worker)
                if report is None:
                    continue
                if report.kind != "progress":
                    del running[number]
                self._spoke.emit(number, report)

    @staticmethod
    def _heard(worker: Worker) -> Report | None:
        """Whatever goes wrong with one answer costs that piece of work alone."""
        try:
            return worker.hear()
        except Exception as error:
            tell(error)
            return worker.end("the window could not take in its answer")

    def _hear(self, number: int, report: Report) -> None:
        task = self._under_way.get(number)
        if task is None or task.ended:
            return
        if report.kind == "progress":
            stage, done, total = report.value
            task.stage, task.share = stage, done / total if total else -1.0
            self.changed.emit()
            return
        task.ended = True
        del self._under_way[number]
        if task.group:
            done_before, since = self._tally[task.group]
            self._tally[task.group] = (done_before + 1, since)
        try:
            if report.kind == "done":
                self._hand_over(task, report.value)
            else:
                task.failed(report.value)
        finally:
            self.changed.emit()

    @staticmethod
    def _hand_over(task: RunningTask, value: Any) -> None:
        """Who asked must not wait for ever for an answer that it could not take in."""
        try:
            task.done(value)
        except Exception as error:  # Told with its details, and as work without a result.
            tell(error)
            task.failed(lost_answer(error))


def _ended(worker: Worker) -> Report:
    """Whatever state it is in."""
    try:
        return worker.end("the window lost track of it")
    except Exception as error:
        tell(error)
        return Report("error", lost_answer(error))
