"""Where a straight cutter can stand: height maps of a part seen along a set-up, widened by the tool and its holder.

Source: the sweep of a flat-ended cutter over a height map is grey-scale morphology: dilation by the tool's disc gives how low
its tip
may go, erosion of that by the same disc what it leaves (K. Weinert et al., height-map milling simulation; J. Serra, Image
Analysis and Mathematical Morphology, 1982).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry import Floats, Ints, Mesh, Points
from gullyrise.core.geometry.rays import RayScene

_FINEST, _COARSEST, _OF_RADIUS, _LEAST_OF_RADIUS = 1 / 1500, 1 / 400, 1 / 16, 1 / 48
_POOLED = 4
_LOWEST = -1e30
_STEEP, _EXACT = 0.05, 5e-3


@dataclass(frozen=True, slots=True, eq=False)
class HeightMap:
    """The highest surface over each cell of a grid across a direction.

    frame : (3, 3) rows are the grid's two axes and the direction
    low : (2,) middle of the first cell, mm
    cell : mm
    height : (rows, columns) mm along the direction, very low where nothing is
    foot : the part's lowest point along it
    """

    frame: Points
    low: Floats
    cell: float
    height: Floats
    foot: float

    def cells_of(self, across: Points) -> tuple[Ints, Ints]:
        """(row, column) of (n, 2) places, those beyond the border taken to it."""
        place = np.rint((across - self.low) / self.cell).astype(np.int64)
        return place[:, 0].clip(0, self.height.shape[0] - 1), place[:, 1].clip(0, self.height.shape[1] - 1)

    def place_of(self, row: int, column: int, height: float) -> Points:
        """(3,) mm of a cell's middle at a height."""
        across = self.low + self.cell * np.array([row, column])
        return np.asarray(np.array([across[0], across[1], height]) @ self.frame)


def cell_for(mesh: Mesh, radius: float) -> float:
    """mm of a cell that tells a tool's radius well without more cells than are quickly worked through."""
    size = mesh.box.diagonal
    return max(float(np.clip(radius * _OF_RADIUS, size * _FINEST, size * _COARSEST)), radius * _LEAST_OF_RADIUS)


def height_map(
    mesh: Mesh, scene: RayScene, direction: Floats, cell: float, margin: float, window: Floats | None = None
) -> HeightMap:
    """direction : unit, towards where the tool comes from
    margin : mm of free grid all round
    window : (2, 2) lowest and highest place across that is wanted, None for all of the part
    """
    frame = frame_of(direction)
    local = mesh.vertices @ frame.T
    low, high = local.min(axis=0), local.max(axis=0)
    first, last = (low[:2], high[:2]) if window is None else window
    start = first - margin
    shape = np.ceil((last + margin - start) / cell).astype(int) + 1
    rows, columns = np.meshgrid(np.arange(shape[0]), np.arange(shape[1]), indexing="ij")
    across = start + cell * np.column_stack([rows.reshape(-1), columns.reshape(-1)])
    inside = np.flatnonzero((across >= low[:2]).all(axis=1) & (across <= high[:2]).all(axis=1))
    above = float(high[2] + 1e-3 * mesh.box.diagonal)
    height = np.full(len(across), _LOWEST)
    origins = np.column_stack([across[inside], np.full(len(inside), above)]) @ frame
    hits = scene.first_hits(origins, np.tile(-direction, (len(inside), 1)))
    height[inside] = np.where(np.isfinite(hits.distance), above - hits.distance, _LOWEST)
    return HeightMap(frame, start, cell, height.reshape(shape), float(low[2]))


def frame_of(direction: Floats) -> Points:
    """(3, 3) rows: two axes across and the direction, right-handed."""
    helper = np.array([1.0, 0.0, 0.0]) if abs(direction[0]) < 0.9 else np.array([0.0, 1.0, 0.0])
    u = np.cross(helper, direction)
    u /= np.linalg.norm(u)
    return np.stack([u, np.cross(direction, u), direction])


def spread_over(map_: HeightMap, values: Floats, fine: HeightMap) -> Floats:
    """What stands over the cells of one map over those of another of the same frame, which is finer and lies within it."""
    rows = fine.low[0] + fine.cell * np.arange(fine.height.shape[0])
    columns = fine.low[1] + fine.cell * np.arange(fine.height.shape[1])
    row, _ = map_.cells_of(np.column_stack([rows, np.full(len(rows), map_.low[1])]))
    _, column = map_.cells_of(np.column_stack([np.full(len(columns), map_.low[0]), columns]))
    return np.asarray(values[np.ix_(row, column)])


