"""From key strokes to actions: two strokes by family, direct keys, never while a text field has the focus."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QAbstractSpinBox, QApplication, QComboBox, QLineEdit, QPlainTextEdit, QTextEdit

from gullyrise.desktop.actions.registry import FAMILIES, Action

CARD_AFTER_MS = 350


class KeyReader(QObject):
    """Listens to the whole application's keys for one window. chosen : an action's id; card : family to show, or empty."""

    chosen = pyqtSignal(str)
    card = pyqtSignal(str)
    escaped = pyqtSignal()

    def __init__(self, actions: dict[str, Action], parent: QObject) -> None:
        super().__init__(parent)
        self._direct: dict[str, str] = {}
        self._second: dict[tuple[str, str], str] = {}
        for entry in actions.values():
            for keys in entry.keys:
                first, _, second = keys.partition(" ")
                if second:
                    self._second[first, second] = entry.id
                else:
                    self._direct[_canonical(keys)] = entry.id
        self._family = ""
        self._delay = QTimer(self)
        self._delay.setSingleShot(True)
        self._delay.setInterval(CARD_AFTER_MS)
        self._delay.timeout.connect(lambda: self.card.emit(self._family))

    @property
    def family(self) -> str:
        return self._family

    def let_go(self) -> None:
        """Forgets a first stroke."""
        self._family = ""
        self._delay.stop()
        self.card.emit("")

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is None or event.type() != QEvent.Type.KeyPress or not isinstance(event, QKeyEvent):
            return False
        window = self.parent()
        focus = QApplication.focusWidget()
        if QApplication.activeModalWidget() is not None or QApplication.activeWindow() is not window:
            return False
        # The filter sees an event once for the native window and once for each widget it reaches.
        if watched is not (focus or window):
            return False
        return self.read(event, typing=_takes_text(focus))

    def read(self, event: QKeyEvent, *, typing: bool) -> bool:
        """Whether a stroke was taken."""
        control = bool(event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier))
        function_key = Qt.Key.Key_F1 <= event.key() <= Qt.Key.Key_F35
        if typing and not (control and event.text() < " " and event.key() == Qt.Key.Key_O) and not function_key:
            return False
        if event.key() == Qt.Key.Key_Escape:
            self.let_go()
            self.escaped.emit()
            return True
        letter = QKeySequence(event.key()).toString()
        if self._family and not control:
            found = self._second.get((self._family, letter))
            if event.key() in (Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt):
                return False
            self.let_go()
            if found is not None:
                self.chosen.emit(found)
                return True
        words = _words(event)
        if words in self._direct:
            self.chosen.emit(self._direct[words])
            return True
        if not control and letter in FAMILIES and event.modifiers() == Qt.KeyboardModifier.NoModifier:
            self._family = letter
            self._delay.start()
            return True
        return False


def _takes_text(widget: QObject | None) -> bool:
    if isinstance(widget, QComboBox):
        return widget.isEditable()
    return isinstance(widget, (QLineEdit, QAbstractSpinBox, QTextEdit, QPlainTextEdit))


def _canonical(keys: str) -> str:
    return QKeySequence(keys).toString()


def _words(event: QKeyEvent) -> str:
    modifiers = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
    if event.text() in ("+", "-"):
        # Plus needs Shift on many keyboards; the sign is what is meant.
        return event.text()
    return QKeySequence(event.key() | modifiers.value).toString()
