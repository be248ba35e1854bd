"""A job as plain data: what its file and its journal hold, and docs/job.schema.json describes."""

from __future__ import annotations

import base64
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from gullyrise.core.cutting.cuts import MOST, Cut
from gullyrise.core.errors import JobError
from gullyrise.core.geometry import Transform
from gullyrise.core.job.job import Job
from gullyrise.core.job.origins import Name, Origin, Step
from gullyrise.core.job.record import Line
from gullyrise.core.job.standing import Standing
from gullyrise.core.job.views import SavedView
from gullyrise.core.job.waivers import Waiver
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.measuring.picks import Dimension

NUMBER = 1
SCHEMA = f"gullyrise.job/{NUMBER}"
_STRICT = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
Point = tuple[float, float, float]
MOST_STANDS = 20_000


class PartForm(BaseModel):
    """One shape, however often it stands in the job."""

    model_config = _STRICT
    name: Name
    origin: Origin
    steps: tuple[Step, ...] = Field(default=(), description="what was done to the shape since it was read, in order")


class StandForm(BaseModel):
    """A part at a place. placement : rows of the affine matrix from the file's coordinates to the machine's, mm"""

    model_config = _STRICT
    id: int = Field(ge=0)
    part: int = Field(ge=0, description="its place in `parts`, from 0")
    placement: tuple[tuple[float, float, float, float], tuple[float, float, float, float], tuple[float, float, float, float]]
    material: str = ""
    copy_number: int = Field(default=1, ge=1, description="of its file")


class ViewForm(BaseModel):
    """A saved view. picture : PNG in base64"""

    model_config = _STRICT
    name: Name
    target: Point
    heading: float
    elevation: float
    span: float = Field(gt=0)
    parallel: bool
    roll: float
    field: float
    stretch: Point
    picture: Annotated[str, Field(max_length=4 << 20)] = ""
    cuts: tuple[Cut, ...] = Field(default=(), max_length=MOST, description="that were open")


class JobForm(BaseModel):
    """A whole job. Lengths in mm, angles in degrees."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, populate_by_name=True, serialize_by_alias=True)
    schema_: Literal["gullyrise.job/1"] = Field(default="gullyrise.job/1", alias="schema")
    name: str = Field(default="", max_length=400)
    machine: Machine
    limits: Limits = Field(default=Limits(), description="those given by hand; others come from the machine")
    parts: tuple[PartForm, ...] = Field(default=(), max_length=MOST_STANDS)
    stands: tuple[StandForm, ...] = Field(default=(), max_length=MOST_STANDS)
    settled: bool = Field(default=False, description="whether places were chosen by hand")
    beds: int = Field(default=1, ge=1, le=100)
    views: tuple[ViewForm, ...] = ()
    notes: tuple[str, ...] = Field(default=(), description="the record, oldest first")
    notes_of: tuple[tuple[int, ...], ...] = Field(
        default=(),
        description="ids of the parts that each line of the record is about; none for the whole job",
    )
    dimensions: tuple[Dimension, ...] = Field(default=(), max_length=10_000)
    waivers: tuple[Waiver, ...] = Field(default=(), max_length=10_000, description="findings that were accepted, and why")


def form_of(job: Job, name: str = "") -> JobForm:
    """A job as plain data. Parts of one origin with the same steps stand in it once."""
    parts: dict[tuple[Any, ...], int] = {}
    forms: list[PartForm] = []
    stands = []
    for standing in job.standings:
        if standing.origin is None:
            continue
        key = (standing.origin, standing.steps)
        if key not in parts:
            parts[key] = len(forms)
            forms.append(PartForm(name=standing.part.name or "part", origin=standing.origin, steps=standing.steps))
        rows = tuple(tuple(float(value) for value in row) for row in standing.placement.matrix[:3])
        stands.append(
            StandForm(
                id=standing.id, part=parts[key], placement=rows, material=standing.material, copy_number=standing.copy  # type: ignore[arg-type]
            )
        )  # fmt: skip
    return JobForm(
        name=name, machine=job.machine, limits=job.given, parts=tuple(forms), stands=tuple(stands), settled=job.settled,
        beds=job.beds, views=tuple(_view_form(view) for view in job.views), notes=job.notes,
        notes_of=tuple(line.of for line in job.record) if any(line.of for line in job.record) else (),
        dimensions=job.dimensions, waivers=job.waivers,
    )  # fmt: skip


def as_bytes(form: JobForm) -> bytes:
    """The one way in which a form is written: equal jobs give equal bytes."""
    return (form.model_dump_json(indent=1, exclude_defaults=False, exclude_none=True) + "\n").encode()


def form_from(data: bytes, where: str) -> JobForm:
    """Raises JobError: for a newer form politely, for a damaged one with what is wrong."""
    number = _number_in(data)
    if number is not None and number > NUMBER:
        raise JobError(
            f"{where} was saved by a newer Gullyrise (job form {number}; this one reads up to {NUMBER}). "
            "Open it there, or bring this one up to date; nothing in it was changed."
        )
    try:
        return JobForm.model_validate_json(data)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(step) for step in first["loc"]) or "its start"
        raise JobError(f"{where} is damaged at {place}: {first['msg'].lower()}; open an earlier copy of it.") from None


def _number_in(data: bytes) -> int | None:
    import json

    try:
        found = json.loads(data)
        return int(str(found["schema"]).removeprefix("gullyrise.job/"))
    except (ValueError, KeyError, TypeError, RecursionError):
        return None


def job_from(form: JobForm, made: dict[int, Standing], library: tuple[Machine, ...]) -> Job:
    """The job of a form. made : of each part that could be made anew, by its place in the form, any standing of it; stands of
    others are left out."""
    from dataclasses import replace

    standings = []
    for stand in form.stands:
        shape = made.get(stand.part)
        if shape is not None:
            placement = Transform(np.array([*stand.placement, (0.0, 0.0, 0.0, 1.0)]))
            standings.append(replace(shape, id=stand.id, placement=placement, material=stand.material, copy=stand.copy_number))
    return Job(
        form.machine, library, tuple(sorted(standings, key=lambda one: one.id)), form.limits,
        tuple(_view(view) for view in form.views), _record(form), form.settled, form.beds, form.dimensions, form.waivers,
    )  # fmt: skip


def _record(form: JobForm) -> tuple[Line, ...]:
    of = (*form.notes_of[: len(form.notes)], *((),) * max(len(form.notes) - len(form.notes_of), 0))
    return tuple(Line(words, about) for words, about in zip(form.notes, of, strict=True))


def _view_form(view: SavedView) -> ViewForm:
    return ViewForm(
        name=view.name, target=view.target, heading=view.heading, elevation=view.elevation, span=view.span,
        parallel=view.parallel, roll=view.roll, field=view.field, stretch=view.stretch,
        picture=base64.b64encode(view.picture).decode(), cuts=view.cuts,
    )  # fmt: skip


def _view(form: ViewForm) -> SavedView:
    try:
        picture = base64.b64decode(form.picture, validate=True)
    except ValueError:
        picture = b""
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
