"""Which of a part's surface tools can touch from some set-ups, and why not."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.checks.access_map import HeightMap, cell_for, height_map, left_by, reached_from, spread_over, tip_over
from gullyrise.core.geometry import Floats, Mesh, Points
from gullyrise.core.geometry.arrays import Bools
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.sampling import Samples
from gullyrise.core.machines.machine import Tool

_LEVEL = 0.01
NEAR, _CLEAR = 0.75, 1.5
_MOST_CELLS, _FINER = 500_000, 6.0


@dataclass(frozen=True, slots=True, eq=False)
class Reach:
    """From one set-up, for n samples.

    seen : in sight
    wide : in sight, and wide enough for a tool
    touched : and its holder clears too
    perhaps, sure : touched by a tool taken a little too small, and by one a little too large, for what the cells hide
    rests : of faces that lie opposite to the set-up, at the part's foot
    """

    seen: Bools
    wide: Bools
    touched: Bools
    perhaps: Bools
    sure: Bools
    rests: Bools
    map_: HeightMap


def reach_from(
    mesh: Mesh, scene: RayScene, samples: Samples, direction: Floats, tools: tuple[Tool, ...], *, closely: bool = False
) -> Reach:
    """direction : unit, from where the tools come. Any of the tools will do.

    closely : where the cells cannot tell, smaller ones are asked, which takes several times as long
    """
    seen = in_sight(mesh, scene, samples, direction)
    rests = _resting(mesh, samples, direction)
    # A disc wider than the part is a straight edge to it.
    size = mesh.box.diagonal
    radii = [min(tool.diameter / 2, size) for tool in tools]
    cell = cell_for(mesh, min(radii))
    map_ = height_map(mesh, scene, direction, cell, max(radii) + 3 * cell)
    wide, touched, perhaps, sure = (np.zeros(len(seen), dtype=bool) for _ in range(4))
    points, normals = samples.points[seen], samples.normals[seen]
    held = [tip_over(map_, tool.holder_diameter / 2) - tool.reach for tool in tools]
    for radius, held_up in zip(radii, held, strict=True):
        found = _asked(map_, radius, held_up, points, normals)
        for into, those in zip((wide, touched, perhaps, sure), found, strict=True):
            into[seen] |= those
    close = np.flatnonzero(perhaps & ~sure) if closely else np.zeros(0, dtype=np.int64)
    fine = _closer(mesh, scene, samples.points[close], map_, max(radii), direction) if len(close) else None
    if fine is not None:
        again = [np.zeros(len(close), dtype=bool) for _ in range(4)]
        for radius, held_up in zip(radii, held, strict=True):
            asked = _asked(fine, radius, spread_over(map_, held_up, fine), samples.points[close], samples.normals[close])
            for into, those in zip(again, asked, strict=True):
                into |= those
        for into, those in zip((wide, touched, perhaps, sure), again, strict=True):
            into[close] = those
    return Reach(seen, wide, touched, perhaps | touched, sure, rests, map_)


def _asked(map_: HeightMap, radius: float, held_up: Floats, points: Points, normals: Points) -> tuple[Bools, ...]:
    """(n,) each: wide, touched, perhaps, sure, of one tool."""
    return tuple(
        reached_from(map_, left_by(map_, radius, slack, held), points, normals, ahead)
        for slack, held, ahead in (
            (0.25, None, NEAR), (0.25, held_up, NEAR), (-0.5, held_up, _CLEAR), (1.0, held_up, _CLEAR)
        )
    )  # fmt: skip


def _closer(mesh: Mesh, scene: RayScene, places: Points, map_: HeightMap, radius: float, direction: Floats) -> HeightMap | None:
    """A map of smaller cells round some places; None where it would hardly be finer."""
    across = (places @ map_.frame.T)[:, :2]
    window = np.array([across.min(axis=0), across.max(axis=0)])
    margin = 2 * radius + 4 * map_.cell
    size = window[1] - window[0] + 2 * margin
    cell = max(float(np.sqrt(size[0] * size[1] / _MOST_CELLS)), map_.cell / _FINER)
    return height_map(mesh, scene, direction, cell, margin, window) if cell < map_.cell / 1.5 else None


def _resting(mesh: Mesh, samples: Samples, direction: Floats) -> Bools:
    """(n,) samples of faces on which the part rests when it is worked from a direction."""
    foot = float((mesh.vertices @ direction).min()) + 1e-4 * mesh.box.diagonal
    return np.asarray((samples.normals @ direction < -1 + 1e-6) & (samples.points @ direction <= foot))


def in_sight(mesh: Mesh, scene: RayScene, samples: Samples, direction: Floats) -> Bools:
    """(n,) samples with a free straight line towards a direction."""
    facing = samples.normals @ direction
    step = 1e-5 * mesh.box.diagonal
    seen = np.zeros(len(samples.points), dtype=bool)
    # Walls along the direction count as touched by the tool's side.
    ask = np.flatnonzero(facing > -_LEVEL)
    start = samples.points[ask] + samples.normals[ask] * step + direction * step
    hits = scene.bare_first_hits(start, np.tile(direction, (len(ask), 1)))
    seen[ask] = hits < 0
    return seen
