"""Fit: does the part stay inside the machine as it stands, on the bed, clear of keep-outs and of its neighbours?"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np

from gullyrise.core.checks.protocol import Deed, FaceField, Finding, Outcome, Row, Snapshot, Verdict, Worst
from gullyrise.core.geometry import Box, Mesh, Points, Transform
from gullyrise.core.geometry.spots import outermost, spot
from gullyrise.core.machines import KeepOut, Machine
from gullyrise.core.machines.limit_rows import LimitRow
from gullyrise.core.number_words import number
from gullyrise.core.placing.bed import in_the_middle
from gullyrise.core.placing.moves import dropped, middle_of
from gullyrise.core.placing.turning import SAME, Room, Turned, best_turn, best_turn_about_z, hull_points
from gullyrise.core.placing.within import Kept, Side, below_bed, entered, outside, sides_of, slack_words
from gullyrise.core.progress import Progress


def _fits_turned(measured: dict[str, Any]) -> bool:
    return bool(measured["turned"]["fits"])


def _fits_level(measured: dict[str, Any]) -> bool:
    return _fits_turned(measured) and bool(measured["turned"]["about_z"])


ROW = Row(
    id="fit", order=2, title="Fit", measure="beyond the build volume by", unit="mm", placed=True, machine=True,
    version=3, near=True, room=True, second_key="F", judged_by="edge_margin",
    limits=(LimitRow("edge_margin", "margin", sign="+"),),
    tell_worst=lambda spare: f"{number(abs(spare))} mm {'to spare' if spare >= 0 else 'out'}",
    deeds=(
        Deed("Turn it so that it fits", "place.fit-level", "Turn it about the vertical to where it fits", _fits_level),
        Deed("Lay it so that it fits", "place.fit-any", "Bring it to the orientation in which it fits", _fits_turned),
    ),
    kinds=(
        ("no-bed", "On no bed"), ("outside", "Outside the build volume"),
        ("sunk", "Sunk into the bed"), ("floats", "Above the bed"), ("keep-out", "In a keep-out"),
        ("meets", "Collision"), ("too-little", "Too little stock"),
    ),
)  # fmt: skip

METHOD = (
    "Every vertex against the envelope less margins and keep-outs, as placed; neighbours by their true surfaces; turned fits "
    "exactly about the vertical and by a search over all attitudes of the convex hull, with a proof where none fits."
)
_STEPS = 24
_DOWN = np.array([0.0, 0.0, -1.0])


@dataclass(frozen=True, slots=True)
class Limits:
    """Kept free inside the envelope, mm."""

    edge_margin: float
    top_margin: float


def run(snapshot: Snapshot, limits: Limits, progress: Progress) -> tuple[Outcome, ...]:
    """One outcome for the part on its machine. A part that stands beside the bed is on none: it fails, and it is said whether the
    bed would hold it."""
    machine = snapshot.machine
    name = snapshot.part.name
    if machine is None:
        why = "No machine is chosen; choose one to judge the fit."
        return (Outcome("fit", name, "not-run", why, None, {}, (), METHOD, None),)
    kept = Kept(limits.edge_margin, limits.top_margin)
    copies = [mesh for _, mesh in snapshot.placed_copies()]
    box = _box(copies)
    waits = _waits(box, machine)
    points = np.concatenate([mesh.vertices for mesh in copies])
    progress("measuring slack", 0, 0)
    sides = sides_of(points, machine, kept)
    out = outside(points, machine, kept)
    blocked = entered(copies, machine)
    meets = [] if waits else _met(snapshot, copies)
    inside = bool(out.max(initial=0.0) <= 0) and not blocked and not waits
    holds = inside or (waits and _holds(points, copies, machine, kept))
    error = _error(snapshot, points)
    sunk = below_bed(points)
    progress("trying other machines", 0, 0)
    milled = min((side.slack for side in sides if not side.machine), default=0.0) >= -SAME
    fits_on = _machines_that_fit(snapshot, points, copies, machine, holds and milled)
    progress("trying turns", 0, 0)
    turned = _turned(points, copies, machine, kept, inside)
    # What stands out of the machine is told before what its stock or travel would want.
    out_of_it = [side for side in sides if side.machine and side.slack < -error]
    tightest = min(out_of_it or sides, key=lambda side: side.slack)
    verdict, why = _judged(tightest, sunk, blocked, meets, turned, error, machine)
    if waits:
        verdict, why = "fail", _on_none(holds, turned, machine)
    measured = {
        "inside": inside, "slack": slack_words(points, machine, kept), "fits_turned": bool(turned["fits"]),
        "machines_that_fit": fits_on, "floats": max(-sunk, 0.0), "sunk": max(sunk, 0.0), "collisions": [met for met, _ in meets],
        "turned": turned, "sides": [[side.words, side.slack] for side in sides],
    }  # fmt: skip
    worst_place = points[int(np.argmax(out))]
    worst = Worst(min(tightest.slack, -sunk if sunk > 0 else np.inf), "mm", spot(snapshot.in_file(worst_place[None])[0]))
    findings = _findings(snapshot, sides, sunk, blocked, meets, points, error, machine)
    if waits:
        findings = [
            Finding(
                "is on no bed",
                -tightest.slack,
                "mm",
                worst.at,
                past=1.0,
                remedy="put it on a bed, or arrange them all",
                code="no-bed",
            )
        ]
    values = tuple(
        outside(mesh.triangles().reshape(-1, 3), machine, kept).reshape(-1, 3).max(axis=1).astype(np.float32) for mesh in copies
    )
    field = FaceField("beyond the build volume by", "mm", values, 0.0, bad_below=False)
    headline = "on no bed" if waits else "" if tightest.slack < -error else _headline(sunk, error, blocked, meets, machine)
    return (Outcome("fit", name, verdict, why, worst, measured, tuple(findings), METHOD, error, field, headline=headline),)


def _headline(sunk: float, error: float, blocked: list[KeepOut], meets: list[tuple[str, Points]], machine: Machine) -> str:
    """What is wrong with a part that stays inside, in the order of the verdict; none where nothing is."""
    if sunk > error:
        return f"{number(sunk)} mm into the bed"
    if blocked:
        return "in a keep-out"
    if meets:
        others = len(dict(meets))
        return f"meets {others} other{'s' if others > 1 else ''}"
    return f"{number(-sunk)} mm above the bed" if _floats(sunk, machine) else ""


def _box(copies: list[Mesh]) -> Box:
    return Box.around([mesh.box for mesh in copies])


def _waits(box: Box, machine: Machine) -> bool:
    """Whether the part stands wholly beside the bed, as parts do that found no room."""
    room = machine.envelope.box
    beside = bool((box.low[:2] >= room.high[:2]).any() or (box.high[:2] <= room.low[:2]).any())
    if machine.envelope.shape == "cylinder":
        near = np.clip(0.0, box.low[:2], box.high[:2])
        beside |= float(np.hypot(*near)) >= float(room.high[0])
    return beside


def _holds(points: Points, copies: list[Mesh], machine: Machine, kept: Kept) -> bool:
    """Whether the machine would hold the part as it is turned, in the middle of its bed."""
    move = in_the_middle(Box.of(points), machine)
    inside = outside(move.apply(points), machine, kept).max(initial=0.0) <= 0
    return bool(inside) and not entered([mesh.placed(move) for mesh in copies], machine)


def _on_none(holds: bool, turned: dict[str, Any], machine: Machine) -> str:
    where = f"It is on no bed: it stands beside {machine.name}."
    if holds:
        return f"{where} The bed would hold it: put it there, or arrange them all."
    return f"{where} {_turning(turned)}"


def _met(snapshot: Snapshot, copies: list[Mesh]) -> list[tuple[str, Points]]:
    """Names of the neighbours that the part meets, with a place each."""
    own: dict[int, _Piece] = {}
    out = []
    for neighbour in snapshot.neighbours:
        for other in (mesh.placed(neighbour.placement) for _, _, mesh in neighbour.part.copies()):
            near = [at for at, mesh in enumerate(copies) if mesh.box.gap_to(other.box) <= 0]
            against = _Piece(other) if near else None
            place = None
            for at in near:
                assert against is not None
                own[at] = own.get(at) or _Piece(copies[at])
                place = own[at].meets(against)
                if place is not None:
                    break
            if place is not None:
                out.append((neighbour.name, place))
                break
    return out


class _Piece:
    """A mesh with what is asked of it again for each neighbour."""

    def __init__(self, mesh: Mesh) -> None:
        from gullyrise.core.geometry.nearest import Tree

        self.mesh, self.tree = mesh, Tree(mesh)

    @cached_property
    def corners(self) -> Points:
        """(n, 3) one of each connected piece of its surface."""
        from gullyrise.core.geometry.topology import points_of_shells

        return points_of_shells(self.mesh)

    def meets(self, other: _Piece) -> Points | None:
        """(3,) a place where two meet, by their surfaces or with a piece of one in the other's material."""
        meets, place = self.tree.crosses(other.tree)
        if not meets:
            place = other.held(self)
            place = self.held(other) if place is None else place
        return place

    def held(self, inner: _Piece) -> Points | None:
        """A corner of a piece of `inner` that lies in what this encloses; the surfaces do not cross."""
        from gullyrise.core.geometry.winding import inside

        box, points = self.mesh.box, inner.corners
        near = points[((points >= box.low) & (points <= box.high)).all(axis=1)]
        held = near[inside(self.mesh, near)] if len(near) else near
        return held[0] if len(held) else None


