"""The bench: pictures from the drawing thread in one pane or four, painted with overlays; Qt's events handed to the hand."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from PyQt6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QCloseEvent,
    QContextMenuEvent,
    QFocusEvent,
    QImage,
    QMouseEvent,
    QNativeGestureEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QTabletEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from gullyrise.core.geometry import Box, Floats
from gullyrise.core.machines import Machine
from gullyrise.desktop.bench import marks, overlays, picking
from gullyrise.desktop.bench.camera import NAMED, Camera
from gullyrise.desktop.bench.display import PLAIN, Display
from gullyrise.desktop.bench.marks import Flag
from gullyrise.desktop.bench.panes import FREE, Pane, Panes
from gullyrise.desktop.bench.picking import Feature, Finder, Hit, Kind
from gullyrise.desktop.bench.pointer import events
from gullyrise.desktop.bench.pointer.hand import GESTURE_AFTER, Hand, Under
from gullyrise.desktop.bench.pointer.schemes import GESTURES
from gullyrise.desktop.bench.renderer import Frame, Renderer, Request
from gullyrise.desktop.bench.scene import CutPlane, Item, Scene
from gullyrise.desktop.instruments.bearing_dial import BearingDial, DialLook
from gullyrise.desktop.theme.palette import Palette

_STILL_AFTER_MS = 140
_LENS_RADIUS, _LENS_TIMES = 90, 4.0
_STROKES_MS = 3000


@dataclass(slots=True, eq=False)
class _Glide:
    """A way from one view to another in one pane."""

    pane: Pane
    start: Camera
    end: Camera
    since: float


class Bench(QWidget):
    """The 3-D view.

    pointed : (point or None, name) under the pointer;  picked : (key, Feature or None, whether to add)
    boxed : (keys or Features in a rectangle, whether to add);  card_wanted : (place, Hit or None) of a right click
    lamented : a sentence on a picture that failed;  keys_held : modifier keys, as they change
    """

    pointed = pyqtSignal(object, str)
    picked = pyqtSignal(object, bool)
    boxed = pyqtSignal(object, bool)
    card_wanted = pyqtSignal(QPoint, object)
    camera_changed = pyqtSignal()
    files_dropped = pyqtSignal(list)
    lamented = pyqtSignal(str)
    keys_held = pyqtSignal(object)
    _framed = pyqtSignal(object)

    def __init__(self, palette: Palette, machine: Machine) -> None:
        super().__init__()
        self.setObjectName("bench")
        self.setAccessibleName("Bench")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setTabletTracking(True)
        self.setAcceptDrops(True)
        self.setMinimumSize(240, 200)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._palette = palette
        self.scene = Scene((), machine, palette)
        self.finder = Finder(self.scene)
        self.panes = Panes(Camera(machine.envelope.box.middle * np.array([1, 1, 0.3])))
        self.hand = Hand(self)
        self.flags: list[Flag] = []
        self.features: tuple[Feature, ...] = ()
        self.kind: Kind = "body"
        self.touching = True
        self.glide_ms = 200
        self.frames_drawn = 0
        self._number = 0
        self._moving = False
        self._fit_when_sized = True
        self._glide: _Glide | None = None
        self._keys: frozenset[str] = frozenset()
        self._pointer: QPointF | None = None
        self._hovered: int | None = None
        self._hover_feature: Feature | None = None
        self._outlines: dict[str, tuple[object, QImage | None]] = {}
        self._lens: Pane | None = None
        self._last_click: tuple[float, float, Camera, list[tuple[int, int] | Feature], int] | None = None
        self._strokes: list[str] = []
        self._glide_timer = self._timer(16, self._glide_step)
        self._still = self._timer(_STILL_AFTER_MS, self._come_to_rest, once=True)
        self._strokes_end = self._timer(_STROKES_MS, self._forget_strokes, once=True)
        self.dial = BearingDial(palette, self)
        self.dial.swung.connect(self.swing)
        self.dial.dragged.connect(lambda heading, elevation: self.swing(heading, elevation, glide=False))
        self._framed.connect(self._show_frame)
        self._renderer = Renderer(self._framed.emit, self.lamented.emit)
        self._started = False

    def _timer(self, ms: int, call: Callable[[], None], *, once: bool = False) -> QTimer:
        timer = QTimer(self)
        timer.setSingleShot(once)
        timer.setInterval(ms)
        timer.timeout.connect(call)
        return timer

    # --- what others ask for ---------------------------------------------------------------------------------------

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

    def show_scene(
        self,
        items: tuple[Item, ...],
        machine: Machine,
        palette: Palette,
        cut: CutPlane | None,
        *,
        out: bool,
        display: Display = PLAIN,
    ) -> None:
        """Draws these items on that machine."""
        # Hiding and showing must not move the view; other parts or another machine must.
        fresh = machine is not self.scene.machine or {i.owner for i in items} - {i.owner for i in self.scene.items} != set()
        first = not self.scene.items
        old = self.scene
        same = (items is old.items, machine is old.machine, palette is old.palette, cut is old.cut, out == old.out_of_room)
        if all(same) and display == old.display:
            # Flags and chosen features are painted over the picture, which itself is as it was.
            self.update()
            return
        self._palette = palette
        self.scene = Scene(items, machine, palette, cut, out, display)
        self.finder = Finder(self.scene)
        self._hovered = None
        self.dial.show_camera(self.camera, palette)
        if fresh and (first or not self._still_sees_all(items)):
            self.frame_all(glide=False)
        self._ask_all()

    def _still_sees_all(self, items: tuple[Item, ...]) -> bool:
        size = self.panes.active.size()
        for item in items:
            seen = self.camera.to_picture(item.box.corners(), *size)
            inside = (seen[:, :2] > 0).all(axis=1) & (seen[:, 0] < size[0]) & (seen[:, 1] < size[1])
            if not bool(np.isfinite(seen[:, 0]).all() and inside.all()):
                return False
        return True

    @property
    def camera(self) -> Camera:
        """The view of the active pane."""
        return self.panes.active.camera

    @camera.setter
    def camera(self, camera: Camera) -> None:
        self.panes.active.camera = camera

    @property
    def is_current(self) -> bool:
        """Whether every pane shows the newest request, standing still."""
        at_rest = not self._moving and self._glide is None and not self._still.isActive()
        whole = all(
            pane.frame is not None and pane.frame.owners is not None and pane.shown == pane.asked for pane in self.panes.shown
        )
        lens = self._lens is None or self._lens.shown == self._lens.asked
        return self._started and at_rest and whole and lens

    def look(self, view: str) -> None:
        """Glides to a named view of all."""
        _, heading, elevation = NAMED[view]
        self.glide_to(self.on_the_way.looking(heading, elevation, 0.0).framing(self._subject(), *self.view_size()))

    def frame_all(self, *, glide: bool = True) -> None:
        """Everything in view, looked at from where it was; upright again where the vertical is to be upright."""

        def home(camera: Camera, size: tuple[int, int]) -> Camera:
            levelled = replace(camera, roll=0.0) if self.hand.habits.upright else camera
            return levelled.framing(self._subject(), *size)

        if glide:
            self.glide_to(home(self.on_the_way, self.view_size()))
            return
        self._fit_when_sized = not self._started
        for pane in self.panes.shown:
            self._set_camera(home(pane.camera, pane.size()), pane)

    def frame_selection(self) -> None:
        box = self._selected_box()
        if box is not None:
            self.glide_to(self.on_the_way.framing(box, *self.view_size()))

    def fly_to(self, place: Floats, outward: Floats, span: float) -> None:
        """Glides to a close look at a place from a side where it can be seen."""
        heading, elevation = self._bearing_of(outward)
        elevation = float(np.clip(elevation, -80, 80))
        self.glide_to(replace(self.on_the_way.looking(heading, elevation, 0.0), target=place, span=span))

    def look_straight(self, place: Floats, outward: Floats) -> None:
        """Glides to look straight at a face, with the place in the middle."""
        heading, elevation = self._bearing_of(outward)
        camera = self.on_the_way.looking(heading, elevation, 0.0)
        depth = float(self.on_the_way.to_picture(place[None], *self.view_size())[0, 2])
        span = camera.span if camera.parallel else camera.span * max(depth, 1e-6) / camera.distance
        self.glide_to(replace(camera, target=place, span=span))

    def _bearing_of(self, outward: Floats) -> tuple[float, float]:
        level = float(np.hypot(outward[0], outward[1]))
        heading = float(np.degrees(np.arctan2(outward[0], -outward[1]))) if level > 0.02 else self.camera.heading
        return heading, float(np.degrees(np.arctan2(outward[2], level)))

    def swap_projection(self) -> None:
        self._set_camera(replace(self.on_the_way, parallel=not self.camera.parallel))

    def change_field(self, degrees: float) -> None:
        self._set_camera(replace(self.on_the_way, parallel=False).with_field(degrees))

    def draw_out(self, stretch: tuple[float, float, float]) -> None:
        """Stretches the picture; what was in the middle stays there."""
        for pane in (*self.panes.flat, self.panes.free):
            pane.camera = pane.camera.drawn_out(stretch)
        self._set_camera(self.camera)
        self._ask_all()

    def turn_by(self, heading: float, elevation: float) -> None:
        camera = self.on_the_way
        if self.hand.habits.upright:
            self.glide_to(camera.turned(self.still_pivot(), heading, elevation))
        else:
            self.glide_to(camera.turned_freely(self.still_pivot(), heading, elevation))

    def roll_by(self, degrees: float) -> None:
        self.glide_to(self.on_the_way.rolled(self.still_pivot(), degrees, upright=self.hand.habits.upright))

    def slide_by(self, right: float, up: float) -> None:
        """Slides by shares of the picture's height."""
        span = self.on_the_way.span
        self.glide_to(self.on_the_way.slid(right * span, up * span))

    def zoom_by(self, factor: float) -> None:
        self.glide_to(self.on_the_way.zoomed(factor, self.still_pivot()))

    def centre_pointer(self) -> None:
        """Brings what is under the pointer to the middle."""
        hit = self.hit_under_pointer()
        place = hit.point if hit is not None else self._bed_under_pointer()
        if place is not None:
            self.glide_to(replace(self.on_the_way, target=place))

    def go(self, *, back: bool) -> None:
        """To the view before, or after."""
        trail = self.panes.active.trail
        if self._glide is None:
            trail.rest(self.camera)
        found = trail.back() if back else trail.forward()
        if found is not None:
            self.glide_to(found, keep=False)

    def set_four(self, four: bool) -> None:
        self.panes.set_four(four, self._subject())
        self._lay_out()
        if four:
            for pane in self.panes.flat:
                pane.camera = pane.camera.drawn_out(self.camera.stretch).framing(self._subject(), *pane.size())
        self.dial.show_camera(self.camera, self._palette)
        self._ask_all()

    def enlarge(self) -> None:
        self.panes.enlarge()
        self._lay_out()
        self._ask_all()

    @property
    def on_the_way(self) -> Camera:
        """The view to which the bench is on its way, so that a second key stroke builds on the first without waiting."""
        return self.camera if self._glide is None else self._glide.end

    def glide_to(self, camera: Camera, *, keep: bool = True) -> None:
        """keep : the view that is left can be gone back to."""
        if keep and self._glide is None:
            self.panes.active.trail.rest(self.camera)
        if self.glide_ms <= 0:
            self._glide = None
            self._set_camera(camera)
            self._still.start()
            return
        self._glide = _Glide(self.panes.active, self.camera, camera, time.monotonic())
        self._glide_timer.start()
        self._moving = True

    def note_stroke(self, words: str) -> None:
        """A stroke to show to those who watch, where that is wanted."""
        if self.scene.display.strokes:
            if not self._strokes or self._strokes[-1] != words:
                self._strokes = [*self._strokes[-3:], words]
            self._strokes_end.start()
            self.update()

    def _forget_strokes(self) -> None:
        self._strokes = []
        self.update()

    # --- what is where ---------------------------------------------------------------------------------------------

    def view_size(self) -> tuple[int, int]:
        return self.panes.active.size()

    def parts_size(self) -> float:
        return self._subject().diagonal

    def under(self, x: float, y: float) -> Under | None:
        """What a place of the active pane shows: of the parts exactly, by ray; of the rest by the picture."""
        hit = self._hit(x, y)
        if hit is not None:
            prepared = self.scene.items[hit.item].prepared
            size = float(np.linalg.norm(prepared.blocks.high.max(axis=0) - prepared.blocks.low.min(axis=0))) if prepared else 1.0
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

    # --- drawing ---------------------------------------------------------------------------------------------------

    def put_camera(self, camera: Camera) -> None:
        """The hand moved the view."""
        self._begin_moving()
        self._set_camera(camera)

    def _set_camera(self, camera: Camera, pane: Pane | None = None) -> None:
        target = pane or self.panes.active
        target.camera = camera
        self.dial.show_camera(self.camera, self._palette)
        self._ask(target)
        self.camera_changed.emit()

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
        moving = self._moving and pane is self.panes.active
        self._renderer.ask(Request(self.scene, pane.camera, width, height, moving, self._number, pane.name))

    def _show_frame(self, frame: Frame) -> None:
        self.frames_drawn += 1
        pane = self._lens if frame.request.pane == "lens" else next(
            (one for one in (*self.panes.flat, self.panes.free) if one.name == frame.request.pane), None
        )  # fmt: skip
        if pane is not None:
            pane.show(frame, self.devicePixelRatioF())
            self.update()

    def _begin_moving(self) -> None:
        self._glide = None
        self._glide_timer.stop()
        if not self._moving:
            self.panes.active.trail.rest(self.camera)
        self._moving = True
        self._still.start()

    def _come_to_rest(self) -> None:
        if self.hand.stroke is not None and self.hand.stroke.moved:
            self._still.start()
            return
        self._moving = False
        self.panes.active.trail.rest(self.camera)
        self._ask(self.panes.active)

    def _glide_step(self) -> None:
        glide = self._glide
        if glide is None:
            self._glide_timer.stop()
            return
        share = min((time.monotonic() - glide.since) * 1000 / self.glide_ms, 1.0)
        if share >= 1.0:
            self._glide = None
            self._glide_timer.stop()
            self._moving = False
            self._set_camera(glide.end, glide.pane)
            glide.pane.trail.rest(glide.end)
            return
        self._set_camera(glide.start.between(glide.end, share * share * (3 - 2 * share)), glide.pane)

    def swing(self, heading: float | None, elevation: float | None, *, glide: bool = True) -> None:
        """Turns to a bearing; None leaves that part of it. A drag does not glide."""
        start = self.on_the_way if glide else self.camera
        to_heading = start.heading if heading is None else heading
        to_elevation = start.elevation if elevation is None else elevation
        if glide and heading is not None and elevation is None and abs(start.elevation) > 80:
            to_elevation = 0.0
        wanted = start.about(self.still_pivot(), start.looking(to_heading, to_elevation, 0.0))
        if glide:
            self.glide_to(wanted)
        else:
            self.put_camera(wanted)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if len(self.panes.shown) > 1:
            painter.fillRect(self.rect(), self._palette.colour("line"))
        for pane in self.panes.shown:
            painter.save()
            painter.setClipRect(pane.rect)
            painter.translate(QPointF(pane.rect.topLeft()))
            self._paint_pane(painter, pane)
            painter.restore()
        self._paint_lens(painter)
        marks.strokes(painter, (self.width(), self.height()), self._strokes, self._palette)

    def _paint_pane(self, painter: QPainter, pane: Pane) -> None:
        camera, size, palette, display = pane.camera, pane.size(), self._palette, self.scene.display
        area = QRectF(0, 0, *size)
        if pane.image is None:
            painter.fillRect(area, palette.colour("ground"))
        else:
            painter.drawImage(area, pane.image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_outlines(painter, pane)
        for item in self.scene.items:
            for chosen in self.features:
                if chosen.key == item.key:
                    marks.feature(painter, camera, size, picking.feature_lines(item, chosen), palette.colour("accent"), 3.0)
            if self._hover_feature is not None and self._hover_feature.key == item.key and pane is self.panes.active:
                lines = picking.feature_lines(item, self._hover_feature)
                marks.feature(painter, camera, size, lines, palette.colour("ink"), 1.6)
        if display.bed and display.rulers:
            overlays.ruler_numbers(painter, camera, size, self.scene.machine, palette, pane.hides)
        if display.axes:
            overlays.axis_letters(painter, camera, size, self.scene.machine, palette)
        marks.flags(painter, camera, size, self.flags, palette)
        overlays.view_name(painter, camera, palette)
        if display.scale_bar and camera.stretch == (1.0, 1.0, 1.0):
            overlays.scale_bar(painter, camera, size, palette)
        if camera.stretch != (1.0, 1.0, 1.0):
            axis = int(np.argmax(camera.stretch))
            overlays.badge(
                painter, size, f"Picture stretched {camera.stretch[axis]:g} × along {'XYZ'[axis]}; numbers stay true", palette
            )
        scale = next((item.scale for item in self.scene.items if item.scale is not None), None)
        if scale is not None and pane.name == FREE:
            overlays.legend(painter, size, scale, palette)
        stroke = self.hand.stroke
        if stroke is not None and stroke.moved and pane is self.panes.active:
            if stroke.gesture in ("turn", "roll"):
                x, y, _ = camera.to_picture(stroke.pivot[None], *size)[0]
                if np.isfinite(x):
                    marks.pivot_ring(painter, QPointF(float(x), float(y)), palette)
            elif stroke.gesture in ("frame", "choose"):
                inside = "touching" if self.touching else "inside"
                words = "Zooms to this" if stroke.gesture == "frame" else f"Selects what is {inside}"
                marks.band(painter, *stroke.rectangle, words, palette)
        overlays.nothing_in_view(painter, camera, size, [item.box for item in self.scene.items], palette)
        if len(self.panes.shown) > 1 and pane is self.panes.active:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(palette.colour("accent"))
            painter.drawRect(area.adjusted(0.5, 0.5, -1.5, -1.5))

    def _paint_outlines(self, painter: QPainter, pane: Pane) -> None:
        """A rim in the accent round what is selected, a thin one in ink round what the pointer is on; in still pictures."""
        frame = pane.frame
        if frame is None or frame.owners is None or not pane.camera.same_view(frame.request.camera):
            return
        ratio = self.devicePixelRatioF()
        chosen = {number for number, item in enumerate(frame.request.scene.items) if item.selected}
        thin = self.scene.display.quiet
        wanted = [("chosen", chosen, "accent", max(1, round((1 if thin else 2) * ratio)))]
        if self._hovered is not None and pane is self.panes.active and frame.request.scene is self.scene:
            wanted.append(("hover", {self._hovered}, "ink", max(1, round(ratio))))
        for name, items, colour, width in wanted:
            made_of = (id(frame), frozenset(items), colour, width)
            place = f"{pane.name} {name}"
            if self._outlines.get(place, (None, None))[0] != made_of:
                self._outlines[place] = (made_of, marks.outline(frame, items, self._palette.colour(colour), width))
            image = self._outlines[place][1]
            if image is not None:
                marks.draw_outline(painter, image, ratio)

    def _paint_lens(self, painter: QPainter) -> None:
        if self._lens is not None and self._lens.image is not None and self._pointer is not None:
            marks.lens(painter, self._lens.image, self._pointer, _LENS_RADIUS, f"{_LENS_TIMES:g} ×", self._palette)

    # --- the magnifier ---------------------------------------------------------------------------------------------

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
        side = max(int(2 * _LENS_RADIUS * ratio), 1)
        # Of a window as high as the lens, the picture is so many times larger than in the pane.
        times = _LENS_TIMES * height / (2 * _LENS_RADIUS)
        centre = ((2 * x / width - 1) * width / height * times, (1 - 2 * y / height) * times, times)
        self._number += 1
        self._lens.asked = self._number
        self._renderer.ask(Request(self.scene, pane.camera, side, side, False, self._number, "lens", centre))

    # --- Qt's events -----------------------------------------------------------------------------------------------

    def _lay_out(self) -> None:
        self.panes.lay_out(self.width(), self.height())
        self.dial.settle(self.size(), self.panes.free.rect if len(self.panes.shown) > 1 else self.rect())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._lay_out()
        if self._fit_when_sized:
            self.camera = self.camera.framing(self._subject(), *self.view_size())
            self.dial.show_camera(self.camera, self._palette)
        self._ask_all()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.stop_drawing()

    def _at(self, place: QPointF) -> tuple[float, float]:
        """The place in its pane, which becomes the active one."""
        pane = self.panes.at(place)
        if pane is not self.panes.active and self._glide is None:
            self.panes.active = pane
            self.dial.show_camera(self.camera, self._palette)
            self.camera_changed.emit()
        self._pointer = place
        return self.panes.active.local(place)

    def hold_keys(self, keys: frozenset[str]) -> None:
        """Modifier keys, as the keyboard or the newest event says."""
        if keys != self._keys:
            self._keys = keys
            self.keys_held.emit(keys)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        self._glide = None
        self._glide_timer.stop()
        self.hand.press(
            "drag", events.buttons_of(event.buttons()), *self._at(event.position()), events.keys_of(event.modifiers())
        )

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self.hold_keys(events.keys_of(event.modifiers()))
        self._moved(event.position(), events.keys_of(event.modifiers()))

    def _moved(self, place: QPointF, keys: frozenset[str]) -> None:
        if self.hand.stroke is None:
            self._hover(place)
            return
        self._pointer = place
        if self.hand.move(*self.panes.active.local(place), keys):
            if self.hand.stroke.wanted is not None:
                self.note_stroke(f"{self.hand.stroke.wanted.words()} {GESTURES[self.hand.stroke.gesture]}")
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._released(event.position(), events.keys_of(event.modifiers()))

    def _released(self, place: QPointF, keys: frozenset[str]) -> None:
        moved = self.hand.stroke is not None and self.hand.stroke.moved
        self.hand.release(*self.panes.active.local(place), keys)
        if moved:
            self._still.start()
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.mousePressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """The right click has been answered; the keyboard's menu key is answered here."""
        if event is not None and event.reason() == QContextMenuEvent.Reason.Keyboard:
            self.card_wanted.emit(
                self.rect().center() if self._pointer is None else self._pointer.toPoint(), self.hit_under_pointer()
            )

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        place, keys = self._at(event.position()), events.keys_of(event.modifiers())
        scrolled = events.scroll_of(event)
        if scrolled is not None:
            self.hand.scroll(*scrolled, *place, keys)
        else:
            # With Alt held some platforms turn the wheel sideways.
            angle = event.angleDelta()
            steps = (angle.y() or angle.x()) / 120.0
            if self.hand.wheel(steps, *place, keys):
                self.note_stroke(" + ".join([*sorted(keys), "wheel"]))
        event.accept()

    def tabletEvent(self, event: QTabletEvent | None) -> None:
        """The pen, where the scheme has strokes for it; else Qt makes a mouse of it."""
        if event is None or not any(wanted.motion == "stroke" for _, wanted in self.hand.habits.scheme.bindings):
            if event is not None:
                event.ignore()
            return
        place, keys, buttons = event.position(), events.keys_of(event.modifiers()), events.buttons_of(event.buttons())
        event.accept()
        held = self.hand.stroke.buttons if self.hand.stroke is not None else frozenset[str]()
        if buttons and buttons > held:
            self._glide = None
            self._glide_timer.stop()
            self.hand.press("stroke", buttons, *self._at(place), keys)
        elif self.hand.stroke is not None and not held <= buttons:
            self._released(place, keys)
        else:
            self._moved(place, keys)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QNativeGestureEvent):
            place, keys = self._at(event.position()), events.keys_of(event.modifiers())
            if event.gestureType() == Qt.NativeGestureType.ZoomNativeGesture:
                self.hand.pinch(event.value(), *place, keys)
            elif event.gestureType() == Qt.NativeGestureType.RotateNativeGesture:
                self.hand.twist(event.value(), *place, keys)
            event.accept()
            return True
        return super().event(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.hold_lens(False)
        self.hold_keys(frozenset())
        super().focusOutEvent(event)

    def leaveEvent(self, event: QEvent | None) -> None:
        self._hovered, self._hover_feature = None, None
        self._pointer = None
        self.pointed.emit(None, "")
        self.update()

    # --- what the hand asks for ------------------------------------------------------------------------------------

    def clicked(self, button: str, x: float, y: float, keys: frozenset[str]) -> None:
        if button == "left":
            self.picked.emit(self._next_behind(x, y), "ctrl" in keys)
        elif button == "right":
            place = QPoint(int(x) + self.panes.active.rect.x(), int(y) + self.panes.active.rect.y())
            self.card_wanted.emit(place, self._hit(x, y))

    def _next_behind(self, x: float, y: float) -> tuple[int, int] | Feature | None:
        """What a click takes: the foremost thing there is; clicked again at the same place, the one behind it."""
        found: list[tuple[int, int] | Feature] = []
        for hit in self.hits(x, y):
            one = self.scene.items[hit.item].key if self.kind == "body" else self._feature(hit)
            if one is not None and one not in found:
                found.append(one)
        again = self._last_click
        same = (
            again is not None
            and abs(again[0] - x) + abs(again[1] - y) <= GESTURE_AFTER
            and again[2].same_view(self.camera)
            and again[3] == found
        )
        turn = again[4] + 1 if same and again is not None and found else 0
        self._last_click = (x, y, self.camera, found, turn)
        return found[turn % len(found)] if found else None

    def set_kind(self, kind: Kind) -> None:
        """What clicks pick."""
        self.kind = kind
        self._hover_feature = None
        self.update()

    def wear_dial(self, look: DialLook) -> None:
        self.dial.wear_look(look)
        self._lay_out()

    def bare_grab(self) -> QImage:
        """What is painted here, without the controls that stand on it but for the dial."""
        picture = QImage(self.size() * self.devicePixelRatioF(), QImage.Format.Format_RGB32)
        picture.setDevicePixelRatio(self.devicePixelRatioF())
        self.render(picture, flags=QWidget.RenderFlag.DrawWindowBackground)
        if self.dial.isVisible():
            self.dial.render(picture, self.dial.pos(), flags=QWidget.RenderFlag(0))
        return picture

    @property
    def lens_held(self) -> bool:
        return self._lens is not None

    def _feature(self, hit: Hit) -> Feature | None:
        return picking.feature_at(self.scene.items[hit.item], hit, self.kind, self.camera, self.view_size())

    def framed(self, low: tuple[float, float], high: tuple[float, float]) -> None:
        """Zooms to a rectangle: what is at its middle keeps its distance."""
        x, y = (low[0] + high[0]) / 2, (low[1] + high[1]) / 2
        under = self.under(x, y)
        point = self.still_pivot() if under is None else under.point
        depth = float(self.camera.to_picture(point[None], *self.view_size())[0, 2])
        self.glide_to(self.camera.onto(low, high, depth, *self.view_size()))

    def chosen(self, low: tuple[float, float], high: tuple[float, float], keys: frozenset[str]) -> None:
        """Selects by rectangle, of the kind that clicks pick."""
        found: list[object] = []
        for item in self.scene.items:
            inside = picking.in_rectangle(
                item, self.kind, self.camera, self.view_size(), np.array(low), np.array(high), touching=self.touching
            )
            found += [item.key] if self.kind == "body" and inside else [Feature(self.kind, item.key, n) for n in inside]
        self.boxed.emit(found, "ctrl" in keys)
        self.update()

    def arm(self, gesture: str) -> None:
        """The next left drag frames or chooses, whatever the scheme."""
        self.hand.next_left = gesture
        self.setCursor(Qt.CursorShape.CrossCursor)

    def drop_tool(self) -> None:
        """Lets go of a rectangle; never moves the view."""
        self.hand.drop()
        self.unsetCursor()
        self.update()

    def _hover(self, place: QPointF) -> None:
        local = self._at(place)
        if self._lens is not None:
            self._ask_lens()
        if self._moving:
            # Naming waits until the picture stands: it must not slow the turning.
            return
        found = self.panes.active.depth_under(*local)
        number = found[1] if found is not None and 0 <= found[1] < len(self.scene.items) else None
        feature = None
        if number is not None and self.kind != "body":
            hit = self._hit(*local)
            feature = self._feature(hit) if hit is not None else None
        if number != self._hovered or feature != self._hover_feature:
            self._hovered, self._hover_feature = number, feature
            self.update()
        if found is None:
            self.pointed.emit(None, "")
        else:
            self.pointed.emit(found[0], self.scene.items[number].name if number is not None else "")

    # --- dropping --------------------------------------------------------------------------------------------------

    def dragEnterEvent(self, event: object) -> None:
        overlays.accept_files(event)

    def dropEvent(self, event: object) -> None:
        self.files_dropped.emit(overlays.dropped_files(event))


__all__ = ["GESTURE_AFTER", "Bench", "Flag"]
