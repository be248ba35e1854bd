"""Walls: is the material thick enough everywhere?"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from gullyrise.core.checks.protocol import FaceField, Finding, Outcome, Row, Snapshot, Verdict, Worst, gravest, number, spot
from gullyrise.core.checks.wall_map import WallMap, face_values, measure_walls, readings_for_all
from gullyrise.core.geometry.arrays import Floats, Points
from gullyrise.core.geometry.sampling import neighbours
from gullyrise.core.intake.health import degenerate_faces
from gullyrise.core.part import Body
from gullyrise.core.progress import Progress

ROW = Row(
    id="walls", order=3, title="Walls", measure="wall thickness", unit="mm", limit="min_wall", placed=False,
    machine=False, version=3,
)  # fmt: skip

METHOD = (
    "Largest ball inside the solid that touches the surface (shrinking ball against exact nearest surface points), counted "
    "where its contacts are opposed by 117 degrees or more; samples even by area and on every face, refined round the thinnest."
)

_MOST_FINDINGS = 40
# Thin readings within so many spacings of one another are one place.
_CLUSTER = 3.0


@dataclass(frozen=True, slots=True)
class Limits:
    """Thinnest and thickest allowed, mm; None where nothing is asked."""

    min_wall: float | None
    max_wall: float | None


@dataclass(frozen=True, slots=True, eq=False)
class _Judged:
    """One body's verdict with all that the outcome needs."""

    verdict: Verdict
    why: str
    least: float | None
    at: tuple[float, float, float]
    error: float
    ray: float | None
    below: float
    median: float | None
    findings: list[Finding]
    values: np.ndarray


def run(snapshot: Snapshot, limits: Limits, progress: Progress) -> tuple[Outcome, ...]:
    """One outcome for the part, decided by its thinnest body."""
    part = snapshot.part
    judged = [_judge(body, limits, progress) for body in part.bodies]
    fields: list[np.ndarray] = []
    for body, one in zip(part.bodies, judged, strict=True):
        fields += [one.values] * body.count
    known = [one for one in judged if one.least is not None]
    thinnest = min(known, key=lambda one: one.least if one.least is not None else np.inf, default=None)
    verdict = gravest([one.verdict for one in judged])
    deciding = next(one for one in judged if one.verdict == verdict)
    if thinnest is not None and thinnest.verdict == verdict:
        deciding = thinnest
    rays = [one.ray for one in judged if one.ray is not None]
    medians = [one.median for one in judged if one.median is not None]
    findings = sorted((f for one in judged for f in one.findings), key=lambda f: f.value or 0.0)[:_MOST_FINDINGS]
    worst = None if thinnest is None or thinnest.least is None else Worst(thinnest.least, "mm", thinnest.at)
    measured = {
        "min_ball": None if thinnest is None else thinnest.least,
        "min_ray": min(rays, default=None),
        "area_below": sum(one.below * body.count for one, body in zip(judged, part.bodies, strict=True)),
        "median": float(np.median(medians)) if medians else None,
    }
    field = FaceField("wall thickness", "mm", tuple(fields), limits.min_wall, bad_below=True)
    uncertainty = thinnest.error if thinnest is not None else None
    return (Outcome("walls", part.name, verdict, deciding.why, worst, measured, tuple(findings), METHOD, uncertainty, field),)


def _judge(body: Body, limits: Limits, progress: Progress) -> _Judged:
    """The verdict on one body. Values of faces come back in the order of the body's own mesh."""
    values = np.full(len(body.mesh.faces), np.nan, dtype=np.float32)
    sound = ~degenerate_faces(body.mesh)
    nowhere = spot(body.placements[0].apply(body.mesh.vertices[:1])[0])
    if not sound.any():
        return _Judged("not-run", f"{body.name} has no face with an area.", None, nowhere, 0, None, 0, None, [], values)
    walls = measure_walls(body.mesh, body.chord_error, limits.min_wall, limits.max_wall, progress)
    readings = readings_for_all(walls)
    values[sound] = face_values(walls, readings, int(sound.sum()))
    place = body.placements[0]
    at_all = place.apply(walls.samples.points)
    counted = walls.counted
    ray = walls.balls.through[walls.balls.wall & ~walls.taper & np.isfinite(walls.balls.through)]
    least_ray = float(ray.min()) if len(ray) else None
    if not counted.any():
        return _without_walls(body, walls, limits, values, nowhere, least_ray)
    index = np.flatnonzero(counted)
    thinnest = index[np.argmin(walls.balls.diameter[index])]
    least = float(walls.balls.diameter[thinnest])
    error = float(walls.error[thinnest] + walls.drift)
    below, findings = _thin_places(body, walls, readings, limits, at_all)
    findings += _taper_places(body, walls, limits, place.apply(np.nan_to_num(walls.tip)))
    verdict, why = _verdict(walls, limits, least, error, findings)
    return _Judged(
        verdict, f"{body.name}: {why}", least, spot(at_all[thinnest]), error, least_ray, below,
        walls.median, findings, values,
    )  # fmt: skip


