"""Putting parts on the bed: in the middle, side by side, or where there is room; and which of several beds a place is on."""

from __future__ import annotations

import numpy as np

from gullyrise.core.geometry import Box, Floats, Transform
from gullyrise.core.machines import Machine

BETWEEN_BEDS = 60.0
_BESIDE, _GRID = 40.0, 48


def in_the_middle(box: Box, machine: Machine | None) -> Transform:
    """The move that brings the middle of a box to the bed's middle, its lowest point on the bed."""
    target = np.zeros(3) if machine is None else machine.envelope.middle
    return Transform.moved(np.array([target[0] - box.middle[0], target[1] - box.middle[1], -box.low[2]]))


def bed_offset(machine: Machine, number: int) -> Floats:
    """(3,) mm from the first bed to one of the others, which stand in a row to the right of it."""
    return np.array([number * (float(machine.envelope.box.size[0]) + BETWEEN_BEDS), 0.0, 0.0])


def bed_under(box: Box, machine: Machine, beds: int) -> int | None:
    """The number of the bed over which the middle of a box is; None where it is over none."""
    room = machine.envelope.box
    number = int(np.floor((float(box.middle[0]) - float(room.low[0]) + BETWEEN_BEDS / 2) / float(bed_offset(machine, 1)[0])))
    return None if number >= beds else max(number, 0)


def side_by_side(boxes: list[Box], machine: Machine, gap: float = 8.0) -> list[Transform]:
    """Moves that set boxes out on the bed in rows; one alone goes to the middle.

    Those that the bed has no room for wait in rows to the right of it, where they can be seen and are not in the way.
    """
    if len(boxes) == 1:
        return [in_the_middle(boxes[0], machine)]
    low, high = _inside(machine)
    bed = machine.envelope.box
    order = sorted(range(len(boxes)), key=lambda i: -float(boxes[i].size[1]))
    places: dict[int, tuple[float, float]] = {}
    left = _shelves(order, boxes, low, high, gap, places)
    if places:
        used_low = np.min([places[i] for i in places], axis=0)
        used_high = np.max([np.array(places[i]) + boxes[i].size[:2] for i in places], axis=0)
        shift = (low + high) / 2 - (used_low + used_high) / 2
        places = {i: (x + shift[0], y + shift[1]) for i, (x, y) in places.items()}
    if left:
        beside = np.array([bed.high[0] + _BESIDE, bed.low[1]])
        depth = max(bed.size[1], max(float(boxes[i].size[1]) for i in left))
        wide = max(bed.size[0], max(float(boxes[i].size[0]) for i in left)) * len(left)
        _shelves(left, boxes, beside, beside + np.array([wide, depth * len(left)]), gap * 2, places)
    return [Transform.moved(np.array([*(np.array(places[i]) - box.low[:2]), -box.low[2]])) for i, box in enumerate(boxes)]


def where_there_is_room(boxes: list[Box], taken: list[Box], machine: Machine, beds: int, gap: float = 5.0) -> list[Transform]:
    """Moves of boxes to free places on the first bed, nearest its middle; those that find none wait to the right of all beds.

    taken : boxes that stay where they are, on any bed.
    """
    low, high = _inside(machine)
    stand = list(taken)
    wait_x = float(machine.envelope.box.high[0] + bed_offset(machine, beds - 1)[0]) + _BESIDE
    wait_x = max([wait_x, *(float(box.high[0]) + gap for box in taken if box.low[0] >= wait_x)])
    out = []
    for box in boxes:
        corner = _free_corner(box, stand, low, high, gap)
        if corner is None:
            corner = np.array([wait_x, float(machine.envelope.box.low[1])])
            wait_x += float(box.size[0]) + gap
        move = Transform.moved(np.array([*(corner - box.low[:2]), -box.low[2]]))
        out.append(move)
        stand.append(Box(move.apply(box.low[None])[0], move.apply(box.high[None])[0]))
    return out


def _free_corner(box: Box, taken: list[Box], low: Floats, high: Floats, gap: float) -> Floats | None:
    spare = high - low - box.size[:2]
    if (spare < 0).any():
        return None
    steps = np.linspace(0, 1, _GRID)
    corners = np.array([[x, y] for x in steps for y in steps]) * spare + low
    free = np.ones(len(corners), dtype=bool)
    for other in taken:
        apart = (corners >= other.high[:2] + gap).any(axis=1) | (corners + box.size[:2] <= other.low[:2] - gap).any(axis=1)
        free &= apart
    if not free.any():
        return None
    away = np.linalg.norm(corners + box.size[:2] / 2 - (low + high) / 2, axis=1)
    return np.asarray(corners[int(np.argmin(np.where(free, away, np.inf)))])


def _inside(machine: Machine) -> tuple[Floats, Floats]:
    """(low, high) corners of the rectangle of the bed on which parts are set out by themselves."""
    edge = machine.margins.edge + 2
    bed = machine.envelope.box
    if machine.envelope.shape == "cylinder":
        half = bed.size[0] / 2 / np.sqrt(2) - edge
        return np.array([-half, -half]), np.array([half, half])
    low, high = bed.low[:2] + edge, bed.high[:2] - edge
    front = [keep.box.high[1] for keep in machine.blocked if keep.box.high[1] < bed.size[1] / 4]
    back = [keep.box.low[1] for keep in machine.blocked if keep.box.low[1] > bed.size[1] * 3 / 4]
    return (
        np.array([low[0], max([low[1], *(y + 2 for y in front)])]),
        np.array([high[0], min([high[1], *(y - 2 for y in back)])]),
    )


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
