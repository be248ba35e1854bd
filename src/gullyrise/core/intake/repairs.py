"""Repairs of a mesh, each by itself: what it changes is counted, and nothing is done that was not asked for."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from gullyrise.core.geometry import Mesh
from gullyrise.core.geometry.arrays import Bools, Ints
from gullyrise.core.geometry.joining import joined
from gullyrise.core.geometry.orientation import wound_alike
from gullyrise.core.geometry.topology import disagreeing, edges_of
from gullyrise.core.intake.health import Health, degenerate_faces, health_of
from gullyrise.core.intake.holes import close_holes
from gullyrise.core.intake.shells import shells_in
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress, silent

JOIN_SHARE = 1e-5
"""Vertices nearer than this share of the diagonal are taken for one."""
_MOST_SPLITS = 40


@dataclass(frozen=True, slots=True)
class Repair:
    """One kind of repair.

    unit : what is counted, one and many
    run : gives the repaired mesh and how much was changed
    """

    id: str
    title: str
    unit: tuple[str, str]
    run: Callable[[Mesh], tuple[Mesh, int]]


@dataclass(frozen=True, slots=True)
class Change:
    """What a repair did, or would do, to one mesh. volume : mm3 before and after, None where nothing was enclosed
    left : what it could not repair, in words, or empty
    """

    repair: str
    count: int
    faces: tuple[int, int]
    volume: tuple[float | None, float | None]
    open_edges: tuple[int, int]


def join_vertices(mesh: Mesh) -> tuple[Mesh, int]:
    """Vertices within a hundred-thousandth of the diagonal become one, at the place of the first; faces that vanish go.
    Counted: vertices that went."""
    if not len(mesh.faces):
        return mesh, 0
    pairs = cKDTree(mesh.vertices).query_pairs(mesh.box.diagonal * JOIN_SHARE, output_type="ndarray")
    if not len(pairs):
        return mesh, 0
    n = len(mesh.vertices)
    graph = coo_array((np.ones(len(pairs), dtype=np.int8), (pairs[:, 0], pairs[:, 1])), shape=(n, n))
    _, label = connected_components(graph, directed=False)
    _, first = np.unique(label, return_index=True)
    made = joined(mesh.vertices[first[label]], mesh.faces)
    return _without(made, _repeated(made.faces)), n - len(first)


def drop_degenerate(mesh: Mesh) -> tuple[Mesh, int]:
    """Faces without area go. Counted: those faces.

    Notes: a face whose corners lie in a line has a corner on its longest side; the neighbour over that side is split there, so
    that the surface stays closed.
    """
    count = int(degenerate_faces(mesh).sum())
    if not count:
        return mesh, 0
    mesh = _without(mesh, _repeated(mesh.faces))
    for _ in range(_MOST_SPLITS):
        flat = np.flatnonzero(degenerate_faces(mesh))
        if not len(flat):
            break
        fresh = _split_beside(mesh, flat)
        if fresh is None:
            break
        mesh = fresh
    return _without(mesh, degenerate_faces(mesh)), count


def _split_beside(mesh: Mesh, flat: Ints) -> Mesh | None:
    """Each face without area gives its middle corner to the neighbour over its longest side, and goes; neighbours that two ask
    for wait for the next pass. None where no neighbour could be found."""
    edges = edges_of(mesh)
    faces = mesh.faces.astype(np.int64)
    triangles = mesh.triangles()
    sides = np.linalg.norm(np.roll(triangles, -1, axis=1)[flat] - triangles[flat], axis=2)
    longest = np.argmax(sides, axis=1)
    edge = edges.of[3 * flat + longest]
    by_edge = np.argsort(edges.of, kind="stable")
    sorted_of = edges.of[by_edge]
    gone = np.zeros(len(faces), dtype=bool)
    busy = np.zeros(len(faces), dtype=bool)
    fresh: list[list[int]] = []
    for face, side, number in zip(flat.tolist(), longest.tolist(), edge.tolist(), strict=True):
        start = int(np.searchsorted(sorted_of, number))
        around = [int(half) for half in by_edge[start : start + int(edges.uses[number])] if half // 3 != face]
        if len(around) != 1 or busy[face] or busy[around[0] // 3]:
            continue
        other, at = divmod(around[0], 3)
        a, b, c = (int(faces[other, (at + step) % 3]) for step in range(3))
        middle = int(faces[face, (side + 2) % 3])
        busy[face] = busy[other] = gone[face] = gone[other] = True
        if middle != c:
            fresh += [[a, middle, c], [middle, b, c]]
    if not gone.any():
        return None
    made = np.concatenate([faces[~gone], np.array(fresh, dtype=np.int64).reshape(-1, 3)])
    return Mesh(mesh.vertices, made.astype(np.int32))


def drop_duplicates(mesh: Mesh) -> tuple[Mesh, int]:
    """Of faces over the same three vertices one stays. Where as many look one way as the other, that is the one which the faces
    around it leave room for; where they leave none the pair encloses nothing and goes. Counted: faces that went."""
    ordered = np.sort(mesh.faces.astype(np.int64), axis=1)
    _, group, uses = np.unique(ordered, axis=0, return_inverse=True, return_counts=True)
    if (uses == 1).all():
        return mesh, 0
    group = group.reshape(-1)
    # The way round that a face runs through its vertices in the order of their numbers.
    a, b, c = mesh.faces.T
    way = np.where((a < b).astype(int) + (b < c) + (c < a) == 2, 1, -1)
    net = np.bincount(group, weights=way, minlength=len(uses))
    candidates = np.flatnonzero(way == np.sign(net[group]))
    keep = np.zeros(len(mesh.faces), dtype=bool)
    keep[candidates[np.unique(group[candidates], return_index=True)[1]]] = True
    even = np.flatnonzero(net == 0)
    if len(even):
        inside = np.isin(group, even)
        around = mesh.faces[keep & np.isin(mesh.faces, mesh.faces[inside]).any(axis=1)]
        runs = {tuple(run) for face in around.tolist() for run in ((face[0], face[1]), (face[1], face[2]), (face[2], face[0]))}
        for face in np.flatnonzero(inside):
            i, j, k = mesh.faces[face].tolist()
            own, back = ((i, j), (j, k), (k, i)), ((j, i), (k, j), (i, k))
            taken = any(run in runs for run in own)
            if not taken and all(run in runs for run in back) and not keep[group == group[face]].any():
                keep[face] = True
    return _without(mesh, ~keep), int((~keep).sum())


def agree_winding(mesh: Mesh) -> tuple[Mesh, int]:
    """Faces wound against their neighbours are turned. Counted: faces that turned."""
    edges = edges_of(mesh)
    against = int(disagreeing(mesh, edges).sum())
    return (wound_alike(mesh, edges), against) if against else (mesh, 0)


def turn_out(mesh: Mesh) -> tuple[Mesh, int]:
    """Shells that are inside out, and in no other's material, are turned. Counted: shells."""
    agreed = wound_alike(mesh)
    shells = shells_in(agreed)
    count = int(shells.inside_out.sum())
    if not count:
        return mesh, 0
    faces = agreed.faces.copy()
    turn = shells.faces(shells.inside_out)
    faces[turn] = faces[turn][:, ::-1]
    return Mesh(mesh.vertices, faces), count


