"""Many pieces of work on all cores, in order of arrival, for programs without an event loop."""

from __future__ import annotations

import gc
import os
import select
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path

from gullyrise.workers.fencing import make_ready
from gullyrise.workers.process import Bounds, Report, Worker
from gullyrise.workers.work import Figures, Read, Work

Watch = Callable[[Work, str, int, int], None]


def cores() -> int:
    return len(os.sched_getaffinity(0))


def run_all(work: list[Work], watch: Watch | None = None, bounds: Bounds | None = None) -> list[Report]:
    """The final report of each piece of work, in the order given. Forks: the caller must not have started threads."""
    make_ready()
    if len(work) > 1:
        _make_ready(work)
    reports: dict[int, Report] = dict(_finished(work, watch, bounds))
    return [reports[index] for index in range(len(work))]


def wait_for(workers: Iterable[Worker], seconds: float | None, also: int | None = None) -> None:
    """Returns as soon as there is something to hear from a worker or to send to it, or to read from one more handle."""
    poll = select.poll()
    for worker in workers:
        poll.register(worker.pipe.fileno(), worker.wants)
    if also is not None:
        poll.register(also, select.POLLIN)
    poll.poll(None if seconds is None else seconds * 1000)


def _make_ready(work: list[Work]) -> None:
    """Loads what several pieces of work will want, once here rather than in each process."""
    import gullyrise.core.report.intake  # noqa: F401
    from gullyrise.core.reading.registry import load_readers

    paths = [piece.path for piece in work if isinstance(piece, (Read, Figures))]
    load_readers({Path(path).suffix.lower() for path in paths})
    # What is loaded stays: looking through it for garbage would copy its pages into every process.
    gc.collect()
    gc.freeze()


def _finished(work: list[Work], watch: Watch | None, bounds: Bounds | None) -> Iterator[tuple[int, Report]]:
    waiting = list(enumerate(work))[::-1]
    running: dict[int, Worker] = {}
    try:
        while waiting or running:
            while waiting and len(running) < cores():
                index, piece = waiting.pop()
                running[index] = Worker(piece, "fork", bounds)
                running[index].start()
            wait_for(running.values(), 0.5)
            for index, worker in list(running.items()):
                report = worker.hear()
                if report is None:
                    continue
                if report.kind == "progress":
                    if watch is not None:
                        watch(worker.work, *report.value)
                    continue
                del running[index]
                yield index, report
    finally:
        for worker in running.values():
            worker.end()
