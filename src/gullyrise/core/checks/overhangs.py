"""Overhangs: which faces hang over air and would need support?"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.checks.protocol import FaceField, Finding, Outcome, Row, Snapshot, Verdict, Worst, number, spot
from gullyrise.core.geometry import Floats, Ints, Mesh, Points
from gullyrise.core.geometry.arrays import Bools
from gullyrise.core.geometry.mesh import merged
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.sampling import spread
from gullyrise.core.geometry.topology import Edges, clusters, edges_of
from gullyrise.core.intake.health import outward
from gullyrise.core.progress import Progress

ROW = Row(
    id="overhangs", order=4, title="Overhangs", measure="overhang angle", unit="mm²", limit="overhang_angle", placed=True,
    machine=False, version=2, process="print", attitude=True,
)  # fmt: skip

METHOD = (
    "Angle of each face that looks down, 0 degrees for a vertical wall and 90 for a ceiling; connected faces over the limit are "
    "one region; support volume from columns down to the bed or to the part below."
)
RESTS_WITHIN = 0.2
"""mm above the bed that count as resting on it: one common layer."""
_EXACT = 0.02
_SAMPLES = 60_000
_MOST_FINDINGS = 60
_MOST_HELD = 600


@dataclass(frozen=True, slots=True)
class Limits:
    """Angle that holds itself, degrees from vertical; regions smaller than an area (mm2) are left out."""

    overhang_angle: float
    min_region_area: float


def overhang_angles(mesh: Mesh) -> Floats:
    """(m,) degrees: 90 for a flat ceiling, 0 for a vertical wall, negative for faces that look up.

    From the components rather than by arcsine, so that 45 degrees stays 45 to the last digits.
    """
    cross = mesh.cross()
    return np.degrees(np.arctan2(-cross[:, 2], np.hypot(cross[:, 0], cross[:, 1])))


def angle_doubt(mesh: Mesh, edges: Edges, angles: Floats) -> Floats:
    """(m,) degrees by which a facet's angle may differ from the surface's: half the bend to its smooth neighbours."""
    doubt = np.full(len(mesh.faces), _EXACT)
    a, b = edges.pairs[:, 0], edges.pairs[:, 1]
    normals = mesh.normals()
    smooth = np.einsum("ij,ij->i", normals[a], normals[b]) > np.cos(np.radians(25))
    step = np.abs(angles[a] - angles[b])[smooth] / 2 + _EXACT
    np.maximum.at(doubt, a[smooth], step)
    np.maximum.at(doubt, b[smooth], step)
    return doubt


def measured_support(mesh: Mesh, limit: float, least_area: float) -> tuple[float, float, int]:
    """(mm2 that want support, mm3 of support, how many regions) of a mesh that stands on the bed, as the check finds them."""
    angles, areas = overhang_angles(mesh), mesh.face_areas()
    resting = mesh.vertices[:, 2][mesh.faces].max(axis=1) <= RESTS_WITHIN
    regions = _regions(mesh, edges_of(mesh), (areas > 0) & ~resting & (angles > limit + 1e-4), areas, Limits(limit, least_area))
    chosen = _mask(regions, len(areas))
    return float(areas[chosen].sum()), _support(mesh, chosen), len(regions)


def run(snapshot: Snapshot, limits: Limits, progress: Progress) -> tuple[Outcome, ...]:
    """One outcome for the part as it stands, lowered until its lowest point is on the bed."""
    copies = [outward(mesh) for _, mesh in snapshot.placed_copies()]
    whole = merged(copies)
    drop = float(whole.box.low[2])
    whole = Mesh(whole.vertices - np.array([0.0, 0.0, drop]), whole.faces)
    edges = edges_of(whole)
    progress("measuring angles", 0, 0)
    angles = overhang_angles(whole)
    doubt = angle_doubt(whole, edges, angles)
    areas = whole.face_areas()
    resting = whole.vertices[:, 2][whole.faces].max(axis=1) <= RESTS_WITHIN
    free = (areas > 0) & ~resting
    regions = _regions(whole, edges, free & (angles > limits.overhang_angle + 1e-4), areas, limits)
    sure = _regions(whole, edges, free & (angles > limits.overhang_angle + doubt), areas, limits)
    maybe = _regions(whole, edges, free & (angles > limits.overhang_angle - doubt), areas, limits)
    chosen = _mask(regions, len(areas))
    progress("measuring support", 0, 0)
    volume = _support(whole, chosen)
    findings = []
    for region in regions[:_MOST_FINDINGS]:
        centroid = np.average(whole.centroids()[region], axis=0, weights=areas[region])
        nearest = region[np.argmin(np.linalg.norm(whole.centroids()[region] - centroid, axis=1))]
        at = whole.centroids()[nearest] + np.array([0.0, 0.0, drop])
        what = _kind(whole, edges, region, angles)
        place = spot(snapshot.in_file(at[None])[0])
        findings.append(Finding(what, float(angles[region].max()), "°", place, float(areas[region].sum())))
    area = float(areas[chosen].sum())
    spread_of = float(areas[_mask(maybe, len(areas))].sum() - areas[_mask(sure, len(areas))].sum())
    verdict, why = _judged(bool(sure), bool(maybe), area, volume, len(regions), limits)
    at_worst = findings[0].at if findings else spot(snapshot.in_file((whole.box.middle + [0, 0, drop])[None])[0])
    measured = {"area": area, "support_volume": volume, "regions": len(regions)}
    field = FaceField("overhang angle", "°", _split(angles, resting, copies), limits.overhang_angle, bad_below=False)
    worst = Worst(area, "mm²", at_worst)
    name = snapshot.part.name
    return (Outcome("overhangs", name, verdict, why, worst, measured, tuple(findings), METHOD, spread_of, field),)


def _split(angles: Floats, resting: Bools, copies: list[Mesh]) -> tuple[np.ndarray, ...]:
    """Angles per copy as float32; what rests on the bed reads as not hanging, what looks up as not measured."""
    hanging = np.where(angles < -0.01, np.nan, np.maximum(angles, 0.0))
    shown = np.where(resting & (angles > 0), 0.0, hanging).astype(np.float32)
    ends = np.cumsum([len(mesh.faces) for mesh in copies])
    return tuple(np.split(shown, ends[:-1]))


def _mask(regions: list[Ints], faces: int) -> Bools:
    mask = np.zeros(faces, dtype=bool)
    for region in regions:
        mask[region] = True
    return mask


def _regions(mesh: Mesh, edges: Edges, chosen: Bools, areas: Floats, limits: Limits) -> list[Ints]:
    return [group for group in clusters(mesh, edges, chosen) if areas[group].sum() >= limits.min_region_area]


def _support(mesh: Mesh, chosen: Bools) -> float:
    """Volume of the columns under the chosen faces down to what is below, mm3."""
    index = np.flatnonzero(chosen)
    if not len(index):
        return 0.0
    part = Mesh(mesh.vertices, mesh.faces[index])
    samples = spread(part, _SAMPLES, every_face=True)
    flat = samples.weight * -samples.normals[:, 2]
    down = np.tile(np.array([0.0, 0.0, -1.0]), (len(samples.points), 1))
    step = 1e-5 * max(mesh.box.diagonal, 1e-9)
    hits = RayScene(mesh).first_hits(samples.points + down * step, down)
    height = np.where(np.isfinite(hits.distance), hits.distance + step, samples.points[:, 2])
    column = flat * np.maximum(height, 0.0)
    return float(column.sum())


def _kind(mesh: Mesh, edges: Edges, region: Ints, angles: Floats) -> str:
    """bridge, island or overhang, in words.

    A bridge is a flat region with faces that go down from two opposite sides of its rim; an island is one whose whole
    rim goes up, so that it starts in the air.
    """
    inside = np.zeros(len(mesh.faces), dtype=bool)
    inside[region] = True
    rim = inside[edges.pairs[:, 0]] != inside[edges.pairs[:, 1]]
    if not rim.any():
        return "hangs in the air"
    pairs = edges.pairs[rim]
    within = np.where(inside[pairs[:, 0]], pairs[:, 0], pairs[:, 1])
    beyond = np.where(inside[pairs[:, 0]], pairs[:, 1], pairs[:, 0])
    ends = mesh.vertices[edges.ends[edges.pair_edge[rim]]]
    middle = ends.mean(axis=1)
    lowest = mesh.vertices[mesh.faces[beyond]][:, :, 2].min(axis=1)
    rise = mesh.centroids()[beyond][:, 2] - middle[:, 2]
    on_bed = middle[:, 2] <= RESTS_WITHIN
    held = on_bed | ((lowest < middle[:, 2] - 1e-6) & (rise < 0))
    if not held.any():
        return "island: starts in the air"
    if float(angles[region].min()) > 80 and held.sum() > 1:
        out = middle - mesh.centroids()[within]
        along = ends[:, 1] - ends[:, 0]
        side = np.column_stack([along[:, 1], -along[:, 0]])
        side /= np.maximum(np.linalg.norm(side, axis=1), 1e-300)[:, None]
        side *= np.sign(np.einsum("ij,ij->i", side, out[:, :2]))[:, None]
        span = _span(side[held], middle[held][:, :2])
        if span is not None:
            return f"bridge of {number(span)} mm"
    return "overhang"


def _span(out: Points, places: Points) -> float | None:
    """The widest way across a region between held edges that face each other, mm, or None.

    out, places : (k, 2) direction out of the region and middle of each held edge. A region round a stem is held from within
    and spans nothing: there the edge that an edge faces lies behind it.
    """
    if len(out) > _MOST_HELD:
        some = np.linspace(0, len(out) - 1, _MOST_HELD).astype(int)
        out, places = out[some], places[some]
    across = np.einsum("ik,ijk->ij", out, places[:, None] - places[None, :])
    opposite = (out @ out.T < -0.9) & (across > 0)
    return float(across[opposite].max()) if opposite.any() else None


def _judged(sure: bool, maybe: bool, area: float, volume: float, regions: int, limits: Limits) -> tuple[Verdict, str]:
    angle = number(limits.overhang_angle)
    if sure:
        places = "1 region" if regions == 1 else f"{regions} regions"
        return "fail", f"{places} of {number(area)} mm² hang over more than {angle}°; support of {number(volume)} mm³."
    if maybe:
        return "review", f"Faces lie at the limit of {angle}° within the accuracy of their facets."
    return "pass", f"Nothing over {number(limits.min_region_area)} mm² hangs over more than {angle}°."
