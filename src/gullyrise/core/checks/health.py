"""Health: is the surface closed, wound alike and free of faults?"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.checks.protocol import FaceField, Finding, Outcome, Row, Snapshot, Verdict, Worst, spot
from gullyrise.core.geometry.arrays import Bools
from gullyrise.core.geometry.topology import clusters, edges_of, loops_of_boundary
from gullyrise.core.intake.health import Health, health_of
from gullyrise.core.progress import Progress

ROW = Row(
    id="health", order=1, title="Health", measure="faults in the surface", unit="faults", limit=None, placed=False,
    machine=False, version=2,
)  # fmt: skip

METHOD = (
    "Edges counted after equal vertices are joined; winding compared over every two-face edge; volume by the divergence "
    "theorem. Self-intersections are not tested yet."
)
_MOST_FINDINGS = 50


@dataclass(frozen=True, slots=True)
class Limits:
    """Health is judged against nothing but soundness."""


def run(snapshot: Snapshot, limits: Limits, progress: Progress) -> tuple[Outcome, ...]:
    """One outcome for the part: holes and stray edges fail, a wrong winding or doubled faces ask for a review."""
    part = snapshot.part
    totals = dict.fromkeys(
        ("shells", "boundary_edges", "nonmanifold_edges", "flipped_faces", "degenerate_faces", "duplicate_faces"), 0
    )
    watertight, cavities, inside_out = True, 0, 0
    findings: list[Finding] = []
    fields: list[np.ndarray] = []
    for number, body in enumerate(part.bodies):
        progress("looking for faults", number, len(part.bodies))
        health = health_of(body.mesh)
        for name in totals:
            totals[name] += getattr(health, name) * body.count
        watertight &= health.watertight
        cavities += health.cavities * body.count
        inside_out += health.inside_out * body.count
        findings += _findings(snapshot, number, health)
        faulty = health.boundary | health.nonmanifold | health.flipped | health.degenerate | health.duplicate
        fields += [faulty.astype(np.float32)] * body.count
    faults = totals["boundary_edges"] + totals["nonmanifold_edges"] + totals["flipped_faces"] + totals["duplicate_faces"]
    verdict, why = _judged(totals, watertight, inside_out, cavities, part.notes)
    worst = Worst(float(faults), "faults", findings[0].at) if findings else None
    field = FaceField("faults in the surface", "", tuple(fields), 0.5, bad_below=False)
    measured = {**totals, "watertight": watertight, "cavities": cavities, "inside_out_shells": inside_out}
    return (Outcome("health", part.name, verdict, why, worst, measured, tuple(findings), METHOD, 0.0, field),)


def _judged(
    totals: dict[str, int], watertight: bool, inside_out: int, cavities: int, notes: tuple[str, ...]
) -> tuple[Verdict, str]:
    if not watertight:
        return "fail", f"The surface is open: {totals['boundary_edges']} boundary edges, so it encloses nothing."
    if totals["nonmanifold_edges"]:
        return "fail", f"{totals['nonmanifold_edges']} edges have more than two faces; inside and outside are not clear."
    if inside_out:
        return "fail", f"{inside_out} shells are inside out; a slicing program may take them for voids."
    if totals["flipped_faces"]:
        return "review", f"{totals['flipped_faces']} faces are wound against their neighbours."
    if totals["duplicate_faces"]:
        return "review", f"{totals['duplicate_faces']} faces stand twice."
    if cavities:
        return "review", f"{cavities} sealed cavities: powder or resin inside them cannot get out."
    if notes:
        return "review", notes[0]
    if totals["degenerate_faces"]:
        return "pass", f"Closed and wound alike; {totals['degenerate_faces']} faces without area do no harm."
    return "pass", "Closed, wound alike, no stray edges."


def _findings(snapshot: Snapshot, number: int, health: Health) -> list[Finding]:
    body = snapshot.part.bodies[number]
    mesh = body.mesh
    edges = edges_of(mesh)
    placed = body.placements[0]
    areas = mesh.face_areas()
    centroids = mesh.centroids()
    out: list[Finding] = []
    for rim in loops_of_boundary(edges)[:_MOST_FINDINGS]:
        points = mesh.vertices[rim]
        nearest = points[np.argmin(np.linalg.norm(points - points.mean(axis=0), axis=1))]
        place = spot(placed.apply(nearest[None])[0])
        out.append(Finding(f"open edge in {body.name}", float(len(rim)), "edges", place))
    kinds: list[tuple[str, Bools]] = [
        ("edge with more than two faces in {}", health.nonmanifold),
        ("faces wound against their neighbours in {}", health.flipped),
        ("faces that stand twice in {}", health.duplicate),
    ]
    for what, mask in kinds:
        for group in clusters(mesh, edges, mask)[:_MOST_FINDINGS]:
            middle = centroids[group].mean(axis=0)
            at = centroids[group[np.argmin(np.linalg.norm(centroids[group] - middle, axis=1))]]
            place = spot(placed.apply(at[None])[0])
            out.append(Finding(what.format(body.name), float(len(group)), "faces", place, float(areas[group].sum())))
    return out
