"""A job's JSON from anywhere: held against the schema and against itself, field by field. What cannot be used is left out, and
told with what that costs; what only this version does not know is kept."""

from __future__ import annotations

import itertools
import json
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from pydantic import TypeAdapter, ValidationError

from gullyrise.core.errors import JobError, NewerJob
from gullyrise.core.job.acceptances import Acceptance
from gullyrise.core.job.form import (
    FAR,
    MOST_ID,
    MOST_NOTES,
    MOST_STANDS,
    MOST_VIEWS,
    NUMBER,
    JobForm,
    LineForm,
    PartForm,
    StandForm,
    ViewForm,
)
from gullyrise.core.job.unknown import UnknownMachine
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.measuring.picks import Dimension
from gullyrise.core.paths import printable

_MOST_DIMENSIONS = 10_000
_DEEPEST = 60
"""Levels: our own forms have less than ten, and what is kept of another version's must be written again."""
_RIGID = 1e-6
_MOST_TOLD = 12
_IDENTITY = ((1.0, 0.0, 0.0, 0.0), (0.0, 1.0, 0.0, 0.0), (0.0, 0.0, 1.0, 0.0))
_NOWHERE = ((0.0,) * 4,) * 3
"""A place that nothing can stand at."""


def sound_form(data: bytes, where: str) -> tuple[JobForm, tuple[str, ...]]:
    """(the form as far as it can be used, a sentence on each thing that it cost).

    Raises NewerJob for a newer form, JobError for what is no form at all.
    """
    reading = _Reading(_tree(data, where))
    form = reading.form()
    return form, reading.told()


def _tree(data: bytes, where: str) -> dict[str, Any]:
    try:
        tree = json.loads(data.decode("utf-8-sig"))
        if _is_deeper(tree, _DEEPEST):
            raise RecursionError
    except RecursionError:
        raise JobError(f"The job in {where} is nested without end and cannot be read.") from None
    except ValueError:
        raise JobError(f"The job in {where} is damaged and cannot be read.") from None
    if not isinstance(tree, dict) or not {"machine", "parts", "stands"} & set(tree):
        raise JobError(f"What {where} holds is no job.")
    name = tree.get("schema")
    number = name.removeprefix("gullyrise.job/") if isinstance(name, str) and name.startswith("gullyrise.job/") else ""
    if number.isascii() and number.isdigit() and int(number[:9]) > NUMBER:
        raise NewerJob(where, int(number[:9]), NUMBER)
    return tree


def _is_deeper(tree: Any, levels: int) -> bool:
    """Whether lists and tables lie in one another more than so many levels deep."""
    layer = [tree] if isinstance(tree, (dict, list)) else []
    for _ in range(levels):
        layer = [
            inner
            for one in layer
            for inner in (one.values() if isinstance(one, dict) else one)
            if isinstance(inner, (dict, list))
        ]
        if not layer:
            return False
    return True


