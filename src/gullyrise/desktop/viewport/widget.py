"""The view of the bench as the hand meets it: Qt's events, what they pick, and all that is painted."""

from __future__ import annotations

import time
from collections.abc import Callable

from PyQt6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QCloseEvent,
    QContextMenuEvent,
    QDragEnterEvent,
    QDropEvent,
    QFocusEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QNativeGestureEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QTabletEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from gullyrise.core.camera.camera import Camera
from gullyrise.core.geometry import Floats
from gullyrise.core.machines import Machine
from gullyrise.core.picking.feature import Kind
from gullyrise.desktop.pointer.schemes import GESTURES
from gullyrise.desktop.viewport.aim import Aim
from gullyrise.desktop.viewport.aside import Aside
from gullyrise.desktop.viewport.camera_moves import CameraMoves
from gullyrise.desktop.viewport.clicks import Clicks
from gullyrise.desktop.viewport.furniture import Captions, EvidenceMarks, OnBed
from gullyrise.desktop.viewport.magnifier import Magnifier
from gullyrise.desktop.viewport.overlay import Overlay
from gullyrise.desktop.viewport.panes import Panes
from gullyrise.desktop.viewport.pictures import Pictures
from gullyrise.desktop.viewport.pointer import events
from gullyrise.desktop.viewport.pointer.hand import Habits, Hand, Under
from gullyrise.desktop.viewport.selection_marks import HoverMarks, SelectionMarks
from gullyrise.desktop.viewport.stroke_marks import StrokeMarks, StrokeWords
from gullyrise.desktop.viewport.tool import Tool, Touch
from gullyrise.desktop.widgets.bearing_dial import BearingDial, DialLook
from gullyrise.desktop.widgets.file_drops import accept_files, dropped_files
from gullyrise.desktop.widgets.pieces import named
from gullyrise.desktop.widgets.timers import once
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.scene import Scene

_LOOK_EVERY_MS, _MOST_WAITED_S = 20, 20.0

_BARS = 110
"""px at the left that bars take."""


