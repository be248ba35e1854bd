"""Which bodies of the job have one shape, found out in the background when somebody asks."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.job import Standing
from gullyrise.core.report.parts_list import BodyKey
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.workers.receiving import GroupShapes


class Shapes(QObject):
    """changed : shapes are known now that were not."""

    changed = pyqtSignal()

    def __init__(self, model: Workbench) -> None:
        super().__init__()
        self._model = model
        self._known: tuple[tuple[int, str], ...] = ()
        self._asked: tuple[tuple[int, str], ...] = ()
        self._found: dict[BodyKey, int] = {}

    def of(self, standings: tuple[Standing, ...]) -> dict[BodyKey, int]:
        """The number of the shape of each body; empty until it is known."""
        wanted = tuple((standing.id, standing.digest) for standing in standings)
        if wanted == self._known:
            return self._found
        if wanted != self._asked:
            self._asked = wanted
            keys = [(standing.id, number) for standing in standings for number in range(len(standing.part.bodies))]
            meshes = tuple(body.mesh for standing in standings for body in standing.part.bodies)
            self._model.aside(GroupShapes(meshes), lambda found: self._take(wanted, keys, found))
        return {}

    def _take(self, wanted: tuple[tuple[int, str], ...], keys: list[BodyKey], found: tuple[int, ...]) -> None:
        if wanted == self._asked:
            self._known, self._found = wanted, dict(zip(keys, found, strict=True))
            self.changed.emit()
