"""How faces hang together: edges, shells, boundary loops, winding."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import breadth_first_order, connected_components

from gullyrise.core.geometry.arrays import Bools, Ints, Points
from gullyrise.core.geometry.mesh import Mesh


@dataclass(frozen=True, slots=True, eq=False)
class Edges:
    """The undirected edges of a mesh; (k) edges, (3m) half-edges, half-edge h is side h % 3 of face h // 3.

    ends   : (k, 2) vertex indices, the smaller first
    uses   : (k,) number of faces at the edge
    of     : (3m,) edge of each half-edge
    along  : (3m,) whether the half-edge runs from the smaller vertex index to the larger
    pairs  : (p, 2) faces on both sides of each edge that exactly two faces share
    pair_edge : (p,) the edge of each pair
    """

    ends: Ints
    uses: Ints
    of: Ints
    along: Bools
    pairs: Ints
    pair_edge: Ints


def edges_of(mesh: Mesh) -> Edges:
    """Edges of a mesh. Faces that name a vertex twice are left out (their half-edges belong to edge -1)."""
    faces = mesh.faces.astype(np.int64)
    start = faces.reshape(-1)
    end = np.roll(faces, -1, axis=1).reshape(-1)
    low, high = np.minimum(start, end), np.maximum(start, end)
    sound = np.repeat((faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0]), 3)
    key = low * max(len(mesh.vertices), 1) + high
    half = np.flatnonzero(sound)
    order = half[np.argsort(key[half], kind="stable")]
    ordered = key[order]
    fresh = np.ones(len(order), dtype=bool)
    fresh[1:] = ordered[1:] != ordered[:-1]
    number = np.cumsum(fresh) - 1
    of = np.full(len(start), -1, dtype=np.int64)
    of[order] = number
    heads = np.flatnonzero(fresh)
    uses = np.diff(np.append(heads, len(order)))
    twos = np.flatnonzero(uses == 2)
    first = order[heads]
    return Edges(
        ends=np.column_stack([low[first], high[first]]),
        uses=uses,
        of=of,
        along=start < end,
        pairs=np.column_stack([order[heads[twos]] // 3, order[heads[twos] + 1] // 3]),
        pair_edge=twos,
    )


def shells_of(mesh: Mesh) -> tuple[int, Ints]:
    """Connected pieces of surface that share vertices or edges: (count, (m,) shell number of each face)."""
    n = len(mesh.vertices)
    if not len(mesh.faces):
        return 0, np.zeros(0, dtype=np.int64)
    a, b, c = (mesh.faces[:, k] for k in range(3))
    rows, columns = np.concatenate([a, b]), np.concatenate([b, c])
    graph = coo_array((np.ones(len(rows), dtype=np.int8), (rows, columns)), shape=(n, n))
    _, label = connected_components(graph, directed=False)
    shells, of_face = np.unique(label[a], return_inverse=True)
    return len(shells), of_face.reshape(-1)


def points_of_shells(mesh: Mesh) -> Points:
    """(n, 3) a corner of each connected piece of surface. Where two surfaces do not cross, each says of its whole piece on which
    side of the other surface it lies."""
    count, of_face = shells_of(mesh)
    first = np.zeros(count, dtype=np.int64)
    first[of_face[::-1]] = np.arange(len(of_face))[::-1]
    return np.asarray(mesh.vertices[mesh.faces[first, 0]])


def disagreeing(mesh: Mesh, edges: Edges) -> Bools:
    """(m,) faces wound against their neighbours: in every piece of surface, the smaller of the two camps.

    Notes: neighbours over a two-face edge agree when they run along it in opposite directions. A spanning walk over
    those pairs gives every face a camp. Pieces that no walk can make agree (a one-sided strip) keep the walk's split.
    """
    m = len(mesh.faces)
    if not len(edges.pairs):
        return np.zeros(m, dtype=bool)
    order = np.argsort(edges.of, kind="stable")
    of_sorted = edges.of[order]
    first_half = order[np.searchsorted(of_sorted, edges.pair_edge)]
    second_half = order[np.searchsorted(of_sorted, edges.pair_edge) + 1]
    against = edges.along[first_half] == edges.along[second_half]
    if not against.any():
        return np.zeros(m, dtype=bool)
    a, b = edges.pairs[:, 0], edges.pairs[:, 1]
    # A doubled graph: node f is "face f as it is", node f + m "face f turned". Agreement joins like with like.
    cross = np.where(against, m, 0)
    rows = np.concatenate([a, a + m])
    columns = np.concatenate([b + cross, (b + m + cross) % (2 * m)])
    graph = coo_array((np.ones(len(rows), dtype=np.int8), (rows, columns)), shape=(2 * m, 2 * m))
    _, camp = connected_components(graph, directed=False)
    piece_graph = coo_array((np.ones(len(a), dtype=np.int8), (a, b)), shape=(m, m))
    pieces, piece = connected_components(piece_graph, directed=False)
    flipped = np.zeros(m, dtype=bool)
    one_sided = np.zeros(pieces, dtype=bool)
    one_sided[piece[camp[:m] == camp[m:]]] = True
    # The two camps of a two-sided piece have two labels; the first face of the piece names the reference camp.
    first = np.full(pieces, -1, dtype=np.int64)
    first[piece[::-1]] = np.arange(m - 1, -1, -1)
    flipped = camp[:m] != camp[first[piece]]
    for number in np.flatnonzero(one_sided):
        members = np.flatnonzero(piece == number)
        flipped[members] = _walk(members, a, b, against, m)[members]
    areas = mesh.face_areas()
    turned = np.bincount(piece, weights=flipped, minlength=pieces)
    total = np.bincount(piece, minlength=pieces)
    turned_area = np.bincount(piece, weights=areas * flipped, minlength=pieces)
    area = np.bincount(piece, weights=areas, minlength=pieces)
    larger = (2 * turned > total) | ((2 * turned == total) & (2 * turned_area > area))
    return np.asarray(flipped ^ larger[piece])


def _walk(members: Ints, a: Ints, b: Ints, against: Bools, m: int) -> Bools:
    """Camps of one piece along a breadth-first tree, for pieces that have no consistent answer."""
    weight = np.where(against, 2, 1)
    graph = coo_array((weight, (a, b)), shape=(m, m)).tocsr()
    graph = graph + graph.T
    order, parent = breadth_first_order(graph, int(members[0]), directed=False)
    camp = np.zeros(m, dtype=bool)
    for face in order[1:]:
        camp[face] = camp[parent[face]] ^ bool(graph[face, parent[face]] > 1)
    return camp


def runs_of_edges(edges: Edges, chosen: Bools) -> list[tuple[Ints, int]]:
    """(vertex indices, number of edges) of each connected run of chosen edges, most vertices first."""
    border = edges.ends[chosen]
    if not len(border):
        return []
    nodes, local = np.unique(border, return_inverse=True)
    local = local.reshape(-1, 2)
    graph = coo_array((np.ones(len(border), dtype=np.int8), (local[:, 0], local[:, 1])), shape=(len(nodes),) * 2)
    count, label = connected_components(graph, directed=False)
    by_label = np.argsort(label, kind="stable")
    many = np.bincount(label[local[:, 0]], minlength=count).tolist()
    groups = np.split(by_label, np.cumsum(np.bincount(label, minlength=count))[:-1])
    return sorted(((nodes[group], size) for group, size in zip(groups, many, strict=True)), key=lambda run: -len(run[0]))


def closed(edges: Edges) -> bool:
    """Whether every edge has an even number of faces, so that the surface encloses something."""
    return bool(len(edges.uses)) and not bool((edges.uses % 2).any())


def edges_cancel(mesh: Mesh) -> bool:
    """Whether every edge runs as often one way as the other, so that the surface is closed and its faces agree.

    Notes: instead of sorting the edges each is given a random number by its ends, which enters with the sign of its
    direction; the sum (modulo 2**64) is zero where all cancel, and else but by a chance of 2**-64.
    """
    if not len(mesh.faces):
        return False
    faces = mesh.faces.astype(np.uint64)
    start, end = faces.reshape(-1), np.roll(faces, -1, axis=1).reshape(-1)
    key = (np.minimum(start, end) << np.uint64(32)) | np.maximum(start, end)
    for shift, factor in ((30, 0xBF58476D1CE4E5B9), (27, 0x94D049BB133111EB), (31, 1)):
        key = (key ^ (key >> np.uint64(shift))) * np.uint64(factor)
    forth = start < end
    return int(key[forth].sum(dtype=np.uint64)) == int(key[~forth & (start != end)].sum(dtype=np.uint64))


def sealed(mesh: Mesh) -> bool:
    """Whether from outside only the outsides of faces can be seen: edges cancel, and no shell is inside out (nor a cavity, which
    cannot be told from one cheaply)."""
    if not edges_cancel(mesh):
        return False
    corners = mesh.triangles() - mesh.box.middle
    volumes = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2]))
    return bool((np.bincount(shells_of(mesh)[1], weights=volumes) > 0).all())


def clusters(mesh: Mesh, edges: Edges, chosen: Bools, also: Ints | None = None) -> list[Ints]:
    """Chosen faces in connected groups (over two-face edges), largest area first: lists of face indices.

    also : (k, 2) further pairs of faces that belong together, such as the two sides of a thin wall.
    """
    index = np.flatnonzero(chosen)
    if not len(index):
        return []
    pairs = edges.pairs if also is None else np.concatenate([edges.pairs, also])
    both = chosen[pairs[:, 0]] & chosen[pairs[:, 1]]
    local = np.full(len(chosen), -1, dtype=np.int64)
    local[index] = np.arange(len(index))
    links = local[pairs[both]]
    graph = coo_array((np.ones(len(links), dtype=np.int8), (links[:, 0], links[:, 1])), shape=(len(index),) * 2)
    count, label = connected_components(graph, directed=False)
    by_label = np.argsort(label, kind="stable")
    groups = [index[g] for g in np.split(by_label, np.cumsum(np.bincount(label, minlength=count))[:-1])]
    areas = mesh.face_areas()
    return sorted(groups, key=lambda group: -float(areas[group].sum()))
