"""Tool access: what a straight cutter cannot touch from the chosen set-ups."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.checks.access_corners import smallest_inside_radius
from gullyrise.core.checks.access_depth import Opening, deepest_opening
from gullyrise.core.checks.access_reach import NEAR, Reach, in_sight, reach_from
from gullyrise.core.checks.protocol import Deed, FaceField, Finding, Outcome, Row, Snapshot, Verdict, Worst, share_under
from gullyrise.core.checks.tally import tallied
from gullyrise.core.geometry import Floats, Ints, Mesh
from gullyrise.core.geometry.arrays import Bools
from gullyrise.core.geometry.material import Material, material_of_all
from gullyrise.core.geometry.orientation import outward
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.sampling import Samples, spread
from gullyrise.core.geometry.spots import outermost, spot
from gullyrise.core.geometry.topology import Edges, closed, clusters, edges_of
from gullyrise.core.machines import Machine
from gullyrise.core.machines.limit_rows import REGIONS, LimitRow
from gullyrise.core.machines.limits import SETUPS, setup_direction
from gullyrise.core.machines.machine import Tool
from gullyrise.core.number_words import given, number
from gullyrise.core.progress import Progress

ROW = Row(
    id="access", order=6, title="Tool access", measure="out of the tool's reach", unit="mm²",
    placed=True, machine=True, version=4, process="mill", attitude=True, small_is_bad=False, second_key="T",
    judged_by="tool_diameter", limits=(
        LimitRow("tool_diameter", "tool ⌀", sign="⌀"), LimitRow("tool_reach", "reach"), REGIONS,
        LimitRow(
            "setups", "set-ups", kind="words",
            tip="From where the tool comes: +z -x, or three numbers as 0,-1,1; a blank between two",
        ),
    ),
    kinds=(
        ("hidden", "Hidden from the tool"), ("narrow", "Too narrow"), ("deep", "Too deep"), ("corner", "Tight inside corner"),
    ),
    deeds=(
        Deed("Fewest set-ups", "check.setups", "Find the fewest set-ups that touch all that any can"),
        Deed("Set-up from the face", "check.setup-from-face", "The tool comes straight at the selected face"),
    ),
)  # fmt: skip

METHOD = (
    "Sight along the set-ups by rays from samples of every face; then the tool's disc, and its holder at the end of its reach, "
    "swept over height maps; inside radii of corners parallel to a set-up; depth of openings over their width, by rays across."
)
_SAMPLES = 120_000
_MOST_FINDINGS = 40
_WIDE_HOLDER = 2.0
_CORNER_SLACK = 1e-6
_ASKED, _SOME = 200, 0.05
HIDDEN, NARROW, DEEP, CORNER = "hidden", "narrow", "deep", "corner"
"""Codes of findings."""
_WORDS = {HIDDEN: "out of the tool's sight", NARROW: "too narrow for the tool", DEEP: "too deep for the tool's reach"}


@dataclass(frozen=True, slots=True)
class Limits:
    """Set-up directions (from where the tool comes), the tool in mm, and the area under which a region is left out, mm2."""

    setups: tuple[str, ...]
    tool_diameter: float
    tool_reach: float
    min_region_area: float


def tools_for(machine: Machine | None, limits: Limits) -> tuple[Tool, ...]:
    """The cutters that may be used: all of the machine's, or the one that the limits name where that is none of them."""
    own = machine.tool if machine is not None else ()
    if any(tool.diameter == limits.tool_diameter and tool.reach == limits.tool_reach for tool in own):
        return own
    holder = min((tool.holder_diameter for tool in own), default=_WIDE_HOLDER * limits.tool_diameter)
    one = Tool(
        name=f"end mill {limits.tool_diameter:g}", diameter=limits.tool_diameter, flute=limits.tool_reach,
        reach=limits.tool_reach, holder_diameter=max(holder, limits.tool_diameter),
    )  # fmt: skip
    return (one,)


