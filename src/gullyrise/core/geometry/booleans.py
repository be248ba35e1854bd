"""Volumes shared by closed meshes; the only import of manifold3d for booleans."""

from __future__ import annotations

import manifold3d
import numpy as np

from gullyrise.core.geometry.mesh import Mesh


def solid_of(mesh: Mesh) -> manifold3d.Manifold | None:
    """A solid of a closed mesh in double precision, or None where it is not one."""
    # Copies: the library refuses read-only arrays.
    given = manifold3d.Mesh64(np.array(mesh.vertices, dtype=np.float64), np.array(mesh.faces, dtype=np.uint64))
    made = manifold3d.Manifold(given)
    return made if made.status() == manifold3d.Error.NoError and not made.is_empty() else None


def mesh_of(solid: manifold3d.Manifold) -> Mesh:
    """The triangles of a solid."""
    found = solid.to_mesh64()
    return Mesh(np.asarray(found.vert_properties)[:, :3].copy(), np.asarray(found.tri_verts).astype(np.int32))


def shared_solid(a: Mesh, b: Mesh) -> tuple[float, Mesh] | None:
    """(volume of the intersection, mm3, its triangles), or None where one of the two is no closed solid."""
    one, other = solid_of(a), solid_of(b)
    if one is None or other is None:
        return None
    both = one ^ other
    return float(both.volume()), mesh_of(both)
