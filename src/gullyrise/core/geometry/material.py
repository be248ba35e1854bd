"""Where material is: shells that overlap or lie inside each other as one solid, and which shells bound which solid.

Material is where shells wind round a place (A. Jacobson, L. Kavan, O. Sorkine-Hornung, Robust inside-outside segmentation using
generalized winding numbers, ACM TOG 32, 2013): a face inside the material of another shell is no surface.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from gullyrise.core.geometry.arrays import Bools, Floats, Ints, Points
from gullyrise.core.geometry.booleans import United, united
from gullyrise.core.geometry.joining import joined
from gullyrise.core.geometry.mesh import Mesh, merged
from gullyrise.core.geometry.topology import Edges, edges_cancel, edges_of, shells_of
from gullyrise.core.geometry.winding import inside

_MOST_TRIANGLES = 4_000_000


@dataclass(frozen=True, slots=True, eq=False)
class Material:
    """The surface of what is solid. face_of : (m,) which of the faces that were given each is or comes from
    whole : shells that overlap have been united; else such faces may be inside material
    edges : of the mesh, where they were worked out on the way
    """

    mesh: Mesh
    face_of: Ints
    whole: bool = True
    edges: Edges | None = None

    def for_each(self, values: np.ndarray, given: list[Mesh]) -> tuple[np.ndarray, ...]:
        """The greatest value that each face of the given meshes has, NaN where it lies inside material; float32."""
        ends = np.cumsum([len(mesh.faces) for mesh in given])
        out = np.full(int(ends[-1]), np.nan, dtype=np.float32)
        np.fmax.at(out, self.face_of, values.astype(np.float32))
        return tuple(np.split(out, ends[:-1]))


@dataclass(frozen=True, slots=True, eq=False)
class Solids:
    """The solids that shells bound.

    of : (s,) solid of each shell, its outer one's
    count : how many
    """

    shell: Ints
    of: Ints
    count: int

    def faces(self, solid: int) -> Ints:
        """(k,) numbers of the faces of one solid."""
        return np.flatnonzero(self.of[self.shell] == solid)


def material_of(mesh: Mesh) -> Material:
    """The surface of a mesh without the faces that lie inside the material of its own other shells.

    mesh : winding agrees, the outside out. A mesh of one shell, or whose shells are clear of each other, comes back as it is;
    open shells are left as they are, and what lies in them.
    """
    given = mesh
    edges = edges_of(mesh)
    if (edges.uses > 2).any():
        kept = undoubled(mesh)
        if len(kept) < len(mesh.faces):
            rest = material_of(mesh.only(kept))
            return Material(rest.mesh, kept[rest.face_of], rest.whole)
        # Bodies that touch along an edge or a face are told apart by the edges that just two of their faces share.
        shells, label = _leaves(mesh, edges)
    else:
        shells, label = shells_of(mesh)
    every = np.arange(len(mesh.faces))
    if shells < 2:
        return Material(given, every, True, edges)
    low, high = shell_boxes(mesh, label, shells)
    volume = shell_volumes(mesh, label, shells)
    pairs = near_boxes(low, high, 0.0)
    mesh, volume = _right_side_out(mesh, label, volume, low, high)
    same = edges if mesh is given else None
    if not len(pairs):
        return Material(mesh, every, True, same)
    meeting = pairs[_may_share(volume, low, high, pairs)]
    if not len(meeting):
        return Material(mesh, every, True, same)
    solids = _solids(mesh, label, volume, low, high)
    together = np.unique(solids.of[meeting])
    if len(mesh.faces) > _MOST_TRIANGLES or len(together) < 2:
        return Material(mesh, every, len(together) < 2)
    parts = [mesh.only(solids.faces(int(one))) for one in together]
    faces = [solids.faces(int(one)) for one in together]
    if not all(edges_cancel(part) for part in parts):
        return _without_buried(mesh, parts, faces)
    found = united(parts)
    if found is None:
        return _without_buried(mesh, parts, faces)
    return _with_rest(mesh, found, faces, np.setdiff1d(every, np.concatenate(faces)))


def material_of_all(meshes: list[Mesh]) -> Material:
    """The surface of several meshes as one solid where they touch or overlap; face_of counts through all of them. An open one is
    left as it is."""
    return material_of(merged(meshes))


def undoubled(mesh: Mesh) -> Ints:
    """Faces without those that stand twice: of two that are wound alike one is kept, of two that look at each other none."""
    faces = mesh.faces.astype(np.int64)
    turn = np.argmin(faces, axis=1)
    first = np.take_along_axis(faces, (turn[:, None] + np.arange(3)) % 3, axis=1)
    way = np.where(first[:, 1] < first[:, 2], 1, -1)
    ordered = np.sort(faces, axis=1)
    _, group, many = np.unique(ordered, axis=0, return_inverse=True, return_counts=True)
    group = group.reshape(-1)
    if (many == 1).all():
        return np.arange(len(faces))
    net = np.bincount(group, way, len(many))
    # Of each group the first face that is wound as the rest of it.
    wanted = (way == np.sign(net[group])) & (net[group] != 0)
    index = np.flatnonzero(wanted)
    _, chosen = np.unique(group[index], return_index=True)
    return np.sort(index[chosen])


def _leaves(mesh: Mesh, edges: Edges) -> tuple[int, Ints]:
    """Pieces of surface that hang together over edges of just two faces, where each is closed by itself; else shells."""
    m = len(mesh.faces)
    graph = coo_array((np.ones(len(edges.pairs), dtype=np.int8), (edges.pairs[:, 0], edges.pairs[:, 1])), shape=(m, m))
    count, label = connected_components(graph, directed=False)
    half = np.flatnonzero(edges.of >= 0)
    key = edges.of[half] * count + label[half // 3]
    _, group = np.unique(key, return_inverse=True)
    if np.bincount(group.reshape(-1), np.where(edges.along[half], 1, -1)).any():
        return shells_of(mesh)
    return int(count), np.asarray(label, dtype=np.int64)


def _right_side_out(mesh: Mesh, label: Ints, volume: Floats, low: Points, high: Points) -> tuple[Mesh, Floats]:
    """Shells that are inside out and no cavity of another turned round: what they bound is material all the same."""
    negative = volume < 0
    if not negative.any():
        return mesh, volume
    solids = _solids(mesh, label, volume, low, high)
    held = np.bincount(solids.of, minlength=solids.count)[solids.of] > 1
    alone = negative & ~held
    if not alone.any():
        return mesh, volume
    faces = mesh.faces.copy()
    turned = alone[label]
    faces[turned] = faces[turned][:, ::-1]
    return Mesh(mesh.vertices, faces), np.where(alone, -volume, volume)


def _with_rest(mesh: Mesh, found: United, faces: list[Ints], rest: Ints) -> Material:
    source = np.concatenate([faces[one] for one in range(len(faces))])
    heads = np.concatenate([[0], np.cumsum([len(one) for one in faces])])
    face_of = source[heads[found.part] + found.face]
    other = mesh.only(rest)
    whole = merged([found.mesh, other]) if len(rest) else found.mesh
    return Material(joined(whole.vertices, whole.faces), np.concatenate([face_of, rest]))


def _without_buried(mesh: Mesh, parts: list[Mesh], faces: list[Ints]) -> Material:
    """Where no union can be made: faces that lie wholly in the material of another closed shell are left out."""
    kept = np.ones(len(mesh.faces), dtype=bool)
    for number, (part, own) in enumerate(zip(parts, faces, strict=True)):
        for other_number, other in enumerate(parts):
            if other_number == number or not edges_cancel(other):
                continue
            box = other.box
            near = np.flatnonzero((part.centroids() >= box.low).all(axis=1) & (part.centroids() <= box.high).all(axis=1))
            if not len(near):
                continue
            buried = np.ones(len(near), dtype=bool)
            for places in (part.centroids()[near], *(part.vertices[part.faces[near, k]] for k in range(3))):
                buried &= inside(other, places)
            kept[own[near[buried]]] = False
    index = np.flatnonzero(kept)
    return Material(mesh.only(index), index, False)


def solids_of(mesh: Mesh) -> Solids:
    """Which shells bound one solid: a cavity belongs to the body round it, and a body in a cavity is one of its own."""
    shells, label = shells_of(mesh)
    return _solids(mesh, label, shell_volumes(mesh, label, shells), *shell_boxes(mesh, label, shells))


def _solids(mesh: Mesh, label: Ints, volume: Floats, low: Points, high: Points) -> Solids:
    of = np.arange(len(volume))
    first = np.full(len(volume), -1, dtype=np.int64)
    first[label[::-1]] = np.arange(len(label) - 1, -1, -1)
    outer = np.flatnonzero(volume > 0)
    order = np.argsort(label, kind="stable")
    heads = np.concatenate([[0], np.cumsum(np.bincount(label, minlength=len(volume)))])
    for cavity in np.flatnonzero(volume < 0):
        around = outer[(low[outer] <= low[cavity]).all(axis=1) & (high[outer] >= high[cavity]).all(axis=1)]
        place = mesh.vertices[mesh.faces[first[cavity], :1]]
        # The smallest body that holds it is the one whose cavity it is.
        for holder in around[np.argsort(volume[around], kind="stable")]:
            if volume[holder] > -volume[cavity] and inside(mesh.only(order[heads[holder] : heads[holder + 1]]), place)[0]:
                of[cavity] = holder
                break
    kept, numbers = np.unique(of, return_inverse=True)
    return Solids(label, numbers.reshape(-1), len(kept))


def shell_volumes(mesh: Mesh, label: Ints, shells: int) -> Floats:
    """(s,) signed volume of each shell, mm3."""
    corners = mesh.vertices[mesh.faces] - mesh.box.middle
    each = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])) / 6
    return np.asarray(np.bincount(label, each, shells), dtype=np.float64)


def shell_boxes(mesh: Mesh, label: Ints, shells: int) -> tuple[Points, Points]:
    """(low (s, 3), high (s, 3)) of each shell, mm."""
    order = np.argsort(label, kind="stable")
    heads = np.searchsorted(label[order], np.arange(shells))
    corners = mesh.vertices[mesh.faces[order]]
    low, high = (np.asarray(pick.reduceat(pick.reduce(corners, axis=1), heads, axis=0)) for pick in (np.minimum, np.maximum))
    return low, high


def near_boxes(low: Points, high: Points, reach: float) -> Ints:
    """(p, 2) pairs of boxes no more than `reach` mm apart along each axis, the smaller number first. Along x by a sweep."""
    n = len(low)
    order = np.argsort(low[:, 0], kind="stable")
    starts, ends = low[order], high[order] + reach
    last = np.searchsorted(starts[:, 0], ends[:, 0], side="right")
    out = []
    for begin in range(0, n, 512):
        stop = min(begin + 512, n)
        many = np.maximum(last[begin:stop] - np.arange(begin, stop) - 1, 0)
        a = np.repeat(np.arange(begin, stop), many)
        b = a + 1 + np.arange(len(a)) - np.repeat(np.cumsum(many) - many, many)
        meet = (starts[b] <= ends[a]).all(axis=1) & (starts[a] <= ends[b]).all(axis=1)
        out.append(np.column_stack([order[a[meet]], order[b[meet]]]))
    return np.sort(np.concatenate(out), axis=1) if out else np.zeros((0, 2), dtype=np.int64)


def _may_share(volume: Floats, low: Points, high: Points, pairs: Ints) -> Bools:
    """(p,) pairs of shells that may have material in common: both bound some, or a cavity is not wholly inside the other."""
    a, b = pairs[:, 0], pairs[:, 1]
    both = (volume[a] > 0) & (volume[b] > 0)
    held = ((low[a] <= low[b]) & (high[a] >= high[b])).all(axis=1) | ((low[b] <= low[a]) & (high[b] >= high[a])).all(axis=1)
    return np.asarray(both | ~held)
