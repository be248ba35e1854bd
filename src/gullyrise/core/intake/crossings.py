"""Where a surface crosses or touches itself; the only import of the exact kernel's intersections."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry import Mesh, Points
from gullyrise.core.geometry.arrays import Ints, frozen
from gullyrise.core.intake.health import degenerate_faces, duplicate_faces


@dataclass(frozen=True, slots=True, eq=False)
class Crossings:
    """pairs : (k, 2) faces that meet elsewhere than in a corner or edge that they share
    places : (k, 3) mm, where
    lines : (k, 2, 3) mm, the stretch that both share; a place twice where they lie in one plane
    """

    pairs: Ints
    places: Points
    lines: Points

    def __post_init__(self) -> None:
        object.__setattr__(self, "pairs", frozen(self.pairs, np.int64))
        object.__setattr__(self, "places", frozen(self.places, np.float64))
        object.__setattr__(self, "lines", frozen(self.lines, np.float64))


def crossings_of(mesh: Mesh) -> Crossings:
    """All pairs of faces of a mesh that cross, lie on one another or touch. Faces without area and doubled ones are left out:
    they are faults of their own.

    Notes: triangle against triangle in exact arithmetic after a sweep over their boxes (Zomorodian and Edelsbrunner 2002, in
    libigl's binding of CGAL); about 3 s for 1,300,000 faces. A place is the middle of the stretch that both planes share.
    """
    import igl.copyleft.cgal as exact

    sound = np.flatnonzero(~degenerate_faces(mesh) & ~duplicate_faces(mesh))
    if len(sound) < 2:
        return Crossings(np.zeros((0, 2), dtype=np.int64), np.zeros((0, 3)), np.zeros((0, 2, 3)))
    vertices = np.array(mesh.vertices)
    found = exact.remesh_self_intersections(vertices, mesh.faces[sound].astype(np.int64), detect_only=True)[2]
    pairs = np.unique(np.sort(sound[np.asarray(found, dtype=np.int64).reshape(-1, 2)], axis=1), axis=0)
    return Crossings(pairs, *_places(mesh, pairs))


def _places(mesh: Mesh, pairs: Ints) -> tuple[Points, Points]:
    """((k, 3) the middle of the line that each pair of faces shares, (k, 2, 3) that line); of faces in one plane the middle of
    the smaller."""
    if not len(pairs):
        return np.zeros((0, 3)), np.zeros((0, 2, 3))
    corners = mesh.triangles()
    one, other = corners[pairs[:, 0]], corners[pairs[:, 1]]
    normals = mesh.normals()
    along = np.cross(normals[pairs[:, 0]], normals[pairs[:, 1]])
    ends = np.concatenate([_through(one, other), _through(other, one)], axis=1)  # (k, 4, 3)
    position = np.einsum("kij,kj->ki", ends, along)
    order = np.argsort(position, axis=1)
    # Of the four ends along the shared line the two in the middle bound what both faces cover.
    lines = np.take_along_axis(ends, order[:, 1:3, None], axis=1)
    middle = lines.mean(axis=1)
    areas = mesh.face_areas()
    smaller = np.where(areas[pairs[:, 0]] <= areas[pairs[:, 1]], pairs[:, 0], pairs[:, 1])
    flat = (np.linalg.norm(along, axis=1) < 1e-9) | ~np.isfinite(middle).all(axis=1)
    places = np.where(flat[:, None], mesh.centroids()[smaller], middle)
    return places, np.where(flat[:, None, None], places[:, None], lines)


def _through(triangle: Points, plane_of: Points) -> Points:
    """(k, 2, 3) where the sides of (k, 3, 3) triangles go through the planes of others; NaN where they do not."""
    normal = np.cross(plane_of[:, 1] - plane_of[:, 0], plane_of[:, 2] - plane_of[:, 0])
    height = np.einsum("kij,kj->ki", triangle - plane_of[:, :1], normal)
    ahead = np.roll(height, -1, axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        share = height / (height - ahead)
        points = triangle + share[..., None] * (np.roll(triangle, -1, axis=1) - triangle)
    crosses = (height * ahead <= 0) & np.isfinite(points).all(axis=2)
    # Two sides cross; where a corner lies in the plane three may, and any two of them do.
    first = np.argmax(crosses, axis=1)
    last = 2 - np.argmax(crosses[:, ::-1], axis=1)
    chosen = np.stack([first, last], axis=1)
    out = np.take_along_axis(points, chosen[..., None], axis=1)
    out[~crosses.any(axis=1)] = np.nan
    return np.asarray(out)
