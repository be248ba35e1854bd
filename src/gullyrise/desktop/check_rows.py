"""What the Traveller says of one check over several parts."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.core.checks.protocol import GRAVITY, Finding, Outcome, Row, Verdict, gravest
from gullyrise.core.job import Standing


@dataclass(frozen=True, slots=True, eq=False)
class RowView:
    """What a Traveller row shows. state : verdict, or `stale` while no outcome stands for the present digest."""

    row: Row
    verdict: Verdict
    stale: bool
    running: bool
    worst: str
    limit: float | None
    findings: list[tuple[Standing, Finding]]
    whys: list[tuple[str, Verdict, str]]
    method: str
    uncertainty: str


def row_of(row: Row, outcomes: list[tuple[Standing, Outcome]], limit: float | None, *, stale: bool, running: bool) -> RowView:
    """One row over the outcomes of parts."""
    verdict = gravest([outcome.verdict for _, outcome in outcomes])
    by_gravity = sorted(outcomes, key=lambda pair: -GRAVITY[pair[1].verdict])
    deciding = [pair for pair in by_gravity if pair[1].verdict == verdict and pair[1].worst is not None]
    worst, uncertainty = "", ""
    if deciding:
        one = _most_telling(deciding)
        if one.worst is not None:
            worst = _worst_words(one)
        if one.uncertainty is not None:
            uncertainty = f"± {one.uncertainty:.2g} {one.worst.unit if one.worst else ''}"
    findings = [(standing, finding) for standing, outcome in by_gravity for finding in outcome.findings]
    whys = [(standing.name, outcome.verdict, outcome.why) for standing, outcome in by_gravity]
    method = next((outcome.method for _, outcome in outcomes if outcome.method), "")
    return RowView(row, verdict, stale, running, worst, limit, findings, whys, method, uncertainty)


def _most_telling(pairs: list[tuple[Standing, Outcome]]) -> Outcome:
    """Of outcomes with one verdict, that with the least value where small is bad, else that with the largest."""
    outcomes = [outcome for _, outcome in pairs]
    small_is_bad = outcomes[0].check in ("walls", "clearances", "fit")
    key = (lambda o: o.worst.value) if small_is_bad else (lambda o: -o.worst.value)
    return min(outcomes, key=key)


def _worst_words(outcome: Outcome) -> str:
    worst = outcome.worst
    if worst is None:
        return ""
    if outcome.check == "health":
        return f"{worst.value:.0f} faults"
    if outcome.check == "fit":
        return f"{_short(abs(worst.value))} mm {'to spare' if worst.value >= 0 else 'out'}"
    return f"{_short(worst.value)} {worst.unit}"


def _short(value: float) -> str:
    if abs(value) >= 1000:
        return f"{value:,.0f}"
    return f"{value:.2f}" if abs(value) >= 10 else f"{value:.3f}"
