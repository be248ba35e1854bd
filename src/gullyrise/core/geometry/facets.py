"""How far a curved surface may stand off the facets that a mesh makes of it."""

from __future__ import annotations

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from gullyrise.core.geometry.arrays import Bools, Floats, Ints
from gullyrise.core.geometry.mesh import Mesh
from gullyrise.core.geometry.topology import Edges

SMOOTH = np.radians(35.0)
"""Radians of bend under which neighbouring facets are taken for those of one curved surface."""
_LEVEL, _MERGED = 1e-5, 1e-4
_MOST_PIECES, _MOST_EDGES = 64, 40_000
_ALIKE = 4.0
_SIDES = 3


def facet_error(mesh: Mesh, edges: Edges) -> Floats:
    """How far a curved surface may stand off its facets, either way: (m,) mm, an upper estimate."""
    outward, inward = facet_errors(mesh, edges)
    return outward + inward


def facet_errors(mesh: Mesh, edges: Edges) -> tuple[Floats, Floats]:
    """How far a curved surface may stand outside and inside its facets: two (m,) mm, upper estimates.

    Notes: across an edge that bends gently the surface is taken to be curved; the rise of an arc over a chord w that turns by d
    is w d / 8, outwards over a convex edge and inwards over a hollow one. The rises over the three edges add up, which covers
    facets curved in two directions, and a fifth is added for arcs that are no circles. w is the smaller height of the two faces
    over the edge, so that a wide flat next to a narrow chamfer is not taken for a coarse curve. A facet that a cut has left in
    pieces is taken whole.
    """
    m = len(mesh.faces)
    if not len(edges.pairs):
        return np.zeros(m), np.zeros(m)
    bend, curved, convex = bends(mesh, edges)
    a, b = edges.pairs[:, 0], edges.pairs[:, 1]
    ends = mesh.vertices[edges.ends[edges.pair_edge]]
    length = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
    areas = mesh.face_areas()
    height = 2 * np.minimum(areas[a], areas[b]) / np.maximum(length, 1e-300)
    rise = np.where(curved, 1.2 * height * bend / 8, 0.0)
    both = np.concatenate([a, b])

    def summed(which: Bools) -> Floats:
        part = np.where(which, rise, 0.0)
        return np.asarray(np.bincount(both, weights=np.concatenate([part, part]), minlength=m), dtype=np.float64)

    outward, inward = summed(convex), summed(~convex)
    return _of_whole_facets(mesh, edges, bend, curved, convex, outward, inward)


def bends(mesh: Mesh, edges: Edges) -> tuple[Floats, Bools, Bools]:
    """(radians between the two faces of each pair, which pairs are facets of one curved surface, which of them are convex)."""
    normals, areas = mesh.normals(), mesh.face_areas()
    a, b = edges.pairs[:, 0], edges.pairs[:, 1]
    # Half-angle form keeps its digits for small bends.
    bend = 2 * np.arcsin(np.clip(np.linalg.norm(normals[a] - normals[b], axis=1) / 2, 0, 1))
    curved = (bend > _LEVEL) & (bend < SMOOTH) & (areas[a] > 0) & (areas[b] > 0)
    middles = mesh.centroids()
    convex = np.einsum("ij,ij->i", normals[a], middles[b] - middles[a]) < 0
    return bend, curved, convex


def whole_facets(edges: Edges, bend: Floats, faces: int) -> tuple[int, Ints]:
    """(how many facets there are where faces that lie level are one, (m,) the facet of each face)."""
    flat = edges.pairs[bend <= _MERGED]
    graph = coo_array((np.ones(len(flat), dtype=np.int8), (flat[:, 0], flat[:, 1])), shape=(faces, faces))
    count, label = connected_components(graph, directed=False)
    return int(count), np.asarray(label, dtype=np.int64)


def _of_whole_facets(
    mesh: Mesh, edges: Edges, bend: Floats, curved: Bools, convex: Bools, outward: Floats, inward: Floats
) -> tuple[Floats, Floats]:
    """The errors with those of facets that lie in pieces taken from the whole of each."""
    if not (bend <= _MERGED).any():
        return outward, inward
    count, label = whole_facets(edges, bend, len(mesh.faces))
    size = np.bincount(label, minlength=count)
    pieces = (size > 1) & (size <= _MOST_PIECES)
    sides = label[edges.pairs]
    chosen = np.flatnonzero(curved & (bend > _MERGED) & pieces[sides].any(axis=1) & (size[sides] <= _MOST_PIECES).all(axis=1))
    if not len(chosen) or len(chosen) > _MOST_EDGES:
        # Of so many facets each hides next to nothing.
        return outward, inward
    order = np.argsort(label, kind="stable")
    heads = np.concatenate([[0], np.cumsum(size)])
    reach = np.column_stack([_reach(mesh, edges, chosen, sides[chosen, side], order, heads) for side in (0, 1)])
    # Facets of one surface are about as wide as each other.
    alike = reach.max(axis=1) <= _ALIKE * reach.min(axis=1)
    rise = np.where(alike, 1.2 * reach.min(axis=1) * bend[chosen] / 8, 0.0)
    out = []
    for error, which in ((outward, convex[chosen]), (inward, ~convex[chosen])):
        total = np.zeros(count)
        for side in (0, 1):
            total += _largest_three(sides[chosen, side][which], sides[chosen, 1 - side][which], rise[which], count)
        out.append(np.where(pieces[label], np.maximum(error, total[label]), error))
    return out[0], out[1]


def _reach(mesh: Mesh, edges: Edges, pair: Ints, region: Ints, order: Ints, heads: Ints) -> Floats:
    """(k,) how far a region of faces reaches away from an edge of it, mm."""
    many = 3 * (heads[region + 1] - heads[region])
    row = np.repeat(np.arange(len(pair)), many)
    step = np.arange(len(row)) - np.repeat(np.cumsum(many) - many, many)
    corner = mesh.vertices[mesh.faces[order[heads[region[row]] + step // 3], step % 3]]
    ends = mesh.vertices[edges.ends[edges.pair_edge[pair]]]
    along = ends[:, 1] - ends[:, 0]
    along /= np.maximum(np.linalg.norm(along, axis=1), 1e-300)[:, None]
    away = corner - ends[row, 0]
    off = np.linalg.norm(away - np.einsum("ij,ij->i", away, along[row])[:, None] * along[row], axis=1)
    return np.asarray(np.maximum.reduceat(off, np.cumsum(many) - many))


def _largest_three(own: Ints, other: Ints, rise: Floats, count: int) -> Floats:
    """(count,) the rises of each region over its three steepest neighbours, one each."""
    order = np.lexsort((-rise, other, own))
    own, other, rise = own[order], other[order], rise[order]
    first = np.ones(len(own), dtype=bool)
    first[1:] = (own[1:] != own[:-1]) | (other[1:] != other[:-1])
    own, rise = own[first], rise[first]
    order = np.lexsort((-rise, own))
    own, rise = own[order], rise[order]
    head = np.searchsorted(own, own)
    kept = np.arange(len(own)) - head < _SIDES
    return np.asarray(np.bincount(own[kept], rise[kept], count), dtype=np.float64)
