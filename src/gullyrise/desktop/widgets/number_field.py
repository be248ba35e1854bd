"""Fields for numbers: what is typed is read in one way, and what cannot be taken is refused in its place and never lingers."""

from __future__ import annotations

from math import isfinite

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QValidator, QWheelEvent
from PyQt6.QtWidgets import QAbstractSpinBox, QApplication, QDoubleSpinBox, QLineEdit, QToolTip, QWidget

from gullyrise.core.errors import MeasureError
from gullyrise.core.measuring.typed import Typed, typed
from gullyrise.desktop.theme.style_sheet import FAILED

_QUANTITIES: dict[str, Typed] = {"mm": "length", "°": "angle", "%": "share"}
_MOST = 1e5
_MARK = "decimal mark"


def show_mark(application: QApplication, mark: str) -> None:
    """The decimal mark with which fields show numbers, as the locale has it. Whichever is typed is understood."""
    application.setProperty(_MARK, mark if mark in (".", ",") else ".")


def _mark() -> str:
    application = QApplication.instance()
    return (application.property(_MARK) if application is not None else None) or "."


def refuse(field: QWidget, sentence: str) -> None:
    """Marks a field whose text cannot be taken, and says why beside it."""
    if not is_refused(field):
        field.setProperty("refused", True)
        field.setProperty("own sheet", field.styleSheet())
        application = QApplication.instance()
        colour = application.property(FAILED) if application is not None else ""
        field.setStyleSheet(f"{field.styleSheet()} {type(field).__name__} {{ border: 2px solid {colour}; }}")
    field.setAccessibleDescription(sentence)
    QToolTip.showText(field.mapToGlobal(QPoint(0, field.height())), sentence, field)


def accept(field: QWidget) -> None:
    """Takes the mark away again."""
    if is_refused(field):
        field.setProperty("refused", False)
        field.setAccessibleDescription("")
        field.setStyleSheet(field.property("own sheet") or "")
        QToolTip.hideText()


def is_refused(field: QWidget) -> bool:
    return bool(field.property("refused"))


class NumberField(QDoubleSpinBox):
    """A value with its unit. It is told once Enter is pressed or the field is left; the wheel moves on what lies below unless the
    field has the focus. unit : shown behind, and what a bare number is in."""

    def __init__(self, unit: str = "mm", digits: int = 2, low: float = 0.0, high: float = 1000.0) -> None:
        super().__init__()
        self._unit = unit
        self._quantity: Typed = _QUANTITIES.get(unit, "plain")
        self.setDecimals(digits)
        self.setRange(low, high)
        self.setSuffix(unit if unit == "°" else f" {unit}" if unit else "")
        self.setKeyboardTracking(False)
        self.setButtonSymbols(QAbstractSpinBox.ButtonSymbols.NoButtons)
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        line = self.lineEdit()
        if line is not None:
            line.textEdited.connect(lambda _: accept(self))

    def _read(self, text: str) -> float:
        """Raises MeasureError with a sentence."""
        if self.specialValueText() and text.strip() == self.specialValueText():
            return self.minimum()
        # The unit that is shown stays behind one that was typed.
        value = typed(
            text.removeprefix(self.prefix()).removesuffix(self.suffix()),
            self._quantity,
            {self._unit.lower(): 1.0} if self._unit else None,
            _mark(),
        )
        if not self.minimum() <= value <= self.maximum():
            raise MeasureError(f"{value:g} is out of reach here; type one from {self.minimum():g} to {self.maximum():g}.")
        if not self.decimals() and value != round(value):
            raise MeasureError(f"{value:g} is no whole number; type one such as {round(value):d}.")
        return value

    def validate(self, text: str | None, at: int) -> tuple[QValidator.State, str, int]:
        try:
            self._read(text or "")
        except MeasureError:
            return QValidator.State.Intermediate, text or "", at
        return QValidator.State.Acceptable, text or "", at

    def valueFromText(self, text: str | None) -> float:
        try:
            return self._read(text or "")
        except MeasureError:
            return self.value()

    def textFromValue(self, value: float) -> str:
        return f"{value:.{self.decimals()}f}".replace(".", _mark())

    def _refusal(self) -> str:
        """Why the text as it stands cannot be taken, or empty."""
        try:
            self._read(self.text())
        except MeasureError as error:
            return str(error)
        return ""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            sentence = self._refusal()
            if sentence:
                refuse(self, sentence)
                self.selectAll()
            else:
                super().keyPressEvent(event)
            # It is meant for the field, not for what the field lies in.
            event.accept()
            return
        if event is not None and event.key() == Qt.Key.Key_Escape and (is_refused(self) or self._refusal()):
            self.setValue(self.value())
            accept(self)
        super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        # What was refused is gone with the focus: the field shows what holds.
        super().focusOutEvent(event)
        accept(self)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None or self.hasFocus():
            super().wheelEvent(event)
        else:
            event.ignore()


class NumberLine(QLineEdit):
    """A line that takes a number when Enter is pressed. taken : the number, in mm, degrees or per cent;  left : the same, where
    the line was left without Enter;  low, high : what it takes at least and at most"""

    taken = pyqtSignal(float)
    left = pyqtSignal(float)

    def __init__(self, quantity: Typed = "length", text: str = "", low: float = -_MOST, high: float = _MOST) -> None:
        super().__init__(text)
        self._quantity = quantity
        self._low, self._high = low, high
        self._shown = text
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.textEdited.connect(lambda _: accept(self))
        self.returnPressed.connect(self._take)

    def take(self, quantity: Typed) -> None:
        """What is typed there is of this from now on."""
        self._quantity = quantity

    def show_text(self, text: str) -> None:
        """What holds, written with a point; not under a hand that is typing."""
        text = text.replace(".", _mark())
        self._shown = text
        if not (self.hasFocus() and self.isModified()):
            self.setText(text)

    def read(self) -> float | None:
        """What is typed, or None: then the line is marked and says why."""
        try:
            value = typed(self.text(), self._quantity, mark=_mark())
            if not isfinite(value) or not self._low <= value <= self._high:
                raise MeasureError(f"{value:g} is out of reach here; type one from {self._low:g} to {self._high:g}.")
        except MeasureError as error:
            refuse(self, str(error))
            return None
        accept(self)
        return value

    def _take(self) -> None:
        value = self.read()
        if value is not None:
            self.setModified(False)
            self.taken.emit(value)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        if self.isModified() and self.text() != self._shown:
            value = self.read()
            if value is not None:
                self.left.emit(value)
        if is_refused(self):
            self.setText(self._shown)
            accept(self)
