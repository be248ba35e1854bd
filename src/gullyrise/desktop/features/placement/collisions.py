"""Which parts meet while they are placed: asked of the companion, told in the window as boxes that are drawn."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.geometry import Box, Mesh, Transform
from gullyrise.core.job import Job, PlacedPart
from gullyrise.core.number_words import number
from gullyrise.core.placing.colliding import Near, Pair, Stand
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.upkeep.mishaps import tell
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.drawing.evidence import Gap
from gullyrise.workers.companion import Companion

_MOST_DRAWN = 40


class Collisions(QObject):
    """changed : other parts meet now. Nothing is asked before something has been placed by hand: parts set out by themselves are
    apart."""

    changed = pyqtSignal()
    _answered = pyqtSignal(int, object, object)

    def __init__(self, parent: QObject, model: Workbench, viewport: Viewport) -> None:
        super().__init__(parent)
        self._model, self._viewport = model, viewport
        self.companion = Companion(self._answered.emit, tell)
        self._number = 0
        self._asked: tuple[int, frozenset[int] | None] = (0, None)
        self._still: list[Pair] = []
        self._job: Job | None = None
        self.pairs: list[Pair] = []
        self.near: Near | None = None
        self._answered.connect(self._take)
        self.changed.connect(self._show)
        model.document.changed.connect(self._ask_all)
        model.carried.changed.connect(self._ask_carried)

    @property
    def asked(self) -> int:
        """The number of the newest question."""
        return self._number

    @property
    def busy(self) -> bool:
        return self.companion.answered < self._number and self.companion.alive

    def close(self) -> None:
        self.companion.close()

    def _shapes(self) -> dict[str, list[tuple[Mesh, Transform]]]:
        return {
            one.digest: [(body.mesh, place) for body in one.part.bodies for place in body.placements]
            for one in {placed.digest: placed for placed in self._model.job.parts}.values()
        }

    def _stands(self) -> list[Stand]:
        return [
            Stand(one.id, one.digest, tuple(self._model.carried.placement_of(one).matrix.ravel().tolist()))
            for one in self._model.job.parts
        ]

    def _ask_all(self) -> None:
        job = self._model.job
        # Other limits, views or notes move nothing.
        if self._job is not None and job.parts is self._job.parts:
            return
        self._job = job
        if job.settled and len(job.parts) > 1:
            self._ask(None)
        elif self.pairs:
            self.pairs = self._still = []
            self.changed.emit()

    def _ask_carried(self) -> None:
        if self._model.carried.placements and len(self._model.job.parts) > 1:
            self._ask(frozenset(self._model.carried.placements))
        elif self.pairs != self._still or self.near is not None:
            self.pairs, self.near = list(self._still), None
            self.changed.emit()

    def _ask(self, moved: frozenset[int] | None) -> None:
        self._number += 1
        self._asked = (self._number, moved)
        self.companion.ask(self._number, self._shapes(), self._stands(), None if moved is None else set(moved))

    def _take(self, number: int, found: list[Pair], near: Near | None) -> None:
        asked, moved = self._asked
        if moved is None:
            if number == asked:
                self._still = self.pairs = found
                self.changed.emit()
            return
        if not self._model.carried.placements:
            return
        # An answer on a moment ago is still the best that is known of those in the hand.
        self.pairs = [pair for pair in self._still if len(moved & set(pair)) != 1] + found
        self.near = near
        self.changed.emit()

    def _show(self) -> None:
        near = self.near
        gap = None if near is None else Gap(np.array(near.a), np.array(near.b), f"{number(near.distance)} mm")
        self._viewport.evidence.show(collisions=tuple(self.boxes()), gap=gap)

    def boxes(self) -> list[Box]:
        """Of the parts that meet, where they are seen."""
        ids = {id for pair in self.pairs for id in pair}
        found = [placed for placed in self._model.job.parts if placed.id in ids]
        return [self._seen(placed) for placed in found[:_MOST_DRAWN]]

    def _seen(self, placed: PlacedPart) -> Box:
        placement = self._model.carried.placement_of(placed)
        if placement is placed.placement:
            return placed.ground
        return Box.of(placed.outline_at(placement))
