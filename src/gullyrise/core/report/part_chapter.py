"""A part's chapter of the report, made of what is known of it and what the checks say."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from gullyrise.core.checks.protocol import Finding, Outcome, Row, Verdict, gravest
from gullyrise.core.checks.registry import checks
from gullyrise.core.intake.materials import mass, material_named
from gullyrise.core.machines import Limits
from gullyrise.core.number_words import given, number, of_doubt
from gullyrise.core.part import Part
from gullyrise.core.report.part_facts import facts, faults
from gullyrise.core.report.report_model import BodyRow, CheckPart, FindingBox, PartChapter, Picture

Accepted = Callable[[str, Finding], str]
"""The note with which a finding of a check was accepted, empty where it was not."""
Shown = Sequence[Sequence[tuple[Picture | None, str]]]
"""Of each outcome, of each of its findings: its picture, and why that shows no place, empty where it does."""


def nobody(check: str, finding: Finding) -> str:
    """No finding was accepted."""
    return ""


def chapter_of(
    part: Part, figures: dict[str, Any], centre: tuple[float, float, float] | None, material: str, outcomes: Sequence[Outcome],
    limits: Limits, *, shown: Shown = (), picture: Picture | None = None, sha256: str = "", quantity: int = 1,
    repairs: tuple[str, ...] = (), notes: tuple[str, ...] = (), accepted: Accepted = nobody, file: str = "",
) -> PartChapter:  # fmt: skip
    """figures : as `part_figures` has them;  material : id of what it is made of
    shown : pictures of the findings, or none
    """
    told: list[CheckPart] = []
    first = 1
    for place, outcome in enumerate(outcomes):
        pictures = shown[place] if shown else [(None, "")] * len(outcome.findings)
        told.append(_check(outcome, limits, pictures, first, accepted))
        first += len(outcome.findings)
    health = next((outcome for outcome in outcomes if outcome.check == "health" and outcome.measured), None)
    return PartChapter(
        name=part.name,
        file=file or part.file,
        sha256=sha256,
        quantity=quantity,
        verdict=gravest([outcome.verdict for outcome in outcomes if not outcome.nothing]),
        picture=picture,
        facts=tuple(facts(part, figures, centre, material)),
        bodies=tuple(_body(one, material) for one in figures["bodies"]),
        doubt=figures["unit_doubt"] or "",
        faults=tuple((count, what) for _, count, what in faults(health)) if health is not None else (),
        repairs=repairs,
        checks=tuple(told),
        notes=(*part.notes, *notes),
    )


def limit_words(row: Row | None, limits: Limits) -> str:
    """The limit that a check holds its worst value against, with its side and unit; empty where it has none."""
    own = row.own_limit if row is not None else None
    value = limits.value(own.name) if own is not None else None
    if row is None or own is None or not isinstance(value, int | float):
        return ""
    sign = "≥" if row.small_is_bad else "≤"
    return f"{sign} {given(float(value))}{'' if own.unit == '°' else ' '}{own.unit}"


def _check(
    outcome: Outcome, limits: Limits, pictures: Sequence[tuple[Picture | None, str]], first: int, accepted: Accepted
) -> CheckPart:
    known = checks().get(outcome.check)
    row = known.ROW if known is not None else None
    limit = limit_words(row, limits)
    subject = " and ".join(outcome.subject) if isinstance(outcome.subject, tuple) else ""
    worst = ""
    if outcome.worst is not None:
        told = row.tell_worst if row is not None else None
        worst = told(outcome.worst.value) if told is not None else f"{number(outcome.worst.value)} {outcome.worst.unit}"
    # An uncertainty is of the worst value, and so of findings that are told in the same unit.
    doubt = outcome.uncertainty or 0.0
    unit = outcome.worst.unit if outcome.worst is not None else ""
    boxes = tuple(
        _box(first + place, finding, outcome.verdict, limit, doubt if finding.unit == unit else 0.0, *shown,
             accepted(outcome.check, finding))
        for place, (finding, shown) in enumerate(zip(outcome.findings, pictures, strict=True))
    )  # fmt: skip
    return CheckPart(
        id=outcome.check,
        title=row.title if row is not None else outcome.check,
        subject=subject,
        verdict=outcome.verdict,
        why=outcome.why,
        worst=worst,
        limit=limit,
        findings=boxes,
        method=outcome.method,
        sampling=outcome.sampling,
        uncertainty=f"± {of_doubt(doubt)} {unit}".strip() if doubt > 0 else "",
    )


def _box(
    place: int, finding: Finding, verdict: Verdict, limit: str, doubt: float, picture: Picture | None, unseen: str, note: str
) -> FindingBox:
    said = finding.figure
    if said and doubt > 0 and not finding.counts:
        said += f" ± {of_doubt(doubt)}"
    return FindingBox(
        number=place,
        verdict="review" if verdict in ("pass", "review") else "fail",
        what=finding.what,
        number_words=said,
        limit=limit if finding.tells and not finding.counts else "",
        where="  ".join(f"{axis} {value:.2f}" for axis, value in zip("xyz", finding.at, strict=True)),
        area=f"{number(finding.area)} mm²" if finding.area and finding.unit != "mm²" else "",
        remedy=finding.remedy,
        picture=picture,
        unseen=unseen,
        accepted=note,
    )


def _body(figures: dict[str, Any], material: str) -> BodyRow:
    volume, made_of = figures["volume"], material_named(material)
    return BodyRow(
        name=figures["name"],
        count=figures["count"],
        kind=figures["kind"],
        size=" × ".join(number(side) for side in figures["size"]),
        volume=number(volume) if volume is not None else "–",
        mass=number(mass(volume, made_of)) if volume is not None and made_of is not None else "–",
        triangles=f"{figures['triangles']:,}",
        closed=figures["watertight"],
    )
