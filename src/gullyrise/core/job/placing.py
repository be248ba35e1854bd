"""Edits of a job that place many parts at once: copies, an arranged bed."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from gullyrise.core.geometry import Box, Floats, Transform
from gullyrise.core.job.job import Job
from gullyrise.core.job.standing import Standing, outline_of
from gullyrise.core.placing.bed import MOST_BEDS, bed_offset, bed_under, beside, room_for_rows
from gullyrise.core.placing.packing import Packed

MOST_COPIES = 2_000


def with_copies(job: Job, numbers: Iterable[int], count: int, gap: float) -> Job:
    """So many further copies of some parts, `gap` mm apart: in rows to their right and behind as far as the bed goes, then on
    further beds. Copies of what waits beside the beds wait, too."""
    chosen = [standing for standing in job.standings if standing.id in set(numbers)]
    if not chosen or count < 1:
        return job
    count = min(count, MOST_COPIES // len(chosen))
    moves, beds = _copied(Box.of(outline_of(chosen)), job, count, gap)
    number = max((standing.id for standing in job.standings), default=0)
    made: list[Standing] = []
    taken = {
        standing.part.name: max(one.copy for one in job.standings if one.part.name == standing.part.name) for standing in chosen
    }
    for move in moves:
        for standing in chosen:
            number += 1
            taken[standing.part.name] += 1
            made.append(replace(standing.moved(move), id=number, copy=taken[standing.part.name]))
    opened = job.with_beds(beds)
    return replace(opened, standings=(*opened.standings, *made), settled=True)


def _copied(box: Box, job: Job, count: int, gap: float) -> tuple[list[Transform], int]:
    """(moves of a box to the places of its copies, how many beds have to be open)."""
    number = bed_under(box, job.machine, job.beds)
    step = box.size + gap
    if number is None:
        return [Transform.moved(np.array([(one + 1) * step[0], 0.0, 0.0])) for one in range(count)], job.beds
    low_of, high_of = room_for_rows(job.machine)
    places: list[Floats] = []
    bed = number
    while len(places) <= count and bed < MOST_BEDS:
        # The first bed goes on from where the part stands, the others begin in their corner.
        away = bed_offset(job.machine, bed)[:2]
        low = box.low[:2] if bed == number else low_of + away
        high = high_of + away
        across, deep = (max(int((float(high[axis]) - float(low[axis]) + gap) // float(step[axis])), 1) for axis in (0, 1))
        places += [low + step[:2] * (column, row) for row in range(deep) for column in range(across)]
        bed += 1
    # The first place is the part's own.
    found = [Transform.moved(np.array([*(place - box.low[:2]), 0.0])) for place in places[1 : count + 1]]
    return found, max(job.beds, bed)


def arranged(job: Job, packed: Packed) -> Job:
    """Parts at the places that were found for them; beds as many as those need. Parts that found none wait beside the beds."""
    fresh = []
    wait_x = beside(job.machine, packed.bed_count)
    for standing in job.standings:
        if standing.id in packed.moves:
            shift = Transform.moved(bed_offset(job.machine, packed.beds[standing.id]))
            fresh.append(standing.moved(packed.moves[standing.id]).moved(shift))
        elif standing.id in packed.left:
            ground = standing.ground
            fresh.append(standing.moved(Transform.moved(np.array([wait_x - ground.low[0], -ground.low[1], -ground.low[2]]))))
            wait_x += float(ground.size[0]) + 10.0
    return replace(job.placed(fresh), beds=packed.bed_count)
