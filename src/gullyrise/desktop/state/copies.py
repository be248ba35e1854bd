"""Every copy of every body of a job, by the key by which it is pointed at."""

from __future__ import annotations

import itertools

from gullyrise.core.geometry import Transform
from gullyrise.core.job import Job, Standing
from gullyrise.core.part import Body
from gullyrise.desktop.state.visibility import Key


def copies(job: Job) -> dict[Key, tuple[Standing, Body, Transform]]:
    """With the placement of each in its part."""
    out: dict[Key, tuple[Standing, Body, Transform]] = {}
    for standing in job.standings:
        number = itertools.count()
        for body in standing.part.bodies:
            for place in body.placements:
                out[standing.id, next(number)] = (standing, body, place)
    return out
