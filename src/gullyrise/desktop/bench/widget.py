"""The bench as the hand meets it: Qt's events, what they pick, and what is painted over the pictures."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, pyqtSignal
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

from gullyrise.core.machines import Machine
from gullyrise.desktop.bench import marks, overlays, picking
from gullyrise.desktop.bench.aside import Aside
from gullyrise.desktop.bench.camera import Camera
from gullyrise.desktop.bench.drawn_bench import LENS_RADIUS, LENS_TIMES
from gullyrise.desktop.bench.marks import Flag
from gullyrise.desktop.bench.panes import FREE, Pane
from gullyrise.desktop.bench.picking import Feature, FeatureLines, Hit, Kind
from gullyrise.desktop.bench.pointer import events
from gullyrise.desktop.bench.pointer.hand import GESTURE_AFTER
from gullyrise.desktop.bench.pointer.schemes import GESTURES
from gullyrise.desktop.bench.viewed_bench import ViewedBench
from gullyrise.desktop.instruments.bearing_dial import DialLook
from gullyrise.desktop.theme.palette import Palette

_STROKES_MS = 3000
MOST_MARKED = 200
"""Chosen faces, edges or corners that are drawn."""
_AT_ONCE = 100_000


class Bench(ViewedBench):
    """The 3-D view.

    pointed : (point or None, name) under the pointer;  picked : (key, Feature or None, whether to add)
    boxed : (keys or Features in a rectangle, whether to add);  card_wanted : (place, Hit or None) of a right click
    keys_held : modifier keys, as they change;  tool_dropped : a rectangle that was asked for is done or given up
    """

    pointed = pyqtSignal(object, str)
    picked = pyqtSignal(object, bool)
    boxed = pyqtSignal(object, bool)
    card_wanted = pyqtSignal(QPoint, object)
    files_dropped = pyqtSignal(list)
    tool_dropped = pyqtSignal()
    keys_held = pyqtSignal(object)

    def __init__(self, palette: Palette, machine: Machine) -> None:
        super().__init__(palette, machine)
        self.setObjectName("bench")
        self.setAccessibleName("Bench")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setTabletTracking(True)
        self.setAcceptDrops(True)
        self.setMinimumSize(240, 200)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.flags: list[Flag] = []
        self.features: tuple[Feature, ...] = ()
        self.kind: Kind = "body"
        self.touching = True
        self._keys: frozenset[str] = frozenset()
        self._armed = False
        self._hover_feature: Feature | None = None
        self._aside = Aside(self)
        self._lines = FeatureLines(self._aside.ask, self.update)
        self._outlines: dict[str, tuple[object, QImage | None]] = {}
        self._last_click: tuple[float, float, Camera, list[tuple[int, int] | Feature], int] | None = None
        self._strokes: list[str] = []
        self._strokes_end = self._timer(_STROKES_MS, self._forget_strokes, once=True)

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

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._lay_out()
        if self._fit_when_sized:
            self.camera = self.camera.framing(self._subject(), *self.view_size())
            self.dial.show_camera(self.camera, self._palette)
        self._ask_all()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.stop_drawing()

    def stop_drawing(self) -> None:
        super().stop_drawing()
        self._aside.close()

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
        if self._armed and self.hand.next_left is None:
            self.drop_tool()
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
        if not found and self.kind == "body" and not self.finder.whole:
            # Before a worker has made a body ready for rays, the picture says which it is.
            seen = self.panes.active.depth_under(x, y)
            if seen is not None and 0 <= seen[1] < len(self.scene.items):
                found.append(self.scene.items[seen[1]].key)
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
        scene, kind, camera, size, touching = self.scene, self.kind, self.camera, self.view_size(), self.touching

        def inside() -> list[object]:
            found: list[object] = []
            for item in scene.items:
                numbers = picking.in_rectangle(item, kind, camera, size, np.array(low), np.array(high), touching=touching)
                found += [item.key] if kind == "body" and numbers else [Feature(kind, item.key, n) for n in numbers]
            return found

        def tell(found: list[object]) -> None:
            self.boxed.emit(found, "ctrl" in keys)

        if sum(len(item.mesh.faces) for item in scene.items) > _AT_ONCE:
            self._aside.ask(inside, tell)
        else:
            tell(inside())
        self.update()

    @property
    def is_current(self) -> bool:
        return super().is_current and not self._aside.busy

    def arm(self, gesture: str) -> None:
        """The next left drag frames or chooses, whatever the scheme."""
        self.hand.next_left = gesture
        self._armed = True
        self.setCursor(Qt.CursorShape.CrossCursor)

    def drop_tool(self) -> None:
        """Lets go of a rectangle; never moves the view."""
        self.hand.drop()
        self._armed = False
        self.unsetCursor()
        self.tool_dropped.emit()
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

    def dragEnterEvent(self, event: object) -> None:
        overlays.accept_files(event)

    def dropEvent(self, event: object) -> None:
        self.files_dropped.emit(overlays.dropped_files(event))

    # --- painting --------------------------------------------------------------------------------------------------

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
            for chosen in self.features[:MOST_MARKED]:
                if chosen.key == item.key:
                    marks.feature(painter, camera, size, self._lines.of(item, chosen), palette.colour("accent"), 3.0)
            if self._hover_feature is not None and self._hover_feature.key == item.key and pane is self.panes.active:
                lines = self._lines.of(item, self._hover_feature)
                marks.feature(painter, camera, size, lines, palette.colour("ink"), 1.6)
        if display.bed and display.rulers:
            overlays.ruler_numbers(painter, camera, size, self.scene.machine, palette, pane.hides)
        if display.axes:
            overlays.axis_letters(painter, camera, size, self.scene.machine, palette)
        marks.flags(painter, camera, size, self.flags, palette)
        overlays.view_name(painter, camera, display, palette)
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
        overlays.nothing_in_view(painter, camera, size, self.scene.corners, palette)
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
            made_of = (frame.request.number, frozenset(items), self._palette.colour(colour).name(), width)
            place = f"{pane.name} {name}"
            if self._outlines.get(place, (None, None))[0] != made_of:
                self._outlines[place] = (made_of, marks.outline(frame, items, self._palette.colour(colour), width))
            image = self._outlines[place][1]
            if image is not None:
                marks.draw_outline(painter, image, ratio)

    def _paint_lens(self, painter: QPainter) -> None:
        if self._lens is not None and self._lens.image is not None and self._pointer is not None:
            marks.lens(painter, self._lens.image, self._pointer, LENS_RADIUS, f"{LENS_TIMES:g} ×", self._palette)