def run(snapshot: Snapshot, limits: Limits, progress: Progress) -> tuple[Outcome, ...]:
    """One outcome for the part as it stands."""
    copies = [outward(mesh) for _, mesh in snapshot.placed_copies()]
    solid = material_of_all(copies)
    whole = solid.mesh
    tools = tools_for(snapshot.machine, limits)
    samples = spread(whole, _SAMPLES, every_face=True)
    scene = RayScene(whole)
    directions = [setup_direction(setup) for setup in limits.setups]
    least = limits.min_region_area

    def reached(*, closely: bool) -> list[Reach]:
        out: list[Reach] = []
        for done, (setup, direction) in enumerate(zip(limits.setups, directions, strict=True)):
            progress(f"reaching from {setup}", done, len(directions))
            out.append(reach_from(whole, scene, samples, direction, tools, closely=closely))
        return out

    reaches = reached(closely=False)
    edges = solid.edges if solid.edges is not None else edges_of(whole)
    lost_at_all = bool(_regions(whole, edges, samples, ~_of_any(reaches, "perhaps"), least))
    if not lost_at_all and float(samples.weight[~_of_any(reaches, "sure")].sum()) >= max(least, 1e-9):
        # Nothing is surely lost, and the cells cannot tell whether something is: there they have to be smaller.
        reaches = reached(closely=True)
    progress("judging access", 0, 0)
    seen, wide, touched, perhaps, sure = (_of_any(reaches, name) for name in ("seen", "wide", "touched", "perhaps", "sure"))
    findings: list[Finding] = []
    lost = np.zeros(len(whole.faces))
    missed = np.zeros(len(samples.points), dtype=bool)
    # Only what is out of reach even of a tool taken a little too small counts; how much of it, tells one of its own size.
    surely = np.zeros(len(whole.faces), dtype=bool)
    for group, _ in _regions(whole, edges, samples, ~perhaps, least):
        surely[group] = True
    if surely.any():
        for code, those in ((HIDDEN, ~seen), (NARROW, seen & ~wide), (DEEP, wide & ~touched)):
            missed |= those & surely[samples.face]
            for group, own in _regions(whole, edges, samples, those, least):
                if not surely[group].any():
                    continue
                lost[group] += own
                findings.append(_finding(snapshot, whole, scene, samples, those, group, own, code, tools, reaches, directions))
    area = float(lost.sum())
    unsure = float(samples.weight[~sure].sum())
    corner = smallest_inside_radius(whole, edges, directions)
    thinnest = min(tool.diameter for tool in tools)
    if corner is not None and corner[0] < thinnest / 2 - corner[2] - _CORNER_SLACK:
        findings.append(_tight(snapshot, corner, thinnest))
    opening = _deepest(reaches, scene)
    grain = float(np.sqrt(whole.area * (whole.area / max(len(samples.points), 1))))
    verdict, why = _judged(area, unsure, corner, opening, tools, limits)
    if verdict == "pass" and not closed(edges):
        verdict, why = "review", f"{why} The surface is open, so which of its sides is outside is not sure."
    at_worst = findings[0].at if findings else spot(snapshot.in_file(whole.box.middle[None])[0])
    measured = {
        "unreachable_area": area,
        "smallest_inside_radius": None if corner is None else corner[0],
        "deepest_ratio": None if opening is None else opening.ratio,
    }
    narrow = sum(finding.value or 0.0 for finding in findings if finding.code == NARROW)
    error = grain + max(unsure - area, 0.0) / 2 + narrow * _strip_doubt(thinnest / 2, reaches[0].map_.cell)
    order = sorted(findings, key=lambda finding: finding.cost)[:_MOST_FINDINGS]
    field = _field(solid, samples, missed, copies)
    sampling = (
        f"{len(samples.points):,} samples; height maps of {number(reaches[0].map_.cell)} mm cells; "
        f"{_held_words(snapshot.machine, len(reaches))}"
    )
    return (
        Outcome(
            "access", snapshot.part.name, verdict, why, Worst(area, "mm²", at_worst), measured, tuple(order), METHOD, error,
            field, sampling,
        ),
    )  # fmt: skip


def _of_any(reaches: list[Reach], name: str) -> Bools:
    """(n,) samples of which something holds from some set-up. A face that rests in the only set-up stays as the stock is, and
    counts as touched; with a second set-up it must be reached like any other."""
    found = np.any([getattr(one, name) for one in reaches], axis=0)
    return np.asarray(found | reaches[0].rests if len(reaches) == 1 else found)


def _regions(mesh: Mesh, edges: Edges, samples: Samples, missed: Bools, least: float) -> list[tuple[Ints, Floats]]:
    """(faces, mm2 of each that are missed) of every connected region of at least so many mm2."""
    own = np.bincount(samples.face[missed], samples.weight[missed], len(mesh.faces)).astype(np.float64)
    return [(group, own[group]) for group in clusters(mesh, edges, own > 0) if own[group].sum() >= least]


