"""The report of a job: which parts it tells of, what was found, measured and said of them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import zip_longest
from pathlib import Path

from gullyrise import __version__
from gullyrise.core.checks.protocol import Finding, Neighbour, Outcome, gravest
from gullyrise.core.geometry import Transform
from gullyrise.core.intake.materials import USUAL
from gullyrise.core.job import Job, PlacedPart
from gullyrise.core.job.copies import copies
from gullyrise.core.job.record import Line, left_out
from gullyrise.core.measuring.keeping import is_stale, judged, limits_of
from gullyrise.core.measuring.picks import Dimension
from gullyrise.core.number_words import given, number, of_doubt
from gullyrise.core.report.album import Album
from gullyrise.core.report.dating import date_words
from gullyrise.core.report.dimensions import UNITS
from gullyrise.core.report.limit_lines import limit_lines
from gullyrise.core.report.part_chapter import chapter_of
from gullyrise.core.report.parts_list import COLUMNS, cell, rows_of
from gullyrise.core.report.report_model import DimensionLine, PartsTable, Picture, RecordPart, Report
from gullyrise.core.report.section_parts import section_parts

PROCESS = {"print": "printing", "mill": "milling"}
CHAPTERS: tuple[tuple[str, str], ...] = (
    ("findings", "Findings with pictures"), ("dimensions", "Dimensions"), ("sections", "Sections"), ("record", "Record"),
    ("parts-list", "Parts list"),
)  # fmt: skip
"""(id, title) of the chapters that can be left out."""
_LISTED = ("name", "count", "parts", "kind", "size", "volume", "grams", "material", "watertight")
_NUMERIC = ("count", "size", "volume", "grams")
_FEW, _LONGEST = 3, 120


@dataclass(frozen=True, slots=True)
class ReportWish:
    """left_out : ids of parts that are not told of;  without : ids of chapters;  paper : A4 or Letter"""

    left_out: frozenset[int] = frozenset()
    without: frozenset[str] = frozenset()
    paper: str = "A4"
    prepared_by: str = ""
    prepared_for: str = ""


@dataclass(frozen=True, slots=True, eq=False)
class Told:
    """A part that a report tells of, with all that are alike.

    outcomes : of the first, with their colours
    beside : with each outcome the other part that it is about, placed in the file's coordinates of this one, or None; none at all
        where every outcome is about this part alone
    first : with each of those the id of the other part where it is told of that one, too, as the first of both; else None
    """

    placed: PlacedPart
    alike: tuple[PlacedPart, ...]
    outcomes: tuple[Outcome, ...]
    sha256: str = ""
    repairs: tuple[str, ...] = ()
    beside: tuple[Neighbour | None, ...] = ()
    first: tuple[int | None, ...] = ()


def each_once(told: Iterable[Told]) -> list[tuple[Told, tuple[Outcome, ...]]]:
    """The outcomes of each part without those that are told of another one of them already: a table has a finding once."""
    every = list(told)
    numbers = {placed.id for one in every for placed in one.alike}

    def own(one: Told) -> tuple[Outcome, ...]:
        return tuple(found for found, first in zip_longest(one.outcomes, one.first) if first not in numbers)

    return [(one, own(one)) for one in every]


def distinct(job: Job, wish: ReportWish) -> list[tuple[PlacedPart, tuple[PlacedPart, ...]]]:
    """Parts that are to be made, each once with those that are of the same shape and stand alike turned, in their order."""
    found: dict[object, list[PlacedPart]] = {}
    for placed in job.parts:
        if not placed.is_fixture and placed.id not in wish.left_out:
            found.setdefault((placed.digest, placed.part.name, placed.placement.matrix[:3, :3].tobytes()), []).append(placed)
    return [(same[0], tuple(same)) for same in found.values()]


def title_of(names: list[str]) -> str:
    """Of a few parts all names, of many the first and how many more."""
    if len(names) <= _FEW and sum(map(len, names)) <= _LONGEST:
        return ", ".join(names)
    return f"{names[0]} and {len(names) - 1} more" if len(names) > 1 else names[0]


def report_of(job: Job, title: str, told: list[Told], albums: Mapping[int, Album], wish: ReportWish, checks: list[str]) -> Report:
    """albums : pictures of a part by its id;  checks : ids of those that judge"""
    kept_out = left_out(job.record)
    chapters = []
    for one in told:
        placed, album = one.placed, albums.get(one.placed.id)
        outcomes = one.outcomes

        def accepted(check: str, finding: Finding, placed: PlacedPart = placed) -> str:
            found = job.acceptance_of(placed, check, finding)
            return found.note if found is not None and found.record_key not in kept_out else ""

        chapters.append(
            chapter_of(
                placed.part, placed.figures, placed.centre, placed.material or USUAL[job.machine.process], outcomes, job.limits,
                shown=album.shown if album is not None else (), picture=album.part if album is not None else None,
                sha256=one.sha256, quantity=len(one.alike), repairs=one.repairs, accepted=accepted,
                notes=tuple(line.words for line in job.record if placed.id in line.of and not line.left_out),
                file=Path(placed.part.file).name,
            )
        )  # fmt: skip
    record = tuple(_record_part(job, line) for line in job.record if not line.left_out)
    return Report(
        title=title or title_of([chapter.name for chapter in chapters] or ["No parts"]),
        machine=job.machine.name,
        process=PROCESS[job.machine.process],
        envelope=job.machine.envelope.words(),
        limits=limit_lines(job.machine, job.given, checks, "set in this job"),
        units="millimetres, degrees",
        date=date_words(),
        version=__version__,
        verdict=gravest([chapter.verdict for chapter in chapters]),
        parts=tuple(chapters),
        prepared_by=wish.prepared_by,
        prepared_for=wish.prepared_for,
        dimensions=() if "dimensions" in wish.without else dimension_lines(job),
        sections=() if "sections" in wish.without else section_parts(job, wish.left_out),
        record=() if "record" in wish.without else record,
        parts_table=None if "parts-list" in wish.without else _parts_table(job, [same for one in told for same in one.alike]),
        paper=wish.paper,
    )


def _record_part(job: Job, line: Line) -> RecordPart:
    picture = Picture(line.picture, line.words) if line.picture else None
    number = [one for one in job.record if one.at is not None].index(line) + 1 if line.at is not None else 0
    kind = f"Note {number}" if number else "Picture" if line.kind == "picture" else "Note"
    return RecordPart(kind, _of(job, line.of), line.words, line.when.replace("T", " "), picture)


def _of(job: Job, numbers: tuple[int, ...]) -> str:
    return ", ".join(placed.name for placed in job.parts if placed.id in numbers)


def _parts_table(job: Job, parts: list[PlacedPart]) -> PartsTable:
    rows = rows_of(parts, "name", {}, material=USUAL[job.machine.process])
    titles = dict(COLUMNS)
    return PartsTable(
        tuple(titles[name] for name in _LISTED),
        tuple(tuple(cell(row, name) for name in _LISTED) for row in rows),
        frozenset(place for place, name in enumerate(_LISTED) if name in _NUMERIC),
    )


def dimensions_told(job: Job) -> list[tuple[Dimension, list[str], bool]]:
    """The kept dimensions but for those that are left out of the report: each with the names of its parts, and whether they have
    changed since."""
    known, kept_out = copies(job), left_out(job.record)
    out = []
    for one in job.dimensions:
        if one.record_key in kept_out:
            continue
        found = [known.get(pick.key) for pick in one.picks]
        digests = tuple(place[0].digest if place is not None else None for place in found)
        places = tuple(place[2].then(place[0].placement) if place is not None else Transform.identity() for place in found)
        names = list(dict.fromkeys(place[0].name for place in found if place is not None))
        out.append((one, names, is_stale(one, digests, places)))
    return out


def dimension_lines(job: Job) -> tuple[DimensionLine, ...]:
    """The same as they are read."""

    def line(one: Dimension, names: list[str], stale: bool) -> DimensionLine:
        unit, doubt = UNITS[one.quantity], one.uncertainty or 0.0
        return DimensionLine(
            name=one.name,
            parts=", ".join(names),
            what=one.figure,
            value=f"{number(one.value, doubt)} {unit}",
            uncertainty=f"± {of_doubt(doubt)} {unit}" if doubt > 0 else "",
            tolerance=_tolerance(one, unit),
            verdict=None if stale else judged(one),
            stale=stale,
        )

    return tuple(line(*told) for told in dimensions_told(job))


def _tolerance(one: Dimension, unit: str) -> str:
    if one.tolerance is None:
        return ""
    low, high = limits_of(one.tolerance)
    words = f"{given(low)} to {given(high)} {unit}" if low is not None and high is not None else ""
    if not words and low is not None:
        words = f"≥ {given(low)} {unit}"
    if not words and high is not None:
        words = f"≤ {given(high)} {unit}"
    return f"{one.tolerance.iso} · {words}" if one.tolerance.iso else words
