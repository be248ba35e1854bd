"""Triangles so slim that their normal means nothing, and seams of triangles without area, which close a surface all the same."""

from __future__ import annotations

import numpy as np

from gullyrise.core.geometry.arrays import Bools, Ints
from gullyrise.core.geometry.mesh import Mesh
from gullyrise.core.geometry.topology import edges_of

_SLIM = 8.0
_PASSES = 12
_MOST_TURNED = 100_000
_WITHIN = 1e-3


def slim(mesh: Mesh) -> Bools:
    """(m,) faces whose height is within a few roundings of coordinates in single precision: their normal is chance."""
    rounding = float(np.finfo(np.float32).eps) * float(np.abs(mesh.vertices).max(initial=0.0))
    return np.asarray(mesh.heights() < _SLIM * rounding)


def unseamed(mesh: Mesh) -> tuple[Mesh, Ints]:
    """(the mesh with slim caps turned into the faces beside them, which of the given faces each comes from).

    Notes: a cap has a corner on its longest side, as a seam has where two outlines of one edge differ. The face beyond that side
    is cut in two at the corner, and both surfaces stay closed: only which diagonal of two triangles is drawn changes. What is no
    cap, or has nothing beyond, stays.
    """
    of = np.arange(len(mesh.faces))
    for _ in range(_PASSES):
        caps = np.flatnonzero(slim(mesh))
        if not len(caps) or len(caps) > _MOST_TURNED:
            break
        faces, of, turned = _turned(mesh, caps, of)
        if not turned:
            break
        mesh = Mesh(mesh.vertices, faces)
    return mesh, of


def _turned(mesh: Mesh, caps: Ints, of: Ints) -> tuple[np.ndarray, Ints, int]:
    edges = edges_of(mesh)
    beyond = np.full((len(edges.uses), 2), -1, dtype=np.int64)
    beyond[edges.pair_edge] = edges.pairs
    corners = mesh.vertices[mesh.faces[caps]]
    # Side k runs from corner k to the next; the corner opposite to it is the one after that.
    sides = np.roll(corners, -1, axis=1) - corners
    longest = np.argmax(np.einsum("ijk,ijk->ij", sides, sides), axis=1)
    row = np.arange(len(caps))
    along = sides[row, longest]
    away = corners[row, (longest + 2) % 3] - corners[row, longest]
    share = np.einsum("ij,ij->i", away, along) / np.maximum(np.einsum("ij,ij->i", along, along), 1e-300)
    heights = mesh.heights()
    faces, of = mesh.faces.copy(), of.copy()
    used = np.zeros(len(faces), dtype=bool)
    count = 0
    for cap, side, where in zip(caps.tolist(), longest.tolist(), share.tolist(), strict=True):
        edge = edges.of[3 * cap + side]
        if used[cap] or edge < 0 or not _WITHIN < where < 1 - _WITHIN:
            continue
        pair = beyond[edge]
        other = int(pair[0] if pair[1] == cap else pair[1])
        if other < 0 or used[other] or heights[other] <= heights[cap]:
            continue
        a, c, b = (int(faces[cap, (side + step) % 3]) for step in range(3))
        apex = [int(v) for v in faces[other] if v not in (a, c)]
        if len(apex) != 1 or apex[0] == b:
            continue
        # Both keep the winding of the face beyond, which runs from c to a.
        way = [int(v) for v in faces[other]]
        if way[(way.index(c) + 1) % 3] != a:
            continue
        faces[cap], faces[other] = (a, apex[0], b), (b, apex[0], c)
        of[cap] = of[other]
        used[cap] = used[other] = True
        count += 1
    return faces, of, count
