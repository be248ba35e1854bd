"""Edits of a job that place many parts at once: copies, an arranged bed."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np

from gullyrise.core.geometry import Box, Floats, Transform
from gullyrise.core.job.job import Job
from gullyrise.core.job.placed_part import PlacedPart, outline_of
from gullyrise.core.placing.bed import MOST_BEDS, bed_offset, bed_under, beside, room_for_rows
from gullyrise.core.placing.packing import Packed

MOST_COPIES = 2_000


def with_copies(job: Job, numbers: Iterable[int], count: int, gap: float, first: int | None = None) -> Job:
    """So many further copies of some parts, `gap` mm apart: in rows to their right and behind as far as the bed goes, then on
    further beds; places where something else stands are left out. Copies of what waits beside the beds wait, too.

    first : the id of the first copy, where ids are promised to parts that are still to come; else the next that no part has
    """
    chosen = [placed for placed in job.parts if placed.id in set(numbers)]
    if not chosen or count < 1:
        return job
    count = min(count, MOST_COPIES // len(chosen))
    others = [placed.ground for placed in job.parts if placed not in chosen]
    moves, beds = _copied(Box.of(outline_of(chosen)), others, job, count, gap)
    number = max(placed.id for placed in job.parts) if first is None else first - 1
    made: list[PlacedPart] = []
    taken = {placed.part.name: max(one.copy for one in job.parts if one.part.name == placed.part.name) for placed in chosen}
    for move in moves:
        for placed in chosen:
            number += 1
            taken[placed.part.name] += 1
            made.append(replace(placed.moved(move), id=number, copy=taken[placed.part.name]))
    opened = job.with_beds(beds)
    return replace(opened, parts=(*opened.parts, *made), settled=True)


def _copied(box: Box, others: Sequence[Box], job: Job, count: int, gap: float) -> tuple[list[Transform], int]:
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
        rows, columns = np.divmod(np.arange(across * deep), across)
        found = low + step[:2] * np.stack([columns, rows], axis=1)
        free = ~_taken(box, found, others, gap)
        free[0] |= bed == number
        places += list(found[free])
        bed += 1
    # The first place is the part's own.
    moves = [Transform.moved(np.array([*(place - box.low[:2]), 0.0])) for place in places[1 : count + 1]]
    return moves, max(job.beds, bed)


def _taken(box: Box, places: np.ndarray, others: Sequence[Box], gap: float) -> np.ndarray:
    """(n,) whether a box whose low corner is put to (n, 2) places of the bed comes nearer than `gap` mm to any other."""
    out = np.zeros(len(places), dtype=bool)
    for other in others:
        above = max(float(other.low[2] - box.high[2]), float(box.low[2] - other.high[2]), 0.0)
        beside = np.maximum(np.maximum(other.low[:2] - places - box.size[:2], places - other.high[:2]), 0.0)
        out |= np.hypot(np.hypot(beside[:, 0], beside[:, 1]), above) < gap - 1e-9
    return out


def arranged(job: Job, packed: Packed) -> Job:
    """Parts at the places that were found for them; beds as many as those need. Parts that found none wait beside the beds."""
    fresh = []
    wait_x = beside(job.machine, packed.bed_count)
    for placed in job.parts:
        if placed.id in packed.moves:
            shift = Transform.moved(bed_offset(job.machine, packed.beds[placed.id]))
            fresh.append(placed.moved(packed.moves[placed.id]).moved(shift))
        elif placed.id in packed.left:
            ground = placed.ground
            fresh.append(placed.moved(Transform.moved(np.array([wait_x - ground.low[0], -ground.low[1], -ground.low[2]]))))
            wait_x += float(ground.size[0]) + 10.0
    return replace(job.placed(fresh), beds=packed.bed_count)
