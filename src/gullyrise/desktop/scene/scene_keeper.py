"""What stands on the bench, kept in step with the job: once for all that changed in a turn of the event loop."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QObject, QTimer

from gullyrise.desktop.features.placement.collisions import Meeting
from gullyrise.desktop.features.sections.controller import Cutting
from gullyrise.desktop.ports import Looks
from gullyrise.desktop.scene.scene_builder import Showing
from gullyrise.desktop.state.document_model import BenchJob
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.drawing.display import Display
from gullyrise.drawing.evidence import Gap
from gullyrise.drawing.scene import Scene


class BenchScene(QObject):
    """display : how things are drawn"""

    def __init__(
        self, parent: QObject, model: BenchJob, looks: Looks, viewport: Viewport, cutting: Cutting, meeting: Meeting,
        display: Display,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._model, self._looks, self._viewport, self._cutting, self._meeting = model, looks, viewport, cutting, meeting
        self.display = display
        self._showing = Showing(model)
        self._waits = False
        for signal in (model.job_changed, model.outcomes_changed, model.selection_changed, model.shown_changed):
            signal.connect(self.refresh)
        model.carried_changed.connect(self._carry)
        meeting.changed.connect(self._show_meeting)

    def show_display(self, display: Display) -> None:
        self.display = display
        self.refresh()

    def refresh(self) -> None:
        """Brings bench and flags in step in the next turn of the event loop."""
        if not self._waits:
            self._waits = True
            QTimer.singleShot(0, self._put)

    @property
    def waits(self) -> bool:
        """Whether anything is still to be put there."""
        return self._waits

    def bring_in_step(self) -> None:
        """Does at once what waits for the next turn of the event loop."""
        if self._waits:
            self._put()

    def _carry(self) -> None:
        """Parts are in the hand: the picture follows at once, drawn as in motion."""
        self._viewport.moves.keep_moving()
        self._put()

    def _show_meeting(self) -> None:
        near = self._meeting.near
        gap = None if near is None else Gap(np.array(near.a), np.array(near.b), f"{near.distance:.2f} mm")
        self._viewport.evidence.show(collisions=tuple(self._meeting.boxes()), gap=gap)

    def _put(self) -> None:
        self._waits = False
        showing, job = self._showing, self._model.job
        self._viewport.evidence.show(flags=tuple(showing.flags()))
        self._viewport.selection.show(self._model.features)
        self._viewport.show_scene(
            Scene(
                showing.items(), job.machine, self._looks.palette, self._cutting.cuts, showing.out_of_room(), self.display,
                job.beds, showing.carry(), showing.angles(),
            )
        )  # fmt: skip
