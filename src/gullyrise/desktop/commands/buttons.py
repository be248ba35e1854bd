"""Small buttons, as the panels over the bench have them."""

from __future__ import annotations

from typing import TypeVar

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QPushButton, QToolButton, QWidget

from gullyrise.desktop.commands import named_keys

Button = TypeVar("Button", bound=QPushButton | QToolButton)


def small(button: Button, words: str, name: str, tip: str, runs: str = "") -> Button:
    """Dresses a button. runs : the action behind it, whose keys its tooltip names."""
    button.setText(words)
    button.setObjectName(name)
    button.setAccessibleName(tip)
    button.setProperty("small", True)
    button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    named_keys.tip(button, runs, tip)
    return button


def forget(widget: QWidget) -> None:
    """Takes away a row that is made anew: out of sight and out of name at once, out of memory when its own event has ended."""
    widget.hide()
    for one in (widget, *widget.findChildren(QWidget)):
        one.setObjectName("")
    widget.deleteLater()
