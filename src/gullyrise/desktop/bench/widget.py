"""The bench as the hand meets it: Qt's events, and what they pick."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QCloseEvent,
    QContextMenuEvent,
    QDragEnterEvent,
    QDropEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QNativeGestureEvent,
    QPainter,
    QResizeEvent,
    QTabletEvent,
    QWheelEvent,
)

from gullyrise.core.machines import Machine
from gullyrise.desktop.bench import picking
from gullyrise.desktop.bench.painted_bench import PaintedBench
from gullyrise.desktop.bench.panes import Pane
from gullyrise.desktop.bench.picking import Feature, Hit, Kind
from gullyrise.desktop.bench.pointer import events
from gullyrise.desktop.bench.pointer.hand import GESTURE_AFTER
from gullyrise.desktop.bench.pointer.schemes import GESTURES
from gullyrise.desktop.bench.tool import Tool, Touch
from gullyrise.desktop.instruments.bearing_dial import DialLook
from gullyrise.desktop.widgets.file_drops import accept_files, dropped_files
from gullyrise.drawing.camera import Camera
from gullyrise.drawing.palette import Palette

_ONE_OF: dict[Kind, str] = {"body": "a part", "face": "a face", "edge": "an edge", "vertex": "a corner"}
_AT_ONCE = 100_000


class Bench(PaintedBench):
    """The 3-D view.

    click_changed : what a left click does now, in words; empty while the pointer is elsewhere
    pointed : (point or None, name) under the pointer;  picked : (key, Feature or None, whether to add)
    boxed : (keys or Features in a rectangle, whether to add);  card_wanted : (place, Hit or None) of a right click
    keys_held : modifier keys, as they change;  tool_dropped : a rectangle that was asked for is done or given up
    pressed : a button or the pen went down
    """

    pointed = pyqtSignal(object, str)
    click_changed = pyqtSignal(str)
    picked = pyqtSignal(object, bool)
    boxed = pyqtSignal(object, bool)
    card_wanted = pyqtSignal(QPoint, object)
    files_dropped = pyqtSignal(list)
    tool_dropped = pyqtSignal()
    pressed = pyqtSignal()
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
        self.kind: Kind = "body"
        self._keys: frozenset[str] = frozenset()
        self._armed = False
        self._tools: list[Tool] = []
        self._last_click: tuple[float, float, Camera, list[tuple[int, int] | Feature], int] | None = None

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._lay_out()
        if self._fit_when_sized:
            self.camera = self.camera.framing(self._subject(), *self.view_size())
            self.dial.show_camera(self.camera, self._palette)
        self._ask_all()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.stop_drawing()

    def paint_tray(self, painter: QPainter, pane: Pane) -> None:
        for tool in sorted(self._tools, key=lambda tool: tool.over):
            tool.paint(painter, pane)

    def add_tool(self, tool: Tool) -> None:
        """One more hand that is asked before the view is turned."""
        self._tools = sorted([*self._tools, tool], key=lambda tool: tool.order)

    @property
    def _held(self) -> Tool | None:
        """The tool that has something in the hand."""
        return next((tool for tool in self._tools if tool.holds), None)

    def stop_drawing(self) -> None:
        super().stop_drawing()
        self.aside.close()

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
        self._put_down()
        self._pressed("drag", event.position(), events.buttons_of(event.buttons()), events.keys_of(event.modifiers()))

    def _pressed(self, motion: str, place: QPointF, buttons: frozenset[str], keys: frozenset[str]) -> None:
        touch = Touch(motion, place, self._at(place), buttons, keys)
        if any(tool.press(touch) for tool in self._tools):
            return
        if self._held is not None:
            # A second button while something is carried: it stays in the hand, and the view may be turned meanwhile.
            buttons = buttons - {"left"}
        self.hand.press(motion, buttons, *touch.local, keys)

    def _put_down(self) -> None:
        """A stroke begins: the view stays where it is on its way."""
        if self._glide is not None:
            self._glide = None
            self._glide_timer.stop()
            self._still.start()
        self.pressed.emit()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self.hold_keys(events.keys_of(event.modifiers()))
        stroke = self.hand.stroke
        if stroke is not None and not stroke.buttons <= events.buttons_of(event.buttons()):
            # Let go where it was not heard: a view that goes on turning under a hand that only moves is a fright.
            self.hand.abandon()
            self._still.start()
            self.update()
        self._moved(event.position(), events.keys_of(event.modifiers()))

    def _moved(self, place: QPointF, keys: frozenset[str]) -> None:
        held = self._held
        if held is None and self.hand.stroke is None:
            self._hover(place)
            return
        self._pointer = place
        touch = Touch("drag", place, self.panes.active.local(place), keys=keys)
        if held is not None:
            held.move(touch)
            return
        if any(tool.move(touch) for tool in self._tools) or self.hand.stroke is None:
            return
        if self.hand.move(*self.panes.active.local(place), keys):
            if self.hand.stroke.wanted is not None:
                self.note_stroke(f"{self.hand.stroke.wanted.words()} {GESTURES[self.hand.stroke.gesture]}")
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._released(event.position(), events.keys_of(event.modifiers()))

    def _released(self, place: QPointF, keys: frozenset[str]) -> None:
        if any(tool.release() for tool in self._tools):
            self.hand.abandon()
            return
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
        if self._held is not None:
            held |= {"left"}
        if buttons and buttons > held:
            self._put_down()
            self._pressed("stroke", place, buttons, keys)
        elif (self.hand.stroke is not None or self._held is not None) and not held <= buttons:
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

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and not any(tool.type_key(event) for tool in self._tools):
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.hold_lens(False)
        self.hold_keys(frozenset())
        super().focusOutEvent(event)

    def leaveEvent(self, event: QEvent | None) -> None:
        self._hovered, self._hover_feature = None, None
        self._pointer = None
        for tool in self._tools:
            tool.leave()
        self.pointed.emit(None, "")
        self.click_changed.emit("")
        self.update()

    def clicked(self, button: str, x: float, y: float, keys: frozenset[str]) -> None:
        taker = self._taker
        if button == "left" and taker is not None:
            taker.click((x, y), add=bool({"ctrl", "shift"} & keys))
        elif button == "left":
            self.picked.emit(self._next_behind(x, y), "ctrl" in keys)
        elif button == "right":
            place = QPoint(int(x) + self.panes.active.rect.x(), int(y) + self.panes.active.rect.y())
            self.card_wanted.emit(place, self._hit(x, y))

    @property
    def _taker(self) -> Tool | None:
        """The tool that takes clicks now."""
        return next((tool for tool in self._tools if tool.takes_clicks), None)

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
            self.aside.ask(inside, tell)
        else:
            tell(inside())
        self.update()

    @property
    def is_current(self) -> bool:
        return super().is_current and not self.aside.busy

    def arm(self, gesture: str) -> None:
        """The next left drag frames or chooses, whatever the scheme."""
        self.hand.next_left = gesture
        self._armed = True
        self.setCursor(Qt.CursorShape.CrossCursor)

    def drop_tool(self) -> None:
        """Lets go of a rectangle, or puts back what is carried; never moves the view."""
        self.hand.drop()
        for tool in self._tools:
            tool.drop()
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
        # Each is told, so that what the pointer has left is no longer marked.
        for tool in self._tools:
            if tool.hover(local):
                self.update()
        found = self.panes.active.depth_under(*local)
        number = found[1] if found is not None and 0 <= found[1] < len(self.scene.items) else None
        feature = None
        taker = self._taker
        if taker is not None:
            taker.point(local)
        elif number is not None and self.kind != "body":
            hit = self._hit(*local)
            feature = self._feature(hit) if hit is not None else None
        if number != self._hovered or feature != self._hover_feature:
            self._hovered, self._hover_feature = number, feature
            self.update()
        name = self.scene.items[number].name if number is not None else ""
        self.pointed.emit(found[0] if found is not None else None, name)
        self.click_changed.emit(self._click_words(name, feature))

    def _click_words(self, name: str, feature: Feature | None) -> str:
        """What a left click does with this under the pointer."""
        if self.kind == "body":
            return f"left click selects {name}" if name else "left click picks a part; here it lets go of what is chosen"
        one = _ONE_OF[self.kind]
        return f"left click selects {one} of {name}" if feature is not None else f"left click picks {one}; none is here"

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        accept_files(event)

    def dropEvent(self, event: QDropEvent | None) -> None:
        self.files_dropped.emit(dropped_files(event))