@dataclass(slots=True)
class _Reading:
    """One form on its way from its tree."""

    tree: dict[str, Any]
    _told: list[str] = field(default_factory=list)

    def told(self) -> tuple[str, ...]:
        told = list(dict.fromkeys(map(printable, self._told)))
        more = len(told) - _MOST_TOLD
        return (*told[:_MOST_TOLD], *((f"{more} more things could not be read.",) if more > 0 else ()))

    def form(self) -> JobForm:
        known = {one.alias or name for name, one in JobForm.model_fields.items()}
        foreign = [str(key)[:60] for key in self.tree if key not in known]
        if foreign:
            self._told.append(f"What this version does not know is left out: {', '.join(sorted(foreign)[:6])}.")
        if self.tree.get("schema", "gullyrise.job/1") != "gullyrise.job/1":
            self._told.append("Which form it has is not said in a way that can be read; it is taken for the first.")
        parts, places = self._parts()
        stands = self._stands(parts, places)
        ids = {stand.id for stand in stands}
        notes, notes_of, notes_more = self._notes(ids)
        by_hand = "Whether its parts were placed by hand is not known; they stay where they stand."
        return JobForm(
            name=self._one("name", "", lambda name: type(name) is str and len(name) <= 400, "Its name could not be read."),
            machine=self._machine(),
            limits=self._limits(),
            parts=tuple(parts),
            stands=tuple(stands),
            settled=self._one("settled", True, lambda said: type(said) is bool, by_hand),
            beds=self._one(
                "beds", 1, lambda count: type(count) is int and 1 <= count <= 100, "How many beds it has is not known."
            ),
            views=self._views(),
            notes=notes,
            notes_of=notes_of,
            notes_more=notes_more,
            dimensions=self._dimensions(ids),
            waivers=tuple(self._many("waivers", Acceptance, _MOST_DIMENSIONS, "accepted findings")),
        )

    # --- single things -------------------------------------------------------------------------------------------------

    def _one(self, key: str, usual: Any, fits: Callable[[Any], bool], sentence: str) -> Any:
        if key not in self.tree:
            return JobForm.model_fields[key].default
        if fits(self.tree[key]):
            return self.tree[key]
        self._told.append(sentence)
        return usual

    def _machine(self) -> Machine | UnknownMachine:
        raw = self.tree.get("machine")
        try:
            return Machine.model_validate(raw)
        except ValidationError as error:
            why = _place(error)
        try:
            unknown = UnknownMachine.model_validate(raw)
        except ValidationError:
            unknown = UnknownMachine()
        self._told.append(
            f"Its machine {unknown.name} cannot be used by this version ({why}); it is kept as it is, and nothing is judged "
            "until another machine is chosen."
        )
        return unknown

    def _limits(self) -> Limits:
        raw = self.tree.get("limits", {})
        if not isinstance(raw, dict):
            self._told.append("Its limits could not be read; those of the machine hold.")
            return Limits()
        made: dict[str, Any] = {}
        for key, value in raw.items():
            try:
                made[key] = getattr(Limits.model_validate({key: value}), key)
            except (ValidationError, AttributeError, TypeError):
                self._told.append(f"Its limit {str(key)[:60]} could not be read; that of the machine holds.")
        return Limits.model_validate(made)

    # --- lists ---------------------------------------------------------------------------------------------------------

    def _list(self, key: str, most: int, words: str) -> list[Any]:
        found = self.tree.get(key, [])
        if not isinstance(found, list):
            self._told.append(f"Its {words} could not be read and are lost.")
            return []
        if len(found) > most:
            self._told.append(f"Only the first {most:,} of its {len(found):,} {words} are opened.")
        return found[:most]

    def _many(self, key: str, kind: Any, most: int, words: str) -> list[Any]:
        """Those of a list that can be read."""
        raw, adapter = self._list(key, most, words), TypeAdapter(kind)
        out, first = [], ""
        for one in raw:
            try:
                out.append(adapter.validate_python(one))
            except ValidationError as error:
                first = first or _place(error)
        if len(out) < len(raw):
            self._told.append(f"{len(raw) - len(out)} of its {len(raw)} {words} could not be read and are lost ({first}).")
        return out

    def _parts(self) -> tuple[list[PartForm], dict[int, int]]:
        """(parts that can be read, where each of the file's is now)."""
        out: list[PartForm] = []
        places: dict[int, int] = {}
        for number, raw in enumerate(self._list("parts", MOST_STANDS, "parts")):
            try:
                out.append(PartForm.model_validate(raw))
                places[number] = len(out) - 1
            except ValidationError as error:
                name = raw.get("name") if isinstance(raw, dict) else None
                self._told.append(f"{name[:80] if isinstance(name, str) and name else 'A part'} is lost: {_place(error)}.")
        return out, places

    def _stands(self, parts: list[PartForm], places: dict[int, int]) -> list[StandForm]:
        raws = self._list("stands", MOST_STANDS, "places of parts")
        listed = self.tree.get("parts")
        read = [self._stand(raw, len(listed) if isinstance(listed, list) else 0) for raw in raws]
        found = [stand for stand in read if stand is not None and stand.part in places]
        spare = itertools.filterfalse({stand.id for stand in found}.__contains__, itertools.count(1))
        out: list[StandForm] = []
        taken: set[int] = set()
        for stand in found:
            name = parts[places[stand.part]].name
            changes: dict[str, Any] = {"part": places[stand.part]}
            if stand.id in taken:
                changes["id"] = next(spare)
                self._told.append(f"{name} has the number of another part; what was noted or measured of it may be of the other.")
            if not _stands_somewhere(stand.placement):
                changes["placement"] = _IDENTITY
                self._told.append(f"{name} stood at a place that cannot be; it is put to where its file has it.")
            made = stand.model_copy(update=changes)
            taken.add(made.id)
            out.append(made)
        return out

    def _stand(self, raw: Any, count: int) -> StandForm | None:
        if not isinstance(raw, dict):
            self._told.append("A part that stood in it is lost: where it stood could not be read.")
            return None
        fields = {name: raw[name] for name in StandForm.model_fields if name in raw}
        if len(fields) < len(raw):
            unknown = next(str(key) for key in raw if key not in fields)[:60]
            self._told.append(f"What this version does not know of a part is left out: {unknown}.")
        for name, test in _REPAIRABLE.items():
            try:
                test.validate_python(fields.get(name, StandForm.model_fields[name].get_default()))
            except ValidationError:
                if name == "placement":
                    # Told with the name of the part.
                    fields[name] = _NOWHERE
                else:
                    self._told.append(f"The {name.replace('_', ' ')} of a part could not be read; the usual one holds.")
                    fields.pop(name)
        try:
            stand = StandForm.model_validate(fields)
        except ValidationError as error:
            self._told.append(f"A part that stood in it is lost: {_place(error)}.")
            return None
        if stand.part >= count:
            self._told.append(f"A part that stood in it is lost: it is said to be number {stand.part + 1} of {count} parts.")
            return None
        return stand

    def _views(self) -> tuple[ViewForm, ...]:
        out: dict[str, ViewForm] = {}
        for view in self._many("views", ViewForm, MOST_VIEWS, "saved views"):
            name, number = view.name, 1
            while name in out:
                number += 1
                name = f"{view.name[:380]} ({number})"
            out[name] = view if name == view.name else view.model_copy(update={"name": name})
        return tuple(out.values())

    def _notes(self, ids: set[int]) -> tuple[tuple[str, ...], tuple[tuple[int, ...], ...], tuple[LineForm, ...]]:
        raw = self._list("notes", MOST_NOTES, "notes")
        of = self._list("notes_of", MOST_NOTES, "notes' parts")
        rest = self._list("notes_more", MOST_NOTES, "notes' pictures and times")
        notes, about, more = [], [], []
        adrift, bare = 0, 0
        for number, words in enumerate(raw):
            if not isinstance(words, str):
                continue
            given = of[number] if number < len(of) and isinstance(of[number], list) else []
            notes.append(words[:20_000])
            more.append(LineForm())
            if number < len(rest):
                try:
                    more[-1] = LineForm.model_validate(rest[number])
                except ValidationError:
                    bare += 1
            about.append(tuple(one for one in given if type(one) is int and one in ids))
            adrift += len(about[-1]) < len(given) or (number < len(of) and not isinstance(of[number], list))
        if len(notes) < len(raw):
            self._told.append(f"{len(raw) - len(notes)} of its {len(raw)} notes could not be read and are lost.")
        if adrift:
            self._told.append(f"Of which parts {adrift} of its notes are could not be read in full.")
        if bare:
            self._told.append(f"The picture, place or time of {bare} of its notes could not be read and is lost.")
        plain = LineForm()
        return tuple(notes), tuple(about) if any(about) else (), tuple(more) if any(one != plain for one in more) else ()

    def _dimensions(self, ids: set[int]) -> tuple[Dimension, ...]:
        out: list[Dimension] = []
        taken: set[int] = set()
        read = self._many("dimensions", Dimension, _MOST_DIMENSIONS, "dimensions")
        for one in read:
            spots = [spot for spot in (one.a, one.b, *(pick.spot for pick in one.picks)) if spot is not None]
            if not {pick.part for pick in one.picks} <= ids or max(abs(value) for spot in spots for value in spot) > FAR:
                continue
            number = one.id if one.id not in taken and one.id <= MOST_ID else max(taken, default=0) + 1
            taken.add(number)
            out.append(one if number == one.id else one.model_copy(update={"id": number}))
        if len(out) < len(read):
            self._told.append(
                f"{len(read) - len(out)} dimensions are lost: they are of parts that are not in the job, or lie beyond all of it."
            )
        return tuple(out)


_REPAIRABLE: dict[str, TypeAdapter[Any]] = {
    name: TypeAdapter(StandForm.model_fields[name].rebuild_annotation()) for name in ("material", "copy_number", "placement")
}


def _stands_somewhere(placement: tuple[tuple[float, ...], ...]) -> bool:
    """Whether a placement turns and moves, and does nothing else, within the room that there is."""
    matrix = np.array(placement)
    turn = matrix[:, :3]
    if not np.isfinite(matrix).all() or np.abs(matrix).max() > FAR:
        return False
    return bool(np.abs(turn @ turn.T - np.eye(3)).max() <= _RIGID and np.linalg.det(turn) > 0)


def _place(error: ValidationError) -> str:
    """What is wrong first, and where, in words."""
    first = error.errors(include_url=False, include_input=False)[0]
    steps = [str(step)[:40] for step in first["loc"]]
    message = first["msg"].removeprefix("Value error, ")
    return f"{'.'.join(steps) or 'it'}: {message[:1].lower()}{message[1:160]}"
