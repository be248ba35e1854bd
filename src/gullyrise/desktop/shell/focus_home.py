"""The keys stay with the bench: a click on a control leaves them there, Enter in a field gives them back, and so does what goes
away while it has them."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractButton, QAbstractSlider, QAbstractSpinBox, QApplication, QComboBox, QLineEdit, QWidget

from gullyrise.desktop.widgets.number_field import is_refused
from gullyrise.desktop.widgets.plain_words import plain_unless_said
from gullyrise.desktop.widgets.timers import once

_PASSING = (QAbstractButton, QComboBox, QAbstractSlider)
_ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


class FocusHome(QObject):
    """Of one window. Whoever walks with Tab stays where Tab went."""

    def __init__(self, window: QWidget, bench: QWidget) -> None:
        super().__init__(window)
        self._window, self._bench = window, bench
        self._soon = once(self, 0, self._go)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is None or not isinstance(watched, QWidget):
            return False
        kind = event.type()
        if kind in (QEvent.Type.Polish, QEvent.Type.Show):
            plain_unless_said(watched)
            if isinstance(watched, _PASSING) and watched.focusPolicy() & Qt.FocusPolicy.ClickFocus:
                watched.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        elif kind == QEvent.Type.Hide:
            focus = QApplication.focusWidget()
            if focus is not None and (watched is focus or watched.isAncestorOf(focus)) and focus.window() is self._window:
                self._soon.start()
        elif kind == QEvent.Type.KeyRelease and isinstance(event, QKeyEvent) and event.key() in _ENTER:
            focus = QApplication.focusWidget()
            # A field that refuses what was typed keeps the hand.
            typing = isinstance(focus, QLineEdit | QAbstractSpinBox) and focus is watched and not is_refused(focus)
            if typing and focus is not None and focus.window() is self._window:
                self._soon.start()
        return False

    def _go(self) -> None:
        if QApplication.activeWindow() is self._window:
            self._bench.setFocus()
