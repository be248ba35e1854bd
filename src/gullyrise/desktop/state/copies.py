"""Every copy of every body of a job, by the key by which it is pointed at."""

from __future__ import annotations

import itertools

from gullyrise.core.geometry import Transform
from gullyrise.core.job import Job, PlacedPart
from gullyrise.core.part import Body
from gullyrise.desktop.state.visibility import Key


def copies(job: Job) -> dict[Key, tuple[PlacedPart, Body, Transform]]:
    """With the placement of each in its part."""
    out: dict[Key, tuple[PlacedPart, Body, Transform]] = {}
    for placed in job.parts:
        number = itertools.count()
        for body in placed.part.bodies:
            for place in body.placements:
                out[placed.id, next(number)] = (placed, body, place)
    return out
