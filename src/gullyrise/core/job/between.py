"""What lies between two parts of a job, judged in the row of clearances."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from gullyrise.core.checks.clearances import METHOD, Limits, Pair, judged_pair
from gullyrise.core.checks.protocol import Neighbour, Outcome
from gullyrise.core.geometry import Transform
from gullyrise.core.geometry.spots import spot
from gullyrise.core.job.placed_part import PlacedPart
from gullyrise.core.number_words import given

Two = tuple[PlacedPart, PlacedPart]
Key = tuple[str, bytes, str, bytes]


@dataclass(frozen=True, slots=True, eq=False)
class Across:
    """What was measured between two parts within `reach` mm.

    left : pairs of bodies that were too many
    error : what ended it
    """

    pairs: tuple[Pair, ...]
    left: int
    reach: float
    error: str = ""


def judged_two(two: Two, found: Across, limits: Limits) -> list[Outcome]:
    """The verdicts on each two bodies of these parts, told of the first."""
    names = (two[0].name, two[1].name)
    out = [_in_file(judged_pair(pair, limits), two[0]) for pair in found.pairs]
    if found.error:
        out.append(Outcome("clearances", names, "not-run", found.error, None, {}, (), "", None))
    if found.left:
        why = f"{found.left:,} more pairs of bodies of {names[0]} and {names[1]} come near and were not measured."
        out.append(Outcome("clearances", names, "review", why, None, {}, (), METHOD, None))
    return out


def told_of_all(
    chosen: Sequence[PlacedPart], near: int, made: int, fixtures: int, too_many: int, gap: float
) -> tuple[PlacedPart, Outcome] | None:
    """One verdict on all that stand further apart.

    near : pairs with a chosen part that do not
    made, fixtures : how many there are
    too_many : pairs that were left out
    """
    mine = sum(not one.is_fixture for one in chosen)
    # Pairs of a chosen part with any other, each once.
    apart = mine * (made - mine + fixtures) + mine * (mine - 1) // 2 - near
    if too_many:
        why = f"{too_many:,} more pairs of parts stand near each other and were not measured: too many."
        return chosen[0], Outcome("clearances", "", "review", why, None, {}, (), METHOD, None)
    if apart <= 0:
        return None
    words = "One pair of parts stands" if apart == 1 else f"{apart:,} pairs of parts stand"
    why = f"{words} more than {given(gap)} mm apart."
    return chosen[0], Outcome("clearances", "", "pass", why, None, {}, (), METHOD, None)


def key_of(two: Two) -> Key:
    """What the gaps between two parts depend on: shapes, names and places."""
    return tuple(part for one in two for part in (f"{one.digest} {one.name}", one.placement.matrix.tobytes()))  # type: ignore[return-value]


def told_of(two: Two, outcome: Outcome, alike: Sequence[PlacedPart]) -> tuple[Outcome, Neighbour]:
    """(the verdict on two parts as it is told of the one that is among some alike ones, with places of its file; the other part,
    where it stands in the coordinates of that file)."""
    numbers = {one.id for one in alike}
    mine, other = two if two[0].id in numbers else (two[1], two[0])
    back = mine.placement.inverse()
    told = outcome if mine is two[0] else _moved(outcome, two[0].placement.then(back))
    return told, Neighbour(other.name, other.part, other.placement.then(back), other.digest)


def _in_file(outcome: Outcome, placed: PlacedPart) -> Outcome:
    """Places on the machine as places of the part that its findings are told of."""
    return _moved(outcome, placed.placement.inverse())


def _moved(outcome: Outcome, move: Transform) -> Outcome:
    def at(place: tuple[float, float, float]) -> tuple[float, float, float]:
        return spot(move.apply(np.array(place)[None])[0])

    worst = None if outcome.worst is None else replace(outcome.worst, at=at(outcome.worst.at))
    ends = {name: list(at(outcome.measured[name])) for name in ("point_a", "point_b") if outcome.measured.get(name) is not None}
    return replace(
        outcome, worst=worst, findings=tuple(one.placed(move) for one in outcome.findings), measured={**outcome.measured, **ends}
    )
