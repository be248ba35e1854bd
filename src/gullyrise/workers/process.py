"""One worker process: starting it, hearing from it, ending it."""

from __future__ import annotations

import multiprocessing
import os
import select
import signal
import sys
import time
import types
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from functools import cache
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, Literal

from gullyrise.core.errors import GullyriseError, ReaderDied, ReaderEnded, WorkEnded
from gullyrise.core.paths import printable
from gullyrise.workers import forks
from gullyrise.workers.fencing import bound, disarm
from gullyrise.workers.records import NotData
from gullyrise.workers.schema import Fits, annotation, fits_of
from gullyrise.workers.wire import Incoming, Outgoing, answer, receive_work, told
from gullyrise.workers.work import Work

Method = Literal["fork", "forkserver"]
_PROGRESS_EVERY = 0.05
_GRACE, _PER_MEGABYTE = 18.0, 60.0
"""Seconds of processor time that a reader has for any file, and more for each megabyte of it."""
_WAITING = 12.0
_TRIES, _BETWEEN_TRIES = 4, 0.1
_STALLED, _PASSING = 60.0, 0.5
"""Seconds for which an answer may stand still in its middle, and for which a process that closed its pipe may take to end."""
_TURN = 0.1
_MOST_ANSWER, _MOST_STAGE = 4 << 30, 80
_FALLS = tuple(-one for one in (signal.SIGSEGV, signal.SIGABRT, signal.SIGBUS, signal.SIGFPE, signal.SIGILL))
_PROGRESS = fits_of(tuple[str, int, int])
_MEMORY, _TIMES = 1_800_000_000, 64
"""Bytes of memory that a reader has for any file, and more for each byte of it."""


@dataclass(frozen=True, slots=True)
class Bounds:
    """memory : bytes beyond what the fresh process holds
    seconds : of processor time of its own, so that a busy machine ends nothing; by the clock many times as long, for what waits
        without working.
    """

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
    """The worker's whole life: bounds on itself, the work, the fence, and an answer of what came of it."""
    bound(bounds.memory, bounds.seconds * _cores(), pipe.fileno())
    last = 0.0

    def progress(stage: str, done: int, total: int) -> None:
        nonlocal last
        now = time.monotonic()
        if now - last >= _PROGRESS_EVERY:
            last = now
            answer(pipe, ("progress", (stage, done, total)))

    try:
        try:
            work: Work = receive_work(pipe)
            work = work.beforehand(progress)
            disarm(work.grants())
            answer(pipe, ("done", work.run(progress)))
        except MemoryError:
            answer(pipe, ("memory", None))
        except GullyriseError as error:
            answer(pipe, ("error", error))
        except (BrokenPipeError, ConnectionResetError):
            raise
        except Exception as error:  # The one place where a worker's own fault becomes a sentence.
            answer(pipe, ("fault", f"{type(error).__name__}: {error}"[:300]))
    except (BrokenPipeError, ConnectionResetError):
        # Nobody listens any more.
        pass
    pipe.close()


def _cores() -> int:
    return len(os.sched_getaffinity(0))


