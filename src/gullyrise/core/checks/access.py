"""Tool access: what a straight cutter cannot touch from the chosen set-ups."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from gullyrise.core.checks.protocol import FaceField, Finding, Outcome, Row, Snapshot, Verdict, Worst, number, spot
from gullyrise.core.geometry import Floats, Ints, Mesh, Points
from gullyrise.core.geometry.arrays import Bools
from gullyrise.core.geometry.mesh import merged
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.sampling import Samples, spread
from gullyrise.core.geometry.topology import Edges, clusters, edges_of, facet_error
from gullyrise.core.intake.health import outward
from gullyrise.core.progress import Progress

ROW = Row(
    id="access", order=6, title="Tool access", measure="out of the tool's sight", unit="mm²", limit="tool_diameter",
    placed=True, machine=False, version=2, process="mill", attitude=True,
)  # fmt: skip

METHOD = (
    "Visibility along the set-up directions by rays from samples of every face; inside radii of corners parallel to a set-up. "
    "The tool's own diameter, reach and holder and the depth of pockets are not measured yet: a later version will."
)
_SAMPLES = 120_000
_LEVEL = 0.01
# Radians: what bends less is one flat in several triangles.
_BENT = 1e-3
_LONE = np.radians(40.0)
_MOST_FINDINGS = 40


@dataclass(frozen=True, slots=True)
class Limits:
    """Set-up directions (from where the tool comes), the tool in mm, and the area under which a region is left out, mm2."""

    setups: tuple[str, ...]
    tool_diameter: float
    tool_reach: float
    min_region_area: float


def direction_of(setup: str) -> Floats:
    """`+z` as a unit vector towards where the tool comes from."""
    vector = np.zeros(3)
    vector["xyz".index(setup[1])] = 1.0 if setup[0] == "+" else -1.0
    return vector


def run(snapshot: Snapshot, limits: Limits, progress: Progress) -> tuple[Outcome, ...]:
    """One outcome for the part as it stands. Never a pass: what the tool's size forbids is not measured yet."""
    name = snapshot.part.name
    copies = [outward(mesh) for _, mesh in snapshot.placed_copies()]
    whole = merged(copies)
    samples = spread(whole, _SAMPLES, every_face=True)
    scene = RayScene(whole)
    reached = np.zeros(len(samples.points), dtype=bool)
    resting = np.zeros(len(samples.points), dtype=bool)
    for done, setup in enumerate(limits.setups):
        progress(f"looking from {setup}", done, len(limits.setups))
        seen, rests = _seen(whole, scene, samples, direction_of(setup))
        reached |= seen
        resting |= rests
    # A face that rests in the only set-up stays as the stock is; with a second set-up it must be reached like any other.
    missed = ~reached & ~resting
    edges = edges_of(whole)
    lost = np.bincount(samples.face[missed], samples.weight[missed], len(whole.faces))
    groups = [g for g in clusters(whole, edges, lost > 0) if lost[g].sum() >= limits.min_region_area]
    area = float(sum(lost[group].sum() for group in groups))
    findings = []
    for group in groups[:_MOST_FINDINGS]:
        heaviest = group[np.argmax(lost[group])]
        first = int(np.flatnonzero(missed & (samples.face == heaviest))[0])
        at = spot(snapshot.in_file(samples.points[first][None])[0])
        findings.append(Finding("out of the tool's sight", float(lost[group].sum()), "mm²", at, float(lost[group].sum())))
    corner = _smallest_inside_radius(whole, edges, limits)
    if corner is not None and corner[0] < limits.tool_diameter / 2 - corner[2]:
        at = spot(snapshot.in_file(corner[1][None])[0])
        findings.append(Finding("inside corner tighter than the tool", corner[0], "mm", at))
    grain = float(np.sqrt(whole.area * (whole.area / max(len(samples.points), 1))))
    verdict, why = _judged(area, corner, limits, grain)
    share = np.bincount(samples.face, samples.weight, len(whole.faces))
    part_lost = (lost / np.maximum(share, 1e-300)).astype(np.float32)
    ends = np.cumsum([len(mesh.faces) for mesh in copies])
    values = tuple(np.split(part_lost, ends[:-1]))
    field = FaceField("out of the tool's sight", "", values, 0.5, bad_below=False)
    measured = {
        "unreachable_area": area,
        "smallest_inside_radius": None if corner is None else corner[0],
        "deepest_ratio": None,
    }
    at_worst = findings[0].at if findings else spot(snapshot.in_file(whole.box.middle[None])[0])
    worst = Worst(area, "mm²", at_worst)
    return (Outcome("access", name, verdict, why, worst, measured, tuple(findings), METHOD, grain, field),)


def _seen(mesh: Mesh, scene: RayScene, samples: Samples, direction: Floats) -> tuple[Bools, Bools]:
    """(samples with a free straight line towards a direction, samples of faces that rest opposite to it)."""
    facing = samples.normals @ direction
    height = mesh.vertices @ direction
    step = 1e-5 * mesh.box.diagonal
    rests = (facing < -1 + 1e-6) & (samples.points @ direction <= height.min() + 10 * step)
    seen = np.zeros(len(samples.points), dtype=bool)
    # Walls along the direction count as touched by the tool's side.
    ask = np.flatnonzero(facing > -_LEVEL)
    start = samples.points[ask] + samples.normals[ask] * step + direction * step
    hits = scene.bare_first_hits(start, np.tile(direction, (len(ask), 1)))
    seen[ask] = hits < 0
    return seen, rests


def _smallest_inside_radius(mesh: Mesh, edges: Edges, limits: Limits) -> tuple[float, Floats, float] | None:
    """(radius, place, uncertainty) mm of the tightest inside corner parallel to a set-up direction, or None.

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
    best: tuple[float, Floats, float] | None = None
    error = facet_error(mesh, edges)
    for setup in limits.setups:
        direction = direction_of(setup)
        upright = np.abs(along @ direction) > (1 - 1e-4) * length
        walls = (np.abs(normals[a] @ direction) < 1e-3) & (np.abs(normals[b] @ direction) < 1e-3)
        index = np.flatnonzero(concave & upright & walls)
        if not len(index):
            continue
        sharp = index[bend[index] > np.radians(50)]
        if len(sharp):
            return 0.0, ends[sharp[0]].mean(axis=0), float(error[a[sharp[0]]])
        for radius, edge in _fillets(facet.astype(np.int64), normals, ends, bend, a, b, index, direction):
            if best is None or radius < best[0]:
                best = (radius, ends[edge].mean(axis=0), float(error[a[edge]] + 0.02 * radius))
    return best


def _fillets(
    facet: Ints, normals: Points, ends: Points, bend: Floats, a: Ints, b: Ints, index: Ints, direction: Floats
) -> list[tuple[float, int]]:
    """(radius, edge) of each facet between two concave upright edges.

    facet : (m,) number of the flat that each face belongs to;  index : the concave upright edges among the pairs (a, b)
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


def _judged(area: float, corner: tuple[float, Floats, float] | None, limits: Limits, grain: float) -> tuple[Verdict, str]:
    from_where = ", ".join(limits.setups)
    if area > 0:
        return "fail", f"{number(area)} mm² cannot be seen from {from_where}; add a set-up or change the shape."
    if corner is not None and corner[0] < limits.tool_diameter / 2 - corner[2]:
        return "fail", (
            f"An inside corner of {number(corner[0])} mm radius is tighter than the tool of "
            f"{number(limits.tool_diameter)} mm diameter."
        )
    return "review", (f"All faces can be seen from {from_where}; whether the tool's size and reach allow it is not measured yet.")
