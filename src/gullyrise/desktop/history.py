"""What undo needs of parts that are not on the bench: on disk, within bounds. What nothing brings back any more is let go."""

from __future__ import annotations

import ctypes
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer

from gullyrise.core.geometry.prepared import Prepared
from gullyrise.core.job import Standing
from gullyrise.core.job.aside import bring_back, lay_aside
from gullyrise.core.job.origins import FileOrigin
from gullyrise.core.part import Part
from gullyrise.desktop.mishaps import tell

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window

Held = tuple[Part, tuple[Prepared, ...]]
_AFTER_MS = 1500
_SWEPT_AFTER = 300.0
"""Seconds for which bytes stay that nobody wants: somebody may just be reading or opening them."""
MOST_STEPS = 250
MOST_BYTES, MOST_IN_MEMORY = 4 << 30, 1 << 29
"""Of parts that only undo brings back: on disk, and in memory where the disk does not take them."""


class History(QObject):
    """Looks through the job's history after each edit, beside the interface."""

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self._window, self._model = window, window.model
        self._aside: dict[int, Held] = {}
        """By the identity of the part what has been laid aside, or could not be."""
        self._told = False
        self._beside = ThreadPoolExecutor(1, thread_name_prefix="gullyrise-history")
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_AFTER_MS)
        self._soon.timeout.connect(self.tidy)
        self._model.job_changed.connect(self._touched)

    def _touched(self) -> None:
        for standing in self._model.job.standings:
            if id(standing.part) in self._aside:
                # It is about to be worked with: what is read from disk then would hold up whoever reads it.
                held = self._aside.pop(id(standing.part))
                self._beside.submit(_quietly, bring_back, held)
        if not self._soon.isActive():
            self._soon.start()

    def close(self) -> None:
        self._soon.stop()
        self._beside.shutdown(wait=True, cancel_futures=True)

    def tidy(self) -> None:
        """Forgets what is too long ago, lays aside what is not on the bench, and lets go of all that was worked out of it."""
        document = self._model.document
        forgotten = document.forget_beyond(MOST_STEPS)
        while self._weight() > MOST_BYTES and document.forget_beyond(len(document.done_names) - 1):
            forgotten += 1
        if forgotten and not self._told:
            self._told = True
            self._window.notices.say("The oldest steps cannot be undone any more: the history has its bounds.", False)
        present = {id(standing.part) for standing in self._model.job.standings}
        behind = self._behind(present)
        self._aside = {key: held for key, held in self._aside.items() if key in behind}
        fresh = {key: (one.part, self._model.ready(one) or ()) for key, one in behind.items() if key not in self._aside}
        self._aside |= fresh
        self._model.let_go({one.digest for one in (*self._model.job.standings, *behind.values())})
        if fresh:
            self._beside.submit(_quietly, self._lay_aside, list(fresh.values()))
        if self._model.idle:
            self._beside.submit(_quietly, self._window.keeping.store.sweep, self._wanted(), _SWEPT_AFTER)
        self._beside.submit(_quietly, _give_back)

    def _behind(self, present: set[int]) -> dict[int, Standing]:
        """Of each part that only other states of the job have a standing, by the part's identity."""
        found: dict[int, Standing] = {}
        for job in self._model.document.states():
            for standing in job.standings:
                if id(standing.part) not in present:
                    found[id(standing.part)] = standing
        return found

    def _wanted(self) -> set[str]:
        """Digests of all bytes that some state of the job is made of."""
        origins = {standing.origin for job in self._model.document.states() for standing in job.standings}
        return {kept.digest for one in origins if isinstance(one, FileOrigin) for kept in (one.file, *one.belongs)}

    def _weight(self) -> int:
        """About how many bytes the parts take that are not on the bench."""
        present = {id(standing.part) for standing in self._model.job.standings}
        return sum(_bytes_of(one.part) for one in self._behind(present).values())

    def _lay_aside(self, held: list[Held]) -> None:
        folder = self._window.keeping.journal.folder / "aside"
        for one in held:
            lay_aside(one, folder)


def _bytes_of(part: Part) -> int:
    return sum(body.mesh.vertices.nbytes + body.mesh.faces.nbytes + len(body.exact or b"") for body in part.bodies)


def _quietly(work: object, *words: object) -> None:
    """What cannot be put on disk stays in memory."""
    try:
        work(*words)  # type: ignore[operator]
    except OSError:
        return
    except Exception as error:
        tell(error)


def _give_back() -> None:
    """Gives memory that is free within this process back to the system."""
    with suppress(AttributeError, OSError):
        ctypes.CDLL(None).malloc_trim(0)
