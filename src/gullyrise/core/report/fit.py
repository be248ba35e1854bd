"""What the placement panel says of the fit of the chosen parts."""

from __future__ import annotations

from collections.abc import Callable, Container
from dataclasses import dataclass
from typing import Any

import numpy as np

from gullyrise.core.checks.protocol import GRAVITY, Outcome, Verdict, gravest
from gullyrise.core.geometry import Transform
from gullyrise.core.job import Job, PlacedPart
from gullyrise.core.number_words import number
from gullyrise.core.placing.bed import bed_offset


@dataclass(frozen=True, slots=True)
class FitView:
    """level, any_way : whether turns are known that fit
    machines : (id, name) of others that hold all of them as they stand.
    """

    verdict: Verdict
    stale: bool
    why: str
    sides: str
    level: bool
    any_way: bool
    machines: tuple[tuple[str, str], ...]


Found = Callable[[PlacedPart], tuple[Outcome, ...] | None]
"""What the check of fit found of a part, None where it has not yet."""


def fit_view(job: Job, chosen: list[PlacedPart], found_of: Found, in_hand: Container[int] = ()) -> FitView:
    """Over all that is chosen: the gravest verdict and its sentence; slacks of one part. in_hand : ids of what is carried"""
    judged = [placed for placed in chosen if not placed.is_fixture]
    if not judged:
        words = "A fixture shape is in the way of others and is not judged." if chosen else "Select a part to see how it fits."
        return FitView("not-run", False, words, "", False, False, ())
    pairs = [(placed, found[0]) for placed in judged if (found := found_of(placed))]
    stale = len(pairs) < len(judged)
    if not pairs:
        return FitView("not-run", True, "Being measured…", "", False, False, ())
    verdict = gravest([found.verdict for _, found in pairs])
    if any(one.id in in_hand for one in judged):
        return FitView(verdict, True, "In the hand: it is judged where it is put down.", "", False, False, ())
    placed, worst = max(pairs, key=lambda pair: GRAVITY[pair[1].verdict])
    why = worst.why if len(judged) == 1 else f"{placed.name}: {worst.why}"
    turned = worst.measured.get("turned") or {}
    level, any_way = (turned.get(name) is not None and len(judged) == 1 for name in ("about_z", "any"))
    names = {machine.id: machine.name for machine in job.library}
    holds = set.intersection(*(set(found.measured.get("machines_that_fit", ())) for _, found in pairs))
    others = tuple((id, names[id].partition(",")[0]) for id in sorted(holds) if id in names and id != job.machine.id)
    return FitView(verdict, stale, why, _sides(worst.measured) if len(judged) == 1 else "", level, any_way, others)


def _sides(measured: dict[str, Any]) -> str:
    rows = [f"{words.removeprefix('the ')} {number(value)}" for words, value in measured.get("sides", ())]
    floats = measured.get("floats", 0.0)
    foot = f"floats {number(floats)} mm above the bed" if floats else "rests on the bed"
    if measured.get("sunk", 0.0) > 0:
        foot = f"sunk {number(measured['sunk'])} mm into the bed"
    return f"Slack, mm: {' · '.join(rows)}. It {foot}." if rows else ""


def turn_that_fits(job: Job, placed: PlacedPart, found: tuple[Outcome, ...] | None, which: str) -> Transform | None:
    """The move that the check of fit found, on the bed on which the part stands; None where none is known."""
    rows = (found[0].measured.get("turned") or {}).get(which) if found else None
    if rows is None:
        return None
    bed = job.bed_of(placed)
    home = Transform.moved(bed_offset(job.machine, bed or 0))
    move = Transform(np.array(rows))
    if bed is None:
        # A part that waits was looked at from the last bed.
        return Transform.moved(-bed_offset(job.machine, job.beds - 1)).then(move).then(home)
    return home.inverse().then(move).then(home)