def _error(snapshot: Snapshot, points: Points) -> float:
    """Chord error where there are curved solids, and the rounding of single-precision files."""
    chord = max((body.chord_error or 0.0 for body in snapshot.part.bodies if len(body.mesh.faces) > 12), default=0.0)
    return chord + 1e-6 * float(np.ptp(points, axis=0).max(initial=0.0))


def _machines_that_fit(snapshot: Snapshot, points: Points, copies: list[Mesh], machine: Machine, inside: bool) -> list[str]:
    """Ids of the machines that hold the part as it stands, moved to the middle of each bed."""
    fits = [machine.id] if inside else []
    box = Box.of(points)
    for other in snapshot.library:
        if other.id == machine.id:
            continue
        move, kept = in_the_middle(box, other), Kept.on(other)
        moved = move.apply(points)
        holds = outside(moved, other, kept).max(initial=0.0) <= 0
        if holds and min(side.slack for side in sides_of(moved, other, kept)) >= -SAME:
            fits += [] if entered([mesh.placed(move) for mesh in copies], other) else [other.id]
    return sorted(fits)


def _turned(points: Points, copies: list[Mesh], machine: Machine, kept: Kept, inside: bool) -> dict[str, Any]:
    """What turning would do: `about_z` and `any` are the moves of the machine's space (4 x 4) that bring the part inside or null;
    `excess` the least by which it sticks out however it is turned; `proved` whether that it never fits is proved."""
    if inside:
        return {"fits": True, "about_z": None, "any": None, "excess": 0.0, "proved": True}
    room = Room.of(machine, kept.edge, kept.top)
    hull = hull_points(points)
    level = best_turn_about_z(hull, room)
    move = _placed(level, hull, copies, machine, kept)
    if move is not None:
        return {"fits": True, "about_z": move, "any": move, "excess": level.excess, "proved": True}
    best = best_turn(hull, room)
    move = _placed(best, hull, copies, machine, kept)
    return {"fits": move is not None, "about_z": None, "any": move, "excess": best.excess, "proved": best.proved}


