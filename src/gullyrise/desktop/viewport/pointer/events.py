"""Qt's names for buttons, keys and scrolling in our words."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QWheelEvent

_BUTTONS = {
    Qt.MouseButton.LeftButton: "left",
    Qt.MouseButton.MiddleButton: "middle",
    Qt.MouseButton.RightButton: "right",
}
_KEYS = {
    Qt.KeyboardModifier.ShiftModifier: "shift",
    Qt.KeyboardModifier.ControlModifier: "ctrl",
    Qt.KeyboardModifier.AltModifier: "alt",
}


def buttons_of(held: Qt.MouseButton) -> frozenset[str]:
    return frozenset(name for button, name in _BUTTONS.items() if held & button)


def keys_of(held: Qt.KeyboardModifier) -> frozenset[str]:
    return frozenset(name for key, name in _KEYS.items() if held & key)


def scroll_of(event: QWheelEvent) -> tuple[float, float] | None:
    """Pixels that two fingers moved on a touchpad; None for a notched wheel, which has no phases and whole notches."""
    pixels = event.pixelDelta()
    if event.phase() == Qt.ScrollPhase.NoScrollPhase or pixels.isNull():
        return None
    return float(pixels.x()), float(pixels.y())
