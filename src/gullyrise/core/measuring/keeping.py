"""Dimensions that stay with a job: taken from figures, judged against a wanted size, and stale once their parts changed."""

from __future__ import annotations

import hashlib
from typing import Literal

import numpy as np

from gullyrise.core.geometry import Box, Transform
from gullyrise.core.geometry.spots import spot
from gullyrise.core.measuring.figures import Figure
from gullyrise.core.measuring.iso286 import deviations
from gullyrise.core.measuring.picks import Dimension, Pick, Tolerance

Verdict = Literal["pass", "review", "fail"]
_PLACES = 7


def kept(
    number: int, picks: tuple[Pick, ...], figure: Figure, digests: tuple[str, ...], places: tuple[Transform, ...], *, turned: bool
) -> Dimension:
    """A dimension of a figure. digests, places : of the parts and copies that were picked, in order
    turned : it hangs on the machine's directions, as coordinates do
    """
    back = Transform(np.asarray(np.linalg.inv(places[0].matrix), dtype=np.float64))
    ends = [None if end is None else spot(back.apply(np.array([end]))[0]) for end in (figure.a, figure.b)]
    name = figure.name if len(figure.name) <= 60 else figure.name[:60]
    return Dimension(
        id=number, name=f"{number} {name}", picks=picks, figure=figure.name,
        code=figure.code, quantity=figure.quantity, value=figure.value,
        uncertainty=figure.uncertainty, method=figure.method[:500], shape=digests, stood=stood(places, turned=turned), a=ends[0],
        b=ends[1],
    )  # fmt: skip


def stood(places: tuple[Transform, ...], *, turned: bool) -> tuple[str, ...]:
    """How things stand to one another, and where the machine's directions count, to those: equal as long as nothing has moved
    that a figure hangs on."""
    first = np.eye(4) if turned else np.linalg.inv(places[0].matrix)
    ways = [first @ place.matrix for place in (places if turned else places[1:])]
    return tuple(hashlib.blake2b((np.round(way, _PLACES) + 0.0).tobytes(), digest_size=8).hexdigest() for way in ways)


def hangs_on_machine(code: str) -> bool:
    """Whether a figure is of the machine's coordinates."""
    return code in ("at-x", "at-y", "at-z")


def is_stale(dimension: Dimension, digests: tuple[str | None, ...], places: tuple[Transform, ...]) -> bool:
    """Whether a part of it has another shape, has gone, or stands otherwise to the others."""
    if any(digest is None for digest in digests) or tuple(digests) != dimension.shape:
        return True
    return stood(places, turned=hangs_on_machine(dimension.code)) != dimension.stood


def carried(pick: Pick, before: Box, after: Box) -> Pick:
    """A pick on a body of another size than when it was picked: its place keeps its share of the body's box, before and after, mm
    in the body's own coordinates."""
    if np.array_equal(before.low, after.low) and np.array_equal(before.high, after.high):
        return pick
    share = (np.array(pick.spot) - before.low) / np.maximum(before.size, 1e-12)
    return pick.model_copy(update={"spot": spot(after.low + share * after.size)})


def limits_of(tolerance: Tolerance) -> tuple[float, float]:
    """The smallest and the largest size that are wanted. Raises MeasureError for a class that is not known."""
    if tolerance.iso:
        found = deviations(tolerance.iso, tolerance.nominal)
        return tolerance.nominal + found.lower, tolerance.nominal + found.upper
    return tolerance.nominal + tolerance.lower, tolerance.nominal + tolerance.upper


def judged(dimension: Dimension) -> Verdict | None:
    """Against its wanted size: a pass or fail only where the whole uncertainty lies on one side; None where none is wanted."""
    if dimension.tolerance is None:
        return None
    low, high = limits_of(dimension.tolerance)
    # Numbers that are equal but for their rounding are equal.
    slack = 1e-9 * max(abs(low), abs(high), 1.0)
    least, most = dimension.value - dimension.uncertainty, dimension.value + dimension.uncertainty
    if least >= low - slack and most <= high + slack:
        return "pass"
    if most < low - slack or least > high + slack:
        return "fail"
    return "review"
