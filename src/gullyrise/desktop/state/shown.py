"""What is shown of the job, and what is in the hand: choices of the one who looks, which no edit holds."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.geometry import Transform
from gullyrise.core.job import PlacedPart
from gullyrise.core.job.visibility import Visibility


class Shown(QObject):
    """visibility : of bodies;  measure : the check whose colours are shown;  thinnest : whether its thinnest places are told"""

    measure_changing = pyqtSignal()
    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.visibility = Visibility()
        self.measure: str | None = None
        self.thinnest = False

    def look(self, visibility: Visibility) -> None:
        if visibility != self.visibility:
            self.visibility = visibility
            self.changed.emit()

    def show_everything(self) -> None:
        self.look(self.visibility.everything())

    def show_measure(self, check: str | None) -> None:
        if check != self.measure:
            self.measure = check
            self.measure_changing.emit()
            self.changed.emit()

    def show_thinnest(self, shown: bool) -> None:
        self.thinnest = shown
        self.changed.emit()


class Carried(QObject):
    """placements : of parts that are in the hand, by id: not in the job before they are let go;  by : the one move by which all
    of them have come;  taken : they were taken up or let go"""

    changed = pyqtSignal()
    taken = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.placements: dict[int, Transform] = {}
        self.by: Transform | None = None

    def placement_of(self, placed: PlacedPart) -> Transform:
        """Where a part is seen: in the hand, or where it stands."""
        return self.placements.get(placed.id, placed.placement)

    def carry(self, placements: dict[int, Transform], by: Transform | None = None) -> None:
        """None where they are let go."""
        taken_up_or_let_go = bool(placements) != bool(self.placements)
        self.placements, self.by = placements, by
        self.changed.emit()
        if taken_up_or_let_go:
            self.taken.emit()
