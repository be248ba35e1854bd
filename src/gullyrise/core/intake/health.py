"""Counts that tell whether a mesh is sound."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry import Mesh
from gullyrise.core.geometry.arrays import Bools
from gullyrise.core.geometry.orientation import wound_alike
from gullyrise.core.geometry.topology import closed, disagreeing, edges_of
from gullyrise.core.intake.shells import Shells, shells_in


@dataclass(frozen=True, slots=True, eq=False)
class Health:
    """Counts of one mesh, and masks of the faces behind them.

    volume : mm3, with winding made to agree and the outside taken as positive; None where nothing is enclosed
    inside_out : number of shells with negative volume that no other shell holds
    cavities : number of shells with negative volume inside another
    strays : number of tiny shells that belong to nothing
    """

    shells: int
    watertight: bool
    boundary_edges: int
    nonmanifold_edges: int
    flipped_faces: int
    degenerate_faces: int
    duplicate_faces: int
    inside_out: int
    cavities: int
    strays: int
    volume: float | None
    boundary: Bools
    nonmanifold: Bools
    flipped: Bools
    degenerate: Bools
    duplicate: Bools
    parts: Shells


def degenerate_faces(mesh: Mesh) -> Bools:
    """(m,) faces that name a vertex twice or have no area beyond rounding."""
    cross = mesh.cross()
    doubled = np.sqrt(np.einsum("ij,ij->i", cross, cross))
    corners = mesh.triangles()
    sides = corners - np.roll(corners, 1, axis=1)
    longest = np.einsum("ijk,ijk->ij", sides, sides).max(axis=1)
    faces = mesh.faces
    repeated = (faces[:, 0] == faces[:, 1]) | (faces[:, 1] == faces[:, 2]) | (faces[:, 2] == faces[:, 0])
    return np.asarray(repeated | (doubled <= 1e-10 * longest))


def duplicate_faces(mesh: Mesh) -> Bools:
    """(m,) faces over the same three vertices as an earlier face, whichever way they are wound."""
    ordered = np.sort(mesh.faces.astype(np.int64), axis=1)
    n = len(mesh.vertices)
    if n < 2**21:
        key = (ordered[:, 0] * n + ordered[:, 1]) * n + ordered[:, 2]
        order = np.argsort(key, kind="stable")
        same = key[order][1:] == key[order][:-1]
    else:
        order = np.lexsort((ordered[:, 2], ordered[:, 1], ordered[:, 0]))
        same = (ordered[order][1:] == ordered[order][:-1]).all(axis=1)
    found = np.zeros(len(ordered), dtype=bool)
    found[order[1:][same]] = True
    return found


def health_of(mesh: Mesh) -> Health:
    """All counts of one mesh. An empty mesh has zero of each and is not watertight."""
    edges = edges_of(mesh)
    flipped = disagreeing(mesh, edges)
    shells = shells_in(wound_alike(mesh, edges), edges)
    is_closed = closed(edges)
    half = edges.of
    at_border = np.zeros(len(half), dtype=bool)
    at_many = np.zeros(len(half), dtype=bool)
    known = half >= 0
    at_border[known] = edges.uses[half[known]] == 1
    at_many[known] = edges.uses[half[known]] > 2
    degenerate, duplicate = degenerate_faces(mesh), duplicate_faces(mesh)
    return Health(
        shells=shells.count,
        watertight=is_closed,
        boundary_edges=int((edges.uses == 1).sum()),
        nonmanifold_edges=int((edges.uses > 2).sum()),
        flipped_faces=int(flipped.sum()),
        degenerate_faces=int(degenerate.sum()),
        duplicate_faces=int(duplicate.sum()),
        inside_out=int(shells.inside_out.sum()),
        cavities=int(shells.cavity.sum()),
        strays=int(shells.stray.sum()),
        volume=float(np.where(shells.inside_out, -shells.volume, shells.volume).sum()) if is_closed else None,
        boundary=np.asarray(at_border.reshape(-1, 3).any(axis=1)),
        nonmanifold=np.asarray(at_many.reshape(-1, 3).any(axis=1)),
        flipped=flipped,
        degenerate=degenerate,
        duplicate=duplicate,
        parts=shells,
    )
