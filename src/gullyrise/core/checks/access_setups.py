"""How many set-ups a part takes on a mill: the fewest that touch all that any can."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np

from gullyrise.core.checks.access_reach import reach_from
from gullyrise.core.geometry import Floats, Mesh, Points
from gullyrise.core.geometry.arrays import Bools
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.sampling import spread
from gullyrise.core.machines.limits import SETUPS, setup_direction
from gullyrise.core.machines.machine import Tool
from gullyrise.core.progress import Progress, silent

_SAMPLES, _MOST_SLANTED, _MOST_CHOSEN = 12_000, 4, 6
_SAME = float(np.cos(np.radians(3.0)))
_LEAST = 2e-3
_TRIED_ALL = 3


@dataclass(frozen=True, slots=True)
class Setups:
    """chosen : the fewest set-ups, as limits name them
    left : mm2 that even all that were tried do not touch
    alone : (set-up, mm2 that it touches by itself) of each that was tried
    whole : mm2 of the part
    """

    chosen: tuple[str, ...]
    left: float
    alone: tuple[tuple[str, float], ...]
    whole: float


def fewest_setups(mesh: Mesh, tools: tuple[Tool, ...], also: tuple[str, ...] = (), progress: Progress = silent) -> Setups:
    """The fewest of the six axes, the largest slanted flats and `also` that touch all that any of them can.

    mesh : as it stands. Notes: from 12,000 samples; the check tells what the choice leaves.
    """
    scene = RayScene(mesh)
    samples = spread(mesh, _SAMPLES, every_face=False)
    names = list(dict.fromkeys([*SETUPS, *also, *_slanted(mesh)]))
    reached, rests = [], []
    for done, name in enumerate(names):
        progress(f"trying {name}", done, len(names))
        found = reach_from(mesh, scene, samples, setup_direction(name), tools)
        reached.append(found.perhaps)
        rests.append(found.rests)
    touched, lies = np.array(reached), np.array(rests)
    chosen = _least_set(touched, lies, samples.weight)
    got = touched[chosen].any(axis=0) | (lies[chosen[0]] if len(chosen) == 1 else False)
    alone = tuple((name, float(samples.weight[mask].sum())) for name, mask in zip(names, touched, strict=True))
    whole = float(samples.weight.sum())
    return Setups(tuple(names[one] for one in chosen), float(samples.weight[~got].sum()), alone, whole)


def _slanted(mesh: Mesh) -> list[str]:
    """The largest flats that look along no axis, as set-ups."""
    normals = np.round(mesh.normals(), 3)
    ways, inverse = np.unique(normals, axis=0, return_inverse=True)
    areas = np.bincount(inverse.reshape(-1), mesh.face_areas())
    out: list[Points] = []
    for one in np.argsort(-areas)[:40]:
        way = ways[one]
        if np.abs(way).max() < _SAME and areas[one] > 0.01 * areas.sum() and all(float(way @ other) < _SAME for other in out):
            out.append(way)
    return [",".join(f"{value:g}" for value in way) for way in out[:_MOST_SLANTED]]


def _least_set(reached: Bools, rests: Bools, weight: Floats) -> list[int]:
    """(n set-ups, samples) masks and mm2 of each sample; numbers of the set-ups, in order.

    A face that rests in the only set-up stays as the stock is. Notes: every choice of up to three is tried, beyond that the one
    that adds most comes next, which is at most a logarithm off the least (V. Chvatal, A greedy heuristic for the set-covering
    problem, 1979).
    """
    can = reached.any(axis=0)
    least = _LEAST * float(weight.sum())

    def lost(chosen: tuple[int, ...]) -> float:
        got = reached[list(chosen)].any(axis=0)
        if len(chosen) == 1:
            got = got | rests[chosen[0]]
        return float(weight[~got & can].sum())

    every = range(len(reached))
    for size in range(1, min(_TRIED_ALL, len(reached)) + 1):
        best = min(combinations(every, size), key=lost)
        if lost(best) <= least:
            return list(best)
    out: list[int] = []
    while len(out) < min(_MOST_CHOSEN, len(reached)):
        following = min((one for one in every if one not in out), key=lambda one: lost((*out, one)))
        if out and lost((*out, following)) >= lost(tuple(out)) - least:
            break
        out.append(following)
    return out
