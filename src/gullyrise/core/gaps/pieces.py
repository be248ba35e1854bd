"""Bodies and shells made ready to be held against each other."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.arrays import Floats, Ints
from gullyrise.core.geometry.facets import facet_error
from gullyrise.core.geometry.material import material_of, solids_of
from gullyrise.core.geometry.nearest import Surface, Tree
from gullyrise.core.geometry.orientation import outward
from gullyrise.core.geometry.topology import closed, edges_cancel, edges_of
from gullyrise.core.intake.health import degenerate_faces
from gullyrise.core.part import Body

_MOST_WEIGHED = 60_000
_SLACK = 1e-9


@dataclass(frozen=True, slots=True, eq=False)
class Exact:
    """The kernel's own of a piece.

    exact : as a body keeps it
    place : where it stands
    face_of : (m,) true face of each of the piece's triangles
    """

    exact: bytes
    place: Transform
    face_of: Ints


class Piece:
    """One body or shell made ready to be held against others; trees are built when first asked for."""

    def __init__(
        self, name: str, mesh: Mesh, copy: int, chord: float | None, faces: Ints | None = None, exact: Exact | None = None
    ) -> None:
        """faces : which of the copy's faces these are or come from, for one shell of several."""
        self.name, self.copy, self.chord = name, copy, chord
        agreed = outward(mesh)
        sound = ~degenerate_faces(agreed)
        self.mesh = agreed if sound.all() else agreed.only(sound)
        self.faces = (np.arange(len(mesh.faces)) if faces is None else faces)[sound]
        self.closed = edges_cancel(mesh) or closed(edges_of(mesh))
        self.exact = None if exact is None else Exact(exact.exact, exact.place, exact.face_of[sound])
        self.box = self.mesh.box
        self._tree: Tree | None = None
        self._surface: Surface | None = None
        self._rise: Floats | None = None

    @property
    def tree(self) -> Tree:
        """Its triangles, for gaps between triangles."""
        if self._tree is None:
            self._tree = Tree(self.mesh)
        return self._tree

    @property
    def surface(self) -> Surface:
        """Its triangles, for nearest places on them."""
        if self._surface is None:
            self._surface = Surface(self.mesh)
        return self._surface

    @property
    def rise(self) -> Floats:
        """(m,) mm by which the true surface may stand off each face."""
        if self._rise is None:
            found = facet_error(self.mesh, edges_of(self.mesh))
            self._rise = found if self.chord is None else np.minimum(found, 1.2 * self.chord)
        return self._rise

    def near(self, other: Piece, reach: float) -> Ints:
        """Faces that may lie within `reach` mm of another piece; of very many all whose boxes do."""
        corners = self.mesh.triangles()
        low, high = corners.min(axis=1), corners.max(axis=1)
        box = other.box.grown(reach)
        some = np.flatnonzero((low <= box.high).all(axis=1) & (high >= box.low).all(axis=1))
        if len(some) > _MOST_WEIGHED:
            return some
        middle = self.mesh.centroids()[some]
        radius = np.linalg.norm(corners[some] - middle[:, None], axis=2).max(axis=1)
        distance, _, _ = other.surface.nearest(middle)
        return np.asarray(some[distance <= reach + radius + _SLACK])


def pieces_of(copies: Iterable[tuple[str, Body, Mesh, Transform]]) -> list[Piece]:
    """Bodies as they stand: (name, body, its mesh there, its placement) each. A mesh body of several solids falls into `name #1`,
    `name #2`; a cavity belongs to the solid round it, and shells that overlap are one."""
    out: list[Piece] = []
    for number, (name, body, mesh, place) in enumerate(copies):
        if body.chord_error is not None:
            exact = None
            if body.exact is not None and body.anatomy is not None:
                exact = Exact(body.exact, place, body.anatomy.face_of.astype(np.int64))
            out.append(Piece(name, mesh, number, body.chord_error, exact=exact))
            continue
        out += pieces_of_mesh(name, mesh, number)
    return out


def pieces_of_mesh(name: str, mesh: Mesh, number: int) -> list[Piece]:
    """The solids of one mesh."""
    found = material_of(outward(mesh))
    solids = solids_of(found.mesh)
    if solids.count <= 1:
        return [Piece(name, found.mesh, number, None, found.face_of)]
    order = np.argsort(solids.of[solids.shell], kind="stable")
    groups = np.split(order, np.cumsum(np.bincount(solids.of[solids.shell], minlength=solids.count))[:-1])
    return [
        Piece(f"{name} #{index}", found.mesh.only(group), number, None, found.face_of[group])
        for index, group in enumerate(groups, 1)
    ]
