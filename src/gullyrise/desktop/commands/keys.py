"""From key strokes to actions: two strokes by family, direct keys, never while a text field has the focus."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLineEdit,
    QPlainTextEdit,
    QTextEdit,
    QWidget,
)

from gullyrise.desktop.commands.keymap import KeyMap, words_of_press
from gullyrise.desktop.commands.registry import FAMILIES, Action
from gullyrise.desktop.widgets.timers import once

CARD_AFTER_MS = 350
_WALKING = frozenset(
    {
        Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Home, Qt.Key.Key_End,
        Qt.Key.Key_PageUp, Qt.Key.Key_PageDown, Qt.Key.Key_Plus, Qt.Key.Key_Minus,
    }
)  # fmt: skip
_PRESSING = frozenset({Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter})
_OF_KEY = {
    Qt.Key.Key_Shift: Qt.KeyboardModifier.ShiftModifier,
    Qt.Key.Key_Control: Qt.KeyboardModifier.ControlModifier,
    Qt.Key.Key_Alt: Qt.KeyboardModifier.AltModifier,
}
_MODIFIERS = (Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_Meta, Qt.Key.Key_AltGr)


class KeyReader(QObject):
    """Listens to the whole application's keys for one window.

    chosen : an action's id;  let_go : the id of one whose held key came up;  card : family to show, or empty
    modifiers : those held now
    """

    chosen = pyqtSignal(str)
    let_go_of = pyqtSignal(str)
    card = pyqtSignal(str)
    escaped = pyqtSignal()
    modifiers = pyqtSignal(object)

    def __init__(self, actions: dict[str, Action], keymap: Callable[[], KeyMap], parent: QObject) -> None:
        super().__init__(parent)
        self._actions = actions
        self._keymap = keymap
        self._family = ""
        self.stroke = ""
        """What was pressed last, as it is written."""
        self._holding: tuple[int, str] | None = None
        self._delay = once(self, CARD_AFTER_MS, lambda: self.card.emit(self._family))

    @property
    def family(self) -> str:
        return self._family

    def let_go(self) -> None:
        """Forgets a first stroke."""
        self._family = ""
        self._delay.stop()
        self.card.emit("")

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if (
            event is None
            or event.type() not in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease)
            or not isinstance(event, QKeyEvent)
        ):
            return False
        window = self.parent()
        focus = QApplication.focusWidget()
        if QApplication.activeModalWidget() is not None or QApplication.activeWindow() is not window:
            return False
        # The filter sees an event once for the native window and once for each widget it reaches.
        if watched is not (focus or window):
            return False
        if event.key() in _MODIFIERS:
            self.modifiers.emit(_held_after(event))
        if event.type() == QEvent.Type.KeyRelease:
            return self.read_release(event)
        return self.read(event, typing=_takes_text(focus), own=_own_keys(focus))

    def read_release(self, event: QKeyEvent) -> bool:
        if self._holding is not None and event.key() == self._holding[0] and not event.isAutoRepeat():
            id, self._holding = self._holding[1], None
            self.let_go_of.emit(id)
            return True
        return False

    def read(self, event: QKeyEvent, *, typing: bool, own: frozenset[Qt.Key] = frozenset()) -> bool:
        """Whether a stroke was taken. own : keys that the widget with the focus wants for itself."""
        control = bool(event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier))
        # Help is at hand while typing, too; what changes the job or the view is not.
        for_all = event.key() == Qt.Key.Key_F1 or (control and event.key() in (Qt.Key.Key_O, Qt.Key.Key_K))
        if typing and not for_all:
            return False
        if event.key() in own and not control and not self._family:
            return False
        if event.key() == Qt.Key.Key_Escape:
            self.let_go()
            self.escaped.emit()
            return True
        letter = QKeySequence(event.key()).toString()
        if self._family and not control:
            found = self._keymap().second.get((self._family, letter))
            if event.key() in _MODIFIERS:
                return False
            first = self._family
            self.let_go()
            if found is not None:
                self.stroke = f"{first} {letter}"
                self.chosen.emit(found)
                return True
        if self._family and event.key() not in _MODIFIERS:
            # A stroke with Ctrl or Alt is one of its own.
            self.let_go()
        words = _words(event)
        if words in self._keymap().direct:
            self._choose_direct(self._keymap().direct[words], event)
            return True
        if not control and letter in FAMILIES and event.modifiers() == Qt.KeyboardModifier.NoModifier:
            self._family = letter
            self._delay.start()
            return True
        return False

    def _choose_direct(self, id: str, event: QKeyEvent) -> None:
        if self._actions[id].let_go is not None:
            if event.isAutoRepeat():
                return
            # The key may have come up in another window, unheard: a fresh press is a fresh hold.
            self._holding = (event.key(), id)
        self.stroke = _words(event)
        self.chosen.emit(id)


def _held_after(event: QKeyEvent) -> Qt.KeyboardModifier:
    """The modifiers held once a modifier key went down or up; the event itself tells those of before on some platforms."""
    own = _OF_KEY.get(Qt.Key(event.key()), Qt.KeyboardModifier.NoModifier)
    return event.modifiers() | own if event.type() == QEvent.Type.KeyPress else event.modifiers() & ~own


def _takes_text(widget: QObject | None) -> bool:
    if isinstance(widget, QComboBox):
        return widget.isEditable()
    return isinstance(widget, (QLineEdit, QAbstractSpinBox, QTextEdit, QPlainTextEdit))


def _own_keys(widget: QWidget | None) -> frozenset[Qt.Key]:
    """Keys that walk in lists and move sliders stay theirs; other widgets say which they take."""
    if isinstance(widget, (QAbstractItemView, QAbstractSlider, QComboBox)):
        return _WALKING | _PRESSING
    if isinstance(widget, QAbstractButton):
        return _PRESSING
    return getattr(widget, "takes_keys", frozenset())


def _words(event: QKeyEvent) -> str:
    if event.text() in ("+", "-"):
        # Plus needs Shift on many keyboards; the sign is what is meant.
        return event.text()
    return words_of_press(event)
