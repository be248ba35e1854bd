"""Which of a part's surface tools can touch from some set-ups, and why not."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.checks.access_map import HeightMap, cell_for, height_map, left_by, reached_from, tip_over
from gullyrise.core.geometry import Floats, Mesh
from gullyrise.core.geometry.arrays import Bools
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.sampling import Samples
from gullyrise.core.machines.machine import Tool

_LEVEL = 0.01
NEAR, _CLEAR = 0.75, 1.5


@dataclass(frozen=True, slots=True, eq=False)
class Reach:
    """From one set-up, for n samples. seen : in sight;  wide : in sight, and wide enough for a tool;  touched : and its holder
    clears too
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


def reach_from(mesh: Mesh, scene: RayScene, samples: Samples, direction: Floats, tools: tuple[Tool, ...]) -> Reach:
    """direction : unit, from where the tools come. Any of the tools will do."""
    seen = in_sight(mesh, scene, samples, direction)
    rests = _resting(mesh, samples, direction)
    # A disc wider than the part is a straight edge to it.
    size = mesh.box.diagonal
    radii = [min(tool.diameter / 2, size) for tool in tools]
    cell = cell_for(mesh, min(radii))
    map_ = height_map(mesh, scene, direction, cell, max(radii) + 3 * cell)
    wide, touched, perhaps, sure = (np.zeros(len(seen), dtype=bool) for _ in range(4))
    points, normals = samples.points[seen], samples.normals[seen]
    for tool, radius in zip(tools, radii, strict=True):
        held_up = tip_over(map_, tool.holder_diameter / 2) - tool.reach
        for slack, held, ahead, into in (
            (0.25, None, NEAR, wide), (0.25, held_up, NEAR, touched),
            (-0.5, held_up, _CLEAR, perhaps), (1.0, held_up, _CLEAR, sure),
        ):  # fmt: skip
            into[seen] |= reached_from(map_, left_by(map_, radius, slack, held), points, normals, ahead)
    return Reach(seen, wide, touched, perhaps | touched, sure, rests, map_)


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
