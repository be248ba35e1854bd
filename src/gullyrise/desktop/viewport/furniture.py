"""What stands in every picture: the bed's numbers, what the checks found, the words and scales on top."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter

from gullyrise.desktop.viewport.overlay import CAPTIONS, EVIDENCE, UNDER, Overlay
from gullyrise.desktop.viewport.panes import FREE, Pane
from gullyrise.desktop.viewport.pictures import Pictures
from gullyrise.drawing import captions, evidence
from gullyrise.drawing.evidence import Evidence
from gullyrise.drawing.legend import LegendRows, legend_rows
from gullyrise.drawing.scene import Scene


class OnBed(Overlay):
    level = UNDER + 50

    def __init__(self, pictures: Pictures) -> None:
        self._pictures = pictures

    def paint(self, painter: QPainter, pane: Pane) -> None:
        captions.on_bed(pane.canvas(painter, self._pictures.scene.palette), self._pictures.scene)


class EvidenceMarks(Overlay):
    """shown : what is marked now"""

    level = EVIDENCE

    def __init__(self, pictures: Pictures, changed: Callable[[], None]) -> None:
        self._pictures, self._changed = pictures, changed
        self.shown = Evidence()

    def show(self, **parts: Any) -> None:
        """Parts of the evidence by their names; the rest stays. Nothing is painted anew where they are what they were."""
        if any(getattr(self.shown, name) is not value for name, value in parts.items()):
            self.shown = replace(self.shown, **parts)
            self._changed()

    def paint(self, painter: QPainter, pane: Pane) -> None:
        evidence.paint(pane.canvas(painter, self._pictures.scene.palette), self.shown)


class Captions(Overlay):
    level = CAPTIONS

    def __init__(self, pictures: Pictures) -> None:
        self._pictures = pictures
        self._legend_at = QPointF(8, 40)
        self._of: Scene | None = None
        self._rows: LegendRows | None = None

    def stand_legend(self, at: QPointF) -> None:
        """Where the legend stands in the pane that has it, clear of what else does."""
        self._legend_at = at

    def paint(self, painter: QPainter, pane: Pane) -> None:
        scene = self._pictures.scene
        if scene is not self._of:
            # Worked out once a scene: pictures in motion ask many times a second.
            self._of, self._rows = scene, legend_rows(scene)
        captions.on_picture(
            pane.canvas(painter, scene.palette), scene, self._rows if pane.name == FREE else None, self._legend_at
        )
