"""Cyclic garbage is looked for in the interface's thread alone.

Python looks in whichever thread happens to make the next object. Were that one that draws or judges, what Qt made would be taken
apart there while Qt works with it, which ends the program.
"""

from __future__ import annotations

import gc

from PyQt6.QtCore import QObject, QTimer

_EACH_MS = 300
_YOUNG, _LOTS = 2000, 10
"""New objects, and looks at a younger generation, after which one is looked through."""


class Garbage(QObject):
    """Looks for it while a window lives; after the last, Python does again."""

    _open = 0

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._often = QTimer(self)
        self._often.setInterval(_EACH_MS)
        self._often.timeout.connect(self._look)
        self._often.start()
        Garbage._open += 1
        gc.disable()

    def _look(self) -> None:
        young, middle, old = gc.get_count()
        if young > _YOUNG:
            gc.collect(2 if old > _LOTS else 1 if middle > _LOTS else 0)

    def look_through(self) -> None:
        """At all of it, at once: milliseconds, as what came with the program is not looked at; 30 with 3,000 parts."""
        gc.collect()

    def close(self) -> None:
        if self._often.isActive():
            self._often.stop()
            Garbage._open -= 1
            if not Garbage._open:
                gc.enable()
