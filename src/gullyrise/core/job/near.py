"""Which parts of a job stand so near one another that they might meet."""

from __future__ import annotations

import numpy as np

from gullyrise.core.job.standing import Standing

_ROOM = 1e-3


def near_each_other(standings: tuple[Standing, ...]) -> dict[int, tuple[Standing, ...]]:
    """Of each part, by its id, those whose boxes on the bed meet its own, in the job's order; none are left out."""
    if not standings:
        return {}
    low = np.array([standing.ground.low for standing in standings]) - _ROOM
    high = np.array([standing.ground.high for standing in standings]) + _ROOM
    meet = np.asarray(((low[:, None] <= high[None]) & (low[None] <= high[:, None])).all(axis=2))
    np.fill_diagonal(meet, val=False)
    return {
        standing.id: tuple(standings[other] for other in np.flatnonzero(row))
        for standing, row in zip(standings, meet, strict=True)
    }
