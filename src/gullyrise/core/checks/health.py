"""Health: is the surface closed, wound alike and free of faults?"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from gullyrise.core.checks.protocol import FaceField, Finding, Outcome, Row, Snapshot, Verdict, Worst
from gullyrise.core.geometry.arrays import Bools, Points
from gullyrise.core.geometry.spots import outermost, spot
from gullyrise.core.geometry.topology import clusters, edges_of, runs_of_edges
from gullyrise.core.intake.crossings import Crossings, crossings_of
from gullyrise.core.intake.health import Health, health_of
from gullyrise.core.part import Body
from gullyrise.core.progress import Progress

ROW = Row(
    id="health", order=1, title="Health", measure="faults in the surface", unit="faults", placed=False, machine=False,
    version=3, small_is_bad=False, second_key="H", tell_worst=lambda count: f"{count:.0f} fault{'s' if count != 1 else ''}",
    kinds=(
        ("open-edge", "Open edge"), ("many-faced-edge", "Edge of many faces"), ("inverted-faces", "Inverted faces"),
        ("duplicate-faces", "Duplicate faces"), ("degenerate-faces", "Faces without area"), ("crossing-faces", "Crossing faces"),
        ("inside-out", "Inside-out shell"), ("stray", "Stray shell"), ("cavity", "Sealed cavity"),
    ),
)  # fmt: skip

METHOD = (
    "Edges counted after equal vertices are joined; winding compared over every two-face edge; volume by the divergence "
    "theorem; faces that cross or touch found pair by pair in exact arithmetic."
)
_MOST_FINDINGS = 50
_MOST_LINES, _MOST_SHOWN = 2_000, 50_000
_COUNTS = ("shells", "boundary_edges", "nonmanifold_edges", "flipped_faces", "degenerate_faces", "duplicate_faces")


@dataclass(frozen=True, slots=True)
class Limits:
    """Health is judged against nothing but mesh health."""


def run(snapshot: Snapshot, limits: Limits, progress: Progress) -> tuple[Outcome, ...]:
    """One outcome for the part: holes and stray edges fail, a wrong winding or doubled faces ask for a review."""
    part = snapshot.part
    totals = dict.fromkeys(_COUNTS, 0)
    totals |= dict.fromkeys(("cavities", "inside_out_shells", "stray_shells", "self_intersections"), 0)
    watertight = True
    findings: list[Finding] = []
    fields: list[np.ndarray] = []
    for number, body in enumerate(part.bodies):
        progress("looking for faults", number, len(part.bodies))
        health = health_of(body.mesh)
        for name in _COUNTS:
            totals[name] += getattr(health, name) * body.count
        watertight &= health.watertight
        totals["cavities"] += health.cavities * body.count
        totals["inside_out_shells"] += health.inside_out * body.count
        totals["stray_shells"] += health.strays * body.count
        progress("looking for crossings", number, len(part.bodies))
        crossings = crossings_of(body.mesh)
        totals["self_intersections"] += len(crossings.pairs) * body.count
        crossing = np.zeros(len(body.mesh.faces), dtype=bool)
        crossing[crossings.pairs] = True
        findings += _findings(body, health, crossings, crossing)
        faulty = health.boundary | health.nonmanifold | health.flipped | health.degenerate | health.duplicate | crossing
        faulty |= health.parts.faces(health.parts.cavity | health.parts.inside_out | health.parts.stray)
        fields += [faulty.astype(np.float32)] * body.count
    faults = sum(totals[name] for name in ("boundary_edges", "nonmanifold_edges", "flipped_faces", "duplicate_faces"))
    faults += totals["self_intersections"]
    verdict, why = _judged(totals, watertight, part.notes)
    worst = Worst(float(faults), "faults", findings[0].at) if findings else None
    field = FaceField("faults in the surface", "", tuple(fields), 0.5, bad_below=False)
    measured = {**totals, "watertight": watertight}
    return (Outcome("health", part.name, verdict, why, worst, measured, tuple(findings), METHOD, 0.0, field),)


def _judged(totals: dict[str, int], watertight: bool, notes: tuple[str, ...]) -> tuple[Verdict, str]:
    if not watertight:
        return "fail", f"The surface is open: {_many(totals['boundary_edges'], 'boundary edge')}, so it encloses nothing."
    if totals["nonmanifold_edges"]:
        return "fail", f"{_many(totals['nonmanifold_edges'], 'edge')} with more than two faces; inside and outside are not clear."
    if totals["inside_out_shells"]:
        return "fail", f"{_many(totals['inside_out_shells'], 'shell')} inside out; a slicing program may take them for voids."
    if totals["flipped_faces"]:
        return "review", f"{_many(totals['flipped_faces'], 'inverted face')}: wound against their neighbours."
    if totals["duplicate_faces"]:
        return "review", f"{_many(totals['duplicate_faces'], 'duplicate face')}."
    if totals["self_intersections"]:
        pairs = _many(totals["self_intersections"], "pair")
        return "review", f"{pairs} of faces cross or touch: what lies between may be filled or left out."
    if totals["cavities"]:
        cavities = "1 sealed cavity" if totals["cavities"] == 1 else f"{totals['cavities']} sealed cavities"
        return "review", f"{cavities}: powder or resin inside cannot get out."
    if totals["stray_shells"]:
        return "review", f"{_many(totals['stray_shells'], 'tiny stray shell')}: left over, or a detail too small to make."
    if notes:
        return "review", notes[0]
    if totals["degenerate_faces"]:
        return "pass", f"Closed and wound alike; {_many(totals['degenerate_faces'], 'face')} without area, which does no harm."
    return "pass", "Closed, wound alike, no stray edges, nothing crosses."


def _many(count: int, word: str) -> str:
    return f"{count:,} {word}" if count == 1 else f"{count:,} {word}s"


def _findings(body: Body, health: Health, crossings: Crossings, crossing: Bools) -> list[Finding]:
    mesh = body.mesh
    edges = edges_of(mesh)
    areas = mesh.face_areas()
    centroids = mesh.centroids()
    out: list[Finding] = []
    for code, what, chosen in (
        ("open-edge", "open edge", edges.uses == 1),
        ("many-faced-edge", "edge with more than two faces", edges.uses > 2),
    ):
        for run, many in runs_of_edges(edges, chosen)[:_MOST_FINDINGS]:
            points = mesh.vertices[run]
            nearest = points[np.argmin(np.linalg.norm(points - points.mean(axis=0), axis=1))]
            found = _finding(code, what, body, many, "edge", nearest)
            ends = edges.ends[chosen]
            rim = mesh.vertices[ends[np.isin(ends[:, 0], run)][:_MOST_LINES]]
            out.append(_seen(found, body, rim, points))
    kinds: list[tuple[str, str, Bools]] = [
        ("inverted-faces", "inverted faces", health.flipped),
        ("duplicate-faces", "duplicate faces", health.duplicate),
        ("degenerate-faces", "faces without area", health.degenerate),
    ]
    for code, what, mask in kinds:
        for group in clusters(mesh, edges, mask)[:_MOST_FINDINGS]:
            middle = centroids[group].mean(axis=0)
            at = centroids[group[np.argmin(np.linalg.norm(centroids[group] - middle, axis=1))]]
            found = _finding(code, what, body, len(group), "face", at, float(areas[group].sum()))
            out.append(_seen(found, body, None, mesh.vertices[mesh.faces[group].reshape(-1)]))
    for group in clusters(mesh, edges, crossing, crossings.pairs)[:_MOST_FINDINGS]:
        mine = np.isin(crossings.pairs[:, 0], group)
        places, lines = crossings.places[mine], crossings.lines[mine][:_MOST_LINES]
        at = places[np.argmin(np.linalg.norm(places - np.median(places, axis=0), axis=1))]
        found = _finding("crossing-faces", "faces that cross or touch", body, len(places), "pair", at)
        out.append(replace(_seen(found, body, lines, places), shown="clear"))
    return out + _shell_findings(body, health)


def _finding(code: str, what: str, body: Body, many: int, unit: str, at: np.ndarray, area: float | None = None) -> Finding:
    """At the first copy of a body; `at` in its own coordinates."""
    place = spot(body.placements[0].apply(np.asarray(at)[None])[0])
    counted = unit if many == 1 else f"{unit}s"
    return Finding(f"{what} in {body.name}", float(many), counted, place, area, code=code, of=(body.name,), counts=True)


def _seen(finding: Finding, body: Body, lines: Points | None, around: Points) -> Finding:
    """With what a picture of it wants, given in the body's own coordinates."""
    place = body.placements[0]
    drawn = None if lines is None else place.apply(lines.reshape(-1, 3)).reshape(-1, 2, 3)
    return replace(finding, own=True, lines=drawn, around=place.apply(outermost(around)))


def _shell_findings(body: Body, health: Health) -> list[Finding]:
    mesh, shells = body.mesh, health.parts
    kinds: list[tuple[str, str, Bools]] = [
        ("cavity", "sealed cavity", shells.cavity),
        ("inside-out", "shell inside out", shells.inside_out),
        ("stray", "tiny stray shell", shells.stray),
    ]
    out: list[Finding] = []
    for code, what, chosen in kinds:
        for number in np.flatnonzero(chosen)[:_MOST_FINDINGS]:
            faces = mesh.faces[shells.of == number]
            points = mesh.vertices[faces].reshape(-1, 3)
            at = points[np.argmin(np.linalg.norm(points - points.mean(axis=0), axis=1))]
            place = spot(body.placements[0].apply(at[None])[0])
            volume = float(abs(shells.volume[number]))
            found = Finding(f"{what} in {body.name}", volume, "mm³", place, code=code, of=(body.name,))
            shell = mesh.only(shells.of == number).placed(body.placements[0]) if len(faces) <= _MOST_SHOWN else None
            out.append(replace(_seen(found, body, None, points), shown="clear", solid=shell))
    return out