def tip_over(map_: HeightMap, radius: float) -> Floats:
    """(rows, columns) mm: how low the foot of a disc of that radius, mm, may go with its middle over each cell.

    Notes: for holders, which are large: over squares of four cells, the radius less half of one.
    """
    rows, columns = map_.height.shape
    wide = (-(-rows // _POOLED), -(-columns // _POOLED))
    padded = np.full((wide[0] * _POOLED, wide[1] * _POOLED), _LOWEST)
    padded[:rows, :columns] = map_.height
    pooled = padded.reshape(wide[0], _POOLED, wide[1], _POOLED).max(axis=(1, 3))
    found = _over_disc(pooled, max(radius / (map_.cell * _POOLED) - 0.5, 0.0), highest=True)
    return found.repeat(_POOLED, axis=0).repeat(_POOLED, axis=1)[:rows, :columns]


def left_by(map_: HeightMap, radius: float, slack: float, held_up: Floats | None = None) -> Floats:
    """(rows, columns) mm: how low the surface can be worked by a flat tool of that radius, mm, cell by cell.

    slack : added to the radius, in cells; below zero the tool is taken a little too small, above a little too large
    held_up : how low its tip may go for other reasons, such as its holder
    """
    cells = max(radius / map_.cell + slack, 0.0)
    tip = _over_disc(map_.height, cells, highest=True)
    return _over_disc(tip if held_up is None else np.maximum(tip, held_up), cells, highest=False)


def _over_disc(values: Floats, radius: float, *, highest: bool) -> Floats:
    """The highest, or lowest, value within a disc round each cell; radius in cells, 0 for the cell alone.

    Notes: row by row of the disc, so that its cost goes with the radius and not with its area; from its short rows to its long
    ones, each found out of the one before.
    """
    # What is wider than the grid covers all of it.
    radius = min(radius, float(np.hypot(*values.shape)))
    reach = int(np.floor(radius))
    if reach == 0:
        return values
    pick, nothing = (np.maximum, -np.inf) if highest else (np.minimum, np.inf)
    halves = np.floor(np.sqrt(np.maximum(radius**2 - np.arange(reach + 1) ** 2, 0.0))).astype(int).tolist()
    side, columns = halves[0], values.shape[1]
    row = np.pad(values, ((0, 0), (side, side)), constant_values=nothing)
    out = np.full_like(values, nothing)
    half = 0
    for step in reversed(range(min(reach, len(values) - 1) + 1)):
        while half < halves[step]:
            # Three of one width, side by side or overlapping, are one of up to three times that.
            more = min(halves[step] - half, 2 * half + 1)
            wider = row.copy()
            pick(wider[:, more:], row[:, :-more], out=wider[:, more:])
            pick(wider[:, :-more], row[:, more:], out=wider[:, :-more])
            row, half = wider, half + more
        inner = row[:, side : side + columns]
        pick(out[step:], inner[: len(values) - step], out=out[step:])
        if step:
            pick(out[:-step], inner[step:], out=out[:-step])
    return out


def reached_from(map_: HeightMap, left: Floats, points: Points, normals: Points, ahead: float) -> np.ndarray:
    """(n,) whether surface points lie no lower than what a tool leaves.

    ahead : cells out from a wall, where the tool would be, at which a wall is asked: the grid is ragged by one

    Notes: of a floor the lowest of the four cells round
    it counts, since beside a wall the nearest may be the wall's. A slope is allowed what it rises over a cell.
    """
    local, out = points @ map_.frame.T, normals @ map_.frame.T
    level = np.hypot(out[:, 0], out[:, 1])
    upright = out[:, 2] < _STEEP
    aside = out[:, :2] * (np.where(upright, ahead * map_.cell, 0.0) / np.maximum(level, 1e-12))[:, None]
    row, column = map_.cells_of(local[:, :2] + aside)
    lowest = left[row, column]
    place = (local[:, :2] - map_.low) / map_.cell
    first = np.floor(place).astype(np.int64)
    for step in ((0, 0), (0, 1), (1, 0), (1, 1)):
        near = (first + step).clip(0, np.array(left.shape) - 1)
        lowest = np.where(upright, lowest, np.minimum(lowest, left[near[:, 0], near[:, 1]]))
    slope = np.where(upright, 0.0, level / np.maximum(out[:, 2], _STEEP))
    return np.asarray(lowest <= local[:, 2] + _EXACT + 1.5 * map_.cell * slope)
