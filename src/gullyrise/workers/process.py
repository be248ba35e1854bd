"""One worker process: starting it, hearing from it, ending it."""

from __future__ import annotations

import multiprocessing
import sys
import time
import types
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, Literal

from gullyrise.core.errors import GullyriseError, ReaderDied, WorkEnded
from gullyrise.workers.fence import fence
from gullyrise.workers.wire import receive, send
from gullyrise.workers.work import Figures, Read, Work

Method = Literal["fork", "forkserver"]
_PROGRESS_EVERY = 0.05
_GRACE, _PER_MEGABYTE = 18.0, 60.0
"""Seconds that a reader has for any file, and more for each megabyte of it."""
_MEMORY, _TIMES = 1_800_000_000, 64
"""Bytes of memory that a reader has for any file, and more for each byte of it."""


@dataclass(frozen=True, slots=True)
class Bounds:
    """memory : bytes beyond what the fresh process holds;  seconds : of wall time."""

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
        self._deadline = 0.0
        self.pipe: Connection

    def start(self) -> None:
        self.pipe, theirs = self._context.Pipe()
        self._process = self._context.Process(target=_serve, args=(theirs, self.bounds), daemon=True)
        with no_main_module():
            self._process.start()
        theirs.close()
        self._deadline = time.monotonic() + self.bounds.seconds
        # The death of the process is told by hear().
        with suppress(BrokenPipeError, ConnectionResetError):
            send(self.pipe, self.work)

    @property
    def late(self) -> bool:
        return time.monotonic() > self._deadline

    def hear(self) -> Report:
        """The next report; waits for it. A process that died without a word reports an error."""
        try:
            kind, value = receive(self.pipe)
        except (EOFError, OSError):
            self._process.join(5)
            return Report("error", self._died(self._how()))
        except MemoryError:
            return Report("error", self._died("its result does not fit into memory"))
        if kind == "progress":
            return Report("progress", value)
        self._finish()
        if kind == "done":
            return Report("done", value)
        if kind == "memory":
            return Report("error", self._died(f"it wanted more than {self.bounds.memory / 2**30:.0f} GiB of memory"))
        if kind == "fault":
            return Report("error", WorkEnded(f"The {self.work.title} could not be finished ({value}); tell us about it."))
        return Report("error", value)

    def end(self, why: str = "it was cancelled") -> Report:
        """Kills the process, if it still runs, and gives the error that stands for it."""
        if self._process is not None:
            self._process.kill()
            self._finish()
        return Report("error", self._died(why))

    def out_of_time(self) -> Report:
        return self.end(f"it took longer than {self.bounds.seconds:.0f} seconds")

    def _finish(self) -> None:
        self._process.join(10)
        self.pipe.close()

    def _how(self) -> str:
        code = self._process.exitcode
        if code is not None and code < 0:
            return f"the process crashed (signal {-code})"
        return "the process ended without a word"

    def _died(self, how: str) -> GullyriseError:
        if isinstance(self.work, (Read, Figures)):
            return ReaderDied(self.work.title, how)
        return WorkEnded(f"The {self.work.title} was ended: {how}; run it again.")
