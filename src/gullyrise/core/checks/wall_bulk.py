"""How thick a body is that is so stout that no two of its sides oppose each other."""

from __future__ import annotations

import numpy as np

from gullyrise.core.geometry import Mesh
from gullyrise.core.geometry.arrays import Ints
from gullyrise.core.geometry.ball import Crowd, shrink_balls
from gullyrise.core.geometry.nearest import Surface
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.sampling import place_on, spread
from gullyrise.core.geometry.topology import shells_of

_SAMPLES = 1_500
_MOST_SHELLS = 40


def stoutest(mesh: Mesh, scene: RayScene, surface: Surface, crowd: Crowd) -> float:
    """The largest ball inside a body without opposed walls, mm; of several shells, that of the slimmest."""
    shells, label = shells_of(mesh)
    if shells > _MOST_SHELLS:
        return 0.0
    return min(_stoutest_of(mesh, np.flatnonzero(label == shell), scene, surface, crowd) for shell in range(shells))


def _stoutest_of(mesh: Mesh, faces: Ints, scene: RayScene, surface: Surface, crowd: Crowd) -> float:
    """The largest ball that touches one shell from inside, sought uphill from the largest of an overview, mm."""
    part = Mesh(mesh.vertices, mesh.faces[faces])
    samples = spread(part, _SAMPLES, every_face=False)
    samples = samples.take(np.arange(0, len(samples.points), max(1, -(-len(samples.points) // _SAMPLES))))
    balls = shrink_balls(scene, surface, samples.points, samples.normals, np.inf, crowd=crowd)
    best = int(np.argmax(np.where(np.isfinite(balls.through), balls.diameter, 0.0)))
    size, point, face = float(balls.diameter[best]), samples.points[best], int(samples.face[best])
    normal = samples.normals[best]
    like = np.flatnonzero(part.normals() @ normal > 1 - 1e-9)
    for step in range(8):
        # Points of the same flat, drawn to the best one closer and closer.
        chosen = np.concatenate([np.full(60, face), like[np.arange(120) % len(like)]])
        spots = place_on(part, chosen, np.arange(len(chosen)) + 500 * step)
        spots = point + (spots - point) * 0.5**step
        spots = spots[np.abs((spots - point) @ normal) < 1e-9 * max(mesh.box.diagonal, 1.0)]
        more = shrink_balls(scene, surface, spots, np.tile(normal, (len(spots), 1)), np.inf, 1e-4, crowd)
        reading = np.where(np.isfinite(more.through), more.diameter, 0.0)
        if len(reading) and reading.max() > size:
            size, point = float(reading.max()), spots[int(np.argmax(reading))]
    return size
