"""The bed and the envelope of a machine as lines and triangles to be drawn, with the rulers' numbers. Lengths in mm."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from gullyrise.core.machines import Machine
from gullyrise.core.placing.bed import bed_offset

SLAB = 4.0
"""Thickness of the bed as drawn, mm."""


def beds_triangles(machine: Machine, beds: int) -> tuple[np.ndarray, np.ndarray]:
    """Every bed as a thin slab: (vertices, faces)."""
    vertices, faces = bed_triangles(machine)
    return (
        np.concatenate([vertices + bed_offset(machine, number) for number in range(beds)]),
        np.concatenate([faces + len(vertices) * number for number in range(beds)]),
    )


def bed_triangles(machine: Machine) -> tuple[np.ndarray, np.ndarray]:
    """The bed as a thin slab just under z = 0: (vertices, faces)."""
    border = bed_outline(machine)
    n = len(border)
    top = np.column_stack([border, np.full(n, -0.12)])
    low = np.column_stack([border, np.full(n, -SLAB)])
    middle = border.mean(axis=0)
    vertices = np.vstack([top, low, [[*middle, -0.12]], [[*middle, -SLAB]]])
    i, j = np.arange(n), np.roll(np.arange(n), -1)
    faces = np.vstack(
        [
            np.column_stack([i, j, np.full(n, 2 * n)]),
            np.column_stack([j + n, i + n, np.full(n, 2 * n + 1)]),
            np.column_stack([i, i + n, j]),
            np.column_stack([j, i + n, j + n]),
        ]
    )
    return vertices, faces


def bed_outline(machine: Machine) -> np.ndarray:
    """(n, 2) outline of the bed, counter-clockwise."""
    box = machine.envelope.box
    if machine.envelope.shape == "cylinder":
        turn = np.linspace(0, 2 * np.pi, 96, endpoint=False)
        return np.asarray(np.column_stack([np.cos(turn), np.sin(turn)]) * box.high[0])
    (x0, y0), (x1, y1) = box.low[:2], box.high[:2]
    return np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])


def ruler_lines(machine: Machine) -> np.ndarray:
    """Ticks along the front and right edges every 5 mm, longer each 10 and 50: (k, 2, 3)."""
    box = machine.envelope.box
    out = []
    for step in np.arange(0, box.size[0] + 0.1, 5.0):
        long = 7.0 if step % 50 == 0 else 4.0 if step % 10 == 0 else 2.0
        x = box.low[0] + step
        out.append([[x, box.low[1], 0], [x, box.low[1] - long, 0]])
    for step in np.arange(0, box.size[1] + 0.1, 5.0):
        long = 7.0 if step % 50 == 0 else 4.0 if step % 10 == 0 else 2.0
        y = box.low[1] + step
        out.append([[box.high[0], y, 0], [box.high[0] + long, y, 0]])
    out.append([[box.low[0], box.low[1], 0], [box.high[0], box.low[1], 0]])
    out.append([[box.high[0], box.low[1], 0], [box.high[0], box.high[1], 0]])
    return np.array(out)


def bracket_lines(machine: Machine) -> np.ndarray:
    """The envelope as corner brackets (short arcs and posts for a round one): (k, 2, 3)."""
    box = machine.envelope.box
    high = box.high[2]
    out: list[list[np.ndarray]] = []
    if machine.envelope.shape == "cylinder":
        radius = box.high[0]
        for quarter in range(4):
            turn = np.radians(90 * quarter + np.linspace(-9, 9, 13))
            for z in (0.0, high):
                ring = np.column_stack([np.cos(turn) * radius, np.sin(turn) * radius, np.full(13, z)])
                out += [[a, b] for a, b in pairwise(ring)]
                post = np.array([np.cos(turn[6]) * radius, np.sin(turn[6]) * radius, z])
                out.append([post, post + np.array([0, 0, 0.1 * high if z == 0 else -0.1 * high])])
        return np.array(out)
    reach = 0.09 * box.size
    for corner in box.corners():
        for axis in range(3):
            other = corner.copy()
            other[axis] += reach[axis] if corner[axis] == box.low[axis] else -reach[axis]
            out.append([corner, other])
    return np.array(out)


def keep_out_lines(machine: Machine) -> np.ndarray:
    """The edges of every place that no part may enter: (k, 2, 3)."""
    out: list[np.ndarray] = []
    for keep in machine.blocked:
        box = keep.box
        if keep.center is not None:
            turn = np.linspace(0, 2 * np.pi, 37)
            ring = box.middle[:2] + np.column_stack([np.cos(turn), np.sin(turn)]) * box.size[0] / 2
            low, high = (np.column_stack([ring, np.full(37, z)]) for z in (box.low[2], box.high[2]))
            out += [np.stack([circle[:-1], circle[1:]], axis=1) for circle in (low, high)]
            out.append(np.stack([low[::9], high[::9]], axis=1))
        else:
            corners = box.corners()
            out.append(np.array([[corners[a], corners[a | bit]] for a in range(8) for bit in (1, 2, 4) if not a & bit]))
    return np.concatenate(out) if out else np.zeros((0, 2, 3))


def on_each_bed(lines: np.ndarray, machine: Machine, beds: int) -> np.ndarray:
    """Lines (k, 2, 3) of the first bed, and of those beside it."""
    return np.concatenate([lines + bed_offset(machine, number) for number in range(beds)])


def grid_lines(machine: Machine) -> np.ndarray:
    """Lines on the bed every 20 mm: (k, 2, 3)."""
    box = machine.envelope.box
    z = 0.0
    out = []
    radius = box.high[0] if machine.envelope.shape == "cylinder" else None
    for axis in (0, 1):
        other = 1 - axis
        for place in np.arange(np.ceil(box.low[axis] / 20) * 20, box.high[axis], 20.0):
            low, high = box.low[other], box.high[other]
            if radius is not None:
                half = np.sqrt(max(radius**2 - place**2, 0.0))
                low, high = -half, half
            a, b = np.zeros(3), np.zeros(3)
            a[axis] = b[axis] = place
            a[other], b[other], a[2], b[2] = low, high, z, z
            out.append([a, b])
    return np.array(out) if out else np.zeros((0, 2, 3))


def axis_line(machine: Machine, axis: int) -> np.ndarray:
    """An axis of the machine from its origin, a third of the bed long, with a stroke across its end: (3, 2, 3)."""
    length = axis_length(machine)
    end, across = np.zeros(3), np.zeros(3)
    end[axis] = length
    across[(axis + 1) % 3] = length / 30
    return np.array([[np.zeros(3), end], [end - 2 * end / 30 + across, end], [end - 2 * end / 30 - across, end]])


def ruler_marks(machine: Machine) -> list[tuple[np.ndarray, str]]:
    """Places and words of the ruler's numbers, every 50 mm along the front and right edges."""
    box = machine.envelope.box
    front = [(np.array([box.low[0] + step, box.low[1] - 12, 0.0]), f"{step:.0f}") for step in np.arange(0, box.size[0] + 1, 50)]
    right = [(np.array([box.high[0] + 12, box.low[1] + step, 0.0]), f"{step:.0f}") for step in np.arange(50, box.size[1] + 1, 50)]
    return front + right


def axis_length(machine: Machine) -> float:
    """mm that the machine's axes are drawn long."""
    return float(machine.envelope.box.size[:2].min()) / 3
