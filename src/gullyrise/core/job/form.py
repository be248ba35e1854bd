"""A job as plain data: what its file and its journal hold, and docs/job.schema.json describes."""

from __future__ import annotations

import base64
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from gullyrise.core.cutting.cuts import MOST, Cut
from gullyrise.core.errors import JobError
from gullyrise.core.geometry import Transform
from gullyrise.core.job.acceptances import Acceptance
from gullyrise.core.job.job import Job
from gullyrise.core.job.origins import Name, Origin, Step
from gullyrise.core.job.placed_part import PlacedPart
from gullyrise.core.job.record import Line
from gullyrise.core.job.unknown import UnknownMachine
from gullyrise.core.job.views import SavedView
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.machines.library import default_machine
from gullyrise.core.measuring.picks import Dimension

NUMBER = 1
SCHEMA = f"gullyrise.job/{NUMBER}"
_STRICT = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
MOST_STANDS, MOST_ID = 20_000, 1_000_000_000
MOST_VIEWS, MOST_NOTES = 2_000, 100_000
FAR = 1e7
"""mm beyond which nothing of a job lies."""
Place = Annotated[float, Field(ge=-FAR, le=FAR)]
Degrees = Annotated[float, Field(ge=-1e5, le=1e5)]
Factor = Annotated[float, Field(ge=1e-6, le=1e6)]
Note = Annotated[str, Field(max_length=20_000)]


class PartForm(BaseModel):
    """One shape, however often it stands in the job."""

    model_config = _STRICT
    name: Name
    origin: Origin
    steps: tuple[Step, ...] = Field(default=(), description="what was done to the shape since it was read, in order")


class StandForm(BaseModel):
    """A part at a place. placement : rows of the affine matrix from the file's coordinates to the machine's, mm"""

    model_config = _STRICT
    id: int = Field(ge=0, le=MOST_ID)
    part: int = Field(ge=0, description="its place in `parts`, from 0")
    placement: tuple[tuple[float, float, float, float], tuple[float, float, float, float], tuple[float, float, float, float]]
    material: str = Field(default="", max_length=80, description="its id; one that is not known is kept")
    copy_number: int = Field(default=1, ge=1, le=MOST_ID, description="of its file")


class ViewForm(BaseModel):
    """A saved view. picture : PNG in base64"""

    model_config = _STRICT
    name: Name
    target: tuple[Place, Place, Place]
    heading: Degrees
    elevation: Degrees
    span: float = Field(ge=1e-6, le=FAR)
    parallel: bool
    roll: Degrees
    field: float = Field(gt=0, lt=180)
    stretch: tuple[Factor, Factor, Factor]
    picture: Annotated[str, Field(max_length=4 << 20)] = ""
    cuts: tuple[Cut, ...] = Field(default=(), max_length=MOST, description="that were open")


class LineForm(BaseModel):
    """What a line of the record has besides its words. picture : PNG in base64"""

    model_config = _STRICT
    kind: Literal["note", "picture"] = "note"
    when: str = Field(default="", max_length=40, description="ISO 8601, to the minute")
    at: tuple[Place, Place, Place] | None = Field(default=None, description="where it is pinned, in its first part's file, mm")
    picture: Annotated[str, Field(max_length=4 << 20)] = ""
    left_out: bool = Field(default=False, description="of the report")
    tells: str = Field(default="", max_length=200, description="which dimension was kept or finding accepted")


