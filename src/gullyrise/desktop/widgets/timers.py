"""Timers in one line."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer


def once(parent: QObject, ms: int, call: Callable[[], object]) -> QTimer:
    """Calls once, so long after it was last started."""
    timer = every(parent, ms, call)
    timer.setSingleShot(True)
    return timer


def every(parent: QObject, ms: int, call: Callable[[], object]) -> QTimer:
    """Calls again and again from when it is started."""
    timer = QTimer(parent)
    timer.setInterval(ms)
    timer.timeout.connect(call)
    return timer
