"""Putting parts on the bed: in the middle, or side by side."""

from __future__ import annotations

import numpy as np

from gullyrise.core.geometry import Box, Transform
from gullyrise.core.machines import Machine


def in_the_middle(box: Box, machine: Machine | None) -> Transform:
    """The move that brings the middle of a box to the bed's middle, its lowest point on the bed."""
    target = np.zeros(3) if machine is None else machine.envelope.middle
    return Transform.moved(np.array([target[0] - box.middle[0], target[1] - box.middle[1], -box.low[2]]))


def side_by_side(boxes: list[Box], machine: Machine, gap: float = 8.0) -> list[Transform]:
    """Moves that set boxes out on the bed in rows; one alone goes to the middle.

    Those that the bed has no room for wait in rows to the right of it, where they can be seen and are not in the way.
    """
    if len(boxes) == 1:
        return [in_the_middle(boxes[0], machine)]
    edge = machine.margins.edge + 2
    bed = machine.envelope.box
    if machine.envelope.shape == "cylinder":
        half = bed.size[0] / 2 / np.sqrt(2) - edge
        low, high = np.array([-half, -half]), np.array([half, half])
    else:
        low, high = bed.low[:2] + edge, bed.high[:2] - edge
        blocked = [out.max[1] for out in machine.keep_out if out.max is not None and out.max[1] < bed.size[1] / 4]
        low = np.array([low[0], max([low[1], *(y + 2 for y in blocked)])])
    order = sorted(range(len(boxes)), key=lambda i: -float(boxes[i].size[1]))
    places: dict[int, tuple[float, float]] = {}
    left = _shelves(order, boxes, low, high, gap, places)
    if places:
        used_low = np.min([places[i] for i in places], axis=0)
        used_high = np.max([np.array(places[i]) + boxes[i].size[:2] for i in places], axis=0)
        shift = (low + high) / 2 - (used_low + used_high) / 2
        places = {i: (x + shift[0], y + shift[1]) for i, (x, y) in places.items()}
    if left:
        beside = np.array([bed.high[0] + 40.0, bed.low[1]])
        depth = max(bed.size[1], max(float(boxes[i].size[1]) for i in left))
        wide = max(bed.size[0], max(float(boxes[i].size[0]) for i in left)) * len(left)
        _shelves(left, boxes, beside, beside + np.array([wide, depth * len(left)]), gap * 2, places)
    return [Transform.moved(np.array([*(np.array(places[i]) - box.low[:2]), -box.low[2]])) for i, box in enumerate(boxes)]


def _shelves(
    order: list[int], boxes: list[Box], low: np.ndarray, high: np.ndarray, gap: float, places: dict[int, tuple[float, float]]
) -> list[int]:
    """Fills rows from the front left corner; gives back the boxes that found no room."""
    x, y, row = float(low[0]), float(low[1]), 0.0
    left = []
    for i in order:
        width, depth = (float(side) for side in boxes[i].size[:2])
        if x + width > high[0] and x > low[0]:
            x, y, row = float(low[0]), y + row + gap, 0.0
        if x + width > high[0] or y + depth > high[1]:
            left.append(i)
            continue
        places[i] = (x, y)
        x += width + gap
        row = max(row, depth)
    return left
