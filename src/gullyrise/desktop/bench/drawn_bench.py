"""The bench as pictures: panes filled by the drawing thread, the magnifier, and what stands where in them."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, QTimer, pyqtSignal
from PyQt6.QtWidgets import QWidget

from gullyrise.core.geometry import Box, Floats
from gullyrise.core.machines import Machine
from gullyrise.desktop.bench import picking
from gullyrise.desktop.bench.panes import Pane, Panes
from gullyrise.desktop.bench.picking import Finder, Hit
from gullyrise.desktop.bench.pointer.hand import Under
from gullyrise.desktop.instruments.bearing_dial import BearingDial
from gullyrise.desktop.mishaps import tell
from gullyrise.drawing.camera import Camera
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.renderer import Renderer
from gullyrise.drawing.requests import Frame, Request
from gullyrise.drawing.scene import Scene

LENS_RADIUS, LENS_TIMES = 90, 4.0


class DrawnBench(QWidget):
    """lamented : a sentence on a picture that failed."""

    lamented = pyqtSignal(str)
    _framed = pyqtSignal(object)

    def __init__(self, palette: Palette, machine: Machine) -> None:
        super().__init__()
        self._palette = palette
        self.scene = Scene((), machine, palette)
        self.finder = Finder(self.scene)
        self.panes = Panes(Camera(machine.envelope.box.middle * np.array([1, 1, 0.3])))
        self.dial = BearingDial(palette, self)
        self.frames_drawn = 0
        self._number = 0
        self._moving = False
        self._pointer: QPointF | None = None
        self._lens: Pane | None = None
        self._framed.connect(self._show_frame)
        self._renderer = Renderer(self._framed.emit, self._lament)
        self._started = False

    def _lament(self, error: Exception) -> None:
        """From the drawing thread."""
        tell(error)
        self.lamented.emit("The view could not be drawn; turn it a little. The bench goes on.")

    def _timer(self, ms: int, call: Callable[[], None], *, once: bool = False) -> QTimer:
        timer = QTimer(self)
        timer.setSingleShot(once)
        timer.setInterval(ms)
        timer.timeout.connect(call)
        return timer

    def start_drawing(self) -> None:
        """Starts the drawing thread; called once the window has been painted."""
        if not self._started:
            self._started = True
            self._renderer.start()
            self._ask_all()

    def stop_drawing(self) -> None:
        if self._started:
            self._renderer.end()
            self._renderer.join(10)

    @property
    def camera(self) -> Camera:
        """The view of the active pane."""
        return self.panes.active.camera

    @camera.setter
    def camera(self, camera: Camera) -> None:
        self.panes.active.camera = camera

    @property
    def palette_worn(self) -> Palette:
        return self._palette

    def ray_at(self, local: tuple[float, float]) -> tuple[Floats, Floats]:
        """The ray through a place of the active pane: (origin, direction)."""
        return self._ray(*local)

    def hit_at(self, local: tuple[float, float]) -> Hit | None:
        """The first surface at a place of the active pane."""
        return self._hit(*local)

    @property
    def pointer(self) -> QPointF | None:
        """Where the pointer is on the bench, None while it is elsewhere."""
        return self._pointer

    @property
    def lens_held(self) -> bool:
        return self._lens is not None

    def hold_lens(self, held: bool) -> None:
        """Holds the magnifier over the pointer, or puts it away."""
        if held == (self._lens is not None):
            return
        self._lens = Pane("lens", self.camera) if held else None
        if held and self._pointer is None:
            self._pointer = QPointF(self.rect().center())
        if held:
            self._ask_lens()
        self.update()

    def _ask_lens(self) -> None:
        if self._lens is None or not self._started or self._pointer is None:
            return
        pane = self.panes.active
        (x, y), (width, height) = pane.local(self._pointer), pane.size()
        ratio = self.devicePixelRatioF()
        side = max(int(2 * LENS_RADIUS * ratio), 1)
        # Of a window as high as the lens, the picture is so many times larger than in the pane.
        times = LENS_TIMES * height / (2 * LENS_RADIUS)
        centre = ((2 * x / width - 1) * width / height * times, (1 - 2 * y / height) * times, times)
        self._number += 1
        self._lens.asked = self._number
        self._renderer.ask(Request(self.scene, pane.camera, side, side, False, self._number, "lens", centre))

    def view_size(self) -> tuple[int, int]:
        return self.panes.active.size()

    def parts_size(self) -> float:
        return self._subject().diagonal

    def under(self, x: float, y: float) -> Under | None:
        """What a place of the active pane shows: of the parts exactly, by ray; of the rest by the picture."""
        hit = self._hit(x, y)
        if hit is not None:
            prepared = self.scene.items[hit.item].prepared
            box = prepared.blocks.box if prepared is not None else None
            size = box.diagonal if box is not None else self.parts_size()
            return Under(hit.point, size)
        if not self.finder.whole:
            found = self.panes.active.depth_under(x, y)
            if found is not None:
                return Under(found[0], self.parts_size())
        bed = picking.bed_point(self.scene, *self._ray(x, y)) if self.scene.display.bed else None
        return None if bed is None else Under(bed[0], self.scene.machine.envelope.box.diagonal)

    def _ray(self, x: float, y: float) -> tuple[Floats, Floats]:
        return self.camera.ray(
            x, y, *self.view_size(), reach=2 * self.camera.drawn_box(self.scene.box).diagonal + self.camera.span
        )

    def hits(self, x: float, y: float) -> list[Hit]:
        """Every surface under a place of the active pane, nearest first."""
        return self.finder.along(*self._ray(x, y))

    def _hit(self, x: float, y: float) -> Hit | None:
        return self.finder.first(*self._ray(x, y))

    def pointer_place(self) -> tuple[float, float] | None:
        """Where the pointer is in the active pane, None while it is elsewhere."""
        return None if self._pointer is None else self.panes.active.local(self._pointer)

    def hit_under_pointer(self) -> Hit | None:
        """Under the pointer, or under the middle of the view while the pointer is elsewhere."""
        width, height = self.view_size()
        place = (width / 2, height / 2) if self._pointer is None else self.panes.active.local(self._pointer)
        return self._hit(*place)

    def _bed_under_pointer(self) -> Floats | None:
        if self._pointer is None:
            return None
        found = picking.bed_point(self.scene, *self._ray(*self.panes.active.local(self._pointer)))
        return None if found is None else found[0]

    def point_at(self, place: QPointF) -> Floats | None:
        """The surface point (3,) mm under a pixel of the newest picture, or None."""
        found = self.panes.at(place).depth_under(*self.panes.at(place).local(place))
        return None if found is None else found[0]

    def to_widget(self, point: Floats) -> QPointF:
        """Where a point of the bench lies in the widget."""
        return self.panes.active.to_widget(point)

    def _subject(self) -> Box:
        """What Home brings into view: the parts, and of the bed what lies round them; the machine where there are none."""
        parts = self.scene.parts_box
        return parts if parts is not None else self.scene.machine.envelope.box

    def _selected_box(self) -> Box | None:
        boxes = [item.box for item in self.scene.items if item.selected]
        if not boxes:
            return None
        return Box(np.min([box.low for box in boxes], axis=0), np.max([box.high for box in boxes], axis=0))

    def still_pivot(self) -> Floats:
        """What is turned about where nothing is under the pointer: the selection's middle, else that of all."""
        box = self._selected_box()
        return (self._subject() if box is None else box).middle

    def _ask_all(self) -> None:
        for pane in self.panes.shown:
            self._ask(pane)
        if self._lens is not None:
            self._ask_lens()

    def _ask(self, pane: Pane) -> None:
        if not self._started:
            return
        ratio = self.devicePixelRatioF()
        width, height = (max(int(side * ratio), 1) for side in pane.size())
        self._number += 1
        pane.asked = self._number
        pane.in_motion = self._moving and pane is self.panes.active
        self._renderer.ask(Request(self.scene, pane.camera, width, height, pane.in_motion, self._number, pane.name))

    def _show_frame(self, frame: Frame) -> None:
        self.frames_drawn += 1
        pane = self._lens if frame.request.pane == "lens" else next(
            (one for one in (*self.panes.flat, self.panes.free) if one.name == frame.request.pane), None
        )  # fmt: skip
        if pane is not None:
            pane.show(frame, self.devicePixelRatioF())
            self.update()
