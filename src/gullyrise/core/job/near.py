"""Which parts of a job stand so near one another that they might meet."""

from __future__ import annotations

import numpy as np

from gullyrise.core.geometry.material import near_boxes
from gullyrise.core.job.placed_part import PlacedPart

_ROOM = 2e-3


def near_each_other(parts: tuple[PlacedPart, ...]) -> dict[int, tuple[PlacedPart, ...]]:
    """Of each part, by its id, those whose boxes on the bed meet its own, in the job's order; none are left out."""
    if not parts:
        return {}
    low, high = (np.array([getattr(placed.ground, end) for placed in parts]) for end in ("low", "high"))
    meet = near_boxes(low, high, _ROOM)
    near: dict[int, list[int]] = {number: [] for number in range(len(parts))}
    for a, b in meet.tolist():
        near[a].append(b)
        near[b].append(a)
    return {parts[one].id: tuple(parts[other] for other in sorted(others)) for one, others in near.items()}


def within_reach(parts: tuple[PlacedPart, ...], reach: float) -> list[tuple[PlacedPart, PlacedPart]]:
    """Each two whose boxes on the bed come within `reach` mm of each other, in the job's order."""
    if len(parts) < 2:
        return []
    low, high = (np.array([getattr(placed.ground, end) for placed in parts]) for end in ("low", "high"))
    index = near_boxes(low, high, reach)
    apart = np.linalg.norm(np.maximum(low[index[:, 0]] - high[index[:, 1]], low[index[:, 1]] - high[index[:, 0]]).clip(0), axis=1)
    return [(parts[a], parts[b]) for a, b in np.sort(index[apart <= reach], axis=1).tolist()]
