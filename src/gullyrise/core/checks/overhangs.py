"""Overhangs: which faces hang over air and would need support?"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from gullyrise.core.checks.protocol import FaceField, Finding, Outcome, Row, Snapshot, Verdict, Worst, share_over
from gullyrise.core.checks.tally import Tally, tallied
from gullyrise.core.geometry import Floats, Mesh, Points, Transform
from gullyrise.core.geometry.arrays import Bools
from gullyrise.core.geometry.material import material_of_all
from gullyrise.core.geometry.orientation import outward
from gullyrise.core.geometry.spots import spot
from gullyrise.core.geometry.topology import closed
from gullyrise.core.machines.limit_rows import REGIONS, LimitRow
from gullyrise.core.number_words import given, number
from gullyrise.core.progress import Progress
from gullyrise.core.support.regions import Hanging, Region, hanging_of

ROW = Row(
    id="overhangs", order=4, title="Overhangs", measure="overhang angle", unit="mm²", placed=True, machine=False, version=4,
    process="print", attitude=True, angle=True, small_is_bad=False, second_key="O", judged_by="overhang_angle",
    limits=(LimitRow("overhang_angle", "at most", unit="°", high=90.0, digits=1, step=1.0), REGIONS),
    kinds=(("overhang", "Overhang"), ("bridge", "Bridge"), ("island", "Island"), ("tip", "Island tip"), ("loose", "Loose faces")),
)  # fmt: skip

METHOD = (
    "Angle of each face that looks down, 0 degrees for a vertical wall and 90 for a ceiling; connected faces over the limit are "
    "one region; support volume from columns down to the bed or to the part below."
)
_MOST_FINDINGS = 60
_UPRIGHT = 0.5


@dataclass(frozen=True, slots=True)
class Limits:
    """Angle that holds itself, degrees from vertical; regions smaller than an area (mm2) are left out."""

    overhang_angle: float
    min_region_area: float


@dataclass(frozen=True, slots=True, eq=False)
class Evidence:
    """hanging : of the part as it stands, its lowest point on the bed
    back : from there to the file's coordinates
    values : per copy, float32
    box_middle : in the file's coordinates
    """

    name: str
    hanging: Hanging
    back: Transform
    values: tuple[np.ndarray, ...]
    tally: Tally
    box_middle: tuple[float, float, float]
    is_closed: bool


def run(snapshot: Snapshot, limits: Limits, progress: Progress) -> tuple[Outcome, ...]:
    """One outcome for the part as it stands, lowered until its lowest point is on the bed."""
    copies = [outward(mesh) for _, mesh in snapshot.placed_copies()]
    solid = material_of_all(copies)
    whole = solid.mesh
    drop = float(whole.box.low[2])
    whole = Mesh(whole.vertices - np.array([0.0, 0.0, drop]), whole.faces)
    hanging = hanging_of(whole, limits.overhang_angle, progress, solid.edges)
    lifted = Transform.moved(np.array([0.0, 0.0, drop]))
    back = lifted.then(snapshot.placement.inverse())
    shown = _shown(hanging.angles, hanging.resting)
    values = solid.for_each(shown, copies)
    middle = spot(back.apply(whole.box.middle[None])[0])
    # Of what stands upright there is so much that nothing else could be read off.
    tally = tallied(np.where(shown > _UPRIGHT, shown, np.nan), hanging.areas, 0.0, 90.0)
    return (_outcome(Evidence(snapshot.part.name, hanging, back, values, tally, middle, closed(hanging.edges)), limits),)


def judged_anew(outcomes: tuple[Outcome, ...], limits: Limits) -> tuple[Outcome, ...] | None:
    """The verdict under other limits; a first look where columns under shallower faces were not measured."""
    evidence = outcomes[0].evidence
    if not isinstance(evidence, Evidence):
        return None
    found = _outcome(evidence, limits)
    enough = limits.overhang_angle >= evidence.hanging.columns_from
    return (found if enough else replace(found, first_look=True),)


def _outcome(evidence: Evidence, limits: Limits) -> Outcome:
    hanging, limit, least = evidence.hanging, limits.overhang_angle, limits.min_region_area
    regions = hanging.regions(limit, least)
    sure, doubtful = float(regions.sure.sum()), regions.sure < least
    maybe = not doubtful.all() or hanging.perhaps_over(limit, least)
    may_be = hanging.area_perhaps_over(limit)
    area, volume = float(regions.area.sum()), float(regions.volume.sum())
    findings = tuple(_finding(one, limit, evidence.back) for one in hanging.told(regions, _MOST_FINDINGS))
    tips = evidence.back.apply(hanging.lone_tips(regions))
    findings += tuple(_tip(place) for place in tips[: max(_MOST_FINDINGS - len(findings), 0)])
    verdict, why = _judged(len(regions.area), not bool(doubtful.all()), maybe, area, volume, len(tips), limits)
    if verdict == "pass" and not evidence.is_closed:
        verdict, why = "review", f"{why[:-1]}, but the surface is open, so which of its sides is outside is not sure."
    at_worst = findings[0].at if findings else evidence.box_middle
    measured = {"area": area, "support_volume": volume, "regions": len(regions.area)}
    field = FaceField("overhang angle", "°", evidence.values, limit, bad_below=False, tally=evidence.tally)
    sampling = (
        f"Every face; columns under all faces beyond {given(hanging.columns_from)}°, one every {number(hanging.spacing)} mm. "
        f"{number(float(regions.contact.sum()))} mm² of support would touch the bed or the part at its foot, "
        f"{number(float(regions.on_part.sum()))} mm² of that the part."
    )
    spread_of = max(may_be - sure, 0.0)
    return Outcome(
        "overhangs", evidence.name, verdict, why, Worst(area, "mm²", at_worst), measured, findings, METHOD, spread_of, field,
        sampling, evidence,
    )  # fmt: skip


def _finding(region: Region, limit: float, back: Transform) -> Finding:
    what = region.words
    if region.kind == "overhang" and region.on_part > 0.05 * region.contact:
        what = "overhang, its support on the part"
    remedy = f"support of {number(region.volume)} mm³ on {number(region.contact)} mm²"
    if region.on_part > 0:
        remedy += f", {number(region.on_part)} mm² of it on the part"
    if region.kind != "bridge":
        remedy += f"; or turn by {number(region.angle - limit)}°, or a chamfer of {given(limit)}° under it"
    lines = back.apply(region.lines.reshape(-1, 3)).reshape(-1, 2, 3)
    at = spot(back.apply(region.place[None])[0])
    past = share_over(region.angle, limit, 90.0)
    return Finding(
        what, region.angle, "°", at, region.area, past=past, remedy=remedy, lines=lines, code=region.kind, shown="below",
        around=back.apply(region.around),
    )  # fmt: skip


def _shown(angles: Floats, resting: Bools) -> np.ndarray:
    """(m,) float32 angles; what rests on the bed reads as not hanging, what looks up as not measured."""
    shown = angles.astype(np.float32)
    shown[angles < -0.01] = np.nan
    np.maximum(shown, 0.0, out=shown)
    shown[resting & (angles > 0)] = 0.0
    return shown


def _tip(place: Points) -> Finding:
    remedy = "a support under it, or turn the part so that it comes later than what holds it"
    return Finding(
        "island: a tip that starts in the air", None, "", spot(place), past=1.0, remedy=remedy, code="tip", shown="below"
    )


def _judged(regions: int, sure: bool, maybe: bool, area: float, volume: float, tips: int, limits: Limits) -> tuple[Verdict, str]:
    angle = given(limits.overhang_angle)
    if sure:
        places = "1 region" if regions == 1 else f"{regions} regions"
        return "fail", f"{places} of {number(area)} mm² hang over more than {angle}°; support of {number(volume)} mm³."
    if maybe:
        return "review", f"Faces lie at the limit of {angle}° within the accuracy of their facets."
    if tips:
        places = "A tip starts" if tips == 1 else f"{tips} tips start"
        return "review", f"{places} in the air, though nothing hangs over more than {angle}°."
    return "pass", f"Nothing over {given(limits.min_region_area)} mm² hangs over more than {angle}°."
