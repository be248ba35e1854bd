"""A cut that moves by itself, to and fro through what it cuts."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from PyQt6.QtCore import QElapsedTimer, QObject, pyqtBoundSignal

from gullyrise.core.cutting.cuts import Cut
from gullyrise.desktop.widgets.timers import every

_EVERY_MS, _LONGEST_MS = 33, 250


class Swept(Protocol):
    """What holds the cut."""

    @property
    def cut(self) -> Cut | None: ...
    @property
    def changed(self) -> pyqtBoundSignal: ...
    def reach(self) -> tuple[float, float]: ...
    def move_to(self, position: float) -> None: ...


class Sweep(QObject):
    """speed : mm a second, asked at each step."""

    def __init__(self, parent: QObject, cutting: Swept, speed: Callable[[], float]) -> None:
        super().__init__(parent)
        self._cutting, self._speed = cutting, speed
        self._timer = every(self, _EVERY_MS, self._step)
        self._clock = QElapsedTimer()
        self._way = 1.0

    @property
    def running(self) -> bool:
        return self._timer.isActive()

    def switch(self) -> None:
        """Starts, or stops."""
        if self.running:
            self.stop()
        elif self._cutting.cut is not None:
            self._clock.start()
            self._timer.start()
            self._cutting.changed.emit()

    def stop(self) -> None:
        if self.running:
            self._timer.stop()
            self._cutting.changed.emit()

    def _step(self) -> None:
        cut = self._cutting.cut
        if cut is None:
            self.stop()
            return
        low, high = self._cutting.reach()
        # By the time that has passed, so that a slow picture does not slow the plane.
        position = cut.position + self._speed() * min(self._clock.restart(), _LONGEST_MS) / 1000 * self._way
        if not low <= position <= high:
            self._way = 1.0 if position < low else -1.0
            position = min(max(position, low), high)
        self._cutting.move_to(position)
