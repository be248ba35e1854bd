"""Walls: is the material thick enough everywhere, and nowhere too thick, and are slots wide enough?"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from gullyrise.core.checks.places import Cells
from gullyrise.core.checks.protocol import (
    Deed,
    FaceField,
    Finding,
    Outcome,
    Row,
    Snapshot,
    Verdict,
    Worst,
    gravest,
    share_over,
    share_under,
)
from gullyrise.core.checks.tally import tallied
from gullyrise.core.checks.wall_evidence import BodyWalls, body_walls
from gullyrise.core.checks.wall_glance import glance_at
from gullyrise.core.geometry.arrays import Bools, Floats, Ints, Points
from gullyrise.core.geometry.spots import Spot, spot
from gullyrise.core.machines.limit_rows import LimitRow
from gullyrise.core.number_words import given, number, with_doubt
from gullyrise.core.progress import Progress

ROW = Row(
    id="walls", order=3, title="Walls", measure="wall thickness", unit="mm", placed=False, machine=False, version=5,
    balls=True, second_key="W", judged_by="min_wall", limits=(
        LimitRow("min_wall", "at least"), LimitRow("max_wall", "at most", off="any"), LimitRow("min_gap", "slots at least"),
    ),
    kinds=(("thin", "Thin wall"), ("thick", "Thick wall"), ("slot", "Narrow slot"), ("taper", "Taper to nothing")),
    deeds=(
        Deed("Thinnest places", "check.thinnest", "List the thinnest places, whatever the limit"),
        Deed("Cut through the ball", "check.ball-cut", "Cut the part through the ball of the flagged place"),
    ),
)  # fmt: skip

METHOD = (
    "Largest ball inside the solid that touches the surface (shrinking ball against exact nearest surface points), counted "
    "where its contacts are opposed by 117 degrees or more; samples even by area and on every face, at inside edges and corners "
    "in all directions between their faces, passing edges pair by pair; the thinnest of each neighbourhood followed to where it "
    "is least. Slots the same way in the void."
)
THIN, THICK, SLOT, TAPER = "thin", "thick", "slot", "taper"
"""Codes of findings."""
_MOST_FINDINGS = 40
_THINNEST = 10
_SHOWN_TO = 3.0
"""Times the limit up to which colours and histogram tell one thickness from another."""
_TAPER_PAST = 0.5


@dataclass(frozen=True, slots=True)
class Limits:
    """Thinnest and thickest allowed, and the narrowest slot, mm; None where nothing is asked."""

    min_wall: float | None
    max_wall: float | None
    min_gap: float | None


@dataclass(frozen=True, slots=True, eq=False)
class Evidence:
    """All readings of a part, and the limits that they were taken for. thinnest : (mm, where) of the thinnest places, whatever
    the limit"""

    name: str
    bodies: tuple[BodyWalls, ...]
    asked: Limits
    thinnest: tuple[tuple[float, tuple[float, float, float]], ...]


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


def run(snapshot: Snapshot, limits: Limits, progress: Progress) -> tuple[Outcome, ...]:
    """One outcome for the part, decided by its thinnest body."""
    part = snapshot.part
    bodies = tuple(body_walls(body, limits.min_wall, limits.max_wall, limits.min_gap, progress) for body in part.bodies)
    places = sorted((one for body in bodies for one in body.thinnest_places(_THINNEST)), key=lambda one: one[0])
    thinnest = tuple((value, spot(place)) for value, place in places[:_THINNEST])
    return (_outcome(Evidence(part.name, bodies, limits, thinnest), limits),)


def first_look(snapshot: Snapshot, limits: Limits) -> tuple[Outcome, ...]:
    """Colours within a second, from few balls against few samples; no verdict."""
    part = snapshot.part
    fields: list[np.ndarray] = []
    for body in part.bodies:
        fields += [glance_at(body.mesh, max(_SHOWN_TO * (limits.min_wall or 0.0), 1e-9))] * body.count
    field = FaceField("wall thickness", "mm", tuple(fields), limits.min_wall, bad_below=True)
    why = "A first look; thickness is being measured."
    return (Outcome("walls", part.name, "not-run", why, None, {}, (), METHOD, None, field, first_look=True),)


def judged_anew(outcomes: tuple[Outcome, ...], limits: Limits) -> tuple[Outcome, ...] | None:
    """The verdict under other limits; only a first look where those reach beyond what was measured for."""
    evidence = outcomes[0].evidence
    if not isinstance(evidence, Evidence):
        return None
    before = evidence.asked
    enough = limits.max_wall == before.max_wall or limits.max_wall is None
    if limits.min_wall is not None:
        enough &= before.min_wall is not None and 0.5 * before.min_wall <= limits.min_wall
        enough &= all(limits.min_wall <= min(body.tested, body.cap / 1.01) for body in evidence.bodies)
    if limits.min_gap:
        enough &= before.min_gap is not None and limits.min_gap <= 2.5 * before.min_gap
    found = _outcome(evidence, limits)
    return (found if enough else replace(found, first_look=True),)


def _outcome(evidence: Evidence, limits: Limits) -> Outcome:
    judged = [_judge(body, limits) for body in evidence.bodies]
    known = [one for one in judged if one.least is not None]
    thinnest = min(known, key=lambda one: one.least if one.least is not None else np.inf, default=None)
    verdict = gravest([one.verdict for one in judged])
    deciding = next(one for one in judged if one.verdict == verdict)
    if thinnest is not None and thinnest.verdict == verdict:
        deciding = thinnest
    rays = [one.ray for one in judged if one.ray is not None]
    medians = [one.median for one in judged if one.median is not None]
    findings = sorted((f for one in judged for f in one.findings), key=lambda f: f.cost)[:_MOST_FINDINGS]
    worst = None if thinnest is None or thinnest.least is None else Worst(thinnest.least, "mm", thinnest.at)
    measured = {
        "min_ball": None if thinnest is None else thinnest.least,
        "min_ray": min(rays, default=None),
        "area_below": sum(one.below * body.copies for one, body in zip(judged, evidence.bodies, strict=True)),
        "median": float(np.median(medians)) if medians else None,
    }
    uncertainty = thinnest.error if thinnest is not None else None
    return Outcome(
        "walls", evidence.name, verdict, deciding.why, worst, measured, tuple(findings), METHOD, uncertainty,
        _field(evidence, limits), _sampling(evidence), evidence,
    )  # fmt: skip


def _field(evidence: Evidence, limits: Limits) -> FaceField:
    values: list[np.ndarray] = []
    for body in evidence.bodies:
        values += [body.values] * body.copies
    readings = np.concatenate([body.readings for body in evidence.bodies])
    weight = np.concatenate([body.weight * body.copies for body in evidence.bodies])
    high = _SHOWN_TO * (evidence.asked.min_wall or float(np.nanmax(readings, initial=1.0)) / _SHOWN_TO)
    tally = tallied(readings, weight, 0.0, max(high, 1e-9))
    return FaceField("wall thickness", "mm", tuple(values), limits.min_wall, bad_below=True, tally=tally)


def _sampling(evidence: Evidence) -> str:
    some = [body for body in evidence.bodies if not body.empty]
    if not some:
        return ""
    count = sum(len(body.points) for body in some)
    finest = min(body.finest for body in some)
    widest = max(body.spacing for body in some)
    return (
        f"{count:,} samples, one every {number(widest)} mm and on every small face, every {number(finest)} mm round the thinnest."
    )


def _judge(body: BodyWalls, limits: Limits) -> _Judged:
    """The verdict on one body."""
    if body.empty:
        return _Judged("not-run", f"{body.name} has no face with an area.", None, (0.0, 0.0, 0.0), 0, None, 0, None, [])
    counted = body.counted
    ray = body.through[body.wall & ~body.taper & np.isfinite(body.through)]
    least_ray = float(ray.min()) if len(ray) else None
    slots = _slot_places(body, limits)
    thick, thickest = _thick_places(body, limits)
    if not counted.any():
        return _without_walls(body, limits, least_ray, slots, thick, thickest)
    index = np.flatnonzero(counted)
    thinnest = index[np.argmin(body.diameter[index])]
    least = float(body.diameter[thinnest])
    error = _uncertainty(body, int(thinnest), limits.min_wall)
    below, findings = _thin_places(body, limits)
    findings += _taper_places(body, limits) + thick + slots
    verdict, why = _verdict(body, limits, least, error, thickest, findings)
    return _Judged(
        verdict, f"{body.name}: {why}", least, spot(body.points[thinnest]), error, least_ray, below, body.median, findings
    )


def _uncertainty(body: BodyWalls, thinnest: int, asked: float | None) -> float:
    """mm: of the thinnest reading, and as much as any other that may lie under the limit reaches below that."""
    least = body.diameter[thinnest]
    own = float(body.error[thinnest] + body.loose[thinnest] + body.drift)
    if asked is None or least < asked - own:
        return own
    lowest = float((body.diameter - body.error)[body.counted].min()) - body.drift
    return max(own, float(least) - lowest if lowest < asked else 0.0)


def _without_walls(
    body: BodyWalls, limits: Limits, ray: float | None, slots: list[Finding], thick: list[Finding], thickest: float
) -> _Judged:
    """A body so stout that no ball touches two opposed sides, one that is all taper, or one that is open."""
    nowhere = spot(body.points[0])
    if body.taper.any():
        findings = _taper_places(body, limits) + thick + slots
        why = f"{body.name}: all of it tapers to nothing; see where it gets too thin."
        return _Judged("fail" if thick else "review", why, None, nowhere, 0, ray, 0, body.median, findings)
    if not body.is_closed:
        why = f"{body.name}: the surface is open and no wall with two sides was found."
        return _Judged("review", why, None, nowhere, 0, ray, 0, None, slots)
    verdict: Verdict
    straight = body.through[np.isfinite(body.through)]
    bound = float(straight.min(initial=np.inf))
    # The straight distance can only be longer than the ball of the same wall; a little shorter, it belongs to a slimmer one.
    least = bound if 0.8 * body.bulk < bound < body.bulk else body.bulk
    error = 0.02 * least
    why = f"{body.name}: a stout body without opposed walls; its inner ball is {number(least)} mm."
    findings = thick + slots
    if limits.min_wall is not None and least + error < limits.min_wall:
        verdict = "fail"
    else:
        verdict = "pass" if limits.min_wall is None or least - error >= limits.min_wall else "review"
    if limits.max_wall is not None and verdict != "fail" and (thick or least - error > limits.max_wall):
        verdict = "fail"
        why = f"{body.name}: it is {_at_least(body, max(thickest, least))} thick, over the {given(limits.max_wall)} mm allowed."
        if not thick:
            findings = [_too_thick(body, limits.max_wall, least, nowhere), *slots]
    elif slots and verdict == "pass":
        verdict, why = "review", f"{body.name}: {_slot_words(slots, limits)}"
    if verdict == "pass" and not body.whole and limits.min_wall is not None:
        verdict, why = "review", f"{why[:-1]}, but not every place could be looked at."
    return _Judged(verdict, why, least, nowhere, error, ray or bound, 0, least, findings)


def _at_least(body: BodyWalls, thickest: float) -> str:
    """A thickness in words: at the ceiling of what was measured it is a lower bound."""
    return f"{'at least ' if thickest >= body.cap * (1 - 1e-9) else ''}{number(thickest)} mm"


def _verdict(
    body: BodyWalls, limits: Limits, least: float, error: float, thickest: float, findings: list[Finding]
) -> tuple[Verdict, str]:
    asked = limits.min_wall
    if asked is not None:
        if least < asked - error:
            return "fail", f"the thinnest wall is {number(least, apart_from=asked)} mm, under the {given(asked)} mm asked for."
        doubts = body.error + body.drift
        unsure = body.counted & (body.diameter - doubts < asked)
        if bool(unsure.any()):
            return "review", (
                f"the thinnest wall is {with_doubt(least, error, 'mm')}, so it may be under the {given(asked)} mm asked for."
            )
    if limits.max_wall is not None and thickest > limits.max_wall:
        return "fail", f"the thickest wall is {_at_least(body, thickest)}, over the {given(limits.max_wall)} mm allowed."
    if not body.whole and asked is not None:
        return "review", (
            f"the thinnest wall found is {number(least)} mm, but not every place could be looked at: it would take a spacing of "
            f"{number(asked / 4)} mm all over, and shells that do not overlap."
        )
    if not body.is_closed:
        return "review", f"the surface is open, so the thinnest wall of {number(least)} mm is not sure."
    if any(finding.code == TAPER for finding in findings):
        return "review", f"the thinnest wall is {number(least)} mm, but it tapers to nothing at an edge or tip."
    slots = [finding for finding in findings if finding.code == SLOT]
    if slots:
        return "review", f"the thinnest wall is {number(least)} mm, but {_slot_words(slots, limits)}"
    return "pass", f"the thinnest wall is {number(least)} mm" + (f" of {given(asked)} mm asked for." if asked else ".")


def _slot_words(slots: list[Finding], limits: Limits) -> str:
    narrowest = min(finding.value or 0.0 for finding in slots)
    return f"a slot of {number(narrowest)} mm is narrower than the {given(limits.min_gap or 0.0)} mm that stay open."


def _places(cells: Cells, chosen: Bools, linked: Bools, value: Floats) -> list[tuple[int, Ints]]:
    """(the chosen reading with the least value, all readings) of each place, least first."""
    label = cells.gathered(chosen, linked)
    index = np.flatnonzero(chosen)
    order = index[np.lexsort((value[index], label[index]))]
    starts = np.flatnonzero(np.diff(label[order], prepend=-2))
    groups = np.split(order, starts[1:]) if len(order) else []
    return sorted(((int(group[0]), group) for group in groups), key=lambda pair: float(value[pair[0]]))


def _thin_places(body: BodyWalls, limits: Limits) -> tuple[float, list[Finding]]:
    """(area under the limit, mm2; one finding for each thin place)."""
    asked = limits.min_wall
    if asked is None:
        return 0.0, []
    # At the ceiling of what was measured a reading is a lower bound.
    thin = np.isfinite(body.readings) & (body.readings < min(asked, body.cap * (1 - 1e-9)))
    own = thin & body.counted
    # Beside a border the ball is held by the border: there what lies straight behind tells whether the wall is thin.
    below = own | (~body.wall & body.opposite & (body.through < asked))
    area_below = float(body.weight[below].sum())
    if not own.any():
        return area_below, []
    # What edges take from the wall beside them belongs to its place, but makes none by itself.
    value = np.where(own, body.diameter, np.inf)
    out = []
    for first, group in _places(body.cells, thin, own, value):
        if not own[first]:
            continue
        least = float(body.diameter[first])
        remedy = f"make it thicker by {number(asked - least)} mm, or choose a process that holds {number(least)} mm"
        area = float(body.weight[group[below[group]]].sum())
        out.append(
            Finding(
                f"thin wall in {body.name}", least, "mm", spot(body.points[first]), area, past=share_under(least, asked),
                remedy=remedy, code=THIN, of=(body.name,), shown="across", ends=body.ends(first), ball=body.ball(first),
            )
        )  # fmt: skip
    return area_below, out[:_MOST_FINDINGS]


def _thick_places(body: BodyWalls, limits: Limits) -> tuple[list[Finding], float]:
    """(one finding for each place over the thickest allowed, the thickest reading mm). Readings at the ceiling are thicker
    still."""
    thick = body.wall & ~body.taper
    thickest = float(body.diameter[thick].max(initial=0.0))
    if limits.max_wall is None:
        return [], thickest
    thick &= body.diameter - body.error > limits.max_wall
    out = []
    for first, group in _places(body.cells, thick, thick, -body.diameter):
        area = float(body.weight[group].sum())
        found = _too_thick(body, limits.max_wall, float(body.diameter[first]), spot(body.points[first]))
        out.append(replace(found, area=area, shown="across", ends=body.ends(first), ball=body.ball(first)))
    return out[:_MOST_FINDINGS], thickest


def _too_thick(body: BodyWalls, most: float, value: float, at: Spot) -> Finding:
    remedy = f"hollow it out or core it, so that no more than {given(most)} mm stand together"
    past = share_over(value, most, 4 * most)
    return Finding(f"thick wall in {body.name}", value, "mm", at, past=past, remedy=remedy, code=THICK, of=(body.name,))


def _slot_places(body: BodyWalls, limits: Limits) -> list[Finding]:
    """One finding for each slot that is surely narrower than what stays open."""
    slots, asked = body.slots, limits.min_gap
    if not asked or not len(slots.width):
        return []
    narrow = slots.width + slots.error < asked
    out = []
    for first, group in _places(body.slot_cells, narrow, narrow, np.where(slots.runs_out, np.inf, slots.width)):
        # A groove that runs to a point is none, though single readings in it do not show that.
        if float(slots.weight[group[slots.runs_out[group]]].sum()) >= 0.5 * float(slots.weight[group].sum()):
            continue
        width = float(slots.width[first])
        middle = (slots.points[first] + slots.contact[first]) / 2
        out.append(
            Finding(
                f"narrow slot in {body.name}", width, "mm", spot(middle), float(slots.weight[group].sum()),
                past=0.5 * share_under(width, asked), remedy=f"open it by {number(asked - width)} mm, or close it altogether",
                code=SLOT, of=(body.name,), shown="across", ends=(spot(slots.points[first]), spot(slots.contact[first])),
                ball=(spot(middle), width / 2),
            )
        )  # fmt: skip
    return out[:_MOST_FINDINGS]


def _taper_places(body: BodyWalls, limits: Limits) -> list[Finding]:
    """One finding for each edge or tip that the body tapers to, within the limit's reach."""
    marked = body.taper
    if limits.min_wall is not None:
        marked = marked & (body.diameter < limits.min_wall)
    if not marked.any():
        return []
    tips: Points = body.tip
    apart = max(4 * body.spacing, 0.5 * (limits.min_wall or 0.0))
    index = np.flatnonzero(marked)
    cells = Cells.dealt(tips[index], tips[index], apart / 2)
    every = np.ones(len(index), dtype=bool)
    out = []
    for first, group in _places(cells, every, ~every, body.diameter[index])[:_MOST_FINDINGS]:
        area = float(body.weight[index[group]].sum())
        at = spot(tips[index[first]])
        remedy = "cut it off blunt at the least wall, or round it, if it must last"
        out.append(
            Finding(
                f"tapers to nothing here in {body.name}", 0.0, "mm", at, area, past=_TAPER_PAST, remedy=remedy, code=TAPER,
                of=(body.name,), tells=False, shown="across", ends=body.ends(index[first]), ball=body.ball(index[first]),
            )
        )  # fmt: skip
    return out
