"""Putting parts on the bed: in the middle, side by side, or where there is room; and which of several beds a place is on."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry import Box, Floats, Transform
from gullyrise.core.machines import Machine

BETWEEN_BEDS = 60.0
MOST_BEDS = 100
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


@dataclass(frozen=True, slots=True)
class SetOut:
    """moves : of each box, as they were given
    beds : how many have to be open
    """

    moves: list[Transform]
    beds: int


def side_by_side(boxes: list[Box], machine: Machine, gap: float = 8.0) -> SetOut:
    """Sets boxes out in rows, on as many beds as they need; one alone goes to the middle.

    What no bed has room for, since it is larger, waits in rows to the right of the last one, where it can be seen and is not in
    the way.
    """
    if len(boxes) == 1:
        return SetOut([in_the_middle(boxes[0], machine)], 1)
    low, high = room_for_rows(machine)
    left = sorted(range(len(boxes)), key=lambda i: -float(boxes[i].size[1]))
    places: dict[int, Floats] = {}
    too_large: list[int] = []
    beds = 0
    while left and beds < MOST_BEDS:
        on_bed: dict[int, tuple[float, float]] = {}
        rest = _shelves(left, boxes, low, high, gap, on_bed)
        middle = (low + high) / 2
        if not on_bed:
            # Not even an empty bed has room for the next in rows: in its middle it may have.
            number, *rest = rest
            if not _may_hold(boxes[number], machine):
                too_large.append(number)
                left = rest
                continue
            on_bed[number] = (0.0, 0.0)
            middle = machine.envelope.middle[:2]
        used_low = np.min(list(on_bed.values()), axis=0)
        used_high = np.max([np.array(on_bed[i]) + boxes[i].size[:2] for i in on_bed], axis=0)
        shift = middle - (used_low + used_high) / 2 + bed_offset(machine, beds)[:2]
        places |= {i: np.array(corner) + shift for i, corner in on_bed.items()}
        left = rest
        beds += 1
    beds = max(beds, 1)
    if left or too_large:
        _wait(left + too_large, boxes, machine, beds, gap * 2, places)
    return SetOut([Transform.moved(np.array([*(places[i] - box.low[:2]), -box.low[2]])) for i, box in enumerate(boxes)], beds)


def _wait(numbers: list[int], boxes: list[Box], machine: Machine, beds: int, gap: float, places: dict[int, Floats]) -> None:
    """Rows to the right of all beds."""
    bed = machine.envelope.box
    corner = np.array([beside(machine, beds), float(bed.low[1])])
    # Room for each in a row, or a row for each, with its gap.
    room = (np.max([bed.size[:2], *(boxes[i].size[:2] for i in numbers)], axis=0) + gap) * len(numbers)
    rows: dict[int, tuple[float, float]] = {}
    _shelves(numbers, boxes, corner, corner + room, gap, rows)
    places |= {i: np.array(place) for i, place in rows.items()}


def beside(machine: Machine, beds: int) -> float:
    """From which x on, mm, things wait that are on no bed."""
    return float(machine.envelope.box.high[0] + bed_offset(machine, beds - 1)[0]) + _BESIDE


def _may_hold(box: Box, machine: Machine) -> bool:
    """Whether a box is no larger than the bed. What is round may fit a round bed though its box does not."""
    return bool((box.size[:2] <= machine.envelope.box.size[:2]).all())


def where_there_is_room(boxes: list[Box], taken: list[Box], machine: Machine, beds: int, gap: float = 5.0) -> SetOut:
    """Puts boxes at free places, nearest the middle of the first bed that has one, and on further beds what finds none; what is
    larger than a bed waits to the right of all of them.

    taken : boxes that stay where they are, on any bed
    beds : how many are open. Where more are opened, what waits has to make room for them.
    """
    low, high = room_for_rows(machine)
    stand = list(taken)
    moves: dict[int, Transform] = {}
    open_now = beds
    for number, box in enumerate(boxes):
        corner = None
        for bed in range(open_now):
            away = bed_offset(machine, bed)[:2]
            corner = _free_corner(box, stand, low + away, high + away, gap)
            if corner is not None:
                break
        if corner is None and _may_hold(box, machine) and open_now < MOST_BEDS:
            corner = (machine.envelope.middle + bed_offset(machine, open_now))[:2] - box.size[:2] / 2
            open_now += 1
        if corner is not None:
            moves[number] = Transform.moved(np.array([*(corner - box.low[:2]), -box.low[2]]))
            stand.append(moved_box(box, moves[number]))
    shift = bed_offset(machine, open_now - beds)[0]
    wait_x = beside(machine, open_now)
    wait_x = max([wait_x, *(float(box.high[0] + shift) + gap for box in taken if box.low[0] >= beside(machine, beds))])
    for number, box in enumerate(boxes):
        if number not in moves:
            corner = np.array([wait_x, float(machine.envelope.box.low[1])])
            wait_x += float(box.size[0]) + gap
            moves[number] = Transform.moved(np.array([*(corner - box.low[:2]), -box.low[2]]))
    return SetOut([moves[number] for number in range(len(boxes))], open_now)


def moved_box(box: Box, move: Transform) -> Box:
    """A box after a move that does not turn."""
    return Box(box.low + move.matrix[:3, 3], box.high + move.matrix[:3, 3])


def _free_corner(box: Box, taken: list[Box], low: Floats, high: Floats, gap: float) -> Floats | None:
    spare = high - low - box.size[:2]
    if (spare < 0).any():
        return None
    sides = np.linspace(0, 1, _GRID)[:, None] * spare + low
    free = np.ones((_GRID, _GRID), dtype=bool)
    if taken:
        lows, highs = np.array([one.low[:2] for one in taken]), np.array([one.high[:2] for one in taken])
        # (of taken, of places) whether the two meet, seen along x and along y: a place is taken by what it meets in both.
        meets = (sides[None] < highs[:, None] + gap) & (sides[None] + box.size[:2] > lows[:, None] - gap)
        along_x, along_y = meets[:, :, 0].astype(np.float32), meets[:, :, 1].astype(np.float32)
        free = along_x.T @ along_y < 0.5
    if not free.any():
        return None
    corners = np.stack(np.meshgrid(sides[:, 0], sides[:, 1], indexing="ij"), axis=-1)
    away = np.linalg.norm(corners + box.size[:2] / 2 - (low + high) / 2, axis=-1)
    return np.asarray(corners.reshape(-1, 2)[int(np.argmin(np.where(free, away, np.inf)))])


def room_for_rows(machine: Machine) -> tuple[Floats, Floats]:
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
