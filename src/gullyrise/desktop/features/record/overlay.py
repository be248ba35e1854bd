"""Numbered tags of notes that are pinned to a place."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter

from gullyrise.core.job import Job
from gullyrise.desktop.viewport.overlay import EVIDENCE, Overlay
from gullyrise.desktop.viewport.panes import Pane
from gullyrise.drawing.palette import Palette

_SIDE = 18


class PinnedNotes(Overlay):
    """A square tag with the note's number on a short stem; findings have slanted ones."""

    level = EVIDENCE + 10

    def __init__(self, job: Callable[[], Job], palette: Callable[[], Palette]) -> None:
        self._job, self._palette = job, palette

    def paint(self, painter: QPainter, pane: Pane) -> None:
        job = self._job()
        pinned = [line for line in job.record if line.at is not None]
        if not pinned:
            return
        canvas = pane.canvas(painter, self._palette())
        for number, line in enumerate(pinned, 1):
            placed = job.part(line.of[0]) if line.of else None
            if placed is None or line.at is None:
                continue
            at = canvas.at(placed.placement.apply(np.array(line.at)[None])[0])
            if at is None:
                continue
            tag = QRectF(at.x() - _SIDE / 2, at.y() - 2.2 * _SIDE, max(_SIDE, canvas.length_of(str(number), 11) + 8), _SIDE)
            for _ in canvas.outlined("accent", 1.6, 3.2):
                painter.drawLine(at, QPointF(at.x(), tag.bottom()))
            canvas.length_of(str(number), 11)
            canvas.plate(tag, str(number), edge="accent", edge_width=1.6, radius=2)
