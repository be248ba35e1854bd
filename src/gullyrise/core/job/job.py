"""A job is a frozen value; an edit makes the next one."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, fields, replace
from typing import Any

from gullyrise.core.checks.protocol import Finding, Neighbour, Snapshot
from gullyrise.core.geometry import Transform
from gullyrise.core.intake.materials import USUAL
from gullyrise.core.job.acceptances import Acceptance
from gullyrise.core.job.placed_part import PlacedPart
from gullyrise.core.job.record import Line, without_parts
from gullyrise.core.job.unknown import UnknownMachine
from gullyrise.core.job.views import SavedView
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.measuring.keeping import carried
from gullyrise.core.measuring.picks import Dimension, Pick
from gullyrise.core.placing.bed import bed_offset, bed_under, side_by_side, where_there_is_room


@dataclass(frozen=True, slots=True, eq=False)
class Job:
    """Parts, machine and the limits that were given by hand (others come from the machine).

    record : oldest line first.
    settled : whether anything was placed by hand, after which nothing is set out by itself
    beds : how many are open
    dimensions : taken and kept, in the order in which they were
    accepted : findings that were accepted
    unknown : the machine that the job names, where this version cannot use it: `machine` then only lends its bed, and nothing can
        be judged
    title : that somebody or its file gave it, empty for a job that is called after its parts
    number : which of the jobs of one session it is: one that is opened in place of another, and one that begins on an emptied
        bench, is another
    """

    machine: Machine
    library: tuple[Machine, ...]
    parts: tuple[PlacedPart, ...] = ()
    given: Limits = field(default_factory=Limits)
    views: tuple[SavedView, ...] = ()
    record: tuple[Line, ...] = ()
    settled: bool = False
    beds: int = 1
    dimensions: tuple[Dimension, ...] = ()
    accepted: tuple[Acceptance, ...] = ()
    unknown: UnknownMachine | None = None
    title: str = ""
    number: int = 0

    @property
    def notes(self) -> tuple[str, ...]:
        """The words of the record."""
        return tuple(line.words for line in self.record)

    def noted(self, words: str, of: Iterable[int] = (), tells: str = "") -> Job:
        """With one more line in the record. of : ids of the parts that it is about;  tells : see `Line`"""
        return self.recorded(Line(words, tuple(of), tells=tells)) if words else self

    def recorded(self, line: Line) -> Job:
        """With a line at the end of the record."""
        return replace(self, record=(*self.record, line))

    def with_record(self, record: tuple[Line, ...]) -> Job:
        """With these lines, in this order."""
        return self if record is self.record else replace(self, record=record)

    @property
    def limits(self) -> Limits:
        """All that hold: the machine's, and over them those given by hand."""
        return self.machine.full_limits(self.given)

    def says_the_same(self, other: Job) -> bool:
        """Whether nothing differs: what a refused or empty command makes of a job is no step."""
        if self is other:
            return True
        if len(self.parts) != len(other.parts):
            return False
        if not all(a is b or a.says_the_same(b) for a, b in zip(self.parts, other.parts, strict=True)):
            return False
        rest = (one.name for one in fields(self) if one.name != "parts")
        return all(getattr(self, name) is getattr(other, name) or getattr(self, name) == getattr(other, name) for name in rest)

    def part(self, number: int) -> PlacedPart | None:
        """The placed part with this id, None where it is not in the job."""
        return next((placed for placed in self.parts if placed.id == number), None)

    def bed_of(self, placed: PlacedPart) -> int | None:
        """The number of the bed that a part stands on, None where it waits beside them."""
        return bed_under(placed.ground, self.machine, self.beds)

    def snapshot(self, placed: PlacedPart, near: tuple[PlacedPart, ...] = ()) -> Snapshot:
        """What a check looks at: on whichever bed a part stands, as if on the first. near : those whose boxes meet its own"""
        number = self.bed_of(placed)
        shift = Transform.moved(-bed_offset(self.machine, self.beds - 1 if number is None else number))
        plain = not shift.matrix[:3, 3].any()
        neighbours = tuple(
            Neighbour(one.name, one.part, one.placement if plain else one.placement.then(shift), one.digest) for one in near
        )
        placement = placed.placement if plain else placed.placement.then(shift)
        return Snapshot(placed.part, placement, self.machine, self.library, neighbours)

    # --- parts -----------------------------------------------------------------------------------------------------

    def with_parts(self, fresh: Iterable[PlacedPart]) -> Job:
        """With further parts, set out on the bed unless somebody placed parts by hand."""
        # In the order in which they were asked for, not that in which their readers finished.
        arrived = self._numbered(sorted(fresh, key=lambda one: one.id))
        if self.settled:
            taken = [placed.ground for placed in self.parts]
            found = where_there_is_room([one.ground for one in arrived], taken, self.machine, self.beds)
            arrived = [one.moved(move) for one, move in zip(arrived, found.moves, strict=True)]
            made = self.with_beds(found.beds)
        else:
            made = self
        parts = tuple(sorted((*made.parts, *arrived), key=lambda one: one.id))
        return replace(made, parts=parts).set_out()

    def _numbered(self, fresh: list[PlacedPart]) -> list[PlacedPart]:
        """No two parts are called the same: of files with one name, or one that is opened again, the later ones are numbered."""
        last: dict[str, int] = {}
        names = {one.name for one in self.parts}
        for one in self.parts:
            last[one.part.name] = max(last.get(one.part.name, 0), one.copy)
        out = []
        for one in fresh:
            named = one
            while named.name in names:
                last[one.part.name] = last.get(one.part.name, 0) + 1
                named = replace(one, copy=last[one.part.name])
            last[one.part.name] = max(last.get(one.part.name, 0), named.copy)
            names.add(named.name)
            out.append(named)
        return out

    def with_beds(self, beds: int) -> Job:
        """With so many beds open. What waits beside them makes room for further ones."""
        if beds == self.beds:
            return self
        shift = Transform.moved(bed_offset(self.machine, beds - self.beds))
        stands = tuple(one.moved(shift) if self.bed_of(one) is None else one for one in self.parts)
        return replace(self, parts=stands, beds=beds)

    def with_replaced(self, placed: PlacedPart, note: str = "") -> Job:
        """Another state of a part that stands in the job, at the place where it stands; with a line in the record."""
        return self.with_changed([placed], note)

    def with_changed(self, changed: Iterable[PlacedPart], note: str = "") -> Job:
        """Other states of parts that stand in the job."""
        fresh = {placed.id: placed for placed in changed}
        kept = tuple(fresh.get(one.id, one) for one in self.parts)
        return replace(self, parts=kept).noted(note, fresh)

    def with_resized(self, changed: Iterable[PlacedPart], note: str = "") -> Job:
        """Other sizes of parts that stand in the job: what was measured on them is stale, and can be measured again at the places
        that became of those that were picked."""
        fresh = {one.id: one for one in changed}

        def along(pick: Pick) -> Pick:
            was, now = self.part(pick.part), fresh.get(pick.part)
            if was is None or now is None:
                return pick
            before, after = ([body for body in one.part.bodies for _ in body.placements] for one in (was, now))
            if not pick.copy_number < min(len(before), len(after)):
                return pick
            return carried(pick, before[pick.copy_number].mesh.box, after[pick.copy_number].mesh.box)

        dimensions = tuple(one.model_copy(update={"picks": tuple(map(along, one.picks))}) for one in self.dimensions)
        return replace(self.with_changed(fresh.values(), note), dimensions=dimensions)

    def without(self, numbers: set[int]) -> Job:
        """What is about them goes with them. Without any part it is a new job, on the same machine."""
        kept = tuple(placed for placed in self.parts if placed.id not in numbers)
        if not kept:
            return Job(self.machine, self.library, given=self.given, unknown=self.unknown)
        digests = {placed.digest for placed in kept}
        return replace(
            self,
            parts=kept,
            record=without_parts(self.record, numbers),
            dimensions=tuple(one for one in self.dimensions if not {pick.part for pick in one.picks} & numbers),
            accepted=tuple(one for one in self.accepted if one.digest in digests),
        ).set_out()

    def material_of(self, placed: PlacedPart) -> str:
        """The id of what a part is made of."""
        return placed.material or self.usual_material

    @property
    def usual_material(self) -> str:
        """What parts are taken to be made of on this machine."""
        return USUAL[self.machine.process]

    # --- places ----------------------------------------------------------------------------------------------------

    def placed(self, changed: Iterable[PlacedPart]) -> Job:
        """Parts at places that a hand chose: nothing is set out by itself any more."""
        return replace(self.with_changed(changed), settled=True)

    def moved(self, numbers: Iterable[int], move: Transform) -> Job:
        """Parts moved as one."""
        wanted = set(numbers)
        return self.placed(placed.moved(move) for placed in self.parts if placed.id in wanted)

    def set_out(self) -> Job:
        """Everything side by side on as many beds as it needs, unless places were chosen by hand."""
        if not self.parts or self.settled:
            return self
        found = side_by_side([placed.box for placed in self.parts], self.machine)
        moved = tuple(
            placed if (placed.placement.matrix == place.matrix).all() else replace(placed, placement=place)
            for placed, place in zip(self.parts, found.moves, strict=True)
        )
        return replace(self, parts=moved, beds=found.beds)

    def on(self, machine: Machine) -> Job:
        """The same parts on another machine; limits given by hand belonged to the one before. Places that were chosen by hand
        stay what they were from the middle of their bed."""
        changed = replace(self, machine=machine, given=Limits(), unknown=None)
        if not self.settled:
            return changed.set_out()
        fresh = []
        for placed in self.parts:
            number = self.bed_of(placed)
            bed = self.beds if number is None else number
            before = self.machine.envelope.middle + bed_offset(self.machine, bed)
            after = machine.envelope.middle + bed_offset(machine, bed)
            fresh.append(placed.moved(Transform.moved(after - before)))
        return replace(changed, parts=tuple(fresh))

    def with_machine_changed(self, machine: Machine) -> Job:
        """The job's machine as its file says it now; limits given by hand stay."""
        return replace(self.on(machine), given=self.given)

    # --- limits and views ------------------------------------------------------------------------------------------

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
        """Without the saved view of this name."""
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

    # --- accepted findings -----------------------------------------------------------------------------------------

    def acceptance_of(self, placed: PlacedPart, check: str, finding: Finding) -> Acceptance | None:
        """The acceptance that covers a finding of a part."""
        return next((one for one in self.accepted if one.covers(placed.digest, check, finding)), None)

    def with_acceptance(self, placed: PlacedPart, check: str, finding: Finding, note: str) -> Job:
        """With a finding accepted, and a line of it in the record; one that was accepted before takes the new note."""
        words = " ".join(note.split())[:500]
        fresh = Acceptance(
            digest=placed.digest,
            check=check,
            what=finding.what,
            at=finding.at,
            value=finding.value,
            unit=finding.unit,
            note=words,
            code=finding.code,
            of=finding.of,
        )
        before = self.acceptance_of(placed, check, finding)
        kept = tuple(one for one in self.accepted if one is not before)
        line = f"Accepted: {finding.what} ({placed.name}). {words}".strip()
        return replace(self, accepted=(*kept, fresh)).noted(line, [placed.id], fresh.record_key)

    def without_acceptance(self, placed: PlacedPart, check: str, finding: Finding) -> Job:
        """With a finding no longer accepted."""
        before = self.acceptance_of(placed, check, finding)
        if before is None:
            return self
        line = f"No longer accepted: {finding.what} ({placed.name})."
        return replace(self, accepted=tuple(one for one in self.accepted if one is not before)).noted(line, [placed.id])

    # --- dimensions ------------------------------------------------------------------------------------------------

    def with_dimension(self, dimension: Dimension) -> Job:
        """With one more, or with another state of one that is there."""
        numbers = [one.id for one in self.dimensions]
        if dimension.id in numbers:
            kept = tuple(dimension if one.id == dimension.id else one for one in self.dimensions)
            return replace(self, dimensions=kept)
        return replace(self, dimensions=(*self.dimensions, dimension))

    def without_dimension(self, number: int) -> Job:
        """Without the dimension with this id."""
        return replace(self, dimensions=tuple(one for one in self.dimensions if one.id != number))

    def fresh_dimension_id(self) -> int:
        """An id that no dimension has."""
        return max((one.id for one in self.dimensions), default=0) + 1

    def fresh_view_name(self) -> str:
        """A name that no saved view has."""
        names = {view.name for view in self.views}
        return next(name for number in range(1, len(names) + 2) if (name := f"View {number}") not in names)
