"""Volumes shared by closed meshes; the only import of manifold3d for booleans."""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d
import numpy as np

from gullyrise.core.geometry.arrays import Ints
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


@dataclass(frozen=True, slots=True, eq=False)
class United:
    """A union. part, face : (m,) of which part, and which of its faces, each triangle is a piece"""

    mesh: Mesh
    part: Ints
    face: Ints


def united(parts: list[Mesh]) -> United | None:
    """The union of closed meshes, or None where one of them is no closed solid."""
    first = int(manifold3d.Manifold.reserve_ids(len(parts)))
    solids = []
    for number, part in enumerate(parts):
        vertices, faces = np.array(part.vertices, dtype=np.float64), np.array(part.faces, dtype=np.uint64)
        given = manifold3d.Mesh64(
            vertices, faces, run_index=np.array([0, 3 * len(faces)], dtype=np.uint64),
            run_original_id=np.array([first + number], dtype=np.uint32), face_id=np.arange(len(faces), dtype=np.uint64),
        )  # fmt: skip
        made = manifold3d.Manifold(given)
        if made.status() != manifold3d.Error.NoError or made.is_empty():
            return None
        solids.append(made)
    whole = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Add)
    if whole.status() != manifold3d.Error.NoError or whole.is_empty():
        return None
    found = whole.to_mesh64()
    runs = np.asarray(found.run_index, dtype=np.int64)
    lengths = (runs[1:] - runs[:-1]) // 3
    part_of = np.repeat(np.asarray(found.run_original_id, dtype=np.int64) - first, lengths)
    mesh = Mesh(np.asarray(found.vert_properties)[:, :3].copy(), np.asarray(found.tri_verts).astype(np.int32))
    return United(mesh, part_of, np.asarray(found.face_id, dtype=np.int64).copy())
