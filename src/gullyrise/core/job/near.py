"""Which parts of a job stand so near one another that they might meet."""

from __future__ import annotations

import numpy as np

from gullyrise.core.geometry.material import near_boxes
from gullyrise.core.job.standing import Standing

_ROOM = 2e-3


def near_each_other(standings: tuple[Standing, ...]) -> dict[int, tuple[Standing, ...]]:
    """Of each part, by its id, those whose boxes on the bed meet its own, in the job's order; none are left out."""
    if not standings:
        return {}
    low, high = (np.array([getattr(standing.ground, end) for standing in standings]) for end in ("low", "high"))
    meet = near_boxes(low, high, _ROOM)
    near: dict[int, list[int]] = {number: [] for number in range(len(standings))}
    for a, b in meet.tolist():
        near[a].append(b)
        near[b].append(a)
    return {standings[one].id: tuple(standings[other] for other in sorted(others)) for one, others in near.items()}


def within_reach(standings: tuple[Standing, ...], reach: float) -> list[tuple[Standing, Standing]]:
    """Each two whose boxes on the bed come within `reach` mm of each other, in the job's order."""
    if len(standings) < 2:
        return []
    low, high = (np.array([getattr(standing.ground, end) for standing in standings]) for end in ("low", "high"))
    index = near_boxes(low, high, reach)
    apart = np.linalg.norm(np.maximum(low[index[:, 0]] - high[index[:, 1]], low[index[:, 1]] - high[index[:, 0]]).clip(0), axis=1)
    return [(standings[a], standings[b]) for a, b in np.sort(index[apart <= reach], axis=1).tolist()]
