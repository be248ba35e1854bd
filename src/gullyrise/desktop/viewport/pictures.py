"""Panes filled by the drawing thread."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from gullyrise.core.camera.camera import Camera
from gullyrise.desktop.upkeep.mishaps import tell
from gullyrise.desktop.viewport.panes import Pane, Panes
from gullyrise.drawing.renderer import Renderer
from gullyrise.drawing.requests import Frame, Request
from gullyrise.drawing.scene import Scene

LENS = "lens"
"""The name of the magnifier's pane."""


class Pictures(QObject):
    """scene : what is drawn;  moving : whether those of the active pane are pictures in motion;  drawn : how many have come

    came : a pane has a new picture;  failed : a sentence on one that could not be drawn
    """

    came = pyqtSignal()
    failed = pyqtSignal(str)
    _framed = pyqtSignal(object)

    def __init__(self, host: QWidget, scene: Scene) -> None:
        super().__init__(host)
        self._host = host
        self.scene = scene
        self.panes = Panes(Camera(scene.machine.envelope.box.middle * np.array([1, 1, 0.3])))
        self.lens: Pane | None = None
        self.moving = False
        self.drawn = 0
        self.started = False
        self._number = 0
        self._newest: dict[str, Request] = {}
        self._framed.connect(self._show)
        self._renderer = Renderer(self._framed.emit, self._fail)

    def start(self) -> None:
        """Starts the drawing thread; called once the window has been painted."""
        if not self.started:
            self.started = True
            self._renderer.start()
            self.ask_all()

    def stop(self) -> None:
        if self.started:
            self._renderer.end()
            self._renderer.join(10)

    @property
    def ratio(self) -> float:
        """Pixels of a picture for each of the screen's points."""
        return self._host.devicePixelRatioF()

    @property
    def current(self) -> bool:
        """Whether every pane shows the newest request, whole."""
        whole = all(
            pane.frame is not None and pane.frame.final and pane.shown == pane.frame.request.number == pane.asked
            for pane in self.panes.shown
        )
        return self.started and whole and (self.lens is None or self.lens.shown == self.lens.asked)

    def set_scene(self, scene: Scene) -> None:
        self.scene = scene

    def set_moving(self, moving: bool) -> None:
        self.moving = moving

    def hold_lens(self, held: bool) -> None:
        self.lens = Pane(LENS, self.panes.active.camera) if held else None

    def ask_all(self) -> None:
        for pane in self.panes.shown:
            self.ask(pane)

    def ask(self, pane: Pane) -> None:
        width, height = (max(int(side * self.ratio), 1) for side in pane.size())
        self._ask(pane, pane.camera, (width, height), moving=self.moving and pane is self.panes.active)

    def ask_lens(self, camera: Camera, side: int, window: tuple[float, float, float]) -> None:
        """The magnifier's picture. side : px;  window : see Request"""
        if self.lens is not None:
            self._ask(self.lens, camera, (side, side), window=window)

    def _ask(
        self, pane: Pane, camera: Camera, size: tuple[int, int], *, moving: bool = False,
        window: tuple[float, float, float] | None = None,
    ) -> None:  # fmt: skip
        if not self.started:
            return
        wanted = Request(self.scene, camera, *size, moving, self._number + 1, pane.name, window)
        on_its_way = self._newest.get(pane.name)
        if on_its_way is not None and on_its_way.number == pane.asked and wanted.is_of_the_same_as(on_its_way):
            # A step of the view asks for what stands, and so does its coming to rest: where nothing moved, one picture does.
            return
        self._number += 1
        self._newest[pane.name] = wanted
        pane.ask(self._number, in_motion=moving)
        self._renderer.ask(wanted)

    def _show(self, frame: Frame) -> None:
        self.drawn += 1
        every = [*self.panes.flat, self.panes.free, *([self.lens] if self.lens is not None else [])]
        pane = next((one for one in every if one.name == frame.request.pane), None)
        if pane is not None:
            pane.show(frame, self.ratio)
            self.came.emit()

    def _fail(self, error: Exception) -> None:
        """From the drawing thread."""
        # What came to nothing is drawn when it is asked for again.
        self._newest.clear()
        tell(error)
        self.failed.emit("The view could not be drawn; turn it a little. The bench goes on.")
