"""Frames of a scene, drawn by VTK into memory in a thread of its own, so that the interface never waits for a picture.

VTK lets go of the interpreter's lock while it renders; everything that touches VTK happens in this one thread. Requests
replace one another: only the newest is drawn.
"""

from __future__ import annotations

import gc
import os
import threading
import time
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from gullyrise.drawing.requests import Frame, Request
from gullyrise.drawing.rest_shading import softened

_NICE = 5
_QUIET = 0.06
_REST = 3.0
"""Seconds after which a bench that was emptied lets go of all that was made for drawing: the library keeps what it compiled."""


class Pace:
    """How many of the pixels a picture in motion is drawn with, so that it keeps up with the hand on any machine."""

    _SHARES = (1.0, 0.75, 0.55)
    _SLOW, _QUICK = 0.030, 0.011

    def __init__(self) -> None:
        self._step = 0
        self._slow = 0

    @property
    def share(self) -> float:
        """Of width and of height."""
        return self._SHARES[self._step]

    def took(self, seconds: float) -> None:
        """A picture in motion took so long. Two slow ones in a row make the next ones coarser; a quick one makes them finer."""
        self._slow = self._slow + 1 if seconds > self._SLOW else 0
        if self._slow >= 2 and self._step < len(self._SHARES) - 1:
            self._step, self._slow = self._step + 1, 0
        elif seconds < self._QUICK and self._step:
            self._step -= 1


class Renderer(threading.Thread):
    """The drawing thread. `ask` may be called from any thread; `deliver` and `lament` are called in this one."""

    def __init__(self, deliver: Callable[[Frame], None], lament: Callable[[Exception], None]) -> None:
        super().__init__(name="gullyrise-drawing", daemon=True)
        self._deliver = deliver
        self._lament = lament
        self._wake = threading.Condition()
        self._wanted: dict[str, Request] = {}
        self._ended = False
        self._pace = Pace()
        self._to_polish: dict[str, Frame] = {}

    def ask(self, request: Request) -> None:
        """For a picture; one that is not begun gives way to the newer one of its pane."""
        with self._wake:
            self._wanted[request.pane] = request
            self._wake.notify()

    def end(self) -> None:
        """Ends the thread after the picture under way."""
        with self._wake:
            self._ended = True
            self._wake.notify()

    def run(self) -> None:
        """The drawing thread."""
        # The interface comes before its pictures; the threads that draw in software inherit this.
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), _NICE)
        stage: Any = None
        frozen = False
        while True:
            request = self._next(may_rest=stage is not None and stage.was_emptied)
            if self._ended:
                break
            if request is None and not self._to_polish:
                # Many parts later it would hold some fifty MB more than a fresh one.
                stage.close()
                stage = None
                continue
            if stage is None:
                # VTK takes half a second to come in; the window has been painted by now.
                from gullyrise.drawing.stage import Stage

                stage = Stage()
                if not frozen:
                    # Its many thousand objects stay: looking through them at each full collection would stall the window.
                    gc.freeze()
                    frozen = True
            try:
                if request is None:
                    self._polish(stage)
                else:
                    self._draw(stage, request)
            except Exception as error:  # One picture that fails must not end all that follow.
                self._lament(error)
        if stage is not None:
            stage.close()

    def _next(self, *, may_rest: bool) -> Request | None:
        """Waits for a request; None where all has been still for a moment and a picture waits to be drawn more finely, or for
        longer where there may be a rest."""
        with self._wake:
            quiet = _QUIET if self._to_polish else _REST if may_rest else None
            if not self._wake.wait_for(lambda: bool(self._wanted) or self._ended, quiet) or self._ended:
                return None
            # A picture in motion goes before those that stand still.
            pane = next((name for name, asked in self._wanted.items() if asked.moving), next(iter(self._wanted)))
            self._to_polish.pop(pane, None)
            return self._wanted.pop(pane)

    def _polish(self, stage: Any) -> None:
        """The newest still picture of a pane once more, with smooth edges in their true places."""
        _, frame = self._to_polish.popitem()
        stage.set_scene(frame.request.scene)
        pixels, depth, near, far = stage.draw(frame.request, fine=True)
        fine = replace(frame, pixels=pixels, depth=depth, near=near, far=far, final=True)
        self._deliver(softened(fine))

    def _draw(self, stage: Any, request: Request) -> None:
        stage.set_scene(request.scene)
        if self._overtaken(request.pane):
            return
        start = time.perf_counter()
        drawn = request
        if request.moving and self._pace.share < 1:
            width, height = (max(int(side * self._pace.share), 1) for side in (request.width, request.height))
            drawn = replace(request, width=width, height=height)
        pixels, depth, near, far = stage.draw(drawn)
        if request.moving:
            self._pace.took(time.perf_counter() - start)
        self._deliver(Frame(request, pixels, depth, None, near, far))
        if not request.moving and request.lens is None and not self._overtaken(request.pane):
            frame = Frame(request, pixels, depth, stage.owners(request), near, far, stage.too_much_to_polish(request.scene))
            if not frame.final:
                self._to_polish[request.pane] = frame
            self._deliver(softened(frame))

    def _overtaken(self, pane: str) -> bool:
        with self._wake:
            return pane in self._wanted