class JobForm(BaseModel):
    """A whole job. Lengths in mm, angles in degrees."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, populate_by_name=True, serialize_by_alias=True)
    schema_: Literal["gullyrise.job/1"] = Field(default="gullyrise.job/1", alias="schema")
    name: str = Field(default="", max_length=400)
    machine: Machine | UnknownMachine
    limits: Limits = Field(default=Limits(), description="those given by hand; others come from the machine")
    parts: tuple[PartForm, ...] = Field(default=(), max_length=MOST_STANDS)
    stands: tuple[StandForm, ...] = Field(default=(), max_length=MOST_STANDS)
    settled: bool = Field(default=False, description="whether places were chosen by hand")
    beds: int = Field(default=1, ge=1, le=100)
    views: tuple[ViewForm, ...] = Field(default=(), max_length=MOST_VIEWS)
    notes: tuple[Note, ...] = Field(default=(), max_length=MOST_NOTES, description="the record, oldest first")
    notes_of: tuple[tuple[int, ...], ...] = Field(
        default=(),
        max_length=MOST_NOTES,
        description="ids of the parts that each line of the record is about; none for the whole job",
    )
    notes_more: tuple[LineForm, ...] = Field(
        default=(), max_length=MOST_NOTES, description="what else each line of the record has; none where none has anything"
    )
    dimensions: tuple[Dimension, ...] = Field(default=(), max_length=10_000)
    waivers: tuple[Acceptance, ...] = Field(default=(), max_length=10_000, description="findings that were accepted, and why")


def form_of(job: Job, name: str | None = None) -> JobForm:
    """A job as plain data. Parts of one origin with the same steps stand in it once."""
    parts: dict[tuple[Any, ...], int] = {}
    forms: list[PartForm] = []
    stands = []
    for placed in job.parts:
        if placed.origin is None:
            continue
        key = (placed.origin, placed.steps)
        if key not in parts:
            parts[key] = len(forms)
            forms.append(PartForm(name=placed.part.name or "part", origin=placed.origin, steps=placed.steps))
        rows = tuple(tuple(float(value) for value in row) for row in placed.placement.matrix[:3])
        stands.append(
            StandForm(
                id=placed.id, part=parts[key], placement=rows, material=placed.material, copy_number=placed.copy  # type: ignore[arg-type]
            )
        )  # fmt: skip
    return JobForm(
        name=job.title if name is None else name,
        machine=job.unknown or job.machine, limits=job.given, parts=tuple(forms), stands=tuple(stands),
        settled=job.settled, beds=job.beds, views=tuple(_view_form(view) for view in job.views), notes=job.notes,
        notes_of=tuple(line.of for line in job.record) if any(line.of for line in job.record) else (),
        notes_more=() if all(line.is_plain for line in job.record) else tuple(_line_form(line) for line in job.record),
        dimensions=job.dimensions, waivers=job.accepted,
    )  # fmt: skip


def as_bytes(form: JobForm) -> bytes:
    """The one way in which a form is written: equal jobs give equal bytes."""
    return (form.model_dump_json(indent=1, exclude_defaults=False, exclude_none=True) + "\n").encode()


def form_from(data: bytes, where: str) -> JobForm:
    """A form that this program wrote itself. Raises JobError for any other; what comes from elsewhere is read by `sound`."""
    try:
        return JobForm.model_validate_json(data)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(step) for step in first["loc"]) or "its start"
        raise JobError(f"{where} is damaged at {place}: {first['msg'].lower()}; open an earlier copy of it.") from None


def job_from(form: JobForm, made: dict[int, PlacedPart], library: tuple[Machine, ...]) -> Job:
    """The job of a form. made : of each part that could be made anew, by its place in the form, any placed part of it; stands of
    others are left out. Where the machine is unknown, that of the library which is usual stands in for its bed."""
    from dataclasses import replace

    parts = []
    for stand in form.stands:
        shape = made.get(stand.part)
        if shape is not None:
            placement = Transform(np.array([*stand.placement, (0.0, 0.0, 0.0, 1.0)]))
            parts.append(replace(shape, id=stand.id, placement=placement, material=stand.material, copy=stand.copy_number))
    unknown = form.machine if isinstance(form.machine, UnknownMachine) else None
    machine = default_machine() if isinstance(form.machine, UnknownMachine) else form.machine
    return Job(
        machine, library, tuple(sorted(parts, key=lambda one: one.id)), form.limits,
        tuple(_view(view) for view in form.views), _record(form), form.settled, form.beds, form.dimensions, form.waivers, unknown,
        form.name,
    )  # fmt: skip


def _record(form: JobForm) -> tuple[Line, ...]:
    of = (*form.notes_of[: len(form.notes)], *((),) * max(len(form.notes) - len(form.notes_of), 0))
    more = (*form.notes_more[: len(form.notes)], *(LineForm(),) * max(len(form.notes) - len(form.notes_more), 0))
    return tuple(
        Line(words, about, one.kind, one.when, one.at, _unpacked(one.picture), one.left_out, one.tells)
        for words, about, one in zip(form.notes, of, more, strict=True)
    )


def _line_form(line: Line) -> LineForm:
    picture = base64.b64encode(line.picture).decode()
    return LineForm(kind=line.kind, when=line.when, at=line.at, picture=picture, left_out=line.left_out, tells=line.tells)


def _unpacked(packed: str) -> bytes:
    """The bytes of base64; none of anything else."""
    try:
        return base64.b64decode(packed, validate=True)
    except ValueError:
        return b""


def _view_form(view: SavedView) -> ViewForm:
    return ViewForm(
        name=view.name, target=view.target, heading=view.heading, elevation=view.elevation, span=view.span,
        parallel=view.parallel, roll=view.roll, field=view.field, stretch=view.stretch,
        picture=base64.b64encode(view.picture).decode(), cuts=view.cuts,
    )  # fmt: skip


def _view(form: ViewForm) -> SavedView:
    picture = _unpacked(form.picture)
    return SavedView(
        form.name,
        form.target,
        form.heading,
        form.elevation,
        form.span,
        form.parallel,
        form.roll,
        form.field,
        form.stretch,
        picture,
        form.cuts,
    )
