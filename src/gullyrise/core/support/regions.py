"""What hangs over air, gathered into regions: their columns, what these stand on, bridges and islands."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components, minimum_spanning_tree
from scipy.spatial import cKDTree

from gullyrise.core.geometry import Floats, Ints, Mesh, Points
from gullyrise.core.geometry.arrays import Bools
from gullyrise.core.geometry.facets import bends, whole_facets
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.sampling import spread
from gullyrise.core.geometry.spots import outermost
from gullyrise.core.geometry.topology import Edges, clusters, edges_of
from gullyrise.core.progress import Progress, silent
from gullyrise.core.support.borders import RESTS_WITHIN, Kind, borders_of, kind_of, lines_of, middles

COLUMNS_FROM = 20.0
"""Degrees from which on columns are measured, so that a lower limit needs no new measuring."""
_LIES_WITHIN = 0.01
_EXACT = 0.02
_LONE, _MOST_LONE = 2.0, 20_000
_SAMPLES = 60_000
_ALIKE = 0.2
_MOST_TIPS, _BESIDE = 500, 1.0
_OVER = 1e-4


def overhang_angles(mesh: Mesh) -> Floats:
    """(m,) degrees: 90 for a flat ceiling, 0 for a vertical wall, negative for faces that look up.

    From the components rather than by arcsine, so that 45 degrees stays 45 to the last digits.
    """
    cross = mesh.cross()
    return np.degrees(np.arctan2(-cross[:, 2], np.hypot(cross[:, 0], cross[:, 1])))


def angle_doubt(mesh: Mesh, edges: Edges, angles: Floats) -> Floats:
    """(m,) degrees by which a facet's angle may differ from the surface's: half the bend to its smooth neighbours.

    Facets of one curved surface are about as wide as each other; a wide flat beside a narrow chamfer is a flat, and so are two
    flats that bend into each other and into nothing else.
    """
    doubt = np.full(len(mesh.faces), _EXACT)
    a, b = edges.pairs[:, 0], edges.pairs[:, 1]
    normals = mesh.normals()
    areas = mesh.face_areas()
    # Over one edge the areas are as the widths.
    alike = np.minimum(areas[a], areas[b]) > _ALIKE * np.maximum(areas[a], areas[b])
    smooth = alike & (np.einsum("ij,ij->i", normals[a], normals[b]) > np.cos(np.radians(25)))
    bent = np.flatnonzero(smooth & (np.abs(angles[a] - angles[b]) > _LONE))
    if len(bent) <= _MOST_LONE:
        smooth[bent[_lone(mesh, edges, bent)]] = False
    step = np.abs(angles[a] - angles[b])[smooth] / 2 + _EXACT
    np.maximum.at(doubt, a[smooth], step)
    np.maximum.at(doubt, b[smooth], step)
    return doubt


def _lone(mesh: Mesh, edges: Edges, bent: Ints) -> Bools:
    """(k,) which of some bent pairs are of two flats that bend gently into no third."""
    bend, curved, _ = bends(mesh, edges)
    count, facet = whole_facets(edges, bend, len(mesh.faces))
    gentle = np.unique(np.sort(facet[edges.pairs[curved & (bend > np.radians(_LONE) / 4)]], axis=1), axis=0)
    gentle = gentle[gentle[:, 0] != gentle[:, 1]]
    beside = np.bincount(gentle.reshape(-1), minlength=count)
    return np.asarray((beside[facet[edges.pairs[bent]]] <= 1).all(axis=1))


@dataclass(frozen=True, slots=True, eq=False)
class Regions:
    """Regions over a limit, k of them. label : (m,) number of the region of each face, -1 for none
    area, volume, contact, on_part : (k,) mm2 of surface, mm3 of columns, mm2 that these touch above and below, and of that below
    sure : (k,) mm2 of it that hang over more than the limit whatever the facets hide
    """

    label: NDArray[np.int32]
    area: Floats
    volume: Floats
    contact: Floats
    on_part: Floats
    sure: Floats

    def largest(self, most: int) -> list[int]:
        """Numbers of the largest ones, the largest first."""
        return [int(one) for one in np.argsort(-self.area, kind="stable")[:most]]


@dataclass(frozen=True, slots=True, eq=False)
class Region:
    """One region.

    words : its kind in words
    angle : its worst, degrees
    place : (3,) on it
    lines : (k, 2, 3) its border, the foot of its support and uprights between
    around : (k, 3) its outermost places
    """

    kind: Kind
    words: str
    angle: float
    area: float
    volume: float
    contact: float
    on_part: float
    place: Points
    lines: Points
    around: Points


@dataclass(frozen=True, slots=True, eq=False)
class Hanging:
    """A mesh as it stands on the bed, and what hangs on it whatever the limit; m faces.

    angles, doubt, areas : (m,) degrees and mm2
    resting : (m,) within a layer of the bed
    drop : (m,) mm from each face to what its column stands on, 0 where none was asked for
    columns_from : degrees from which on columns were measured
    spacing : between columns, mm
    tips : vertices that start in the air, however steeply the surface goes up from them
    """

    mesh: Mesh
    edges: Edges
    angles: Floats
    doubt: Floats
    areas: Floats
    resting: Bools
    drop: Floats
    columns_from: float
    spacing: float
    tips: Ints
    forest: Forest
    ordered: Ordered

    def regions(self, limit: float, least: float) -> Regions:
        """limit : degrees that hold themselves
        least : regions smaller than that are left out, mm2.
        """
        of, count = self.forest.above(limit)
        many = len(of)
        area = np.bincount(of, self.ordered.area[:many], count)
        kept = area >= least
        number_ = np.where(kept, np.cumsum(kept) - 1, -1).astype(np.int32)
        label = np.full(len(self.areas), -1, dtype=np.int32)
        label[self.forest.faces[:many]] = number_[of]
        volume = np.bincount(of, self.ordered.column[:many], count)
        foot = np.bincount(of, self.ordered.foot[:many], count)
        sure = np.bincount(of, np.where(self.ordered.surely[:many] > limit, self.ordered.area[:many], 0.0), count)
        figures = (np.asarray(one[kept], dtype=np.float64) for one in (area, volume, area + foot, foot, sure))
        return Regions(label, *figures)

    def area_perhaps_over(self, limit: float) -> float:
        """mm2 of all faces that may hang over more than a limit, within the doubt of their facets."""
        return float(self.areas[self._perhaps(limit)].sum())

    def perhaps_over(self, limit: float, least: float) -> bool:
        """Whether a region of at least so many mm2 may hang over more than a limit."""
        groups = clusters(self.mesh, self.edges, self._perhaps(limit))
        return any(float(self.areas[group].sum()) >= least for group in groups)

    def _perhaps(self, limit: float) -> Bools:
        return (self.angles > limit - self.doubt) & ~self.resting & (self.areas > 0)

    def lone_tips(self, regions: Regions) -> Points:
        """(k, 3) tips that no region holds."""
        if not len(self.tips):
            return np.zeros((0, 3))
        held = np.zeros(len(self.mesh.vertices), dtype=bool)
        held[self.mesh.faces[regions.label >= 0].reshape(-1)] = True
        return self.mesh.vertices[self.tips[~held[self.tips]]]

    def told(self, regions: Regions, most: int) -> list[Region]:
        """All that is told of the largest regions."""
        mesh = self.mesh
        borders = borders_of(mesh, self.edges, regions.label)
        inside = np.flatnonzero(regions.label >= 0)
        inside = inside[np.argsort(regions.label[inside], kind="stable")]
        ends = np.cumsum(np.bincount(regions.label[inside], minlength=len(regions.area)))
        out = []
        for which in regions.largest(most):
            faces = inside[ends[which - 1] if which else 0 : ends[which]]
            middle = middles(mesh, faces)
            centroid = np.average(middle, axis=0, weights=self.areas[faces])
            nearest = int(np.argmin(np.linalg.norm(middle - centroid, axis=1)))
            border = borders(which)
            out.append(
                Region(
                    *kind_of(mesh, border, float(self.angles[faces].min())), float(self.angles[faces].max()),
                    float(regions.area[which]), float(regions.volume[which]), float(regions.contact[which]),
                    float(regions.on_part[which]), middle[nearest], lines_of(border, self.drop[border.within]),
                    outermost(mesh.vertices[mesh.faces[faces].reshape(-1)]),
                )
            )  # fmt: skip
        return out


@dataclass(frozen=True, slots=True, eq=False)
class Ordered:
    """Figures of the faces of a forest in its order, (d,): mm2, mm3 of column, mm2 of part that this stands on, and the degrees
    that each face surely has."""

    area: Floats
    column: Floats
    foot: Floats
    surely: Floats


@dataclass(frozen=True, slots=True, eq=False)
class Forest:
    """Faces that look down and how they hang together at any limit, so that a limit can be dragged.

    faces, angle : (d,) steepest overhang first
    links : (f, 2) of their places, those that hold longest first
    holds : (f,) degrees up to which each link holds. A spanning forest is enough to tell which faces are connected.
    """

    faces: Ints
    angle: Floats
    links: Ints
    holds: Floats

    @classmethod
    def of(cls, edges: Edges, angles: Floats, free: Bools) -> Forest:
        """free : (m,) faces that may count at all."""
        faces = np.flatnonzero(free & (angles > 0))
        faces = faces[np.argsort(-angles[faces], kind="stable")]
        place = np.full(len(angles), -1, dtype=np.int32)
        place[faces] = np.arange(len(faces), dtype=np.int32)
        pairs = place[edges.pairs]
        pairs = pairs[(pairs >= 0).all(axis=1)]
        # Places go by angle, so the later of two faces is the one that lets go first.
        late, early = pairs.max(axis=1), pairs.min(axis=1)
        graph = coo_array((late.astype(np.float64) + 1, (early, late)), shape=(len(faces),) * 2).tocsr()
        kept = minimum_spanning_tree(graph).tocoo()
        order = np.argsort(kept.col, kind="stable")
        links = np.column_stack([kept.row[order], kept.col[order]]).astype(np.int64)
        return cls(faces, angles[faces], links, angles[faces][links[:, 1]])

    def above(self, limit: float) -> tuple[Ints, int]:
        """(the number of the region of each face over a limit, those being the first of all; how many regions)."""
        count = int(np.searchsorted(-self.angle, -(limit + _OVER)))
        links = self.links[: int(np.searchsorted(-self.holds, -(limit + _OVER)))]
        graph = coo_array((np.ones(len(links), dtype=np.int8), (links[:, 0], links[:, 1])), shape=(count, count))
        regions, of = connected_components(graph, directed=False)
        return np.asarray(of, dtype=np.int64), regions


def hanging_of(mesh: Mesh, limit: float, progress: Progress = silent, edges: Edges | None = None) -> Hanging:
    """Angles and columns of a mesh that stands on the bed.

    limit : that will be asked for first, degrees
    edges : its own, where those are known.
    """
    progress("measuring angles", 0, 0)
    angles, areas = overhang_angles(mesh), mesh.face_areas()
    resting = mesh.vertices[:, 2][mesh.faces].max(axis=1) <= RESTS_WITHIN
    edges = edges if edges is not None else edges_of(mesh)
    free = (areas > 0) & ~resting
    doubt = angle_doubt(mesh, edges, angles)
    progress("measuring support", 0, 0)
    start = min(COLUMNS_FROM, max(limit - 5.0, 0.0))
    drop, on_part, spacing = _columns(mesh, np.flatnonzero(free & (angles > start)))
    # What lies on the part below it but for the rounding of a file hangs over nothing.
    resting = resting | ((on_part > 0.999) & (drop <= _LIES_WITHIN))
    forest = Forest.of(edges, angles, (areas > 0) & ~resting)
    tips = _tips(mesh, edges)
    faces = forest.faces
    flat = areas[faces] * np.sin(np.radians(angles[faces]))
    ordered = Ordered(areas[faces], flat * drop[faces], flat * on_part[faces], angles[faces] - doubt[faces])
    return Hanging(mesh, edges, angles, doubt, areas, resting, drop, start, spacing, tips, forest, ordered)


def measured_support(mesh: Mesh, limit: float, least_area: float) -> tuple[float, float, int]:
    """(mm2 that want support, mm3 of support, how many regions) of a mesh that stands on the bed, as the check finds them."""
    hanging = hanging_of(mesh, limit)
    regions = hanging.regions(limit, least_area)
    return float(regions.area.sum()), float(regions.volume.sum()), len(regions.area)


def _columns(mesh: Mesh, faces: Ints) -> tuple[Floats, Floats, float]:
    """(mm down from each face to what is below it (m,), share of its column that stands on the part (m,), mm between columns)."""
    drop, on_part = np.zeros(len(mesh.faces)), np.zeros(len(mesh.faces))
    if not len(faces):
        return drop, on_part, 0.0
    samples = spread(Mesh(mesh.vertices, mesh.faces[faces]), _SAMPLES, every_face=True)
    down = np.tile(np.array([0.0, 0.0, -1.0]), (len(samples.points), 1))
    step = 1e-5 * max(mesh.box.diagonal, 1e-9)
    hits = RayScene(mesh).first_hits(samples.points + down * step, down)
    lands = np.isfinite(hits.distance)
    height = np.maximum(np.where(lands, hits.distance + step, samples.points[:, 2]), 0.0)
    each = np.maximum(np.bincount(samples.face, minlength=len(faces)), 1)
    drop[faces] = np.bincount(samples.face, height, len(faces)) / each
    on_part[faces] = np.bincount(samples.face, lands, len(faces)) / each
    return drop, on_part, float(np.sqrt(samples.weight.sum() / len(samples.points)))


def _tips(mesh: Mesh, edges: Edges) -> Ints:
    """Vertices that are the lowest of the solid round about, off the bed: all round them the surface goes up.

    One of each group of vertices at one height, where the faces that meet there look down: at the foot of a pocket they look up.
    Bumps of a rough surface, with some of it lower beside them, are none.
    """
    z = mesh.vertices[:, 2]
    lowest = np.full(len(z), np.inf)
    np.minimum.at(lowest, edges.ends[:, 0], z[edges.ends[:, 1]])
    np.minimum.at(lowest, edges.ends[:, 1], z[edges.ends[:, 0]])
    level = 1e-6 * max(mesh.box.diagonal, 1e-9)
    low = (z <= lowest + level) & np.isfinite(lowest)
    if not low.any():
        return np.zeros(0, dtype=np.int64)
    facing = np.bincount(mesh.faces.reshape(-1), np.repeat(mesh.cross()[:, 2], 3), len(z))
    beside = edges.ends[np.abs(z[edges.ends[:, 0]] - z[edges.ends[:, 1]]) <= level]
    graph = coo_array((np.ones(len(beside), dtype=np.int8), (beside[:, 0], beside[:, 1])), shape=(len(z),) * 2)
    count, group = connected_components(graph, directed=False)
    whole = np.ones(count, dtype=bool)
    whole[group[~low]] = False
    down = np.bincount(group, facing, count) < 0
    used = np.zeros(len(z), dtype=bool)
    used[edges.ends.reshape(-1)] = True
    found = np.flatnonzero(used & low & whole[group] & down[group] & (z > RESTS_WITHIN))
    _, first = np.unique(group[found], return_index=True)
    lone = found[first]
    lone = lone[np.argsort(z[lone], kind="stable")][:_MOST_TIPS]
    if not len(lone):
        return lone
    corners = np.flatnonzero(used)
    beside_each = cKDTree(mesh.vertices[corners]).query_ball_point(mesh.vertices[lone], _BESIDE)
    alone = [bool((z[corners[near]] >= z[tip] - level).all()) for tip, near in zip(lone, beside_each, strict=True)]
    return np.asarray(lone[np.array(alone, dtype=bool)])
