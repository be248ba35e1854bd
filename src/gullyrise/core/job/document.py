"""A job is a frozen value; an edit makes the next one; undo goes back to the one before."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from typing import Any

from gullyrise.core.checks.protocol import Snapshot
from gullyrise.core.geometry import Box, Transform
from gullyrise.core.intake.materials import USUAL
from gullyrise.core.job.views import SavedView
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.part import Part
from gullyrise.core.placing.bed import side_by_side


@dataclass(frozen=True, slots=True, eq=False)
class Standing:
    """A part as it stands in the job. box : in the file's coordinates;  figures : as `info` gives them
    centre : of mass, in the file's coordinates;  material : its id, empty for what the machine's parts usually are of
    """

    id: int
    part: Part
    box: Box
    figures: dict[str, Any]
    digest: str
    placement: Transform
    centre: tuple[float, float, float] | None = None
    material: str = ""


@dataclass(frozen=True, slots=True, eq=False)
class Job:
    """Parts, machine and the limits that were given by hand (others come from the machine). notes : the job's record, oldest
    first."""

    machine: Machine
    library: tuple[Machine, ...]
    standings: tuple[Standing, ...] = ()
    given: Limits = field(default_factory=Limits)
    views: tuple[SavedView, ...] = ()
    notes: tuple[str, ...] = ()

    @property
    def limits(self) -> Limits:
        return self.machine.full_limits(self.given)

    def standing(self, number: int) -> Standing | None:
        return next((standing for standing in self.standings if standing.id == number), None)

    def snapshot(self, standing: Standing) -> Snapshot:
        return Snapshot(standing.part, standing.placement, self.machine, self.library)

    def with_parts(self, fresh: Iterable[Standing]) -> Job:
        # In the order in which they were asked for, not that in which their readers finished.
        standings = sorted((*self.standings, *fresh), key=lambda one: one.id)
        return replace(self, standings=tuple(standings)).set_out()

    def with_replaced(self, standing: Standing, note: str = "") -> Job:
        """Another state of a part that stands in the job, at the place where it stands; with a line in the record."""
        kept = tuple(standing if one.id == standing.id else one for one in self.standings)
        return replace(self, standings=kept, notes=(*self.notes, note) if note else self.notes)

    def material_of(self, standing: Standing) -> str:
        """The id of what a part is made of."""
        return standing.material or self.usual_material

    @property
    def usual_material(self) -> str:
        """What parts are taken to be made of on this machine."""
        return USUAL[self.machine.process]

    def without(self, numbers: set[int]) -> Job:
        kept = tuple(standing for standing in self.standings if standing.id not in numbers)
        return replace(self, standings=kept).set_out()

    def on(self, machine: Machine) -> Job:
        """The same parts on another machine; limits given by hand belonged to the one before."""
        return replace(self, machine=machine, given=Limits()).set_out()

    def with_limit(self, name: str, value: Any) -> Job:
        """Raises pydantic's ValidationError for a value that the limit cannot take."""
        given = Limits.model_validate({**self.given.model_dump(), name: value})
        return replace(self, given=given)

    def with_view(self, view: SavedView) -> Job:
        """With a saved view; one of the same name is replaced in its place."""
        names = [one.name for one in self.views]
        if view.name in names:
            return replace(self, views=tuple(view if one.name == view.name else one for one in self.views))
        return replace(self, views=(*self.views, view))

    def without_view(self, name: str) -> Job:
        return replace(self, views=tuple(view for view in self.views if view.name != name))

    def with_view_renamed(self, name: str, fresh: str) -> Job:
        """Raises ValueError, with a sentence, for a name that is empty or taken."""
        wanted = " ".join(fresh.split())[:80]
        if wanted == name:
            return self
        if not wanted:
            raise ValueError("A view needs a name; type one.")
        if any(view.name == wanted for view in self.views):
            raise ValueError(f"Another view is called {wanted}; choose another name.")
        return replace(self, views=tuple(replace(view, name=wanted) if view.name == name else view for view in self.views))

    def fresh_view_name(self) -> str:
        names = {view.name for view in self.views}
        return next(name for number in range(1, len(names) + 2) if (name := f"View {number}") not in names)

    def set_out(self) -> Job:
        """Everything side by side on the bed."""
        if not self.standings:
            return self
        places = side_by_side([standing.box for standing in self.standings], self.machine)
        moved = tuple(
            standing if (standing.placement.matrix == place.matrix).all() else replace(standing, placement=place)
            for standing, place in zip(self.standings, places, strict=True)
        )
        return replace(self, standings=moved)


class Document:
    """The job as it is, with the way back and forth."""

    def __init__(self, job: Job) -> None:
        self._job = job
        self._back: list[tuple[str, Job]] = []
        self._merging: object = None
        self._forth: list[tuple[str, Job]] = []

    @property
    def job(self) -> Job:
        return self._job

    def edit(self, name: str, change: Callable[[Job], Job], merging: object = None) -> bool:
        """Makes the next job; False where the change changed nothing. merging : edits in a row that have an equal one are undone
        together, under the last name.
        """
        changed = change(self._job)
        if changed is self._job:
            return False
        if merging is not None and merging == self._merging and self._back:
            self._back[-1] = (name, self._back[-1][1])
        else:
            self._back.append((name, self._job))
        self._merging = merging
        self._forth.clear()
        self._job = changed
        return True

    @property
    def undo_name(self) -> str | None:
        return self._back[-1][0] if self._back else None

    @property
    def redo_name(self) -> str | None:
        return self._forth[-1][0] if self._forth else None

    def undo(self) -> bool:
        return self._step(self._back, self._forth)

    def redo(self) -> bool:
        return self._step(self._forth, self._back)

    def _step(self, source: list[tuple[str, Job]], target: list[tuple[str, Job]]) -> bool:
        if not source:
            return False
        self._merging = None
        name, job = source.pop()
        target.append((name, self._job))
        self._job = job
        return True
