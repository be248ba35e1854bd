"""One worker process: starting it, hearing from it, ending it."""

from __future__ import annotations

import multiprocessing
import os
import signal
import sys
import time
import types
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, Literal

from gullyrise.core.errors import GullyriseError, ReaderDied, ReaderEnded, WorkEnded
from gullyrise.workers.fence import fence
from gullyrise.workers.wire import receive, send
from gullyrise.workers.work import Figures, Read, Work

Method = Literal["fork", "forkserver"]
_PROGRESS_EVERY = 0.05
_GRACE, _PER_MEGABYTE = 18.0, 60.0
"""Seconds of processor time that a reader has for any file, and more for each megabyte of it."""
_WAITING = 12.0
_MEMORY, _TIMES = 1_800_000_000, 64
"""Bytes of memory that a reader has for any file, and more for each byte of it."""


@dataclass(frozen=True, slots=True)
class Bounds:
    """memory : bytes beyond what the fresh process holds;  seconds : of processor time of its own, so that a busy machine ends
    nothing; by the clock many times as long, for what waits without working."""

    memory: int = 6 << 30
    seconds: float = 1800.0

    def for_file(self, size: int) -> Bounds:
        """The same for reading a file of so many bytes: a reader that goes round on a small one is not waited for, nor may it eat
        memory that no sound file of that size needs."""
        return replace(
            self,
            memory=min(self.memory, _MEMORY + _TIMES * size),
            seconds=min(self.seconds, _GRACE + _PER_MEGABYTE * size / 1e6),
        )


def _serve(pipe: Connection, bounds: Bounds) -> None:
    """The worker's whole life: fence, receive the work, run it, send what came of it."""
    fence(bounds.memory)
    last = 0.0

    def progress(stage: str, done: int, total: int) -> None:
        nonlocal last
        now = time.monotonic()
        if now - last >= _PROGRESS_EVERY:
            last = now
            send(pipe, ("progress", (stage, done, total)))

    try:
        work: Work = receive(pipe)
        answer: tuple[str, Any] = ("done", work.run(progress))
    except MemoryError:
        answer = ("memory", None)
    except GullyriseError as error:
        answer = ("error", error)
    except Exception as error:  # The one place where a worker's own fault becomes a sentence.
        answer = ("fault", f"{type(error).__name__}: {error}"[:300])
    try:
        send(pipe, answer)
    except MemoryError:
        send(pipe, ("memory", None))
    except BrokenPipeError:
        pass
    pipe.close()


def _worked(pid: int) -> float:
    """Seconds of processor time that a process has used, of all its threads; 0 for one that is gone."""
    try:
        fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    except OSError:
        return 0.0
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


@contextmanager
def no_main_module() -> Iterator[None]:
    """Hides the program's main module while a process is started: workers need nothing of it, and would import it again,
    whatever it does when it is imported."""
    real = sys.modules["__main__"]
    sys.modules["__main__"] = types.ModuleType("__main__")
    try:
        yield
    finally:
        sys.modules["__main__"] = real


@dataclass(frozen=True, slots=True)
class Report:
    """What a worker said: progress, or its result, or the error that it ended with."""

    kind: Literal["progress", "done", "error"]
    value: Any


class Worker:
    """A process that does one piece of work. `start` and `hear` may block on the pipe: not for the interface's thread."""

    def __init__(self, work: Work, method: Method, bounds: Bounds | None = None) -> None:
        self.work = work
        self.bounds = bounds or Bounds()
        if isinstance(work, (Read, Figures)):
            with suppress(OSError, ValueError):
                self.bounds = self.bounds.for_file(Path(work.path).stat().st_size)
        self._context: Any = multiprocessing.get_context(method)
        if method == "forkserver":
            self._context.set_forkserver_preload(["gullyrise.workers.preload"])
        self._process: Any = None
        self._started = 0.0
        self._threads = len(os.sched_getaffinity(0))
        self.pipe: Connection

    def start(self) -> None:
        self.pipe, theirs = self._context.Pipe()
        self._process = self._context.Process(target=_serve, args=(theirs, self.bounds), daemon=True)
        with no_main_module():
            self._process.start()
        theirs.close()
        self._started = time.monotonic()
        # The death of the process is told by hear().
        with suppress(BrokenPipeError, ConnectionResetError):
            send(self.pipe, self.work)

    @property
    def late(self) -> bool:
        waited = time.monotonic() - self._started
        if waited <= self.bounds.seconds:
            return False
        # Threads of its own count together, as many as there may be at once.
        return waited > _WAITING * self.bounds.seconds or _worked(self._process.pid) > self.bounds.seconds * self._threads

    def hear(self) -> Report:
        """The next report; waits for it. A process that died without a word reports an error."""
        try:
            kind, value = receive(self.pipe)
        except (EOFError, OSError):
            self._process.join(5)
            return Report("error", self._died(self._how(), crashed=self._crashed()))
        except MemoryError:
            return Report("error", self._died("its result does not fit into memory"))
        if kind == "progress":
            return Report("progress", value)
        self._finish()
        if kind == "done":
            return Report("done", value)
        if kind == "memory":
            wanted = f"it wanted more than {self.bounds.memory / 2**30:.0f} GiB of memory"
            return Report("error", self._died(wanted, crashed=isinstance(self.work, (Read, Figures))))
        if kind == "fault":
            return Report(
                "error",
                WorkEnded(f"The {self.work.title} met a fault of this program and has no result; tell us about it.", value),
            )
        return Report("error", value)

    def end(self, why: str = "it was cancelled") -> Report:
        """Kills the process, if it still runs, and gives the error that stands for it."""
        if self._process is not None:
            self._process.kill()
            self._finish()
        return Report("error", self._died(why))

    def out_of_time(self) -> Report:
        return self.end(f"it worked for longer than the {self.bounds.seconds:.0f} seconds that it may")

    def _finish(self) -> None:
        self._process.join(10)
        self.pipe.close()

    def _how(self) -> str:
        code = self._process.exitcode
        if code is not None and code < 0:
            return f"the process crashed (signal {-code})"
        return "the process ended without a word"

    def _crashed(self) -> bool:
        """Whether it fell by itself: what kills from outside, such as a machine short of memory, accuses no file."""
        return self._process.exitcode not in (-signal.SIGKILL, -signal.SIGTERM)

    def _died(self, how: str, *, crashed: bool = False) -> GullyriseError:
        if isinstance(self.work, (Read, Figures)):
            return ReaderDied(self.work.title, how) if crashed else ReaderEnded(self.work.title, how)
        return WorkEnded(f"The {self.work.title} was ended: {how}; run it again.")