class Viewport(QWidget):
    """pictures : of the panes;  aim : what is where in them;  moves : where they look from;  hand : strokes of the pointer;
    selection, evidence : what is marked over them

    camera_changed : the active pane looks from elsewhere
    click_changed : what a left click takes now, in words, empty for nothing; None while the pointer is elsewhere
    pointed : (point or None, name) under the pointer;  picked : (key, Feature or None, whether to add)
    boxed : (keys or Features in a rectangle, whether to add);  card_wanted : (place, Hit or None) of a right click
    keys_held : modifier keys, as they change;  tool_dropped : a rectangle that was asked for is done or given up
    pressed : a button or the pen went down
    """

    camera_changed = pyqtSignal()
    pointed = pyqtSignal(object, str)
    click_changed = pyqtSignal(object)
    picked = pyqtSignal(object, bool)
    boxed = pyqtSignal(object, bool)
    card_wanted = pyqtSignal(QPoint, object)
    files_dropped = pyqtSignal(list)
    tool_dropped = pyqtSignal()
    pressed = pyqtSignal()
    keys_held = pyqtSignal(object)

    def __init__(self, palette: Palette, machine: Machine) -> None:
        super().__init__()
        named(self, "bench", "Bench")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setTabletTracking(True)
        self.setAcceptDrops(True)
        self.setMinimumSize(240, 200)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.pictures = Pictures(self, Scene((), machine, palette))
        self.aim = Aim(self.pictures)
        self.clicks = Clicks(self.pictures, self.aim)
        self.hand = Hand(self)
        self.moves = CameraMoves(self.pictures, self.aim, lambda: self.hand.stroke is not None and self.hand.stroke.moved)
        self.magnifier = Magnifier(self, self.pictures, self.aim)
        self.aside = Aside(self)
        self.dial = BearingDial(palette, self)
        self.selection = SelectionMarks(self.pictures, self.aside.ask, self.update)
        self.hover = HoverMarks(self.pictures, self.selection)
        self.evidence = EvidenceMarks(self.pictures, self.update)
        self.strokes = StrokeMarks(self.pictures, self.hand)
        self.stroke_words = StrokeWords(self, self.pictures, self.update)
        self._overlays: list[Overlay | Tool] = []
        self._covered = QRect()
        self.captions = Captions(self.pictures)
        for overlay in (self.selection, self.hover, OnBed(self.pictures), self.evidence, self.captions, self.strokes):
            self.add_overlay(overlay)
        self._tools: list[Tool] = []
        self._keys: frozenset[str] = frozenset()
        self._armed = False
        self._met: set[int] = set()
        self._waiting: list[tuple[float, Callable[[], None]]] = []
        self._wait_timer = once(self, _LOOK_EVERY_MS, self._call_waiting)
        self.pictures.came.connect(self.update)
        self.moves.changed.connect(self._show_bearing)
        self.moves.changed.connect(self.camera_changed)
        self.dial.swung.connect(self.moves.swing)
        self.dial.dragged.connect(lambda heading, elevation: self.moves.swing(heading, elevation, glide=False))

    # --- what is shown ---------------------------------------------------------------------------------------------

    @property
    def scene(self) -> Scene:
        return self.pictures.scene

    @property
    def panes(self) -> Panes:
        return self.pictures.panes

    @property
    def camera(self) -> Camera:
        """The view of the active pane."""
        return self.panes.active.camera

    def view_size(self) -> tuple[int, int]:
        """px of the active pane."""
        return self.panes.active.size()

    def to_widget(self, point: Floats) -> QPointF:
        """Where a point of the bench lies in the widget, as the active pane shows it."""
        return self.panes.active.to_widget(point)

    def show_scene(self, scene: Scene) -> None:
        """Draws it. Where nothing is another, only what is painted over it is made anew."""
        old = self.scene
        if scene.same_as(old):
            self.update()
            return
        # Hiding and showing must not move the view; other parts or another machine must.
        owners = {item.owner for item in scene.items}
        fresh = scene.machine is not old.machine or not owners <= self._met
        self._met |= owners
        self.pictures.set_scene(scene)
        self.hover.show(None, None)
        self._show_bearing()
        if fresh and (not old.items or not self._still_sees_all()):
            self.moves.frame_all(glide=False)
        self._ask_all()

    def _still_sees_all(self) -> bool:
        width, height = self.view_size()
        seen = self.camera.to_picture(self.scene.corners.reshape(-1, 3), width, height)[:, :2]
        # What lies behind the eye is NaN, and so in no picture.
        return bool(((seen > 0) & (seen < (width, height))).all())

    def _show_bearing(self) -> None:
        self.dial.show_camera(self.camera, self.scene.palette)

    def _ask_all(self) -> None:
        self.pictures.ask_all()
        self.magnifier.ask()

    def set_four(self, four: bool) -> None:
        """Four panes, or one."""
        self.moves.arrive()
        self.panes.set_four(four)
        self._lay_out()
        if four:
            for pane in self.panes.flat:
                pane.look(pane.camera.drawn_out(self.camera.stretch).framing(self.scene.subject, *pane.size()))
        self._show_bearing()
        self._ask_all()

    def enlarge(self) -> None:
        """The active pane alone, or all four again."""
        self.panes.enlarge()
        self._lay_out()
        self._ask_all()

    def _lay_out(self) -> None:
        self.panes.lay_out(self.width(), self.height())
        pane = self.panes.free.rect if len(self.panes.shown) > 1 else self.rect()
        self.dial.settle(self.size(), pane)
        covered = self.dial.geometry().intersects(self._covered)
        # Beside what covers its corner, where there is room for it between that and the bar at the left.
        if covered and self._covered.left() - self.dial.width() > _BARS:
            self.dial.settle(self.size(), QRect(pane.topLeft(), QPoint(self._covered.left(), pane.bottom())))
            covered = False
        self.dial.stand_aside(covered)

    def keep_clear_of(self, covered: QRect) -> None:
        """What stands on the bench itself makes room for something that lies over it."""
        if covered != self._covered:
            self._covered = covered
            self._lay_out()

    def wear_dial(self, look: DialLook) -> None:
        self.dial.wear_look(look)
        self._lay_out()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._lay_out()
        self.moves.fit_to_size()
        self._ask_all()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.stop_drawing()

    def start_drawing(self) -> None:
        """Starts the drawing thread; called once the window has been painted."""
        self.pictures.start()

    def stop_drawing(self) -> None:
        self.pictures.stop()
        self.aside.close()

    @property
    def is_current(self) -> bool:
        """Whether every pane shows the newest request, standing still, and no question is open."""
        return self.moves.at_rest and self.pictures.current and not self.aside.busy

    def once_current(self, then: Callable[[], None]) -> None:
        """Calls back as soon as the newest picture stands, or after a while in any case: a picture that is kept shows the view
        that was asked for, and not the one before it."""
        self._waiting.append((time.monotonic(), then))
        self._call_waiting()

    @property
    def is_waited_for(self) -> bool:
        """Whether something is to be done as soon as the newest picture stands."""
        return bool(self._waiting)

    def _call_waiting(self) -> None:
        now = time.monotonic()
        while self._waiting and (self.is_current or now - self._waiting[0][0] > _MOST_WAITED_S):
            self._waiting.pop(0)[1]()
        if self._waiting:
            self._wait_timer.start()

    # --- painting --------------------------------------------------------------------------------------------------

    def add_overlay(self, overlay: Overlay | Tool) -> None:
        """One more thing that is painted over the pictures."""
        self._overlays = sorted([*self._overlays, overlay], key=lambda one: one.level)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with QPainter(self) as painter:
            self._paint(painter, self._overlays)
            self.magnifier.paint(painter, self.scene.palette)
            self.stroke_words.paint(painter, (self.width(), self.height()))

    def _paint(self, painter: QPainter, overlays: list[Overlay | Tool]) -> None:
        if len(self.panes.shown) > 1:
            painter.fillRect(self.rect(), self.scene.palette.colour("line"))
        for pane in self.panes.shown:
            painter.save()
            painter.setClipRect(pane.rect)
            painter.translate(QPointF(pane.rect.topLeft()))
            if pane.image is None:
                painter.fillRect(QRectF(0, 0, *pane.size()), self.scene.palette.colour("ground"))
            else:
                painter.drawImage(QRectF(0, 0, *pane.size()), pane.image)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            for overlay in overlays:
                overlay.paint(painter, pane)
            painter.restore()

    def bare_grab(self) -> QImage:
        """What is painted here for the record: without the controls that stand on it but for the dial, and without what only
        helps whoever sits before it."""
        picture = QImage(self.size() * self.devicePixelRatioF(), QImage.Format.Format_RGB32)
        picture.setDevicePixelRatio(self.devicePixelRatioF())
        with QPainter(picture) as painter:
            self._paint(painter, [overlay for overlay in self._overlays if not overlay.passing])
        if self.dial.isVisible():
            self.dial.render(picture, self.dial.pos(), flags=QWidget.RenderFlag(0))
        return picture

    # --- the hand --------------------------------------------------------------------------------------------------

    def prefer(self, habits: Habits, *, glide_ms: int, named_parallel: bool, touching: bool) -> None:
        """What the user chose. touching : whether a rectangle selects what it touches; else what lies inside"""
        self.hand.take_up(habits)
        self.moves.prefer(glide_ms=glide_ms, named_parallel=named_parallel, upright=habits.upright)
        self.strokes.select_touching(touching)

    def add_tool(self, tool: Tool) -> None:
        """One more hand that is asked before the view is turned."""
        self._tools = sorted([*self._tools, tool], key=lambda one: one.order)
        self.add_overlay(tool)

    @property
    def _held(self) -> Tool | None:
        """The tool that has something in the hand."""
        return next((tool for tool in self._tools if tool.holds), None)

    def under(self, x: float, y: float) -> Under | None:
        return self.aim.under((x, y))

    def still_pivot(self) -> Floats:
        return self.scene.pivot

    def parts_size(self) -> float:
        return self.scene.subject.diagonal

    def put_camera(self, camera: Camera) -> None:
        self.moves.put_camera(camera)

    def framed(self, low: tuple[float, float], high: tuple[float, float]) -> None:
        self.moves.frame_rectangle(low, high)

    def _at(self, place: QPointF) -> tuple[float, float]:
        """The place in its pane, which becomes the active one."""
        pane = self.panes.at(place)
        if pane is not self.panes.active and not self.moves.gliding:
            self.panes.activate(pane)
            self._show_bearing()
            self.camera_changed.emit()
        self.aim.point(place)
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
        self.moves.halt()
        self.pressed.emit()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self.hold_keys(events.keys_of(event.modifiers()))
        stroke = self.hand.stroke
        if stroke is not None and not stroke.buttons <= events.buttons_of(event.buttons()):
            # Let go where it was not heard: a view that goes on turning under a hand that only moves is a fright.
            self.hand.abandon()
            self.moves.rest_soon()
            self.update()
        self._moved(event.position(), events.keys_of(event.modifiers()))

    def _moved(self, place: QPointF, keys: frozenset[str]) -> None:
        held = self._held
        if held is None and self.hand.stroke is None:
            self._hover(place)
            return
        self.aim.point(place)
        touch = Touch("drag", place, self.panes.active.local(place), keys=keys)
        if held is not None:
            held.move(touch)
            return
        if any(tool.move(touch) for tool in self._tools) or self.hand.stroke is None:
            return
        if self.hand.move(*self.panes.active.local(place), keys):
            if self.hand.stroke.wanted is not None:
                self.stroke_words.note(f"{self.hand.stroke.wanted.words()} {GESTURES[self.hand.stroke.gesture]}")
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
            self.moves.rest_soon()
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.mousePressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """The right click has been answered; the keyboard's menu key is answered here."""
        if event is not None and event.reason() == QContextMenuEvent.Reason.Keyboard:
            self.card_wanted.emit(
                self.rect().center() if self.aim.pointer is None else self.aim.pointer.toPoint(), self.aim.hit_under_pointer()
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
                self.stroke_words.note(" + ".join([*sorted(keys), "wheel"]))
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
        self.magnifier.hold(False)
        self.hold_keys(frozenset())
        super().focusOutEvent(event)

    def leaveEvent(self, event: QEvent | None) -> None:
        self.hover.show(None, None)
        self.aim.point(None)
        for tool in self._tools:
            tool.leave()
        self.pointed.emit(None, "")
        self.click_changed.emit(None)
        self.update()

    def clicked(self, button: str, x: float, y: float, keys: frozenset[str]) -> None:
        taker = self._taker
        if button == "left" and taker is not None:
            taker.click((x, y), add=bool({"ctrl", "shift"} & keys))
        elif button == "left":
            self.picked.emit(self.clicks.next_behind(x, y), "ctrl" in keys)
        elif button == "right":
            place = QPoint(int(x) + self.panes.active.rect.x(), int(y) + self.panes.active.rect.y())
            self.card_wanted.emit(place, self.aim.hit((x, y)))

    @property
    def _taker(self) -> Tool | None:
        """The tool that takes clicks now."""
        return next((tool for tool in self._tools if tool.takes_clicks), None)

    def set_kind(self, kind: Kind) -> None:
        """What clicks pick."""
        self.clicks.take_kind(kind)
        self.hover.show(None, None)
        self.update()

    def chosen(self, low: tuple[float, float], high: tuple[float, float], keys: frozenset[str]) -> None:
        """Selects by rectangle, of the kind that clicks pick."""
        inside, long = self.clicks.in_rectangle(low, high, touching=self.strokes.touching)

        def tell(found: list[object]) -> None:
            self.boxed.emit(found, "ctrl" in keys)

        if long:
            self.aside.ask(inside, tell)
        else:
            tell(inside())
        self.update()

    def arm(self, gesture: str) -> None:
        """The next left drag frames or chooses, whatever the scheme."""
        self.hand.expect(gesture)
        self._armed = True
        self.setCursor(Qt.CursorShape.CrossCursor)

    @property
    def in_hand(self) -> bool:
        """Whether a tool is in the hand, or waits for clicks, that Esc lets go of."""
        return self._armed or any(tool.holds or tool.takes_clicks for tool in self._tools)

    def drop_tool(self) -> None:
        """Lets go of a rectangle, or puts back what is carried; never moves the view."""
        self.hand.drop()
        for tool in self._tools:
            tool.drop()
        self._armed = False
        self.unsetCursor()
        self.tool_dropped.emit()
        self.update()

    def point_at(self, place: QPointF) -> None:
        """As if the pointer were there."""
        self.aim.point(place)
        self._hover(place)
        self.update()

    def _hover(self, place: QPointF) -> None:
        local = self._at(place)
        self.magnifier.ask()
        if self.pictures.moving:
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
        elif number is not None and self.clicks.kind != "body":
            hit = self.aim.hit(local)
            feature = self.clicks.feature(hit) if hit is not None else None
        if self.hover.show(number, feature):
            self.update()
        name = self.scene.items[number].name if number is not None else ""
        self.pointed.emit(found[0] if found is not None else None, name)
        self.click_changed.emit(self.clicks.words(name, feature))

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        accept_files(event)

    def dropEvent(self, event: QDropEvent | None) -> None:
        self.files_dropped.emit(dropped_files(event))
