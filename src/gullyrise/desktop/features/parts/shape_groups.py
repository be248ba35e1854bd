"""Which bodies of the job have one shape, found out in the background when somebody asks."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.job import PlacedPart
from gullyrise.core.report.parts_list import BodyKey
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.workers.receiving import GroupShapes


class ShapeGroups(QObject):
    """changed : shapes are known now that were not."""

    changed = pyqtSignal()

    def __init__(self, model: Workbench) -> None:
        super().__init__()
        self._model = model
        self._known: tuple[tuple[int, str], ...] = ()
        self._asked: tuple[tuple[int, str], ...] = ()
        self._found: dict[BodyKey, int] = {}

    def of(self, parts: tuple[PlacedPart, ...]) -> dict[BodyKey, int]:
        """The number of the shape of each body; empty until it is known."""
        wanted = tuple((placed.id, placed.digest) for placed in parts)
        if wanted == self._known:
            return self._found
        if wanted != self._asked:
            self._asked = wanted
            keys = [(placed.id, number) for placed in parts for number in range(len(placed.part.bodies))]
            meshes = tuple(body.mesh for placed in parts for body in placed.part.bodies)
            self._model.aside(GroupShapes(meshes), lambda found: self._take(wanted, keys, found))
        return {}

    def _take(self, wanted: tuple[tuple[int, str], ...], keys: list[BodyKey], found: tuple[int, ...]) -> None:
        if wanted == self._asked:
            self._known, self._found = wanted, dict(zip(keys, found, strict=True))
            self.changed.emit()
