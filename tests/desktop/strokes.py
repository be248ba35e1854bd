"""Real Qt events of mouse, touchpad and pen, as a hand makes them."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QNativeGestureEvent, QPointingDevice, QTabletEvent, QWheelEvent
from PyQt6.QtWidgets import QApplication, QWidget

from gullyrise.desktop.pointer.triggers import Trigger

BUTTONS = {"left": Qt.MouseButton.LeftButton, "middle": Qt.MouseButton.MiddleButton, "right": Qt.MouseButton.RightButton}
KEYS = {
    "shift": Qt.KeyboardModifier.ShiftModifier,
    "ctrl": Qt.KeyboardModifier.ControlModifier,
    "alt": Qt.KeyboardModifier.AltModifier,
}
_STEPS = 8


def held(names: Any, table: dict[str, Any], nothing: Any) -> Any:
    out = nothing
    for name in names:
        out |= table[name]
    return out


def modifiers(keys: Any) -> Qt.KeyboardModifier:
    return held(keys, KEYS, Qt.KeyboardModifier.NoModifier)


def _mouse(widget: QWidget, kind: QEvent.Type, at: QPointF, button: Any, buttons: Any, keys: Any) -> None:
    QApplication.sendEvent(widget, QMouseEvent(kind, at, widget.mapToGlobal(at), button, buttons, modifiers(keys)))


def _pen(widget: QWidget, kind: QEvent.Type, at: QPointF, button: Any, buttons: Any, keys: Any) -> None:
    pressure = 0.6 if buttons & Qt.MouseButton.LeftButton else 0.0
    event = QTabletEvent(
        kind, QPointingDevice.primaryPointingDevice(), at, widget.mapToGlobal(at), pressure, 0, 0, 0, 0, 0, modifiers(keys),
        button, buttons,
    )  # fmt: skip
    QApplication.sendEvent(widget, event)


def drag(
    widget: QWidget, buttons: Any, start: QPointF, by: QPointF, keys: Any = (), *, pen: bool = False, late: Any = ()
) -> None:
    """Buttons down one after the other, moved in steps, and up. late : further keys that go down only once it moves."""
    send = _pen if pen else _mouse
    press, move, release = (
        (QEvent.Type.TabletPress, QEvent.Type.TabletMove, QEvent.Type.TabletRelease)
        if pen
        else (QEvent.Type.MouseButtonPress, QEvent.Type.MouseMove, QEvent.Type.MouseButtonRelease)
    )
    down = Qt.MouseButton.NoButton
    order = [BUTTONS[name] for name in sorted(buttons, reverse=True)]
    for button in order:
        down |= button
        send(widget, press, start, button, down, keys)
    for step in range(1, _STEPS + 1):
        send(widget, move, start + by * step / _STEPS, Qt.MouseButton.NoButton, down, (*keys, *late))
    for button in order:
        down &= ~button
        send(widget, release, start + by, button, down, (*keys, *late))


def hold(widget: QWidget, button: str, start: QPointF, by: QPointF, keys: Any = ()) -> None:
    """A button down and the pointer moved; `let_go` ends it."""
    down = BUTTONS[button]
    _mouse(widget, QEvent.Type.MouseButtonPress, start, down, down, keys)
    for step in range(1, _STEPS + 1):
        _mouse(widget, QEvent.Type.MouseMove, start + by * step / _STEPS, Qt.MouseButton.NoButton, down, keys)


def let_go(widget: QWidget, button: str, at: QPointF, keys: Any = ()) -> None:
    _mouse(widget, QEvent.Type.MouseButtonRelease, at, BUTTONS[button], Qt.MouseButton.NoButton, keys)


def click(widget: QWidget, at: QPointF, button: str = "left", keys: Any = ()) -> None:
    drag(widget, {button}, at, QPointF(0, 0), keys)


def hover(widget: QWidget, at: QPointF) -> None:
    _mouse(widget, QEvent.Type.MouseMove, at, Qt.MouseButton.NoButton, Qt.MouseButton.NoButton, ())


def wheel(widget: QWidget, at: QPointF, notches: float, keys: Any = ()) -> None:
    event = QWheelEvent(
        at, widget.mapToGlobal(at), QPoint(), QPoint(0, int(120 * notches)), Qt.MouseButton.NoButton, modifiers(keys),
        Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(widget, event)


def scroll(widget: QWidget, at: QPointF, by: QPoint, keys: Any = ()) -> None:
    """Two fingers over a touchpad: pixels, with phases."""
    for phase, step in ((Qt.ScrollPhase.ScrollBegin, QPoint(0, 0)), (Qt.ScrollPhase.ScrollUpdate, by)):
        event = QWheelEvent(at, widget.mapToGlobal(at), step, step * 2, Qt.MouseButton.NoButton, modifiers(keys), phase, False)
        QApplication.sendEvent(widget, event)


def native(widget: QWidget, at: QPointF, kind: Qt.NativeGestureType, value: float) -> None:
    event = QNativeGestureEvent(
        kind, QPointingDevice.primaryPointingDevice(), 2, at, at, widget.mapToGlobal(at), value, QPointF(0, 0)
    )
    QApplication.sendEvent(widget, event)


def make(widget: QWidget, trigger: Trigger, at: QPointF, by: QPointF, late: Any = ()) -> None:
    """Whatever a trigger says, by a drag or scroll of `by`, one notch, a pinch of a fifth, or a turn of 30 degrees."""
    keys = tuple(trigger.keys)
    if trigger.motion in ("drag", "stroke"):
        drag(widget, trigger.buttons, at, by, keys, pen=trigger.motion == "stroke", late=late)
    elif trigger.motion == "wheel":
        wheel(widget, at, 1, (*keys, *late))
    elif trigger.motion == "two-finger scroll":
        scroll(widget, at, by.toPoint(), (*keys, *late))
    elif trigger.motion == "pinch":
        native(widget, at, Qt.NativeGestureType.ZoomNativeGesture, 0.2)
    else:
        native(widget, at, Qt.NativeGestureType.RotateNativeGesture, 30.0)
