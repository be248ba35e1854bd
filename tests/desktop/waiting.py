"""Waiting for what comes when it comes: a busy machine takes its own time."""

from __future__ import annotations

import time
from typing import Any

from PyQt6.QtTest import QTest


def until(condition: Any, seconds: float = 240) -> None:
    """Lets the window live until something holds."""
    end = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < end, "it never came to be"
        QTest.qWait(5)
