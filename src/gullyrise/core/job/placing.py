"""Edits of a job that place many parts at once: copies, an arranged bed."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from gullyrise.core.geometry import Transform
from gullyrise.core.job.job import Job
from gullyrise.core.job.standing import Standing, outline_of
from gullyrise.core.placing.bed import bed_offset
from gullyrise.core.placing.packing import Packed

MOST_COPIES = 2_000


def with_copies(job: Job, numbers: Iterable[int], count: int, gap: float) -> Job:
    """So many further copies of some parts, in a row or a block to their right and behind, `gap` mm apart.

    The block is as wide as the bed lets it be, and begins anew behind; what finds no room there waits beside.
    """
    chosen = [standing for standing in job.standings if standing.id in set(numbers)]
    if not chosen or count < 1:
        return job
    count = min(count, MOST_COPIES // len(chosen))
    points = outline_of(chosen)
    low, size = points.min(axis=0), np.ptp(points, axis=0)
    room = job.machine.envelope.box
    across = max(int((float(room.high[0]) - float(low[0]) + gap) // (float(size[0]) + gap)), 1)
    number = max((standing.id for standing in job.standings), default=0)
    made: list[Standing] = []
    taken = {
        standing.part.name: max(one.copy for one in job.standings if one.part.name == standing.part.name) for standing in chosen
    }
    for step in range(1, count + 1):
        column, row = step % across, step // across
        move = Transform.moved(np.array([column * (size[0] + gap), row * (size[1] + gap), 0.0]))
        for standing in chosen:
            number += 1
            taken[standing.part.name] += 1
            made.append(replace(standing.moved(move), id=number, copy=taken[standing.part.name]))
    return replace(job, standings=(*job.standings, *made), settled=True)


def arranged(job: Job, packed: Packed) -> Job:
    """Parts at the places that were found for them; beds as many as those need. Parts that found none wait beside the beds."""
    fresh = []
    wait_x = float(job.machine.envelope.box.high[0] + bed_offset(job.machine, packed.bed_count - 1)[0]) + 40.0
    for standing in job.standings:
        if standing.id in packed.moves:
            shift = Transform.moved(bed_offset(job.machine, packed.beds[standing.id]))
            fresh.append(standing.moved(packed.moves[standing.id]).moved(shift))
        elif standing.id in packed.left:
            ground = standing.ground
            fresh.append(standing.moved(Transform.moved(np.array([wait_x - ground.low[0], -ground.low[1], -ground.low[2]]))))
            wait_x += float(ground.size[0]) + 10.0
    return replace(job.placed(fresh), beds=packed.bed_count)
