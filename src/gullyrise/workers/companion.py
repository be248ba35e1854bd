"""A process that stays beside the window while parts are placed: it keeps their shapes made ready, so that collisions are told
while a part is dragged. A crash or a shape that is too large ends only it; the check of fit then tells them a little later."""

from __future__ import annotations

import os
import select
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from multiprocessing.connection import Connection
from typing import Any

from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.placing.colliding import Near, Pair, Stand, Yard
from gullyrise.workers import forks
from gullyrise.workers.fencing import NOTHING, bound, disarm
from gullyrise.workers.process import no_main_module
from gullyrise.workers.records import NotData
from gullyrise.workers.schema import fits_of
from gullyrise.workers.wire import Incoming, Outgoing, answer, receive_work, told

_MEMORY = 6 << 30
_SECONDS = 24 * 3600.0
_PATIENCE = 120.0
_MOST_ANSWER = 64 << 20
_ANSWER = fits_of(tuple[int, list[Pair], Near | None])
NEAR = 25.0
"""mm within which the gap to the next part is told while one is moved."""
Shapes = dict[str, list[tuple[Mesh, Transform]]]


def _serve(pipe: Connection) -> None:
    """Hears (number, new shapes, stands, moved ids) and answers (number, pairs that meet, the gap to the
    next of what is moved); of questions that wait only the last
    is answered."""
    bound(_MEMORY, _SECONDS, pipe.fileno())
    disarm(NOTHING)
    yard = Yard()
    try:
        while True:
            number, shapes, stands, moved = receive_work(pipe)
            for digest, bodies in shapes:
                yard.take(digest, [mesh.placed(place) for mesh, place in bodies])
            if pipe.poll():
                continue
            pairs = yard.pairs(stands, moved)
            # What runs into something has no gap to be told.
            near = yard.nearest(stands, moved, NEAR) if moved and not pairs else None
            answer(pipe, (number, pairs, near))
    except Exception:  # Whatever it met, the window starts another for its next question.
        return


class Companion:
    """Asked from any thread; `deliver` (number, pairs that meet, the gap to the next) and `troubled` (what nobody
    caught) are called in a thread of its own."""

    def __init__(self, deliver: Callable[[int, list[Pair], Near | None], None], troubled: Callable[[Exception], None]) -> None:
        self._deliver, self._troubled = deliver, troubled
        self._wake = threading.Condition()
        self._wanted: tuple[int, Shapes, list[Stand], set[int] | None] | None = None
        self._known: set[str] = set()
        self._pipe: Connection | None = None
        self._process: Any = None
        self._closing = False
        self._thread: threading.Thread | None = None
        self.answered = 0
        """The number of the newest question that was answered."""

    def ask(self, number: int, shapes: Shapes, stands: list[Stand], moved: set[int] | None) -> None:
        """Which of some stands meet.

        shapes : by their digests, (mesh, placement) of each body
        moved : as `Yard.pairs` has it A newer question takes the place of one that has not been put yet.
        """
        with self._wake:
            self._wanted = (number, shapes, stands, moved)
            if self._thread is None and not self._closing:
                forks.begin()
                self._thread = threading.Thread(target=self._run, name="gullyrise-companion", daemon=True)
                self._thread.start()
            self._wake.notify()

    @property
    def alive(self) -> bool:
        return self._process is not None and self._process.is_alive()

    @property
    def number_of_process(self) -> int:
        """Of the process that answers, 0 where there is none."""
        return int(self._process.pid) if self._process is not None else 0

    def close(self) -> None:
        with self._wake:
            self._closing = True
            self._wake.notify()
        if self._process is not None:
            self._process.kill()
        if self._thread is not None:
            self._thread.join(10)
        self._end()

    def _run(self) -> None:
        while True:
            with self._wake:
                self._wake.wait_for(lambda: self._wanted is not None or self._closing)
                if self._closing:
                    return
                assert self._wanted is not None
                number, shapes, stands, moved = self._wanted
                self._wanted = None
            try:
                self._put(number, shapes, stands, moved)
            except (EOFError, OSError, NotData):
                # It died; the next question starts another.
                self._end()
                time.sleep(0.2)
            except Exception as error:  # The same, and told.
                self._end()
                self._troubled(error)

    def _put(self, number: int, shapes: Shapes, stands: list[Stand], moved: set[int] | None) -> None:
        pipe = self._pipe or self._start()
        fresh = [(digest, bodies) for digest, bodies in shapes.items() if digest not in self._known]
        found, pairs, near = self._exchanged(pipe, (number, fresh, stands, moved))
        self._known |= set(shapes)
        self.answered = found
        self._deliver(found, pairs, near)

    def _exchanged(self, pipe: Connection, question: Any) -> tuple[int, list[Pair], Near | None]:
        """The answer to a question. Raises EOFError where none comes for so long that it went round, NotData for one that is
        none."""
        handle = pipe.fileno()
        going, coming = Outgoing(question), Incoming(handle, _MOST_ANSWER)
        until = time.monotonic() + _PATIENCE
        while (pieces := coming.take()) is None:
            if not going.is_sent:
                going.send(handle)
            poll = select.poll()
            poll.register(handle, select.POLLIN if going.is_sent else select.POLLIN | select.POLLOUT)
            poll.poll(500)
            if time.monotonic() > until or self._closing:
                raise EOFError
        said = told(pieces)
        if not _ANSWER(said):
            raise NotData("no answer about collisions")
        return said  # type: ignore[no-any-return]

    def _start(self) -> Connection:
        context = forks.context()
        self._pipe, theirs = context.Pipe()
        fresh = context.Process(target=_serve, args=(theirs,), daemon=True)
        try:
            with no_main_module():
                fresh.start()
        finally:
            theirs.close()
        # Only now: one that has not begun cannot be ended, and the window may be closing.
        self._process = fresh
        os.set_blocking(self._pipe.fileno(), False)
        self._known = set()
        return self._pipe

    def _end(self) -> None:
        if self._process is not None:
            self._process.kill()
            self._process.join(5)
            self._process = None
        if self._pipe is not None:
            with suppress(OSError):
                self._pipe.close()
            self._pipe = None
