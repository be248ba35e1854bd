"""First hits of straight rays on a mesh; the only import of embreex."""

from __future__ import annotations

from copy import copy
from dataclasses import dataclass

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene

from gullyrise.core.geometry.arrays import Floats, Ints, Points
from gullyrise.core.geometry.mesh import Mesh

_GRAZING = 1e-6


@dataclass(frozen=True, slots=True, eq=False)
class Hits:
    """First hits: `face` (n,) index or -1, `distance` (n,) mm or inf."""

    face: Ints
    distance: Floats


class RayScene:
    """A mesh made ready for rays.

    Notes: embree computes in float32, so the mesh is moved to its middle first and each distance is taken again in
    float64 from the plane of the face that was hit.
    """

    def __init__(self, mesh: Mesh) -> None:
        box = mesh.box
        self._middle, self._step = box.middle, 1e-6 * max(box.diagonal, 1e-9)
        self._scene = EmbreeScene(robust=True)
        self._geometry = TriangleMesh(self._scene, (mesh.vertices - self._middle).astype(np.float32), mesh.faces.copy())
        self._cross = mesh.cross()
        self._anchor = mesh.vertices[mesh.faces[:, 0]]

    def turned(self) -> RayScene:
        """The same surface seen with its other side as the outside, so that `through` measures the void; nothing is built
        anew."""
        other = copy(self)
        other._cross = -self._cross
        return other

    def bare_first_hits(self, origins: Points, directions: Points) -> Ints:
        """(n,) face index of the first hit or -1, as the library gives it."""
        start = (origins - self._middle).astype(np.float32)
        return np.asarray(self._scene.run(start, directions.astype(np.float32)), dtype=np.int64)

    def first_hits(self, origins: Points, directions: Points) -> Hits:
        """First hits of (n, 3) rays, `directions` of unit length. Rays that meet nothing: face -1, distance inf."""
        face = self.bare_first_hits(origins, directions)
        distance = np.full(len(face), np.inf)
        hit = np.flatnonzero(face >= 0)
        cross = self._cross[face[hit]]
        speed = np.einsum("ij,ij->i", cross, directions[hit])
        ahead = np.einsum("ij,ij->i", cross, self._anchor[face[hit]] - origins[hit])
        with np.errstate(divide="ignore", invalid="ignore"):
            distance[hit] = np.where(speed != 0, ahead / speed, 0.0)
        return Hits(face, np.where(np.isfinite(distance), np.maximum(distance, 0.0), distance))

    def facing(self, face: Ints, directions: Points) -> Floats:
        """(n,) cosine between the normal of each named face and a unit direction; face -1 names the last."""
        cross = self._cross[face]
        length = np.sqrt(np.einsum("ij,ij->i", cross, cross))
        return np.asarray(np.einsum("ij,ij->i", cross, directions) / np.maximum(length, 1e-300))

    def through(self, points: Points, normals: Points) -> Hits:
        """Along -normal from surface points to the first face that looks the other way.

        Grazing and like-facing hits are passed over, at most four times.
        """
        step = self._step
        origins = points - normals * step
        directions = -normals
        hits = self.first_hits(origins, directions)
        face, distance = hits.face.copy(), hits.distance + step
        open_rays = np.arange(len(points))
        for _ in range(4):
            found = face[open_rays]
            # A ray within a face's plane meets it anywhere: that is no exit.
            cross = self._cross[found]
            length = np.sqrt(np.einsum("ij,ij->i", cross, cross))
            exits = np.einsum("ij,ij->i", cross, directions[open_rays]) > _GRAZING * length
            open_rays = open_rays[(found >= 0) & ~exits]
            if not len(open_rays):
                break
            onward = distance[open_rays] + 2 * step
            more = self.first_hits(points[open_rays] - normals[open_rays] * onward[:, None], directions[open_rays])
            face[open_rays] = more.face
            distance[open_rays] = more.distance + onward
        lost = face < 0
        distance[lost] = np.inf
        return Hits(face, distance)