def _finding(
    snapshot: Snapshot,
    whole: Mesh,
    scene: RayScene,
    samples: Samples,
    missed: Bools,
    group: Ints,
    own: Floats,
    code: str,
    tools: tuple[Tool, ...],
    reaches: list[Reach],
    directions: list[Floats],
) -> Finding:
    heaviest = group[np.argmax(own)]
    first = int(np.flatnonzero(missed & (samples.face == heaviest))[0])
    area = float(own.sum())
    remedy = _remedy(code, tools)
    if code == HIDDEN:
        mine = np.flatnonzero(missed & np.isin(samples.face, group))
        remedy = _from_elsewhere(whole, scene, samples.take(mine[:: max(1, len(mine) // _ASKED)]))
    # Where the tool is stopped is seen from a side, along the set-up from which the place is reached best.
    best = max(reaches, key=lambda reach: (bool(reach.wide[first]), bool(reach.seen[first])))
    direction = directions[reaches.index(best)]
    found = Finding(
        _WORDS[code], area, "mm²", spot(samples.points[first]), area, past=_past(code), remedy=remedy, code=code, shown="tool",
        along=spot(direction), around=outermost(whole.vertices[whole.faces[group].reshape(-1)]),
    )  # fmt: skip
    return found.placed(snapshot.placement.inverse())


def _strip_doubt(radius: float, cell: float) -> float:
    """By how much, as a share, the area beside a corner is taken too small: walls are asked a little out from where they stand,
    and there the tool's round side comes nearer to the corner than at the wall itself."""
    gain = float(np.sqrt(2 * radius * NEAR * cell))
    return gain / max(radius - gain, 0.25 * radius)


def _past(code: str) -> float:
    return {HIDDEN: 1.0, NARROW: 0.7, DEEP: 0.6}[code]


def _from_elsewhere(mesh: Mesh, scene: RayScene, hidden: Samples) -> str:
    """What to try for a place out of sight: the axis from which most of it is seen."""
    shares = {axis: float(in_sight(mesh, scene, hidden, setup_direction(axis)).mean()) for axis in SETUPS}
    best = max(shares, key=lambda axis: shares[axis])
    if shares[best] < _SOME:
        return "another shape: along no axis does a straight cutter get there; open it, or make it of two parts"
    all_of = "" if shares[best] > 1 - _SOME else f", which sees {100 * shares[best]:.0f} % of it"
    return f"a set-up from {best}{all_of}, or open it towards a set-up that is there"


def _remedy(code: str, tools: tuple[Tool, ...]) -> str:
    thinnest = min(tools, key=lambda tool: tool.diameter)
    if code == NARROW:
        return f"a tool under {given(thinnest.diameter)} mm, or round its inside corners by {given(thinnest.diameter / 2)} mm"
    longest = max(tools, key=lambda tool: tool.reach)
    return f"a tool that reaches further than {given(longest.reach)} mm, or a slimmer holder"


def _tight(snapshot: Snapshot, corner: tuple[float, Floats, float, Floats], thinnest: float) -> Finding:
    remedy = f"round it by {given(thinnest / 2)} mm or more, or a tool of {number(max(2 * corner[0], 0.1))} mm"
    past = 0.8 * share_under(corner[0], thinnest / 2)
    found = Finding(
        "inside corner tighter than the tool", corner[0], "mm", spot(corner[1]), past=past, remedy=remedy, code=CORNER,
        shown="corner", along=spot(corner[3]), ball=(spot(corner[1]), thinnest / 2),
    )  # fmt: skip
    return found.placed(snapshot.placement.inverse())


def _deepest(reaches: list[Reach], scene: RayScene) -> Opening | None:
    found = [one for reach in reaches if (one := deepest_opening(reach.map_, scene)) is not None]
    return max(found, key=lambda one: one.ratio, default=None)


def _field(solid: Material, samples: Samples, missed: Bools, copies: list[Mesh]) -> FaceField:
    whole = solid.mesh
    lost = np.bincount(samples.face[missed], samples.weight[missed], len(whole.faces))
    share = np.bincount(samples.face, samples.weight, len(whole.faces))
    part = (lost / np.maximum(share, 1e-300)).astype(np.float32)
    tally = tallied(part, whole.face_areas(), 0.0, 1.0)
    return FaceField("out of the tool's reach", "", solid.for_each(part, copies), 0.5, bad_below=False, tally=tally)


def _held_words(machine: Machine | None, setups: int) -> str:
    """What the clamping takes away, in words."""
    if machine is None or machine.clamping is None or machine.clamping.height <= 0:
        return "nothing is said of how the stock is held."
    held = f"the lowest {given(machine.clamping.height)} mm of the stock are gripped in each set-up"
    return f"{held} and stay as they are." if setups == 1 else f"{held} and are cut in another."


def _judged(
    area: float,
    unsure: float,
    corner: tuple[float, Floats, float, Floats] | None,
    opening: Opening | None,
    tools: tuple[Tool, ...],
    limits: Limits,
) -> tuple[Verdict, str]:
    from_where = ", ".join(limits.setups)
    thinnest = min(tool.diameter for tool in tools)
    deep = ""
    if opening is not None:
        deep = f" The deepest opening is {number(opening.depth)} mm deep and {number(opening.width)} mm wide."
    if area > 0:
        return "fail", f"{number(area)} mm² cannot be touched from {from_where}; see why at each place.{deep}"
    if corner is not None and corner[0] < thinnest / 2 - corner[2] - _CORNER_SLACK:
        return (
            "fail",
            f"An inside corner of {number(corner[0])} mm radius is tighter than the tool of {given(thinnest)} mm diameter.",
        )
    if corner is not None and abs(corner[0] - thinnest / 2) <= corner[2] + _CORNER_SLACK:
        return (
            "review",
            f"An inside corner of {number(corner[0])} mm radius just lets the tool of {given(thinnest)} mm in.{deep}",
        )
    if unsure >= max(limits.min_region_area, 1e-9):
        return "review", f"Up to {number(unsure)} mm² may be out of reach from {from_where}: a tool just fits there.{deep}"
    return "pass", f"All faces can be touched from {from_where} with a tool of {given(thinnest)} mm.{deep}"
