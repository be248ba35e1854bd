"""Every copy of every body of a job, by the key by which it is pointed at."""

from __future__ import annotations

import itertools

from gullyrise.core.geometry import Transform
from gullyrise.core.job.job import Job
from gullyrise.core.job.placed_part import PlacedPart
from gullyrise.core.job.visibility import Key
from gullyrise.core.part import Body

Copies = dict[Key, tuple[PlacedPart, Body, Transform]]
"""With the placement of each in its part."""


def copies(job: Job) -> Copies:
    """Every copy of a job, in its parts' order."""
    out: Copies = {}
    for placed in job.parts:
        number = itertools.count()
        for body in placed.part.bodies:
            for place in body.placements:
                out[placed.id, next(number)] = (placed, body, place)
    return out
