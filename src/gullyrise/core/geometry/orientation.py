"""Which way the faces of a mesh look: made to agree, and outward."""

from __future__ import annotations

from gullyrise.core.geometry.mesh import Mesh
from gullyrise.core.geometry.topology import Edges, closed, disagreeing, edges_cancel, edges_of


def wound_alike(mesh: Mesh, edges: Edges | None = None) -> Mesh:
    """The mesh with disagreeing faces turned; the same object where none disagree."""
    flipped = disagreeing(mesh, edges if edges is not None else edges_of(mesh))
    if not flipped.any():
        return mesh
    faces = mesh.faces.copy()
    faces[flipped] = faces[flipped][:, ::-1]
    return Mesh(mesh.vertices, faces)


def outward(mesh: Mesh) -> Mesh:
    """The mesh with winding made to agree and, where it is then inside out as a whole, turned; for measuring."""
    if edges_cancel(mesh) and mesh.signed_volume >= 0:
        return mesh
    edges = edges_of(mesh)
    agreed = wound_alike(mesh, edges)
    if closed(edges) and agreed.signed_volume < 0:
        return Mesh(agreed.vertices, agreed.faces[:, ::-1])
    return agreed