@cache
def _gives(kind: type) -> Fits:
    """A test for what a kind of work answers, from what its `run` says."""
    return fits_of(annotation(kind.run.__annotations__.get("return", Any), kind.run.__module__))  # type: ignore[attr-defined]


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
    """A process that does one piece of work. Nothing here waits for it: `hear` gives what has come, whoever calls it looks at
    `pipe` in the meantime. Not for the interface's thread all the same, as values take their time to be made of what came."""

    def __init__(self, work: Work, method: Method, bounds: Bounds | None = None) -> None:
        self.work = work
        self.bounds = bounds or Bounds()
        weight = work.weight()
        if weight is not None:
            self.bounds = self.bounds.for_file(weight)
        self._sent = 0.0
        self._context: Any = forks.context() if method == "forkserver" else multiprocessing.get_context(method)
        self._process: Any = None
        self._started = self._spoke = 0.0
        self._outgoing: Outgoing
        self._incoming: Incoming
        self.pipe: Connection

    def start(self) -> None:
        """Raises OSError, EOFError where no process can be had."""
        for left in reversed(range(_TRIES)):
            try:
                self._begin()
                break
            except (EOFError, ConnectionError):
                # The fork server was ended in the middle of it; the next try starts another, once it is seen to be gone.
                if not left:
                    raise
                time.sleep(_BETWEEN_TRIES)
        os.set_blocking(self.pipe.fileno(), False)
        self._started = self._sent = time.monotonic()
        self._outgoing = Outgoing(self.work)
        self._incoming = Incoming(self.pipe.fileno(), min(self.bounds.memory, _MOST_ANSWER))
        self._send()

    def _begin(self) -> None:
        self.pipe, theirs = self._context.Pipe()
        fresh = self._context.Process(target=_serve, args=(theirs, self.bounds), daemon=True)
        try:
            with no_main_module():
                fresh.start()
        except BaseException:
            self.pipe.close()
            raise
        finally:
            theirs.close()
        self._process = fresh

    @property
    def wants(self) -> int:
        """What its pipe is to be looked at for, as `select.poll` has it."""
        return select.POLLIN if self._outgoing.is_sent else select.POLLIN | select.POLLOUT

    def hear(self) -> Report | None:
        """The next report, None where nothing whole has come yet. A process that died without a word reports an error, and so
        does one whose answer is none, stays in its middle, or never comes."""
        try:
            self._send()
            until = time.monotonic() + _TURN
            while (pieces := self._incoming.take()) is not None:
                report = self._understood(told(pieces))
                if report is not None:
                    return report
                if time.monotonic() > until:
                    # Whoever floods has to wait as others do.
                    break
        except (EOFError, OSError):
            self._process.join(_PASSING)
            how, crashed = self._how(), self._crashed()
            return self._ended(how, crashed=crashed)
        except MemoryError:
            return self._ended("its result does not fit into memory")
        except NotData as error:
            return self._fault(f"its answer is none: {error}")
        return self._out_of_patience()

    def _send(self) -> None:
        # The death of the process is told by what comes, or does not.
        with suppress(BrokenPipeError, ConnectionResetError):
            if not self._outgoing.is_sent and self._outgoing.send(self.pipe.fileno()):
                self._sent = time.monotonic()

    def _out_of_patience(self) -> Report | None:
        now = time.monotonic()
        if self._incoming.is_in_the_middle and now - self._incoming.moved > _STALLED:
            return self._ended("its answer stopped in the middle")
        if not self._outgoing.is_sent and now - self._sent > _STALLED:
            return self._ended("it did not take its work")
        waited = now - self._started
        if waited <= self.bounds.seconds:
            return None
        # Threads of its own count together, as many as there may be at once.
        if waited > _WAITING * self.bounds.seconds or _worked(self._process.pid) > self.bounds.seconds * _cores():
            return self._ended(self._too_long())
        return None

    def _understood(self, said: Any) -> Report | None:
        """Raises NotData for what is no report."""
        if type(said) is not tuple or len(said) != 2:
            raise NotData("no report")
        kind, value = said
        if kind == "progress":
            if not _PROGRESS(value) or not all(0 <= count < 1 << 53 for count in value[1:]):
                raise NotData("no progress")
            now = time.monotonic()
            if now - self._spoke < _PROGRESS_EVERY / 2:
                # Who tells it more often than is agreed keeps nobody busy.
                return None
            self._spoke = now
            stage, done, total = value
            return Report("progress", (printable(stage[:_MOST_STAGE]), done, total))
        if kind == "done":
            if not _gives(type(self.work))(value):
                raise NotData(f"no answer to {type(self.work).__name__}")
            self._finish()
            return Report("done", value)
        if kind == "memory":
            return self._ended(f"it wanted more than {self.bounds.memory / 2**30:.0f} GiB of memory")
        if kind == "fault" and isinstance(value, str):
            return self._fault(value)
        if kind == "error" and isinstance(value, GullyriseError):
            self._finish()
            return Report("error", value)
        raise NotData("no report")

    def _fault(self, detail: str) -> Report:
        self._finish()
        return Report(
            "error", WorkEnded(f"The {self.work.title} met a fault of this program and has no result; tell us about it.", detail)
        )

    def _ended(self, how: str, *, crashed: bool = False) -> Report:
        self._finish()
        return Report("error", self._died(how, crashed=crashed))

    def _too_long(self) -> str:
        return f"it worked for longer than the {self.bounds.seconds:.0f} seconds that it may"

    def end(self, why: str = "it was cancelled") -> Report:
        """Kills the process, if it still runs, and gives the error that stands for it."""
        return self._ended(why) if self._process is not None else Report("error", self._died(why))

    def _finish(self) -> None:
        """Whatever it would still do, nobody waits for it."""
        self._process.kill()
        self._process.join(10)
        self.pipe.close()
        self.work.afterwards()

    def _how(self) -> str:
        code = self._process.exitcode
        if code == -signal.SIGXCPU:
            return self._too_long()
        if code == -signal.SIGKILL:
            return "the process was killed (signal 9), perhaps for want of memory"
        if code is not None and code < 0:
            return f"the process crashed (signal {-code})"
        return "the process ended without a word"

    def _crashed(self) -> bool:
        """Whether it fell over what it read: what ends it from outside, or in order, accuses no file."""
        return self._process.exitcode in _FALLS

    def _died(self, how: str, *, crashed: bool = False) -> GullyriseError:
        if self.work.weight() is not None:
            return ReaderDied(self.work.title, how) if crashed else ReaderEnded(self.work.title, how)
        return WorkEnded(f"The {self.work.title} was ended: {how}; run it again.")
