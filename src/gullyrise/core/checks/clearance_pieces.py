"""Bodies and shells made ready to be held against each other."""

from __future__ import annotations

import numpy as np

from gullyrise.core.geometry import Mesh
from gullyrise.core.geometry.arrays import Floats, Ints
from gullyrise.core.geometry.nearest import Surface, Tree
from gullyrise.core.geometry.facets import facet_error
from gullyrise.core.geometry.topology import closed, edges_cancel, edges_of, shells_of
from gullyrise.core.geometry.winding import inside
from gullyrise.core.intake.health import degenerate_faces, outward

# Faces round a place that may hold it: of those the one that stands off its surface most.
_BESIDE = 6


class Piece:
    """One body or shell made ready to be held against others; trees are built when first asked for."""

    def __init__(self, name: str, mesh: Mesh, copy: int, chord: float | None, faces: Ints | None = None) -> None:
        """faces : which of the copy's faces these are, for one shell of several."""
        self.name, self.copy, self.chord = name, copy, chord
        agreed = outward(mesh)
        sound = ~degenerate_faces(agreed)
        self.mesh = agreed if sound.all() else agreed.only(sound)
        self.faces = (np.arange(len(mesh.faces)) if faces is None else faces)[sound]
        self.closed = edges_cancel(mesh) or closed(edges_of(mesh))
        self.box = self.mesh.box
        self._tree: Tree | None = None
        self._surface: Surface | None = None

    @property
    def tree(self) -> Tree:
        if self._tree is None:
            self._tree = Tree(self.mesh)
        return self._tree

    @property
    def surface(self) -> Surface:
        if self._surface is None:
            self._surface = Surface(self.mesh)
        return self._surface

    def error_at(self, point: Floats) -> float:
        """How far the true surface may stand off the facet at a point, mm."""
        near = self.mesh.only(self._round(point))
        rise = facet_error(near, edges_of(near))
        middle = np.linalg.norm(near.centroids() - point, axis=1)
        found = float(rise[np.argsort(middle, kind="stable")[:_BESIDE]].max())
        return found if self.chord is None else min(found, 1.2 * self.chord)

    def _round(self, point: Floats) -> Ints:
        """Faces at a point of the surface and those that share a corner with them; looked through one by one, which for a single
        point is quicker than any tree."""
        corners = self.mesh.triangles()
        off = np.maximum(np.maximum(corners.min(axis=1) - point, point - corners.max(axis=1)), 0.0).max(axis=1)
        near = off <= off.min() + 1e-6 * self.box.diagonal
        for _ in range(2):
            beside = np.zeros(len(self.mesh.vertices), dtype=bool)
            beside[self.mesh.faces[near].reshape(-1)] = True
            near = beside[self.mesh.faces].any(axis=1)
        return np.flatnonzero(near)


def pieces_of(copies: list[tuple[str, Mesh, float | None]]) -> list[Piece]:
    """Bodies as they stand; a mesh body of several outer shells falls into `name #1`, `name #2`, its cavities left out."""
    out: list[Piece] = []
    for number_, (name, mesh, chord) in enumerate(copies):
        count, label = shells_of(mesh)
        if count <= 1 or chord is not None or count > 2000:
            out.append(Piece(name, mesh, number_, chord))
            continue
        shells = [mesh.only(label == shell) for shell in range(count)]
        kept = [number for number, shell in enumerate(shells) if not _is_cavity(shell, shells)]
        if len(kept) == 1:
            out.append(Piece(name, mesh, number_, chord))
        else:
            for index, shell in enumerate(kept, 1):
                out.append(Piece(f"{name} #{index}", shells[shell], number_, chord, np.flatnonzero(label == shell)))
    return out


def _is_cavity(shell: Mesh, shells: list[Mesh]) -> bool:
    """A closed shell that faces inwards and lies inside another's material."""
    if shell.signed_volume >= 0 or not closed(edges_of(shell)):
        return False
    probe = shell.vertices[shell.faces[0, 0]][None]
    box = shell.box
    for other in shells:
        if other is shell or other.signed_volume <= 0:
            continue
        if (other.box.low <= box.low).all() and (other.box.high >= box.high).all() and inside(other, probe)[0]:
            return True
    return False
