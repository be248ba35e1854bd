"""The bench: pictures from the drawing thread, painted with overlays; gestures that turn, slide and zoom."""

from __future__ import annotations

import time
from dataclasses import dataclass, replace

import numpy as np
from PyQt6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QCloseEvent,
    QColor,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from gullyrise.core.geometry import Box, Floats
from gullyrise.core.machines import Machine
from gullyrise.desktop.bench import overlays
from gullyrise.desktop.bench.camera import NAMED, Camera
from gullyrise.desktop.bench.renderer import Frame, Renderer, Request
from gullyrise.desktop.bench.scene import CutPlane, Item, Scene
from gullyrise.desktop.instruments.bearing_dial import BearingDial
from gullyrise.desktop.theme.look import type_of
from gullyrise.desktop.theme.palette import Palette

GESTURE_AFTER = 4
"""Pixels of drag that make a click a gesture."""
_GLIDE_MS = 200
_STILL_AFTER_MS = 140
_DEGREES_PER_PIXEL = 0.4
_WHEEL_STEP = 1.18


@dataclass(frozen=True, slots=True)
class Flag:
    """A numbered tag on a place of the bench."""

    number: int
    words: str
    place: tuple[float, float, float]
    verdict: str
    chosen: bool


@dataclass(slots=True)
class _Drag:
    """A button held down: what it does, where from, and about which point."""

    gesture: str
    start: QPointF
    last: QPointF
    pivot: Floats
    moved: bool = False


