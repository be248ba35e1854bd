"""Waiting for what comes when it comes: a busy machine takes its own time."""

from __future__ import annotations

import time
from multiprocessing import forkserver
from pathlib import Path
from typing import Any

from PyQt6.QtTest import QTest


def until(condition: Any, seconds: float = 240) -> None:
    """Lets the window live until something holds."""
    end = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < end, "it never came to be"
        QTest.qWait(5)


def workers() -> list[int]:
    """Ids of the worker processes: children of the fork server that still run."""
    server = forkserver._forkserver._forkserver_pid  # type: ignore[attr-defined]
    if server is None:
        return []
    children = Path(f"/proc/{server}/task/{server}/children").read_text().split()
    return [int(pid) for pid in children if Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"]
