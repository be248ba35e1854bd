"""Inside corners parallel to a set-up: how tight they are."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from gullyrise.core.geometry import Floats, Ints, Mesh, Points
from gullyrise.core.geometry.facets import facet_error
from gullyrise.core.geometry.topology import Edges

# Radians: what bends less is one flat in several triangles.
_BENT = 1e-3
_LONE = np.radians(40.0)


def smallest_inside_radius(mesh: Mesh, edges: Edges, directions: Sequence[Floats]) -> tuple[float, Floats, float, Floats] | None:
    """(radius, place, uncertainty, direction) of the tightest inside corner parallel to a set-up direction, mm, or None.

    Notes: a flat of width w between two concave edges along the direction, over which the wall turns by d1 and d2, lies on a
    fillet of r = w / (2 tan((d1 + d2) / 4)). A turn of over 50 degrees is a sharp corner, radius 0. A flat with one such edge,
    as a slot leaves of a bore's facet, says nothing.
    """
    normals = mesh.normals()
    a, b = edges.pairs[:, 0], edges.pairs[:, 1]
    ends = mesh.vertices[edges.ends[edges.pair_edge]]
    along = ends[:, 1] - ends[:, 0]
    length = np.linalg.norm(along, axis=1)
    middles = mesh.centroids()
    bend = 2 * np.arcsin(np.clip(np.linalg.norm(normals[a] - normals[b], axis=1) / 2, 0, 1))
    concave = (np.einsum("ij,ij->i", normals[a], middles[b] - middles[a]) > 0) & (bend > _BENT) & (length > 0)
    flat = bend <= _BENT
    graph = coo_array((np.ones(int(flat.sum()), dtype=np.int8), (a[flat], b[flat])), shape=(len(normals),) * 2)
    _, facet = connected_components(graph, directed=False)
    best: tuple[float, Floats, float, Floats] | None = None
    error = facet_error(mesh, edges)
    for direction in directions:
        upright = np.abs(along @ direction) > (1 - 1e-4) * length
        walls = (np.abs(normals[a] @ direction) < 1e-3) & (np.abs(normals[b] @ direction) < 1e-3)
        index = np.flatnonzero(concave & upright & walls)
        if not len(index):
            continue
        sharp = index[bend[index] > np.radians(50)]
        if len(sharp):
            return 0.0, ends[sharp[0]].mean(axis=0), float(error[a[sharp[0]]]), direction
        for radius, edge in _fillets(facet.astype(np.int64), normals, ends, bend, a, b, index, direction):
            if best is None or radius < best[0]:
                best = (radius, ends[edge].mean(axis=0), float(error[a[edge]] + 0.02 * radius), direction)
    return best


def _fillets(
    facet: Ints, normals: Points, ends: Points, bend: Floats, a: Ints, b: Ints, index: Ints, direction: Floats
) -> list[tuple[float, int]]:
    """(radius, edge) of each facet between two concave upright edges.

    facet : (m,) number of the flat that each face belongs to
    index : the concave upright edges among the pairs (a, b)
    """
    edge = np.concatenate([index, index])
    face = np.concatenate([a[index], b[index]])
    across = np.cross(normals[face], direction)
    place = np.einsum("ij,ij->i", ends[edge].mean(axis=1), across)
    order = np.lexsort((place, facet[face]))
    edge, place, group = edge[order], place[order], facet[face][order]
    first = np.flatnonzero(np.diff(group, prepend=-1))
    last = np.append(first[1:], len(group)) - 1
    width = place[last] - place[first]
    turn = bend[edge[first]] + bend[edge[last]]
    wide = width > 1e-9
    first, last, turn = first[wide], last[wide], turn[wide]
    own = np.full(int(facet.max()) + 1, np.nan)
    own[group[first]] = width[wide] / (2 * np.tan(turn / 4))
    # Rounded files split facets into slivers that bend by next to nothing; the facets on both sides know better. A lone flat
    # across a corner has nobody to ask.
    beside = [facet[a[edge[end]]] + facet[b[edge[end]]] - group[first] for end in (first, last)]
    three = np.stack([own[group[first]], own[beside[0]], own[beside[1]]])
    agreed = np.where(np.isnan(three).any(axis=0), np.nanmax(three, axis=0), np.median(three, axis=0))
    radius = np.where(turn < _LONE, agreed, three[0])
    return list(zip(radius.tolist(), edge[first].tolist(), strict=True))