class Bench(QWidget):
    """The 3-D view. pointed : (point or None, name) under the pointer; picked : owner id or None, and whether to add;
    lamented : a sentence on a picture that failed."""

    pointed = pyqtSignal(object, str)
    picked = pyqtSignal(object, bool)
    card_wanted = pyqtSignal(QPoint)
    camera_changed = pyqtSignal()
    files_dropped = pyqtSignal(list)
    lamented = pyqtSignal(str)
    _framed = pyqtSignal(object)

    def __init__(self, palette: Palette, machine: Machine) -> None:
        super().__init__()
        self.setObjectName("bench")
        self.setAccessibleName("Bench")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAcceptDrops(True)
        self.setMinimumSize(240, 200)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._palette = palette
        self.scene = Scene((), machine, palette)
        self.camera = Camera(machine.envelope.box.middle * np.array([1, 1, 0.3]))
        self.flags: list[Flag] = []
        self.frames_drawn = 0
        self._frame: Frame | None = None
        self._image: QImage | None = None
        self._number = 0
        self._shown_number = 0
        self._moving = False
        self._drag: _Drag | None = None
        self._pointer = QPointF(-1, -1)
        self._fit_when_sized = True
        self._glide: tuple[Camera, Camera, float] | None = None
        self._glide_timer = QTimer(self)
        self._glide_timer.setInterval(16)
        self._glide_timer.timeout.connect(self._glide_step)
        self._still = QTimer(self)
        self._still.setSingleShot(True)
        self._still.setInterval(_STILL_AFTER_MS)
        self._still.timeout.connect(self._come_to_rest)
        self.dial = BearingDial(palette, self)
        self.dial.swung.connect(self._swing)
        self._framed.connect(self._show_frame)
        self._renderer = Renderer(self._framed.emit, self.lamented.emit)
        self._started = False

    # --- what others ask for ---------------------------------------------------------------------------------------

    def start_drawing(self) -> None:
        """Starts the drawing thread; called once the window has been painted."""
        if not self._started:
            self._started = True
            self._renderer.start()
            self._ask()

    def stop_drawing(self) -> None:
        if self._started:
            self._renderer.end()
            self._renderer.join(10)

    def show_scene(self, items: tuple[Item, ...], machine: Machine, palette: Palette, cut: CutPlane | None, *, out: bool) -> None:
        """Draws these items on that machine."""
        fresh = len(items) != len(self.scene.items) or machine is not self.scene.machine
        self._palette = palette
        self.scene = Scene(items, machine, palette, cut, out)
        self.dial.show_camera(self.camera, palette)
        if fresh:
            self.frame_all(glide=False)
        self._ask()

    @property
    def is_current(self) -> bool:
        """Whether the picture shows the newest request, standing still."""
        at_rest = not self._moving and not self._glide_timer.isActive() and not self._still.isActive()
        whole = self._frame is not None and self._frame.owners is not None
        return self._started and at_rest and whole and self._shown_number == self._number

    def look(self, view: str) -> None:
        """Glides to a named view of all."""
        _, heading, elevation = NAMED[view]
        self.glide_to(self._heading_for.looking(heading, elevation).framing(self._subject(), *self._size()))

    def frame_all(self, *, glide: bool = True) -> None:
        wanted = self._heading_for.framing(self._subject(), *self._size())
        if glide:
            self.glide_to(wanted)
        else:
            self._fit_when_sized = not self._started
            self._set_camera(wanted)

    def frame_selection(self) -> None:
        boxes = [item.box for item in self.scene.items if item.selected]
        if boxes:
            low = np.min([box.low for box in boxes], axis=0)
            self.glide_to(self._heading_for.framing(Box(low, np.max([box.high for box in boxes], axis=0)), *self._size()))

    def fly_to(self, place: Floats, outward: Floats, span: float) -> None:
        """Glides to a close look at a place from a side where it can be seen."""
        heading = float(np.degrees(np.arctan2(outward[0], -outward[1])))
        level = float(np.hypot(outward[0], outward[1]))
        if level < 0.2:
            heading = self.camera.heading
        elevation = float(np.clip(np.degrees(np.arctan2(outward[2], max(level, 1e-9))), -80, 80))
        self.glide_to(replace(self._heading_for.looking(heading, elevation), target=place, span=span))

    def swap_projection(self) -> None:
        self._set_camera(replace(self.camera, parallel=not self.camera.parallel))

    def turn_by(self, heading: float, elevation: float) -> None:
        self.glide_to(self._heading_for.turned(self._pivot_without_pointer(), heading, elevation))

    def zoom_by(self, factor: float) -> None:
        self.glide_to(self._heading_for.zoomed(factor, self._pivot_without_pointer()))

    @property
    def _heading_for(self) -> Camera:
        """The view on whose way the bench is, so that a second key stroke builds on the first without waiting for it."""
        return self.camera if self._glide is None else self._glide[1]

    def glide_to(self, camera: Camera) -> None:
        self._glide = (self.camera, camera, time.monotonic())
        self._glide_timer.start()
        self._moving = True

    def point_at(self, place: QPointF) -> Floats | None:
        """The surface point (3,) mm under a pixel of the newest picture, or None."""
        found = self._sample(place)
        return None if found is None else found[0]

    def to_widget(self, point: Floats) -> QPointF:
        """Where a point of the bench lies in the widget."""
        x, y, _ = self.camera.to_picture(np.asarray(point, dtype=float)[None], *self._size())[0]
        return QPointF(float(x), float(y))

    # --- drawing ---------------------------------------------------------------------------------------------------

    def _size(self) -> tuple[int, int]:
        return max(self.width(), 1), max(self.height(), 1)

    def _subject(self) -> Box:
        """What Home brings into view: the parts, and of the bed what lies round them; the machine where there are none."""
        parts = self.scene.parts_box
        return parts if parts is not None else self.scene.machine.envelope.box

    def _set_camera(self, camera: Camera) -> None:
        self.camera = camera
        self.dial.show_camera(camera, self._palette)
        self._ask()
        self.camera_changed.emit()

    def _ask(self) -> None:
        if not self._started:
            return
        ratio = self.devicePixelRatioF()
        width, height = (max(int(side * ratio), 1) for side in self._size())
        self._number += 1
        self._renderer.ask(Request(self.scene, self.camera, width, height, self._moving, self._number))

    def _show_frame(self, frame: Frame) -> None:
        height, width = frame.pixels.shape[:2]
        self._frame = frame
        self._image = QImage(frame.pixels.data, width, height, width * 4, QImage.Format.Format_RGBX8888)
        self._image.setDevicePixelRatio(self.devicePixelRatioF())
        self.frames_drawn += 1
        self._shown_number = max(self._shown_number, frame.request.number)
        self.update()

    def _begin_moving(self) -> None:
        self._moving = True
        self._still.start()

    def _come_to_rest(self) -> None:
        if self._drag is not None and self._drag.moved:
            self._still.start()
            return
        self._moving = False
        self._ask()

    def _glide_step(self) -> None:
        if self._glide is None:
            self._glide_timer.stop()
            return
        start, end, since = self._glide
        share = min((time.monotonic() - since) * 1000 / _GLIDE_MS, 1.0)
        if share >= 1.0:
            self._glide = None
            self._glide_timer.stop()
            self._moving = False
            self._set_camera(end)
            return
        self._set_camera(start.between(end, share * share * (3 - 2 * share)))

    def _swing(self, heading: float | None, elevation: float | None) -> None:
        wanted = self.camera.looking(
            self.camera.heading if heading is None else heading, self.camera.elevation if elevation is None else elevation
        )
        if heading is not None and abs(self.camera.elevation) > 80:
            wanted = wanted.looking(wanted.heading, 0.0)
        pivot = self._pivot_without_pointer()
        self.glide_to(self.camera.turned(pivot, wanted.heading - self.camera.heading, wanted.elevation - self.camera.elevation))

    def _pivot_without_pointer(self) -> Floats:
        boxes = [item.box for item in self.scene.items if item.selected]
        if boxes:
            low = np.min([box.low for box in boxes], axis=0)
            return (low + np.max([box.high for box in boxes], axis=0)) / 2
        return self._subject().middle

    def _sample(self, place: QPointF) -> tuple[Floats, int] | None:
        """(point, index of the item or -1) at a pixel of the newest picture."""
        frame = self._frame
        if frame is None:
            return None
        height, width = frame.depth.shape
        x, y = int(place.x() * width / max(self.width(), 1)), int(place.y() * height / max(self.height(), 1))
        if not (0 <= x < width and 0 <= y < height):
            return None
        depth = frame.depth_at(x, y)
        if not np.isfinite(depth):
            return None
        owner = -1 if frame.owners is None else int(frame.owners[y, x])
        return frame.request.camera.from_picture(x + 0.5, y + 0.5, depth, width, height), owner

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self._image is None:
            painter.fillRect(self.rect(), self._palette.colour("ground"))
        else:
            painter.drawImage(QRectF(self.rect()), self._image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        camera, size = self.camera, self._size()
        overlays.ruler_numbers(painter, camera, size, self.scene.machine, self._palette, self._hides)
        self._draw_flags(painter)
        overlays.view_name(painter, camera, self._palette)
        overlays.scale_bar(painter, camera, size, self._palette)
        scale = next((item.scale for item in self.scene.items if item.scale is not None), None)
        if scale is not None:
            overlays.legend(painter, size, scale, self._palette)
        if self._drag is not None and self._drag.moved and self._drag.gesture == "turn":
            middle = self.to_widget(self._drag.pivot)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(self._palette.colour("accent"), 2))
            painter.drawEllipse(middle, 9, 9)
        parts = self.scene.parts_box
        if parts is not None:
            overlays.nothing_in_view(painter, camera, size, parts, self._palette)

    def _hides(self, x: float, y: float, depth: float) -> bool:
        """Whether something of the newest picture stands before a place."""
        frame = self._frame
        if frame is None:
            return False
        height, width = frame.depth.shape
        column, row = int(x * width / max(self.width(), 1)), int(y * height / max(self.height(), 1))
        return 0 <= column < width and 0 <= row < height and frame.depth_at(column, row) < depth * 0.995

    def _draw_flags(self, painter: QPainter) -> None:
        painter.setFont(type_of(11, strong=True))
        width, height = self._size()
        for flag in sorted(self.flags, key=lambda flag: flag.chosen):
            at = self.to_widget(np.array(flag.place))
            if not (np.isfinite(at.x()) and -200 < at.x() < width + 200 and -200 < at.y() < height + 200):
                continue
            colour = self._palette.verdict(flag.verdict)
            words = f"{flag.number}  {flag.words}" if flag.chosen else str(flag.number)
            size = painter.fontMetrics().boundingRect(words)
            tag = QRectF(at.x() + 16, at.y() - 34, size.width() + 14, 20)
            painter.setPen(QPen(colour, 1.5))
            painter.drawLine(at, QPointF(tag.left(), tag.center().y()))
            painter.setBrush(colour)
            painter.drawEllipse(at, 3, 3)
            # A tag with one slanted end, like a label on a wire.
            shape = QPolygonF([tag.topLeft(), tag.topRight(), tag.bottomRight(), tag.bottomLeft() + QPointF(6, 0)])
            painter.setPen(QPen(QColor(self._palette.panel), 1))
            painter.setBrush(colour if flag.chosen else self._palette.colour("panel"))
            painter.drawPolygon(shape)
            painter.setPen(self._palette.colour("panel") if flag.chosen else colour)
            painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, words)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.dial.move(self.width() - self.dial.width() - 12, 12)
        if self._fit_when_sized:
            self.camera = self.camera.framing(self._subject(), *self._size())
            self.dial.show_camera(self.camera, self._palette)
        self._ask()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.stop_drawing()

    # --- gestures --------------------------------------------------------------------------------------------------

    def _gesture_of(self, button: Qt.MouseButton) -> str:
        """Right-drag turns, middle slides; the left button picks."""
        return {Qt.MouseButton.RightButton: "turn", Qt.MouseButton.MiddleButton: "slide"}.get(button, "pick")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        self._glide_timer.stop()
        self._glide = None
        place = event.position()
        found = self.point_at(place)
        pivot = found if found is not None else self._pivot_without_pointer()
        self._drag = _Drag(self._gesture_of(event.button()), place, place, pivot)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        place = event.position()
        drag = self._drag
        if drag is None:
            self._hover(place)
            return
        if not drag.moved and (place - drag.start).manhattanLength() > GESTURE_AFTER:
            drag.moved = True
        step = place - drag.last
        drag.last = place
        if not drag.moved or drag.gesture == "pick":
            return
        self._begin_moving()
        if drag.gesture == "turn":
            turned = self.camera.turned(drag.pivot, -step.x() * _DEGREES_PER_PIXEL, step.y() * _DEGREES_PER_PIXEL)
            self._set_camera(turned)
        else:
            mm = self.camera.span / max(self.height(), 1)
            if not self.camera.parallel:
                depth = float(self.camera.to_picture(drag.pivot[None], *self._size())[0, 2])
                mm *= max(depth, 1e-6) / self.camera.distance
            self._set_camera(self.camera.slid(-step.x() * mm, step.y() * mm))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        drag, self._drag = self._drag, None
        if drag is None or event is None:
            return
        if drag.moved:
            self._still.start()
            self.update()
            return
        if drag.gesture == "pick":
            found = self._sample(event.position())
            owner = None
            if found is not None and 0 <= found[1] < len(self.scene.items):
                owner = self.scene.items[found[1]].owner
            self.picked.emit(owner, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
        elif drag.gesture == "turn":
            self.card_wanted.emit(event.position().toPoint())

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        steps = event.angleDelta().y() / 120.0
        if not steps:
            return
        found = self.point_at(event.position())
        at = found if found is not None else self._on_target_plane(event.position())
        self._glide_timer.stop()
        self._glide = None
        self._begin_moving()
        self._set_camera(self.camera.zoomed(_WHEEL_STEP**-steps, at))
        event.accept()

    def _on_target_plane(self, place: QPointF) -> Floats:
        return self.camera.from_picture(place.x(), place.y(), self.camera.distance, *self._size())

    def _hover(self, place: QPointF) -> None:
        self._pointer = place
        found = self._sample(place)
        if found is None:
            self.pointed.emit(None, "")
            return
        point, owner = found
        name = self.scene.items[owner].name if 0 <= owner < len(self.scene.items) else ""
        self.pointed.emit(point, name)

    def leaveEvent(self, event: QEvent | None) -> None:
        self.pointed.emit(None, "")

    # --- dropping --------------------------------------------------------------------------------------------------

    def dragEnterEvent(self, event: object) -> None:
        overlays.accept_files(event)

    def dropEvent(self, event: object) -> None:
        self.files_dropped.emit(overlays.dropped_files(event))
