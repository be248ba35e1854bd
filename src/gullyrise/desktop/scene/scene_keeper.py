"""The scene, kept in step with the job: once for all that changed in a turn of the event loop."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.cutting.cuts import Cut
from gullyrise.desktop.ports import Looks
from gullyrise.desktop.scene.scene_builder import SceneBuilder
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.widgets.timers import once
from gullyrise.drawing.display import Display, Surface
from gullyrise.drawing.scene import Scene


class SceneKeeper(QObject):
    """display : how things are drawn

    changed : a Scene to be drawn;  putting : what is marked over it is to be brought in step first
    """

    changed = pyqtSignal(object)
    putting = pyqtSignal()

    def __init__(self, parent: QObject, model: Workbench, looks: Looks, display: Display) -> None:
        super().__init__(parent)
        self._model, self._looks, self.display = model, looks, display
        self._cuts: tuple[Cut, ...] = ()
        self._showing = SceneBuilder(model)
        self._soon = once(self, 0, self._put)
        for signal in (model.document.changed, model.results.changed, model.selection.changed, model.shown.changed):
            signal.connect(self.refresh)
        # Parts are in the hand: the picture follows at once.
        model.carried.changed.connect(self._put)

    def show_display(self, display: Display) -> None:
        self.display = display
        self.refresh()

    def show_surface(self, surface: Surface) -> None:
        self.show_display(replace(self.display, surface=surface))

    def switch(self, name: str) -> None:
        """name : of a field of Display that is on or off"""
        turned: dict[str, Any] = {name: not getattr(self.display, name)}
        self.show_display(replace(self.display, **turned))

    def show_cuts(self, cuts: tuple[Cut, ...]) -> None:
        self._cuts = cuts
        self.refresh()

    def refresh(self) -> None:
        """Brings all in step in the next turn of the event loop."""
        if not self._soon.isActive():
            self._soon.start()

    @property
    def waits(self) -> bool:
        """Whether anything is still to be put there."""
        return self._soon.isActive()

    def bring_in_step(self) -> None:
        """Does at once what waits for the next turn of the event loop."""
        if self.waits:
            self._put()

    def _put(self) -> None:
        self._soon.stop()
        self.putting.emit()
        showing, job, palette = self._showing, self._model.job, self._looks.palette
        items = showing.items(self.display.bodies, palette)
        self.changed.emit(
            Scene(
                items, job.machine, palette, self._cuts, showing.out_of_room(), self.display, job.beds, showing.carry(),
                showing.angles(),
            )
        )  # fmt: skip
