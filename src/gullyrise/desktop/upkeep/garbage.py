"""Cyclic garbage is looked for in the interface's thread alone.

Python looks in whichever thread happens to make the next object. Were that one that draws or judges, what Qt made would be taken
apart there while Qt works with it, which ends the program.
"""

from __future__ import annotations

import gc

from PyQt6.QtCore import QAbstractEventDispatcher, QObject

_YOUNG, _LOTS = 2000, 10
"""New objects, and looks at a younger generation, after which one is looked through."""


class GarbageRun(QObject):
    """Looks for it while a window lives; after the last, Python does again."""

    _open = 0

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        # As the loop wakes: a window in which nothing happens makes no garbage, and is not to be woken for it.
        self._loop = QAbstractEventDispatcher.instance()
        if self._loop is not None:
            self._loop.awake.connect(self._look)
        GarbageRun._open += 1
        gc.disable()

    def _look(self) -> None:
        young, middle, old = gc.get_count()
        if young > _YOUNG:
            gc.collect(2 if old > _LOTS else 1 if middle > _LOTS else 0)

    def look_through(self) -> None:
        """At all of it, at once: milliseconds, as what came with the program is not looked at; 30 with 3,000 parts."""
        gc.collect()

    def close(self) -> None:
        if self._loop is not None:
            self._loop.awake.disconnect(self._look)
            self._loop = None
            GarbageRun._open -= 1
            if not GarbageRun._open:
                gc.enable()
