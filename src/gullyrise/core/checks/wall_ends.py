"""Where walls end: readings in a wedge that runs out, and at the border of an open surface."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from gullyrise.core.geometry import Mesh
from gullyrise.core.geometry.arrays import Bools, Points
from gullyrise.core.geometry.ball import Balls, tapers
from gullyrise.core.geometry.nearest import Surface
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.sampling import Samples
from gullyrise.core.geometry.topology import Edges

_TAPERS_AT_ONCE, _MOST_TAPERS = 200, 60_000


def least_lasting(scene: RayScene, surface: Surface, mesh: Mesh, samples: Samples, balls: Balls, sure: Bools) -> float:
    """The smallest sure reading that does not run out to nothing, mm; 0 where there is none."""
    rising = np.flatnonzero(sure)[np.argsort(balls.diameter[sure], kind="stable")]
    for start in range(0, len(rising), _TAPERS_AT_ONCE):
        some = rising[start : start + _TAPERS_AT_ONCE]
        runs_out, edge, _ = tapers(scene, surface, mesh, samples.points[some], samples.normals[some], balls.take(some))
        lasts = ~runs_out & ~edge
        if lasts.any():
            return float(balls.diameter[some[lasts]].min())
    return 0.0


def tapers_among(
    scene: RayScene, surface: Surface, mesh: Mesh, samples: Samples, balls: Balls, asked: float, spacing: float
) -> tuple[Bools, Bools, Points]:
    """(taper, sharp edge, tip) marks for readings under the limit `asked`, mm, and above it up to the first that lasts.

    Readings too small for the test of proportion are, next to a taper, its tip.
    """
    taper, edge = np.zeros(len(samples.points), dtype=bool), np.zeros(len(samples.points), dtype=bool)
    tip = np.full((len(samples.points), 3), np.nan)
    walls = np.flatnonzero(balls.wall & ~balls.capped & ~balls.proven)
    rising = walls[np.argsort(balls.diameter[walls], kind="stable")]
    under = int(min((balls.diameter[rising] < asked).sum(), _MOST_TAPERS))
    start, stop = 0, max(under, min(_TAPERS_AT_ONCE, len(rising)))
    while start < min(stop, _MOST_TAPERS):
        some = rising[start:stop]
        taper[some], edge[some], tip[some] = tapers(
            scene, surface, mesh, samples.points[some], samples.normals[some], balls.take(some)
        )
        start, stop = stop, min(stop + (_TAPERS_AT_ONCE if (taper | edge)[some].all() else 0), len(rising))
    low = rising[:start]
    tiny = 4e-5 * mesh.box.diagonal
    smallest = low[balls.diameter[low] < tiny]
    for mark in (taper, edge):
        if not len(smallest) or not mark.any():
            continue
        distance, _ = cKDTree(samples.points[mark]).query(samples.points[smallest])
        beside = smallest[distance < 3 * spacing]
        mark[beside] = True
        tip[beside] = samples.points[beside]
    return taper, edge & ~taper, tip


def at_border(mesh: Mesh, edges: Edges, balls: Balls) -> Bools:
    """(n,) contacts on the border of an open surface: an edge of paper, not the far side of a wall."""
    border = edges.uses[edges.of.reshape(-1, 3)] == 1
    face = np.maximum(balls.contact_face, 0)
    found = np.zeros(len(face), dtype=bool)
    for side in range(3):
        here = np.flatnonzero(border[face, side])
        start, end = (mesh.vertices[mesh.faces[face[here], corner]] for corner in (side, (side + 1) % 3))
        along = end - start
        share = np.einsum("ij,ij->i", balls.contact[here] - start, along) / np.einsum("ij,ij->i", along, along)
        foot = start + np.clip(share, 0, 1)[:, None] * along
        off = np.linalg.norm(balls.contact[here] - foot, axis=1)
        found[here] |= off < 0.01 * balls.diameter[here]
    return found
