"""Boxes and sliders that change nothing in passing: not by a key while closed, not by the wheel of a hand that scrolls."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QWheelEvent
from PyQt6.QtWidgets import QComboBox, QSlider

_OPENS = (Qt.Key.Key_Space, Qt.Key.Key_F4, Qt.Key.Key_Return, Qt.Key.Key_Enter)


class Choice(QComboBox):
    """One of several. Space, Enter, F4 or Alt with an arrow opens it; only what is open is changed by keys."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        arrows = event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up) and event.modifiers() & Qt.KeyboardModifier.AltModifier
        if event.key() in _OPENS or arrows:
            self.showPopup()
            event.accept()
        else:
            event.ignore()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            event.ignore()


class Slide(QSlider):
    """A slider that the wheel moves only while it has the focus."""

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None or self.hasFocus():
            super().wheelEvent(event)
        else:
            event.ignore()
