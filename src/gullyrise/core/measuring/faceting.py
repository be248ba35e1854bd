"""How far the facets of a mesh may stand from the smooth surface that they were made from."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry import Floats, Mesh, Points
from gullyrise.core.geometry.anatomy import CREASE
from gullyrise.core.geometry.topology import edges_of
from gullyrise.core.measuring.fits import grain


@dataclass(frozen=True, slots=True, eq=False)
class Faceting:
    """sag : (m,) mm between each face and a smooth surface through its corners
    bend : (m,) radians to its neighbours, at most
    bends : (m,) squares of those to all three, summed
    """

    sag: Floats
    bend: Floats
    bends: Floats


def faceting(mesh: Mesh) -> Faceting:
    """Bends of less than 30 degrees are taken for facets of something round; sharper ones are edges that are meant.

    Notes: a face that is h wide across an edge with a bend of b is a chord of an arc with a sag of h b / 8. Of a surface that
    bends more than one way the sags of all three edges add up: of even triangles on a ball to an eighth more than the true one.
    """
    m = len(mesh.faces)
    edges = edges_of(mesh)
    normals = mesh.normals()
    a, b = edges.pairs[:, 0], edges.pairs[:, 1]
    bend = 2 * np.arcsin(np.clip(np.linalg.norm(normals[a] - normals[b], axis=1) / 2, 0, 1))
    bend[bend > np.radians(CREASE)] = 0.0
    ends = mesh.vertices[edges.ends[edges.pair_edge]]
    length = np.maximum(np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1), 1e-300)
    areas = mesh.face_areas()
    sag, most, squares = np.zeros(m), np.zeros(m), np.zeros(m)
    for face in (a, b):
        np.add.at(sag, face, bend * (2 * areas[face] / length) / 8)
        np.maximum.at(most, face, bend)
        np.add.at(squares, face, bend**2)
    return Faceting(sag, most, squares)


def volume_doubt(mesh: Mesh, found: Faceting) -> float:
    """mm3 that a closed mesh may lack or have too much for being made of facets."""
    return float((mesh.face_areas() * (found.sag + grain(mesh.vertices))).sum())


def area_doubt(mesh: Mesh, found: Faceting, faces: np.ndarray) -> float:
    """mm2 by which some faces may differ from what they were made from: their own bends, and borders that are chords.

    faces : their indices
    """
    areas = mesh.face_areas()[faces]
    # A strip of a rod lacks a twenty-fourth of its bend squared, an even triangle of a ball half of it, uneven ones more.
    bent = float((areas * found.bends[faces] / 3).sum())
    return bent + border_doubt(mesh, faces)


def border_doubt(mesh: Mesh, faces: np.ndarray) -> float:
    """mm2 between the border of some faces and smooth curves through its corners: of a chord of length l between bends of b it is
    l2 b / 12."""
    corners = mesh.faces[faces].astype(np.int64)
    runs = np.concatenate([corners[:, [0, 1]], corners[:, [1, 2]], corners[:, [2, 0]]])
    n = len(mesh.vertices)
    key = np.minimum(runs[:, 0], runs[:, 1]) * n + np.maximum(runs[:, 0], runs[:, 1])
    _, first, uses = np.unique(key, return_index=True, return_counts=True)
    border = runs[first[uses == 1]]
    # Closed all round, it has no border; its corners are rounded to single precision all the same.
    rounded = 2 * grain(mesh.vertices) * float(np.sqrt(mesh.face_areas()[faces].sum()))
    if not len(border):
        return rounded
    along = mesh.vertices[border[:, 1]] - mesh.vertices[border[:, 0]]
    length = np.linalg.norm(along, axis=1)
    rounded = max(rounded, grain(mesh.vertices) * float(length.sum()))
    following = np.full(n, -1)
    following[border[:, 0]] = np.arange(len(border))
    after = following[border[:, 1]]
    known = after >= 0
    turn = np.zeros(len(border))
    turn[known] = _between(along[known], along[after[known]])
    turn[turn > np.radians(CREASE)] = 0.0
    most = turn.copy()
    np.maximum.at(most, after[known], turn[known])
    return float((length**2 * most / 8).sum()) + rounded


def chord_sag(segments: Points) -> float:
    """mm between straight pieces (k, 2, 3), one after another, and a smooth curve through their ends, at most."""
    along = segments[:, 1] - segments[:, 0]
    if len(along) < 2:
        return 0.0
    turn = _between(along[:-1], along[1:])
    turn[turn > np.radians(CREASE)] = 0.0
    length = np.linalg.norm(along, axis=1)
    return float(np.maximum(length[:-1] * turn, length[1:] * turn).max(initial=0.0)) / 8


def _between(a: Points, b: Points) -> Floats:
    """(n,) radians between directions."""
    return np.asarray(np.arctan2(np.linalg.norm(np.cross(a, b), axis=1), np.einsum("ij,ij->i", a, b)))
