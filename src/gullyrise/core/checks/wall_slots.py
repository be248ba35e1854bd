"""Narrow slots: the wall measure on the outside, a ball in the void that touches two sides of one shell."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry import Mesh
from gullyrise.core.geometry.arrays import Bools, Floats, Ints, Points
from gullyrise.core.geometry.ball import Balls, shrink_balls, tapers
from gullyrise.core.geometry.nearest import Surface
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.sampling import Samples

_REACH = 3.0
_MOST = 60_000


@dataclass(frozen=True, slots=True, eq=False)
class Slots:
    """Readings in the void, n of them.

    points, contact : (n, 3) mm, the two sides
    width, error : (n,) mm
    weight : (n,) mm2 that each stands for
    runs_out : (n,) in a groove that runs to a point at its foot
    """

    points: Points
    contact: Points
    width: Floats
    error: Floats
    weight: Floats
    runs_out: Bools


def no_slots() -> Slots:
    """None at all."""
    return Slots(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros(0), np.zeros(0), np.zeros(0), np.zeros(0, dtype=bool))


def slots_in(
    mesh: Mesh, scene: RayScene, surface: Surface, samples: Samples, shell: Ints, limit: float, doubt: Floats, rounding: float
) -> Slots:
    """Slots up to three times as wide as `limit`, mm.

    shell : (m,) shell of each face: what lies between two shells is a gap, which is another check's
    doubt : (m,) how far the surface may stand off each facet, mm
    rounding : of the coordinates, mm

    Notes: a groove that runs to a point at its foot is none: its two sides are far apart where it opens. Coincident faces are a
    fault of the mesh, not a slot.
    """
    void = scene.turned()
    cap = _REACH * limit
    straight = void.through(samples.points, -samples.normals).distance
    near = np.flatnonzero(straight < 1.3 * cap)
    every = max(1, -(-len(near) // _MOST))
    near = near[::every]
    if not len(near):
        return no_slots()
    some = samples.take(near)
    balls = shrink_balls(void, surface, some.points, -some.normals, cap)
    far = np.maximum(balls.contact_face, 0)
    kept = balls.wall & ~balls.capped & (shell[far] == shell[some.face]) & (balls.diameter > 8 * rounding)
    if not kept.any():
        return no_slots()
    some, far = some.take(kept), far[kept]
    balls = Balls(**{name: getattr(balls, name)[kept] for name in Balls.__dataclass_fields__})
    turned = Mesh(mesh.vertices, mesh.faces[:, ::-1])
    runs_out, edge, _ = tapers(void, surface, turned, some.points, -some.normals, balls)
    lasts = ~edge
    error = doubt[some.face] + doubt[far] + rounding + 1e-3 * balls.diameter
    return Slots(
        some.points[lasts], balls.contact[lasts], balls.diameter[lasts], error[lasts], every * some.weight[lasts], runs_out[lasts]
    )
