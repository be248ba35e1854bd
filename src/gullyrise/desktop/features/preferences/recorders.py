"""Small fields that take a stroke by its being made: keys for an action, buttons and motions for a gesture."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence, QMouseEvent, QNativeGestureEvent, QTabletEvent, QWheelEvent
from PyQt6.QtWidgets import QLabel, QLineEdit

from gullyrise.desktop.commands.keymap import words_of_press
from gullyrise.desktop.commands.registry import FAMILIES
from gullyrise.desktop.pointer.triggers import Trigger
from gullyrise.desktop.viewport.pointer import events
from gullyrise.desktop.viewport.pointer.hand import GESTURE_AFTER
from gullyrise.desktop.widgets.pieces import named

_ONLY_MODIFIERS = (Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_Meta, Qt.Key.Key_AltGr)


class KeyField(QLineEdit):
    """Takes a two-stroke or a direct key as it is pressed; `pressed` gives it as the key table writes it."""

    pressed = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        named(self, "key_field", "Press the new keys here")
        self.setPlaceholderText("Click here, then press the new keys")
        self.setReadOnly(True)
        self._first = ""

    def sizeHint(self) -> QSize:
        return QSize(260, super().sizeHint().height())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or event.key() in _ONLY_MODIFIERS:
            return
        if event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab, Qt.Key.Key_Escape):
            self._first = ""
            event.ignore()
            return
        words = words_of_press(event)
        if self._first:
            words, self._first = f"{self._first} {QKeySequence(event.key()).toString()}", ""
        elif words in FAMILIES:
            self._first = words
            self.setText(f"{words} …")
            return
        self.setText(words)
        self.pressed.emit(words)


class MotionPad(QLabel):
    """Takes a drag, a wheel, fingers on a touchpad or a pen's stroke as it is made; `made` gives the Trigger."""

    made = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__("Make the motion here: drag, turn the wheel, move two fingers, or use the pen.")
        named(self, "motion_pad", "Make the new motion here")
        self.setWordWrap(True)
        self.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.setMinimumHeight(72)
        self._start: tuple[str, frozenset[str], QPointF] | None = None

    def _take(self, trigger: Trigger) -> None:
        self._start = None
        self.setText(trigger.words())
        self.made.emit(trigger)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._start = ("drag", events.buttons_of(event.buttons()), event.position())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._dragged(event.position(), events.keys_of(event.modifiers()))

    def _dragged(self, place: QPointF, keys: frozenset[str]) -> None:
        if self._start is not None and self._start[1] and (place - self._start[2]).manhattanLength() > GESTURE_AFTER:
            self._take(Trigger(self._start[0], self._start[1], keys))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        # Two fingers laid on a touchpad have not moved yet.
        if event is not None and not (event.pixelDelta().isNull() and event.angleDelta().isNull()):
            motion = "wheel" if events.scroll_of(event) is None else "two-finger scroll"
            self._take(Trigger(motion, frozenset(), events.keys_of(event.modifiers())))
            event.accept()

    def tabletEvent(self, event: QTabletEvent | None) -> None:
        if event is None:
            return
        event.accept()
        buttons = events.buttons_of(event.buttons())
        if not buttons:
            self._start = None
        elif event.type() == QEvent.Type.TabletPress:
            self._start = ("stroke", buttons, event.position())
        else:
            self._dragged(event.position(), events.keys_of(event.modifiers()))

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QNativeGestureEvent):
            kinds = {Qt.NativeGestureType.ZoomNativeGesture: "pinch", Qt.NativeGestureType.RotateNativeGesture: "two-finger turn"}
            motion = kinds.get(event.gestureType())
            if motion is not None:
                self._take(Trigger(motion, frozenset(), events.keys_of(event.modifiers())))
            return True
        return super().event(event)
