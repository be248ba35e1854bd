"""Words on labels are words: what a file calls itself, or says of itself, is never taken for marks that colour and lay out."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QWidget


def plain_unless_said(widget: QWidget) -> None:
    """A label, or the one that a tooltip is shown by, guesses by its words whether they are HTML: it is not to guess."""
    if isinstance(widget, QLabel) and widget.textFormat() == Qt.TextFormat.AutoText:
        widget.setTextFormat(Qt.TextFormat.PlainText)
