"""What a thing covers of the bed, as cells of a grid: never less than it truly covers."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry import Floats, Mesh
from gullyrise.core.geometry.arrays import Bools

_PORTION = 2_000_000
_STEP = 0.5


@dataclass(frozen=True, slots=True, eq=False)
class Footprint:
    """cells : (w, d) which cells are touched, from the low corner of the thing's box
    low : (2,) that corner, mm
    size : (2,) of the box, mm
    """

    cells: Bools
    low: Floats
    size: Floats


def rectangle(mesh: Mesh, cell: float) -> Footprint:
    """The whole box."""
    low, high = mesh.vertices[:, :2].min(axis=0), mesh.vertices[:, :2].max(axis=0)
    shape = np.maximum(np.ceil((high - low) / cell - 1e-9).astype(int), 1)
    return Footprint(np.ones(tuple(shape), dtype=bool), low, high - low)


def footprint(mesh: Mesh, cell: float) -> Footprint:
    """The cells that the thing's shadow on the bed touches.

    mesh : as it stands
    cell : mm. Notes: a cell that a triangle touches either holds a piece of the triangle's sides or lies wholly in it. Sides are
        sampled at half a cell, each sample with the cells about it; middles of cells are asked of each triangle that is wide
        enough to hold one.
    """
    whole = rectangle(mesh, cell)
    shape = np.array(whole.cells.shape)
    cells = np.zeros(tuple(shape + 2), dtype=bool)
    corners = (mesh.vertices[:, :2] - whole.low)[mesh.faces] / cell
    for start in range(0, len(corners), _PORTION // 4):
        _mark_sides(cells, corners[start : start + _PORTION // 4])
    span = np.ptp(corners, axis=1)
    _mark_middles(cells, corners[(span > 0.5).all(axis=1)])
    return Footprint(cells[1:-1, 1:-1], whole.low, whole.size)


def _mark_sides(cells: Bools, corners: Floats) -> None:
    """Cells within a quarter of a cell of points half a cell apart along all sides of triangles (m, 3, 2), in cells."""
    start, run = corners.reshape(-1, 2), (np.roll(corners, -1, axis=1) - corners).reshape(-1, 2)
    steps = np.ceil(np.linalg.norm(run, axis=1) / _STEP).astype(np.int64) + 1
    ends = np.cumsum(steps)
    low = 0
    while low < len(steps):
        done = int(ends[low - 1]) if low else 0
        high = max(int(np.searchsorted(ends, done + _PORTION, side="right")), low + 1)
        _mark(cells, start[low:high], run[low:high], steps[low:high])
        low = high


def _mark(cells: Bools, start: Floats, run: Floats, steps: np.ndarray) -> None:
    which = np.repeat(np.arange(len(steps)), steps)
    first = np.cumsum(steps) - steps
    share = (np.arange(len(which)) - first[which]) / np.maximum(steps[which] - 1, 1)
    places = start[which] + share[:, None] * run[which]
    # A piece between two samples bends into no cell but those within a quarter of a cell of one of them.
    for dx in (-0.25, 0.25):
        for dy in (-0.25, 0.25):
            at = np.floor(places + [dx, dy]).astype(np.int64) + 1
            np.clip(at, 0, np.array(cells.shape) - 1, out=at)
            cells[at[:, 0], at[:, 1]] = True


def _mark_middles(cells: Bools, corners: Floats) -> None:
    """Cells whose middle lies in one of the triangles (m, 3, 2), in cells."""
    low = np.floor(corners.min(axis=1)).astype(np.int64)
    wide = np.ceil(corners.max(axis=1)).astype(np.int64) - low
    count = wide[:, 0] * wide[:, 1]
    order = np.flatnonzero(count)
    while len(order):
        held = int(np.searchsorted(np.cumsum(count[order]), _PORTION, side="right"))
        some, order = order[: max(held, 1)], order[max(held, 1) :]
        which = np.repeat(some, count[some])
        first = np.cumsum(count[some]) - count[some]
        number = np.arange(len(which)) - np.repeat(first, count[some])
        at = low[which] + np.column_stack([number % wide[which, 0], number // wide[which, 0]])
        a, b, c = (corners[which, k] for k in range(3))
        middle = at + 0.5
        turns = np.array([_turn(a, b, middle), _turn(b, c, middle), _turn(c, a, middle)])
        inside = (turns >= 0).all(axis=0) | (turns <= 0).all(axis=0)
        found = at[inside] + 1
        cells[found[:, 0], found[:, 1]] = True


def _turn(a: Floats, b: Floats, p: Floats) -> Floats:
    u, v = b - a, p - a
    return np.asarray(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0])
