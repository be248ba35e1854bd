"""What the Traveller says of one check over several parts."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from gullyrise.core.checks.protocol import GRAVITY, FaceField, Finding, Outcome, Row, Verdict, gravest
from gullyrise.core.checks.tally import Tally
from gullyrise.core.job import PlacedPart
from gullyrise.core.job.unknown import UnknownMachine
from gullyrise.core.machines import Limits
from gullyrise.core.number_words import number, of_doubt


@dataclass(frozen=True, slots=True, eq=False)
class RowView:
    """What a Traveller row shows.

    stale : no outcome stands for the present digest
    judged : findings with their own verdicts
    sampling : how closely was looked
    field : the colours and how much surface has which value, of all parts
    places : the thinnest, where they are asked for
    limits : all that hold
    failed : it was ended before it was done, and may be run again
    nothing : nothing was there to be judged
    deeds : ids of the actions that are offered now
    """

    row: Row
    verdict: Verdict
    stale: bool
    running: bool
    worst: str
    limit: float | None
    findings: list[tuple[PlacedPart, Finding]]
    whys: list[tuple[str, Verdict, str]]
    method: str
    uncertainty: str
    judged: list[tuple[PlacedPart, Finding, Verdict]]
    sampling: str
    field: FaceField | None
    failed: bool
    places: list[tuple[PlacedPart, Finding]]
    limits: Limits
    nothing: bool
    deeds: frozenset[str]


def not_judged(check: str, placed: PlacedPart, unknown: UnknownMachine) -> Outcome:
    """What stands where the job's machine is one that this version cannot use."""
    why = f"The job's machine {unknown.name[:80]} is not known to this version; choose a machine to judge it by."
    return Outcome(check, placed.name, "not-run", why, None, {}, (), "", None)


def row_of(
    row: Row,
    outcomes: list[tuple[PlacedPart, Outcome]],
    limits: Limits,
    places: list[tuple[PlacedPart, Finding]],
    *,
    stale: bool,
    running: bool,
) -> RowView:
    """One row over the outcomes of parts. places : what else is to be flown to"""
    limit = limits.value(row.judged_by) if row.judged_by else None
    judging = [pair for pair in outcomes if not pair[1].nothing]
    nothing = bool(outcomes) and not judging
    verdict = gravest([outcome.verdict for _, outcome in judging])
    # What had nothing to be held against is left out where others had, and no pass where none had.
    outcomes = judging or [(placed, replace(outcome, verdict="not-run")) for placed, outcome in outcomes]
    by_gravity = sorted(outcomes, key=lambda pair: -GRAVITY[pair[1].verdict])
    deciding = [pair for pair in by_gravity if pair[1].verdict == verdict and pair[1].worst is not None]
    worst, uncertainty = "", ""
    if deciding:
        one = _most_telling(row, deciding)
        if one.worst is not None:
            worst = _worst_words(row, one, limit)
        if one.uncertainty:
            unit = f" {one.worst.unit}" if one.worst else ""
            uncertainty = f"± {of_doubt(one.uncertainty)}{unit}"
    judged: list[tuple[PlacedPart, Finding, Verdict]] = [
        (placed, finding, outcome.verdict if outcome.verdict != "pass" else "review")
        for placed, outcome in by_gravity
        for finding in outcome.findings
    ]
    judged.sort(key=lambda one: one[1].cost)
    findings = [(placed, finding) for placed, finding, _ in judged]
    # What is said of all parts together is not said of the first of them.
    whys = [(placed.name if outcome.subject else "", outcome.verdict, outcome.why) for placed, outcome in by_gravity]
    method = next((outcome.method for _, outcome in outcomes if outcome.method), "")
    sampling = next((outcome.sampling for _, outcome in outcomes if outcome.sampling), "")
    field = _summed([outcome.field for _, outcome in outcomes if outcome.field is not None])
    failed = any(outcome.verdict == "not-run" and not outcome.method for _, outcome in outcomes)
    return RowView(
        row, verdict, stale, running, worst, limit, findings, whys, method, uncertainty, judged, sampling, field, failed, places,
        limits, nothing, _deeds(row, outcomes),
    )  # fmt: skip


def _deeds(row: Row, outcomes: list[tuple[PlacedPart, Outcome]]) -> frozenset[str]:
    failed = [outcome.measured for _, outcome in outcomes if outcome.verdict == "fail"]
    return frozenset(deed.action for deed in row.deeds if deed.when is None or any(map(deed.when, failed)))


def alike_in(findings: list[tuple[PlacedPart, Finding]]) -> list[tuple[PlacedPart, Finding, int]]:
    """Each finding once, with the first part that has it and how many are alike: copies share what was found on them."""
    out: dict[int, tuple[PlacedPart, Finding, int]] = {}
    for placed, finding in findings:
        first, _, count = out.get(id(finding), (placed, finding, 0))
        out[id(finding)] = (first, finding, count + 1)
    return list(out.values())


def _summed(fields: list[FaceField]) -> FaceField | None:
    """One field that stands for those of several parts: their histograms in one, where they have the same steps."""
    counted = [field for field in fields if field.tally is not None]
    if not counted:
        return None
    first = counted[0]
    assert first.tally is not None
    area = first.tally.area.copy()
    for field in counted[1:]:
        if field.tally is not None and np.array_equal(field.tally.edges, first.tally.edges):
            area += field.tally.area
    return replace(first, tally=Tally(first.tally.edges, area))


def _most_telling(row: Row, pairs: list[tuple[PlacedPart, Outcome]]) -> Outcome:
    """Of outcomes with one verdict, that with the least value where small is bad, else that with the largest."""
    outcomes = [outcome for _, outcome in pairs]
    key = (lambda o: o.worst.value) if row.small_is_bad else (lambda o: -o.worst.value)
    return min(outcomes, key=key)


def _worst_words(row: Row, outcome: Outcome, limit: float | None) -> str:
    worst = outcome.worst
    if worst is None or outcome.headline:
        return outcome.headline
    if row.tell_worst is not None:
        return row.tell_worst(worst.value)
    return f"{number(worst.value, apart_from=limit)} {worst.unit}".replace(" °", "°")