def drop_strays(mesh: Mesh) -> tuple[Mesh, int]:
    """Tiny shells that belong to nothing go. Counted: shells."""
    shells = shells_in(wound_alike(mesh))
    count = int(shells.stray.sum())
    return (mesh.only(~shells.faces(shells.stray)), count) if count else (mesh, 0)


REPAIRS: tuple[Repair, ...] = (
    Repair("join", "Join vertices that all but meet", ("vertex", "vertices"), join_vertices),
    Repair("degenerate", "Drop faces without area", ("face", "faces"), drop_degenerate),
    Repair("duplicates", "Drop duplicate faces", ("face", "faces"), drop_duplicates),
    Repair("winding", "Turn inverted faces", ("face", "faces"), agree_winding),
    Repair("holes", "Close flat and small holes", ("hole", "holes"), close_holes),
    Repair("inside-out", "Turn shells that are inside out", ("shell", "shells"), turn_out),
    Repair("strays", "Drop tiny stray shells", ("shell", "shells"), drop_strays),
)
"""In the order in which one helps the next."""
BY_ID = {repair.id: repair for repair in REPAIRS}


def changed(repair: Repair, mesh: Mesh, before: Health | None = None) -> tuple[Mesh, Change]:
    """The mesh with one repair done, and what that changed. The same mesh where there was nothing to repair. before : the mesh's
    health, where it is known already."""
    made, count = repair.run(mesh)
    before = before if before is not None else health_of(mesh)
    after = before if made is mesh else health_of(made)
    return made, Change(
        repair.id, count, (len(mesh.faces), len(made.faces)), (before.volume, after.volume),
        (before.boundary_edges, after.boundary_edges),
    )  # fmt: skip


def repaired(part: Part, repairs: tuple[str, ...], progress: Progress = silent) -> tuple[Part, list[tuple[int, Change]]]:
    """(the part with some repairs done one after another, [(number of the body, what changed)]).
    Raises KeyError for no repair."""
    bodies, changes = list(part.bodies), []
    for name in repairs:
        for number, body in enumerate(bodies):
            progress("repairing", number, len(bodies))
            if body.kind == "mesh":
                mesh, change = changed(BY_ID[name], body.mesh)
                if change.count:
                    bodies[number] = replace(body, mesh=mesh)
                    changes.append((number, change))
    return replace(part, bodies=tuple(body for body in bodies if len(body.mesh.faces))), changes


def _repeated(faces: np.ndarray) -> Bools:
    a, b, c = faces.T
    return np.asarray((a == b) | (b == c) | (c == a))


def _without(mesh: Mesh, gone: Bools) -> Mesh:
    return mesh.only(~gone) if gone.any() else mesh
