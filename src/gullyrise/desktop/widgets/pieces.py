"""Labels, rows and names of widgets, each in one line."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import TypeVar

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFontMetrics, QResizeEvent
from PyQt6.QtWidgets import QBoxLayout, QHBoxLayout, QLabel, QLayout, QSizePolicy, QVBoxLayout, QWidget

_HEAD, _TAIL = 16, 10
_RUN = re.compile(r"[^\s<>&;\u2e80-\uffff]{30,}")
"""Letters in a row that no line breaks; scripts that break anywhere have none."""
Widget = TypeVar("Widget", bound=QWidget)
Margins = tuple[int, int, int, int]


def named(widget: Widget, name: str, said: str = "", tip: str = "") -> Widget:
    """name : by which it is found;  said : what a screen reader calls it"""
    widget.setObjectName(name)
    if said:
        widget.setAccessibleName(said)
    if tip:
        widget.setToolTip(tip)
    return widget


def caption(words: str = "", role: str = "", name: str = "", *, wrap: bool = False, tip: str = "") -> QLabel:
    """role : of the style sheet, empty for plain words"""
    made = WrappedLabel(words) if wrap else QLabel(words)
    if role:
        made.setProperty("role", role)
    made.setWordWrap(wrap)
    return named(made, name, tip=tip) if name or tip else made


def paragraph(words: str, role: str, *, rich: bool = False) -> QLabel:
    """Words that can be marked and copied. rich : words of ours with marks of HTML, in which what comes from elsewhere has been
    escaped"""
    made = caption(words, role, wrap=True)
    made.setTextFormat(Qt.TextFormat.RichText if rich else Qt.TextFormat.PlainText)
    made.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    return made


class WrappedLabel(QLabel):
    """Words in as many lines as they need. A run of letters without a place to break, such as a long name of a file, would push
    everything beside it out of sight: its middle is left out, and the whole is in the tooltip."""

    def __init__(self, words: str) -> None:
        super().__init__()
        self.setText(words)

    def setText(self, words: str | None) -> None:
        shown = _RUN.sub(lambda run: f"{run[0][:_HEAD]}…{run[0][-_TAIL:]}", words or "")
        super().setText(shown)
        if shown != words:
            self.setToolTip(words or "")


class NameLabel(QLabel):
    """A name in one line that asks for no more room than there is: the middle of a long one is in the tooltip alone."""

    def __init__(self, role: str, name: str = "") -> None:
        super().__init__()
        self._name = ""
        self.setProperty("role", role)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        named(self, name)

    def show_name(self, words: str) -> None:
        self._name = words
        self.setAccessibleName(words)
        self._fit()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        shown = self.fontMetrics().elidedText(self._name, Qt.TextElideMode.ElideMiddle, self.contentsRect().width())
        self.setText(shown)
        self.setToolTip(self._name if shown != self._name else "")


class ShyLabel(QLabel):
    """Words that are there only where there is room for all of them."""

    def __init__(self, words: str, role: str, name: str) -> None:
        super().__init__(words)
        self._words = words
        self.setProperty("role", role)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        named(self, name)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        fits = self.fontMetrics().horizontalAdvance(self._words) <= self.contentsRect().width()
        self.setText(self._words if fits else "")


def broken(words: str, metrics: QFontMetrics, width: float, at: str = " ") -> str:
    """Words in as many lines of a width in px as they need, for what does not break lines by itself, such as a button.

    at : what they may be broken at; it is left out there. What is too long without it loses its middle
    """
    lines: list[str] = []
    for whole in words.split(at):
        phrase = metrics.elidedText(whole, Qt.TextElideMode.ElideMiddle, round(width))
        longer = f"{lines[-1]}{at}{phrase}" if lines else phrase
        if lines and metrics.horizontalAdvance(longer) <= width:
            lines[-1] = longer
        else:
            lines.append(phrase)
    return "\n".join(lines)


def row_box(on: QWidget | None = None, margins: Margins | None = None, spacing: int | None = None) -> QHBoxLayout:
    """Things beside each other. on : the widget that they fill"""
    return _spaced(QHBoxLayout() if on is None else QHBoxLayout(on), margins, spacing)


def column_box(on: QWidget | None = None, margins: Margins | None = None, spacing: int | None = None) -> QVBoxLayout:
    """Things below each other. on : the widget that they fill"""
    return _spaced(QVBoxLayout() if on is None else QVBoxLayout(on), margins, spacing)


Box = TypeVar("Box", bound=QBoxLayout)


def _spaced(box: Box, margins: Margins | None, spacing: int | None) -> Box:
    if margins is not None:
        box.setContentsMargins(*margins)
    if spacing is not None:
        box.setSpacing(spacing)
    return box


def fill(box: Box, *widgets: QWidget, end: bool = False) -> Box:
    """Puts widgets into a row or column, one after another. end : with room after the last"""
    for widget in widgets:
        box.addWidget(widget)
    if end:
        box.addStretch(1)
    return box


def in_lines(buttons: Sequence[QWidget], width: int, spacing: int = 4) -> QVBoxLayout:
    """Buttons beside each other, in as many lines as a width in px makes of them."""
    lines, line, wide = column_box(spacing=spacing), row_box(spacing=spacing), 0
    for button in buttons:
        button.ensurePolished()
        wanted = button.sizeHint().width()
        if wide and wide + wanted > width:
            line.addStretch(1)
            lines.addLayout(line)
            line, wide = row_box(spacing=spacing), 0
        wide += wanted + spacing
        line.addWidget(button)
    line.addStretch(1)
    lines.addLayout(line)
    return lines


def forget(widget: QWidget) -> None:
    """Takes away a row that is made anew: out of sight and out of name at once, out of memory when its own event has ended.

    Hidden first: a layout shows what it was given only after the event, and would show what has no parent any more as a window.
    """
    widget.hide()
    for one in (widget, *widget.findChildren(QWidget)):
        one.setObjectName("")
    widget.deleteLater()


def clear(layout: QLayout) -> None:
    """Takes away all that stands in a layout."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            forget(widget)
