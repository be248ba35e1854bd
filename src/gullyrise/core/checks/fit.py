"""Fit: does the part stay inside the machine as it stands?"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from gullyrise.core.checks.protocol import FaceField, Finding, Outcome, Row, Snapshot, Verdict, Worst, number, spot
from gullyrise.core.geometry import Box, Floats, Mesh, Points
from gullyrise.core.machines import KeepOut, Machine
from gullyrise.core.placing.bed import in_the_middle
from gullyrise.core.placing.turning import best_turn
from gullyrise.core.progress import Progress

ROW = Row(
    id="fit", order=2, title="Fit", measure="stands out of the room by", unit="mm", limit="edge_margin", placed=True,
    machine=True, version=1,
)  # fmt: skip

METHOD = (
    "Every vertex against the envelope less margins and keep-outs, as placed; turned fits by a search over rotations of the "
    "convex hull, keep-outs left aside."
)
_SIDES = (("left", "right"), ("front", "back"), ("bed", "top"))


@dataclass(frozen=True, slots=True)
class Limits:
    """Kept free inside the envelope, mm."""

    edge_margin: float
    top_margin: float


def run(snapshot: Snapshot, limits: Limits, progress: Progress) -> tuple[Outcome, ...]:
    """One outcome for the part on its machine. A part that stands right beside the bed is judged in its middle."""
    machine = snapshot.machine
    name = snapshot.part.name
    if machine is None:
        why = "No machine is chosen; choose one to judge the fit."
        return (Outcome("fit", name, "not-run", why, None, {}, (), METHOD, None),)
    copies = [mesh for _, mesh in snapshot.placed_copies()]
    box = _box(copies)
    shift = np.zeros(3)
    if _waits(box, machine):
        shift = in_the_middle(box, machine).matrix[:3, 3]
        copies = [Mesh(mesh.vertices + shift, mesh.faces) for mesh in copies]
        box = Box(box.low + shift, box.high + shift)
    points = np.concatenate([mesh.vertices for mesh in copies])
    progress("measuring slack", 0, 0)
    slack, sides = _slack(points, box, machine, limits)
    out = _outside(points, machine, limits)
    entered = [keep for keep in machine.keep_out if _enters(copies, box, keep)]
    inside = bool(out.max(initial=0.0) <= 0) and not entered
    error = _error(snapshot, points)
    progress("trying other machines", 0, 0)
    fits_on = _machines_that_fit(snapshot, points, machine, inside, limits)
    progress("trying turns", 0, 0)
    turned = inside or best_turn(points, machine, limits.edge_margin, limits.top_margin).excess <= 0
    worst_place = points[int(np.argmax(out))] - shift
    at = spot(snapshot.in_file(worst_place[None])[0])
    tightest = min(sides, key=lambda side: side[1])
    findings = _findings(snapshot, sides, entered, points - shift, error)
    verdict, why = _judged(inside, tightest, entered, turned, error, machine)
    measured = {"inside": inside, "slack": slack, "fits_turned": turned, "machines_that_fit": fits_on}
    worst = Worst(tightest[1], "mm", at)
    values = tuple(_outside(mesh.triangles().reshape(-1, 3), machine, limits).reshape(-1, 3).max(axis=1).astype(np.float32)
                   for mesh in copies)  # fmt: skip
    field = FaceField("stands out of the room by", "mm", values, 0.0, bad_below=False)
    return (Outcome("fit", name, verdict, why, worst, measured, tuple(findings), METHOD, error, field),)


def _box(copies: list[Mesh]) -> Box:
    boxes = [mesh.box for mesh in copies]
    return Box(np.min([box.low for box in boxes], axis=0), np.max([box.high for box in boxes], axis=0))


def _waits(box: Box, machine: Machine) -> bool:
    """Whether the part stands wholly beside the bed, where parts wait that found no room."""
    return bool(box.low[0] >= machine.envelope.box.high[0])


def _slack(points: Points, box: Box, machine: Machine, limits: Limits) -> tuple[dict[str, Any], list[tuple[str, float]]]:
    """(slack as the contract has it, [(side, slack)] of the sides that decide)."""
    room = machine.envelope.box
    edge, top = limits.edge_margin, limits.top_margin
    z = [float(box.low[2] - room.low[2]), float(room.high[2] - top - box.high[2])]
    if machine.envelope.shape == "cylinder":
        radius = float(room.high[0]) - edge
        radial = radius - float(np.hypot(points[:, 0], points[:, 1]).max())
        return {"radial": [radial], "z": z}, [("the edge", radial), ("the top", z[1])]
    slack: dict[str, Any] = {}
    sides: list[tuple[str, float]] = []
    for axis, letter in enumerate("xy"):
        low = float(box.low[axis] - room.low[axis] - edge)
        high = float(room.high[axis] - edge - box.high[axis])
        slack[letter] = [low, high]
        sides += [(f"the {_SIDES[axis][0]}", low), (f"the {_SIDES[axis][1]}", high)]
    return {**slack, "z": z}, [*sides, ("the top", z[1])]


def _outside(points: Points, machine: Machine, limits: Limits) -> Floats:
    """(n,) how far each point stands out of the room inside the margins, mm; negative inside."""
    room = machine.envelope.box
    above = points[:, 2] - (room.high[2] - limits.top_margin)
    # Rounding of a part lowered to the bed is no excess.
    below = room.low[2] - points[:, 2] - 1e-6
    if machine.envelope.shape == "cylinder":
        radial = np.hypot(points[:, 0], points[:, 1]) - (room.high[0] - limits.edge_margin)
        return np.asarray(np.maximum.reduce([radial, above, below]))
    low = room.low[:2] + limits.edge_margin - points[:, :2]
    high = points[:, :2] - (room.high[:2] - limits.edge_margin)
    return np.asarray(np.maximum.reduce([low[:, 0], low[:, 1], high[:, 0], high[:, 1], above, below]))


def _enters(copies: list[Mesh], box: Box, keep: KeepOut) -> bool:
    """Whether any surface reaches into a keep-out, or a copy holds it whole."""
    import manifold3d

    from gullyrise.core.geometry.nearest import Tree
    from gullyrise.core.geometry.winding import inside

    if keep.min is not None and keep.max is not None:
        low, high = np.array(keep.min), np.array(keep.max)
        solid = manifold3d.Manifold.cube(tuple(high - low)).translate(tuple(low))
    else:
        base, diameter, height = np.array(keep.center), keep.diameter or 0.0, keep.height or 0.0
        solid = manifold3d.Manifold.cylinder(height, diameter / 2, diameter / 2, 96).translate(tuple(base))
    found = solid.to_mesh64()
    block = Mesh(np.asarray(found.vert_properties)[:, :3], np.asarray(found.tri_verts).astype(np.int32))
    if box.gap_to(block.box) > 0:
        return False
    tree = Tree(block)
    for mesh in copies:
        if mesh.box.gap_to(block.box) > 0:
            continue
        if tree.crosses(Tree(mesh))[0]:
            return True
        if inside(block, mesh.vertices[:1])[0] or inside(mesh, block.vertices[:1])[0]:
            return True
    return False


def _error(snapshot: Snapshot, points: Points) -> float:
    """Chord error where there are curved solids, and the rounding of single-precision files."""
    chord = max((body.chord_error or 0.0 for body in snapshot.part.bodies if len(body.mesh.faces) > 12), default=0.0)
    return chord + 1e-6 * float(np.ptp(points, axis=0).max(initial=0.0))


def _machines_that_fit(snapshot: Snapshot, points: Points, machine: Machine, inside: bool, limits: Limits) -> list[str]:
    """Ids of the machines that hold the part as it stands, moved to the middle of each bed."""
    fits = [machine.id] if inside else []
    box = Box.of(points)
    for other in snapshot.library:
        if other.id == machine.id:
            continue
        moved = in_the_middle(box, other).apply(points)
        own = other.full_limits()
        room = Limits(own.edge_margin or 0.0, own.top_margin or 0.0)
        if _outside(moved, other, room).max(initial=0.0) <= 0:
            mesh = [body.placed(in_the_middle(box, other)) for body in _meshes(snapshot, box)]
            if not any(_enters(mesh, _box(mesh), keep) for keep in other.keep_out):
                fits.append(other.id)
    return sorted(fits)


def _meshes(snapshot: Snapshot, box: Box) -> list[Mesh]:
    """Copies moved so that their box is the given one (a waiting part is judged elsewhere than it stands)."""
    copies = [mesh for _, mesh in snapshot.placed_copies()]
    shift = box.low - _box(copies).low
    return [Mesh(mesh.vertices + shift, mesh.faces) for mesh in copies]


def _findings(
    snapshot: Snapshot, sides: list[tuple[str, float]], entered: list[KeepOut], points: Points, error: float
) -> list[Finding]:
    out = []
    reach = {"the left": (0, -1), "the right": (0, 1), "the front": (1, -1), "the back": (1, 1), "the top": (2, 1)}
    middle = points.mean(axis=0)
    for side, value in sides:
        if value >= -error:
            continue
        if side in reach:
            axis, sign = reach[side]
            place = points[int(np.argmax(sign * points[:, axis]))]
        else:
            place = points[int(np.argmax(np.hypot(*(points - middle)[:, :2].T)))]
        at = spot(snapshot.in_file(place[None])[0])
        out.append(Finding(f"stands out at {side}", -value, "mm", at))
    for keep in entered:
        corner = np.array(keep.max if keep.max is not None else keep.center)
        place = points[int(np.argmin(np.linalg.norm(points - corner, axis=1)))]
        out.append(Finding("enters a keep-out of the machine", None, "mm", spot(snapshot.in_file(place[None])[0])))
    return sorted(out, key=lambda finding: -(finding.value or 0.0))


def _judged(
    inside: bool, tightest: tuple[str, float], entered: list[KeepOut], turned: bool, error: float, machine: Machine
) -> tuple[Verdict, str]:
    side, slack = tightest
    if slack < -error:
        hint = " It would fit turned." if turned else " No turn was found that fits."
        return "fail", f"It stands {number(-slack)} mm out of {machine.name} at {side}.{hint}"
    if entered:
        return "fail", f"It enters a keep-out of {machine.name}; move it clear."
    if slack <= error:
        return "review", f"At {side} the slack of {number(slack)} mm is within the uncertainty of {number(error)} mm."
    return "pass", f"It stays inside {machine.name} with {number(slack)} mm to spare at {side}."
