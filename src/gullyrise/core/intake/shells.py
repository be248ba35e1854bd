"""What the pieces of a surface are: bodies, cavities, pieces turned inside out, strays."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry import Mesh
from gullyrise.core.geometry.arrays import Bools, Floats, Ints
from gullyrise.core.geometry.topology import Edges, edges_of, shells_of
from gullyrise.core.geometry.winding import inside

_ROUNDING = 2.0**-23
"""Of the largest coordinate, the step between two numbers of single precision, in which most mesh formats keep them."""
_STRAY_REACH = 0.02
_STRAY_AREA = 1e-3


@dataclass(frozen=True, slots=True, eq=False)
class Shells:
    """(s) connected pieces of surface of a mesh of m faces. A piece is `closed` where each of its edges has an even number of
    faces; only closed ones have a volume that means something.

    of       : (m,) shell of each face
    volume   : (s,) mm3, negative where the outside lies within
    closed   : (s,)
    cavity   : (s,) negative, inside the material of another
    inside_out : (s,) negative, inside nothing
    stray    : (s,) a fiftieth of the largest in reach and a thousandth in area, or less, and no cavity
    """

    of: Ints
    volume: Floats
    closed: Bools
    cavity: Bools
    inside_out: Bools
    stray: Bools

    @property
    def count(self) -> int:
        """How many there are."""
        return len(self.volume)

    def faces(self, which: Bools) -> Bools:
        """(m,) the faces of the chosen shells."""
        return np.asarray(which[self.of])


def shells_in(mesh: Mesh, edges: Edges | None = None) -> Shells:
    """The shells of a mesh whose winding agrees within each. An empty mesh has none."""
    count, of = shells_of(mesh)
    if not count:
        none, no = np.zeros(0), np.zeros(0, dtype=bool)
        return Shells(of, none, no, no, no, no)
    edges = edges if edges is not None else edges_of(mesh)
    odd = np.zeros(count, dtype=bool)
    half = np.flatnonzero(edges.of >= 0)
    odd[of[half[edges.uses[edges.of[half]] % 2 == 1] // 3]] = True
    corners = mesh.vertices[mesh.faces] - mesh.box.middle
    each = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])) / 6
    volume: Floats = np.asarray(np.bincount(of, weights=each, minlength=count), dtype=np.float64)
    cavity, inside_out = _negatives(mesh, of, volume, ~odd)
    return Shells(of, volume, ~odd, cavity, inside_out, _strays(mesh, of, count) & ~cavity)


def _negatives(mesh: Mesh, of: Ints, volume: Floats, closed: Bools) -> tuple[Bools, Bools]:
    """(cavities, inside-out shells): a negative shell inside the material of one that is not is a cavity, any other is inside
    out. A shell with a hole may hold a cavity, too: the winding number says where its material is."""
    cavity, inside_out = np.zeros(len(volume), dtype=bool), np.zeros(len(volume), dtype=bool)
    below: Bools = (volume < 0) & closed
    if not below.any():
        return cavity, inside_out
    first = np.full(len(volume), -1, dtype=np.int64)
    first[of[::-1]] = np.arange(len(of) - 1, -1, -1)
    negative = np.flatnonzero(_turned(mesh, of, below, first))
    holders = (volume > 0) | ~closed
    if not holders.any():
        inside_out[negative] = True
    if not holders.any() or not len(negative):
        return cavity, inside_out
    held = inside(mesh.only(holders[of]), mesh.vertices[mesh.faces[first[negative], 0]])
    cavity[negative[held]] = True
    inside_out[negative[~held]] = True
    return cavity, inside_out


def _turned(mesh: Mesh, of: Ints, asked: Bools, first: Ints) -> Bools:
    """(s,) which of the asked closed shells truly are negative. One so thin that moving its faces by what its coordinates are
    rounded by could close it, such as a flat piece closed by its own other side, encloses nothing and has no way to be turned."""
    own = np.flatnonzero(asked[of])
    # From a corner of its own, so that a small one far out is not lost in the rounding of how far out it is.
    corners = mesh.vertices[mesh.faces[own]] - mesh.vertices[mesh.faces[first[of[own]], 0]][:, None]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    volume = np.bincount(of[own], weights=np.einsum("ij,ij->i", corners[:, 0], across) / 6, minlength=len(asked))
    area = np.bincount(of[own], weights=np.linalg.norm(across, axis=1) / 2, minlength=len(asked))
    return np.asarray(volume < -_ROUNDING * np.abs(mesh.vertices).max() * area)


def _strays(mesh: Mesh, of: Ints, count: int) -> Bools:
    if count == 1:
        return np.zeros(1, dtype=bool)
    area = np.bincount(of, weights=mesh.face_areas(), minlength=count)
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    for corner in range(3):
        np.minimum.at(low, of, mesh.vertices[mesh.faces[:, corner]])
        np.maximum.at(high, of, mesh.vertices[mesh.faces[:, corner]])
    reach = np.linalg.norm(high - low, axis=1)
    return np.asarray((reach <= _STRAY_REACH * reach.max()) & (area <= _STRAY_AREA * area.max()))