def _placed(turn: Turned, hull: Points, copies: list[Mesh], machine: Machine, kept: Kept) -> list[list[float]] | None:
    """The move that turns the part and brings it to a place clear of keep-outs; None where there is none."""
    if turn.excess > SAME:
        return None
    matrix = np.eye(4)
    matrix[:3, :3] = turn.matrix
    turned = Transform.moved(-middle_of(hull)).then(Transform(matrix))
    points = turned.apply(hull)
    whole = turned.then(dropped(points))
    for move in _places(whole.apply(hull), machine, kept):
        tried = whole.then(move)
        if not entered([mesh.placed(tried) for mesh in copies], machine):
            return [[float(value) for value in row] for row in tried.matrix]
    return None


def _places(points: Points, machine: Machine, kept: Kept) -> list[Transform]:
    """Moves over the bed that keep points inside: to its middle first, then, where there are keep-outs, over a grid."""
    from gullyrise.core.placing.circle import least_circle

    if machine.envelope.shape == "cylinder":
        middle, radius = least_circle(points[:, :2])
        room = float(machine.envelope.box.high[0]) - kept.edge - radius
        shifts = [np.zeros(2)]
        shifts += [
            np.array([np.cos(angle), np.sin(angle)]) * max(room, 0.0) * share
            for share in (0.5, 1.0)
            for angle in np.linspace(0, 2 * np.pi, _STEPS, endpoint=False)
        ]
    else:
        middle = middle_of(points)[:2]
        spare = np.maximum(machine.envelope.box.size[:2] / 2 - kept.edge - np.ptp(points, axis=0)[:2] / 2, 0.0)
        steps = np.linspace(-1, 1, _STEPS // 2 + 1)
        shifts = sorted((np.array([x, y]) * spare for x in steps for y in steps), key=lambda shift: float(np.hypot(*shift)))
    if not machine.blocked:
        shifts = shifts[:1]
    home = machine.envelope.middle[:2] - middle
    return [Transform.moved(np.array([*(home + shift), 0.0])) for shift in shifts]


def _findings(
    snapshot: Snapshot, sides: list[Side], sunk: float, blocked: list[KeepOut], meets: list[tuple[str, Points]],
    points: Points, error: float, machine: Machine,
) -> list[Finding]:  # fmt: skip
    out = []

    back = snapshot.placement.inverse()

    def tell(code: str, of: tuple[str, ...], what: str, value: float | None, place: Points, along: Points | None = None) -> None:
        found = Finding(what, value, "mm", spot(place), past=1.0, collides=code == "meets", code=code, of=of)
        if along is not None and value:
            found = replace(found, shown="side", along=spot(along), ends=(spot(place), spot(place - along * value)))
        elif code == "too-little":
            found = replace(found, around=outermost(points))
        out.append(found.placed(back))

    middle = points.mean(axis=0)
    for side in sides:
        if side.slack >= -error:
            continue
        way = None
        if side.axis is not None:
            place = points[int(np.argmax(side.sign * points[:, side.axis]))]
            way = np.eye(3)[side.axis] * side.sign
        elif side.machine:
            place = points[int(np.argmax(np.hypot(*points[:, :2].T)))]
            way = np.array([*(place[:2] / np.hypot(*place[:2])), 0.0])
        else:
            place = points[int(np.argmax(np.hypot(*(points - middle)[:, :2].T)))]
        code, what = ("outside", "outside the build volume at {}") if side.machine else ("too-little", "wants more than {} gives")
        tell(code, (side.name,), what.format(side.words), -side.slack, place, way)
    if sunk > 0:
        tell("sunk", (), "is sunk into the bed", sunk, points[int(np.argmin(points[:, 2]))], _DOWN)
    elif _floats(sunk, machine):
        tell("floats", (), "floats above the bed", -sunk, points[int(np.argmin(points[:, 2]))], -_DOWN)
    for keep in blocked:
        corner = keep.box.middle
        what = f"enters a keep-out of the machine{f' ({keep.name})' if keep.name else ''}"
        tell("keep-out", (keep.name,), what, None, points[int(np.argmin(np.linalg.norm(points - corner, axis=1)))])
    for name, place in meets:
        tell("meets", (name,), f"meets {name}", None, place)
    return sorted(out, key=lambda finding: (-finding.collides, -(finding.value or 0.0)))


def _floats(sunk: float, machine: Machine) -> bool:
    """Whether a part on a printer starts in the air; on a mill it may stand on something."""
    return machine.process == "print" and -sunk > machine.layer


def _turning(turned: dict[str, Any]) -> str:
    """What turning would do for a part that stands out."""
    if turned["fits"]:
        return "It would fit turned about the vertical." if turned["about_z"] else "It would fit turned."
    if turned["proved"]:
        return f"However it is turned, it stays outside the build volume; by {number(turned['excess'])} mm at best."
    return "No turn was found that fits."


def _judged(
    tightest: Side, sunk: float, blocked: list[KeepOut], meets: list[tuple[str, Points]], turned: dict[str, Any],
    error: float, machine: Machine,
) -> tuple[Verdict, str]:  # fmt: skip
    slack = tightest.slack
    if slack < -error and not tightest.machine:
        return "fail", f"On {machine.name} it wants {number(-slack)} mm more than {tightest.words} gives."
    if slack < -error:
        by = f"It stands {number(-slack)} mm outside the build volume of {machine.name} at {tightest.words}."
        return "fail", f"{by} {_turning(turned)}"
    if sunk > error:
        return "fail", f"It is sunk {number(sunk)} mm into the bed; drop it."
    if blocked:
        names = ", ".join(dict.fromkeys(keep.name for keep in blocked if keep.name))
        return "fail", f"It enters a keep-out of {machine.name}{f' ({names})' if names else ''}; move it clear."
    if meets:
        names = ", ".join(dict.fromkeys(name for name, _ in meets))
        return "fail", f"It meets {names}; move them apart."
    if _floats(sunk, machine):
        return "fail", f"It floats {number(-sunk)} mm above the bed; drop it."
    if slack <= error:
        return "review", f"At {tightest.words} the slack of {number(slack)} mm is within the uncertainty of {number(error)} mm."
    if sunk > 0:
        return "review", f"It is sunk {number(sunk)} mm into the bed, within the uncertainty of {number(error)} mm."
    where = f"at {tightest.words}" if tightest.machine else f"in {tightest.words}"
    return "pass", f"It stays inside {machine.name} with {number(slack)} mm to spare {where}."
