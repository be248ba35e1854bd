"""Meshes, transforms, boxes and planes, and what can be asked of them."""

from gullyrise.core.geometry.arrays import Bools, Faces, Floats, Ints, Points
from gullyrise.core.geometry.box import Box
from gullyrise.core.geometry.mesh import Mesh
from gullyrise.core.geometry.plane import Plane
from gullyrise.core.geometry.transform import Transform

__all__ = ["Bools", "Box", "Faces", "Floats", "Ints", "Mesh", "Plane", "Points", "Transform"]
