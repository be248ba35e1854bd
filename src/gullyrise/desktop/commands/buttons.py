"""Small buttons, as the panels over the bench have them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt, pyqtBoundSignal
from PyQt6.QtWidgets import QAbstractButton, QPushButton

from gullyrise.desktop.commands import named_keys
from gullyrise.desktop.widgets.pieces import named


def dress(button: QAbstractButton, words: str, name: str, tip: str, runs: str = "") -> None:
    """Makes a button a small one. runs : the action behind it, whose keys its tooltip names"""
    button.setText(words)
    named(button, name, tip)
    button.setProperty("small", True)
    button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    named_keys.tip(button, runs, tip)


def small(words: str, name: str, tip: str, runs: str = "", do: Callable[..., Any] | pyqtBoundSignal | None = None) -> QPushButton:
    """do : at a click"""
    button = QPushButton()
    dress(button, words, name, tip, runs)
    if do is not None:
        button.clicked.connect(do)
    return button
