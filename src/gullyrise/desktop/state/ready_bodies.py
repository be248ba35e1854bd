"""What pointing, snapping and section lines want of each body, made by a worker once a part has come."""

from __future__ import annotations

import itertools

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.geometry import Box
from gullyrise.core.job import PlacedPart
from gullyrise.core.job.visibility import Key
from gullyrise.core.picking.prepared import Prepared
from gullyrise.desktop.state import text
from gullyrise.desktop.state.document_model import DocumentModel
from gullyrise.desktop.state.task_runner import TaskRunner
from gullyrise.desktop.widgets.timers import once
from gullyrise.workers.work import Prepare, Received

_TELL_MS = 25


class ReadyBodies(QObject):
    """prepared : by the digest of a part, one a body"""

    changed = pyqtSignal()

    def __init__(self, document: DocumentModel, tasks: TaskRunner) -> None:
        super().__init__()
        self._document, self._tasks = document, tasks
        self.prepared: dict[str, tuple[Prepared, ...]] = {}
        self._asked: set[str] = set()
        self._telling = once(self, _TELL_MS, self.changed.emit)
        document.edited.connect(self._ask)

    @property
    def idle(self) -> bool:
        return not self._telling.isActive()

    def of(self, placed: PlacedPart) -> tuple[Prepared, ...] | None:
        """None until a worker has made them."""
        return self.prepared.get(placed.digest)

    def boxes(self) -> dict[Key, Box]:
        """The box of every copy in its body's own coordinates, as far as the bodies are ready."""
        out: dict[Key, Box] = {}
        for placed in self._document.job.parts:
            number = itertools.count()
            ready = self.of(placed)
            for index, body in enumerate(placed.part.bodies):
                for _ in body.placements:
                    key = (placed.id, next(number))
                    box = ready[index].blocks.box if ready is not None else None
                    if box is not None:
                        out[key] = box
        return out

    def make(self, placed: PlacedPart) -> None:
        if self.of(placed) is None:
            self._tasks.send(
                Prepare(placed.part),
                lambda ready: self._made(placed.digest, ready),
                lambda error: self._document.said.emit(text.NOT_POINTED_AT.format(placed.name, error), True),
                first=True,
            )

    def take(self, found: Received) -> None:
        """Keeps what came along with a part, so that it is not made once more."""
        if found.ready is not None:
            self._asked.add(found.digest)
            self.prepared[found.digest] = found.ready

    def let_go(self, digests: set[str]) -> None:
        """Keeps those of these parts alone."""
        self.prepared = {digest: ready for digest, ready in self.prepared.items() if digest in digests}
        self._asked &= digests

    def _ask(self) -> None:
        for placed in self._document.job.parts:
            if placed.digest not in self._asked:
                self._asked.add(placed.digest)
                self.make(placed)

    def _made(self, digest: str, ready: tuple[Prepared, ...]) -> None:
        if digest in self._asked:
            self.prepared[digest] = ready
            self._telling.start()
