"""How deep pockets and holes are for their width."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import distance_transform_edt, maximum_filter

from gullyrise.core.checks.access_map import HeightMap
from gullyrise.core.geometry import Floats, Points
from gullyrise.core.geometry.rays import RayScene

_MOST_LEVELS, _REFINED = 24, 6
_WAYS = 72
_LEAST_CELLS = 12


@dataclass(frozen=True, slots=True)
class Opening:
    """depth, width : mm
    at : (3,) at its foot, in its middle
    """

    depth: float
    width: float
    at: tuple[float, float, float]

    @property
    def ratio(self) -> float:
        """Depth over width."""
        return self.depth / self.width


def deepest_opening(map_: HeightMap, scene: RayScene) -> Opening | None:
    """The pocket, slot or hole that is deepest for its width, or None where there is none.

    Notes: at each level at which the part has a flat, the free room round a cell is the distance to the next cell that is higher;
    where that is largest round about, it is half the width of an opening, whose depth is from the level down. The best few are
    then measured by rays across them. A hole that goes through is as deep as from its border to the part's foot.
    """
    solid = map_.height > map_.foot - 1
    if not solid.any():
        return None
    floor = np.where(solid, map_.height, map_.foot)
    found: list[tuple[float, float, int, int]] = []
    rows, columns = np.nonzero(solid)
    low, high = (rows.min(), columns.min()), (rows.max(), columns.max())
    for level in _levels(map_.height[solid], map_.foot):
        raised = map_.height >= level - 1e-6
        room = distance_transform_edt(~raised)
        ridge = (room == maximum_filter(room, size=5)) & (room > 1)
        ridge[: low[0] + 1], ridge[high[0] :], ridge[:, : low[1] + 1], ridge[:, high[1] :] = False, False, False, False
        for row, column in np.argwhere(ridge):
            depth = level - float(floor[row, column])
            if depth > map_.cell * 0.5:
                found.append((depth / ((2 * room[row, column] - 1) * map_.cell), level, int(row), int(column)))
    found.sort(reverse=True)
    best: Opening | None = None
    for _, level, row, column in found[:_REFINED]:
        depth = level - float(floor[row, column])
        place = map_.place_of(row, column, level - 0.5 * min(depth, map_.cell))
        width = _width(map_, scene, place)
        if width is None or width <= 0:
            continue
        foot = map_.place_of(row, column, float(floor[row, column]))
        one = Opening(depth, width, (float(foot[0]), float(foot[1]), float(foot[2])))
        if best is None or one.ratio > best.ratio:
            best = one
    return best


def _levels(heights: Floats, foot: float) -> list[float]:
    """Heights of the flats that take most cells, highest first."""
    step = max(float(np.ptp(heights)), float(heights.max() - foot)) * 1e-5 + 1e-9
    _, first, count = np.unique(np.rint(heights / step), return_index=True, return_counts=True)
    order = np.argsort(-count, kind="stable")[:_MOST_LEVELS]
    kept = [float(heights[first[one]]) for one in order if count[one] >= _LEAST_CELLS]
    return sorted([*kept, float(heights.max())], reverse=True)


def _width(map_: HeightMap, scene: RayScene, place: Points) -> float | None:
    """mm across an opening at a place in its middle: the shortest way from wall to wall; None where it is open all round."""
    turn = np.arange(_WAYS) * (2 * np.pi / _WAYS)
    ways = np.cos(turn)[:, None] * map_.frame[0] + np.sin(turn)[:, None] * map_.frame[1]
    reach = scene.first_hits(np.tile(place, (_WAYS, 1)), ways).distance
    across = reach[: _WAYS // 2] + reach[_WAYS // 2 :]
    finite = across[np.isfinite(across)]
    return float(finite.min()) if len(finite) else None