def _without_walls(
    body: Body, walls: WallMap, limits: Limits, values: np.ndarray, nowhere: tuple[float, float, float], ray: float | None
) -> _Judged:
    """A body so stout that no ball touches two opposed sides, one that is all taper, or one that is open."""
    if walls.taper.any():
        tips = body.placements[0].apply(np.nan_to_num(walls.tip))
        findings = _taper_places(body, walls, limits, tips)
        why = f"{body.name}: all of it tapers to nothing; see where it gets too thin."
        return _Judged("review", why, None, nowhere, 0, ray, 0, walls.median, findings, values)
    if not walls.is_closed:
        why = f"{body.name}: the surface is open and no wall with two sides was found."
        return _Judged("review", why, None, nowhere, 0, ray, 0, None, [], values)
    verdict: Verdict
    straight = walls.balls.through[np.isfinite(walls.balls.through)]
    bound = float(straight.min(initial=np.inf))
    # The straight distance can only be longer than the ball of the same wall; a little shorter, it belongs to a slimmer one.
    least = bound if 0.8 * walls.bulk < bound < walls.bulk else walls.bulk
    error = 0.02 * least
    why = f"{body.name}: a stout body without opposed walls; its inner ball is {number(least)} mm."
    if limits.min_wall is not None and least + error < limits.min_wall:
        verdict = "fail"
    else:
        verdict = "pass" if limits.min_wall is None or least - error >= limits.min_wall else "review"
    return _Judged(verdict, why, least, nowhere, error, ray or bound, 0, least, [], values)


def _verdict(walls: WallMap, limits: Limits, least: float, error: float, findings: list[Finding]) -> tuple[Verdict, str]:
    asked = limits.min_wall
    if asked is not None:
        if least < asked - error:
            return "fail", f"the thinnest wall is {number(least)} mm, under the {number(asked)} mm asked for."
        lower = walls.balls.diameter - walls.error - walls.drift
        if bool((lower[walls.counted] < asked).any()):
            doubt = float((walls.error + walls.drift)[walls.counted & (lower < asked)].max())
            return "review", (
                f"the thinnest wall is {number(least)} mm; with ± {number(max(error, doubt))} mm it may be under the "
                f"{number(asked)} mm asked for."
            )
    if not walls.is_closed:
        return "review", f"the surface is open, so the thinnest wall of {number(least)} mm is not sure."
    if limits.max_wall is not None:
        thick = float(walls.balls.diameter[walls.counted].max())
        if thick > limits.max_wall:
            return "fail", f"the thickest wall is {number(thick)} mm, over the {number(limits.max_wall)} mm allowed."
    if any(finding.what.startswith("tapers") for finding in findings):
        return "review", f"the thinnest wall is {number(least)} mm, but it tapers to nothing at an edge or tip."
    return "pass", f"the thinnest wall is {number(least)} mm" + (f" of {number(asked)} mm asked for." if asked else ".")


def _thin_places(body: Body, walls: WallMap, readings: Floats, limits: Limits, at_all: Points) -> tuple[float, list[Finding]]:
    """(area under the limit, mm2; one finding for each thin place)."""
    if limits.min_wall is None:
        return 0.0, []
    thin = np.isfinite(readings) & (readings < limits.min_wall)
    samples, balls = walls.samples, walls.balls
    own = np.flatnonzero(thin & walls.counted)
    if not len(own):
        return float(samples.weight[thin].sum()), []
    # A wall's two sides are one place: the far contact of each reading hangs on to it.
    cell = max(_CLUSTER * walls.spacing, 0.5 * limits.min_wall)
    label = neighbours(np.concatenate([samples.points[own], balls.contact[own]]), cell)
    joined = coo_array((np.ones(len(own), dtype=np.int8), (label[: len(own)], label[len(own) :])), shape=(label.max() + 1,) * 2)
    groups, group_of = connected_components(joined, directed=False)
    group = group_of[label[: len(own)]]
    rest = np.flatnonzero(thin)
    _, nearest = cKDTree(samples.points[own]).query(samples.points[rest])
    weight = np.bincount(group[nearest], samples.weight[rest], groups)
    order = np.lexsort((balls.diameter[own], group))
    named, firsts = np.unique(group[order], return_index=True)
    out = []
    for number_, first in zip(named, firsts, strict=True):
        sample = own[order[first]]
        value = float(balls.diameter[sample])
        out.append(Finding(f"thin wall in {body.name}", value, "mm", spot(at_all[sample]), float(weight[number_])))
    return float(weight.sum()), sorted(out, key=lambda finding: finding.value or 0.0)[:_MOST_FINDINGS]


def _taper_places(body: Body, walls: WallMap, limits: Limits, tips: Points) -> list[Finding]:
    """One finding for each edge or tip that the body tapers to, within the limit's reach."""
    marked = walls.taper
    if limits.min_wall is not None:
        marked = marked & (walls.balls.diameter < limits.min_wall)
    index = np.flatnonzero(marked)
    if not len(index):
        return []
    # Of very many, every so-manyth is enough to tell one edge from another.
    some = index[:: max(1, len(index) // 5_000)]
    apart = max(4 * walls.spacing * max(1.0, float(np.sqrt(len(index) / len(some)))), 0.5 * (limits.min_wall or 0.0))
    pairs = cKDTree(tips[some]).query_pairs(apart, output_type="ndarray")
    graph = coo_array((np.ones(len(pairs), dtype=np.int8), (pairs[:, 0], pairs[:, 1])), shape=(len(some),) * 2)
    count, label = connected_components(graph, directed=False)
    nearest = label[cKDTree(tips[some]).query(tips[index])[1]]
    out = []
    for group in range(min(count, _MOST_FINDINGS)):
        inside = index[nearest == group]
        sharpest = inside[np.argmin(walls.balls.diameter[inside])]
        area = float(walls.samples.weight[inside].sum())
        out.append(Finding(f"tapers to nothing here in {body.name}", 0.0, "mm", spot(tips[sharpest]), area))
    return out
