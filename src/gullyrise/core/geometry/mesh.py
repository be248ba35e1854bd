"""The triangle mesh that everything is measured on."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from gullyrise.core.geometry.arrays import Faces, Floats, Points, crossed, frozen, unit_rows
from gullyrise.core.geometry.box import Box
from gullyrise.core.geometry.transform import Transform


@dataclass(frozen=True, slots=True, eq=False)
class Mesh:
    """Triangles over shared vertices; arrays are read-only. What follows from them is worked out once and kept.

    vertices : (n, 3) float64, mm
    faces    : (m, 3) int32, counter-clockwise seen from outside
    """

    vertices: Points
    faces: Faces
    _kept: dict[str, np.ndarray] = field(default_factory=dict, init=False, repr=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "vertices", frozen(self.vertices, np.float64))
        object.__setattr__(self, "faces", frozen(self.faces, np.int32))

    @property
    def is_whole(self) -> bool:
        """Whether there is a finite place for every corner of every face: what comes from elsewhere is asked before it is
        used."""
        if self.vertices.shape[1:] != (3,) or self.faces.shape[1:] != (3,):
            return False
        if len(self.faces) and not 0 <= int(self.faces.min()) <= int(self.faces.max()) < len(self.vertices):
            return False
        return bool(np.isfinite(self.vertices).all())

    def triangles(self) -> Points:
        """(m, 3, 3) corner points."""
        return self.vertices[self.faces]

    def __reduce__(self) -> tuple[type[Mesh], tuple[Points, Faces]]:
        # What is kept is quicker worked out again than sent to another process.
        return Mesh, (self.vertices, self.faces)

    def _keep(self, name: str, make: Callable[[], np.ndarray]) -> np.ndarray:
        found = self._kept.get(name)
        if found is None:
            found = self._kept[name] = frozen(make(), np.float64)
        return found

    def cross(self) -> Points:
        """(m, 3) edge cross products: twice the area along the outward normal."""
        return self._keep("cross", self._cross)

    def _cross(self) -> Points:
        a = self.vertices[self.faces[:, 0]]
        u, v = self.vertices[self.faces[:, 1]] - a, self.vertices[self.faces[:, 2]] - a
        return crossed(u, v)

    def normals(self) -> Points:
        """(m, 3) unit normals; zero rows for zero-area faces."""
        return self._keep("normals", lambda: unit_rows(self.cross()))

    def face_areas(self) -> Floats:
        """(m,) mm2."""
        cross = self.cross()
        return self._keep("areas", lambda: np.sqrt(np.einsum("ij,ij->i", cross, cross)) / 2)

    def heights(self) -> Floats:
        """(m,) mm, each face's height over its longest side."""
        return self._keep("heights", self._heights)

    def _heights(self) -> Floats:
        a, b, c = (self.vertices[self.faces[:, k]] for k in range(3))
        longest = np.maximum.reduce([np.einsum("ij,ij->i", side, side) for side in (b - a, c - b, a - c)])
        return np.asarray(2 * self.face_areas() / np.sqrt(np.maximum(longest, 1e-300)))

    def centroids(self) -> Points:
        """(m, 3) middle points of the faces."""
        return self._keep("centroids", lambda: self.triangles().sum(axis=1) / 3)

    def shares(self, points: Points, face: np.ndarray) -> Points:
        """(n, 3) of each corner of a named face in a place on it (barycentric coordinates); zero-area faces give no meaning."""
        a, b, c = (self.vertices[self.faces[face, k]] for k in range(3))
        cross = self.cross()[face]
        square = np.maximum(np.einsum("ij,ij->i", cross, cross), 1e-300)
        share_b = np.einsum("ij,ij->i", np.cross(points - a, c - a), cross) / square
        share_c = np.einsum("ij,ij->i", np.cross(b - a, points - a), cross) / square
        return np.column_stack([1 - share_b - share_c, share_b, share_c])

    @property
    def area(self) -> float:
        """Sum of the face areas, mm2."""
        return float(self.face_areas().sum())

    @property
    def signed_volume(self) -> float:
        """Divergence theorem, mm3; means a volume only for a closed mesh with agreeing winding."""
        if not len(self.faces):
            return 0.0
        # From the middle of the mesh, so that a part far from the origin keeps its digits.
        corners = self.vertices[self.faces] - self.box.middle
        return float(np.einsum("ij,ij->", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])) / 6)

    @property
    def box(self) -> Box:
        """Box of the vertices that faces use. Raises ValueError for an empty mesh."""
        return Box.of(self.vertices[np.unique(self.faces)] if len(self.faces) < len(self.vertices) // 2 else self.vertices)

    def placed(self, transform: Transform) -> Mesh:
        """The mesh under a transform; a mirroring one turns the winding so that outside stays outside."""
        faces = self.faces[:, ::-1] if transform.mirrors else self.faces
        return Mesh(transform.apply(self.vertices), faces)

    def only(self, keep: np.ndarray) -> Mesh:
        """The faces named by an index or a mask, over just the vertices that they use."""
        faces = self.faces[keep]
        used = np.zeros(len(self.vertices), dtype=bool)
        used[faces] = True
        renumber = np.cumsum(used) - 1
        return Mesh(self.vertices[used], renumber[faces])


def merged(meshes: list[Mesh]) -> Mesh:
    """All faces of several meshes in one, vertices kept apart."""
    if not meshes:
        return Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int32))
    offsets = np.cumsum([0] + [len(mesh.vertices) for mesh in meshes[:-1]])
    return Mesh(
        np.concatenate([mesh.vertices for mesh in meshes]),
        np.concatenate([mesh.faces + offset for mesh, offset in zip(meshes, offsets, strict=True)]),
    )
