"""Nearest surface points, inside or outside, smallest gaps; the only import of igl and fcl."""

from __future__ import annotations

from dataclasses import dataclass

import fcl
import igl
import numpy as np

from gullyrise.core.geometry.arrays import Bools, Floats, Ints, Points
from gullyrise.core.geometry.mesh import Mesh
from gullyrise.core.geometry.transform import Transform


class Surface:
    """A mesh made ready for exact nearest-point questions (libigl's box tree)."""

    def __init__(self, mesh: Mesh) -> None:
        self._middle = mesh.box.middle
        self._vertices = np.asarray(mesh.vertices - self._middle)
        self._faces = mesh.faces.astype(np.int64)
        self._tree = igl.AABB()
        self._tree.init(self._vertices, self._faces)

    def nearest(self, points: Points) -> tuple[Floats, Ints, Points]:
        """Distance (n,), face (n,), place (n, 3) of the surface point nearest to each of (n, 3) points."""
        if not len(points):
            return np.zeros(0), np.zeros(0, dtype=np.int64), np.zeros((0, 3))
        squared, face, place = self._tree.squared_distance(self._vertices, self._faces, points - self._middle)
        return np.sqrt(squared), face, place + self._middle

    def inside(self, points: Points) -> Bools:
        """(n,) whether points lie inside, by the winding number (Jacobson, Kavan, Sorkine-Hornung 2013)."""
        if not len(points):
            return np.zeros(0, dtype=bool)
        winding = igl.fast_winding_number(self._vertices, self._faces, np.ascontiguousarray(points - self._middle))
        return np.asarray(winding > 0.5)


@dataclass(frozen=True, slots=True, eq=False)
class Gap:
    """The smallest distance between two surfaces and where it lies, mm."""

    distance: float
    point_a: Floats
    point_b: Floats


class Tree:
    """A mesh made ready for smallest-gap questions (fcl's bounding-volume tree)."""

    def __init__(self, mesh: Mesh) -> None:
        model = fcl.BVHModel()
        model.beginModel(len(mesh.vertices), len(mesh.faces))
        model.addSubModel(mesh.vertices, mesh.faces)
        model.endModel()
        self._model = model
        self._object = fcl.CollisionObject(model, fcl.Transform())

    def gap_to(self, other: Tree) -> Gap:
        """Smallest distance between the two surfaces; 0 where they cross, at a point of no meaning there."""
        result = fcl.DistanceResult()
        request = fcl.DistanceRequest(enable_nearest_points=True)
        distance = float(fcl.distance(self._object, other._object, request, result))
        a, b = result.nearest_points
        return Gap(max(distance, 0.0), np.asarray(a, dtype=np.float64), np.asarray(b, dtype=np.float64))

    def meets(self, other: Tree, place: Transform, other_place: Transform) -> bool:
        """Whether the surfaces meet, each at a rigid place that does not mirror."""
        for tree, where in ((self, place), (other, other_place)):
            tree._object.setTransform(fcl.Transform(where.matrix[:3, :3], where.matrix[:3, 3]))
        if self is other:
            # One object has one place: a second one of the same tree takes the other.
            twin = fcl.CollisionObject(self._model, fcl.Transform(place.matrix[:3, :3], place.matrix[:3, 3]))
            return bool(fcl.collide(twin, other._object, fcl.CollisionRequest(), fcl.CollisionResult()) > 0)
        return bool(fcl.collide(self._object, other._object, fcl.CollisionRequest(), fcl.CollisionResult()) > 0)

    def gap_at(self, other: Tree, place: Transform, other_place: Transform) -> Gap:
        """Smallest distance between the surfaces of two different trees, each at a rigid place that does not mirror."""
        result = fcl.DistanceResult()
        for tree, where in ((self, place), (other, other_place)):
            tree._object.setTransform(fcl.Transform(where.matrix[:3, :3], where.matrix[:3, 3]))
        distance = float(fcl.distance(self._object, other._object, fcl.DistanceRequest(enable_nearest_points=True), result))
        a, b = (np.asarray(point, dtype=np.float64) for point in result.nearest_points)
        return Gap(max(distance, 0.0), a, b)

    def crosses(self, other: Tree) -> tuple[bool, Floats | None]:
        """Whether the surfaces meet, and a place where they do."""
        result = fcl.CollisionResult()
        request = fcl.CollisionRequest(num_max_contacts=1, enable_contact=True)
        meets = fcl.collide(self._object, other._object, request, result) > 0
        return meets, np.asarray(result.contacts[0].pos) if meets and result.contacts else None
