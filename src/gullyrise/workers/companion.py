"""A process that stays beside the window while parts are placed: it keeps their shapes made ready, so that collisions are told
while a part is dragged. A crash or a shape that is too large ends only it; the check of fit then tells them a little later."""

from __future__ import annotations

import multiprocessing
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from multiprocessing.connection import Connection
from typing import Any

from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.placing.colliding import Near, Pair, Stand, Yard
from gullyrise.workers.fence import fence
from gullyrise.workers.process import no_main_module
from gullyrise.workers.wire import receive, send

_MEMORY = 6 << 30
NEAR = 25.0
"""mm within which the gap to the next part is told while one is moved."""
Shapes = dict[str, list[tuple[Mesh, Transform]]]


def _serve(pipe: Connection) -> None:
    """Hears (number, new shapes, stands, moved ids) and answers (number, pairs that meet, the gap to the
    next of what is moved); of questions that wait only the last
    is answered."""
    fence(_MEMORY)
    yard = Yard()
    try:
        while True:
            number, shapes, stands, moved = receive(pipe)
            for digest, bodies in shapes:
                yard.take(digest, [mesh.placed(place) for mesh, place in bodies])
            if pipe.poll():
                continue
            pairs = yard.pairs(stands, moved)
            # What runs into something has no gap to be told.
            near = yard.nearest(stands, moved, NEAR) if moved and not pairs else None
            send(pipe, (number, pairs, near))
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
        """Which of some stands meet. shapes : by their digests, (mesh, placement) of each body;  moved : as `Yard.pairs` has it
        A newer question takes the place of one that has not been put yet."""
        with self._wake:
            self._wanted = (number, shapes, stands, moved)
            if self._thread is None and not self._closing:
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
            except (EOFError, OSError):
                # It died; the next question starts another.
                self._end()
                time.sleep(0.2)
            except Exception as error:  # The same, and told.
                self._end()
                self._troubled(error)

    def _put(self, number: int, shapes: Shapes, stands: list[Stand], moved: set[int] | None) -> None:
        pipe = self._pipe or self._start()
        fresh = [(digest, bodies) for digest, bodies in shapes.items() if digest not in self._known]
        send(pipe, (number, fresh, stands, moved))
        self._known |= set(shapes)
        found, pairs, near = receive(pipe)
        self.answered = found
        self._deliver(found, pairs, near)

    def _start(self) -> Connection:
        context: Any = multiprocessing.get_context("forkserver")
        context.set_forkserver_preload(["gullyrise.workers.preload"])
        self._pipe, theirs = context.Pipe()
        self._process = context.Process(target=_serve, args=(theirs,), daemon=True)
        with no_main_module():
            self._process.start()
        theirs.close()
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
