"""Does a thing stay inside a machine as it stands: slack on each side, keep-outs, what a mill's stock and travel allow."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from gullyrise.core.geometry import Box, Floats, Mesh, Points
from gullyrise.core.machines import KeepOut, Machine
from gullyrise.core.placing.circle import least_circle

_SIDES = (("left", "right"), ("front", "back"))
_FACETS = 360
_ROUNDING = 1e-6


@dataclass(frozen=True, slots=True)
class Kept:
    """Kept free inside the envelope, mm."""

    edge: float
    top: float

    @classmethod
    def on(cls, machine: Machine) -> Kept:
        """What the machine itself asks for."""
        limits = machine.full_limits()
        return cls(limits.edge_margin or 0.0, limits.top_margin or 0.0)


@dataclass(frozen=True, slots=True)
class Side:
    """name : which one
    words : of it, after `at` or `than`
    slack : mm, negative where it sticks out
    machine : whether it is one of the envelope, else one of what a mill holds and moves
    axis, sign : where on the thing, None for all round
    """

    name: str
    words: str
    slack: float
    machine: bool = True
    axis: int | None = None
    sign: int = 1


def sides_of(points: Points, machine: Machine, kept: Kept) -> list[Side]:
    """Slack of points (n, 3) on every side of the envelope, the bed included, and of what a mill holds and moves."""
    room = machine.envelope.box
    box = Box.of(points)
    if machine.envelope.shape == "cylinder":
        radial = float(room.high[0]) - kept.edge - float(np.hypot(points[:, 0], points[:, 1]).max())
        sides = [Side("edge", "the edge", radial)]
    else:
        sides = []
        for axis in range(2):
            low = float(box.low[axis] - room.low[axis] - kept.edge)
            high = float(room.high[axis] - kept.edge - box.high[axis])
            a, b = _SIDES[axis]
            sides += [Side(a, f"the {a}", low, axis=axis, sign=-1), Side(b, f"the {b}", high, axis=axis)]
    sides.append(Side("top", "the top", float(room.high[2] - kept.top - box.high[2]), axis=2))
    return [*sides, *_milling(points, machine)]


def below_bed(points: Points) -> float:
    """mm by which the lowest point is sunk into the bed (0 within rounding), or negative: by how much it floats."""
    low = -float(points[:, 2].min())
    return 0.0 if abs(low) <= _ROUNDING else low


def slack_words(points: Points, machine: Machine, kept: Kept) -> dict[str, Any]:
    """Slack as the contract has it."""
    sides = {side.words: side.slack for side in sides_of(points, machine, kept)}
    z = [float(points[:, 2].min() - machine.envelope.box.low[2]), sides["the top"]]
    if machine.envelope.shape == "cylinder":
        return {"radial": [sides["the edge"]], "z": z}
    return {"x": [sides["the left"], sides["the right"]], "y": [sides["the front"], sides["the back"]], "z": z}


def _milling(points: Points, machine: Machine) -> list[Side]:
    size = np.ptp(points, axis=0)
    out: list[Side] = []
    stock, travel = machine.stock, machine.travel
    gripped = machine.clamping.height if machine.clamping is not None else 0.0
    if stock is not None:
        wanted = size + 2 * stock.allowance
        if stock.size is not None:
            x, y, z = stock.size
            ways = [(x - wanted[0], y - wanted[1]), (y - wanted[0], x - wanted[1])]
            length, depth = max(ways, key=min)
            out += [
                Side("stock-x", "the stock along X", float(length), False),
                Side("stock-y", "the stock along Y", float(depth), False),
            ]
            out.append(Side("stock-z", "the stock above its clamping height", float(z - gripped - wanted[2]), False))
        else:
            round_ = 2 * (least_circle(points[:, 1:])[1] + stock.allowance)
            out.append(Side("bar-length", "the bar's length", float((stock.length or 0.0) - wanted[0]), False))
            out.append(Side("bar-diameter", "the bar's diameter", float((stock.diameter or 0.0) - round_), False))
    if travel is not None:
        widest = max((tool.diameter for tool in machine.tool), default=0.0)
        longest = max((tool.reach for tool in machine.tool), default=0.0)
        top = float(points[:, 2].max())
        out.append(Side("travel-x", "the travel in X with the tool beside the part", float(travel.x - size[0] - widest), False))
        out.append(Side("travel-y", "the travel in Y with the tool beside the part", float(travel.y - size[1] - widest), False))
        out.append(Side("headroom", "the headroom over the part with the longest tool", travel.headroom - longest - top, False))
        lowest = travel.headroom - travel.z - longest
        out.append(Side("travel-z", "the travel down to the clamping height", gripped - lowest, False))
    return out


def outside(points: Points, machine: Machine, kept: Kept) -> Floats:
    """(n,) how far each point stands out of the room inside the margins, mm; negative inside."""
    room = machine.envelope.box
    above = points[:, 2] - (room.high[2] - kept.top)
    # Rounding of a part lowered to the bed is no excess.
    below = room.low[2] - points[:, 2] - _ROUNDING
    if machine.envelope.shape == "cylinder":
        radial = np.hypot(points[:, 0], points[:, 1]) - (room.high[0] - kept.edge)
        return np.asarray(np.maximum.reduce([radial, above, below]))
    low = room.low[:2] + kept.edge - points[:, :2]
    high = points[:, :2] - (room.high[:2] - kept.edge)
    return np.asarray(np.maximum.reduce([low[:, 0], low[:, 1], high[:, 0], high[:, 1], above, below]))


def entered(copies: list[Mesh], machine: Machine) -> list[KeepOut]:
    """The keep-outs that any of some meshes reaches into."""
    return [keep for keep in machine.blocked if _enters(copies, keep)]


def block_of(keep: KeepOut) -> Mesh:
    """A keep-out as a mesh. A round one is of facets laid round it, so that it is nowhere smaller than it should be."""
    import manifold3d

    if keep.center is None:
        low, high = keep.box.low, keep.box.high
        solid = manifold3d.Manifold.cube(tuple(high - low)).translate(tuple(low))
    else:
        radius = (keep.diameter or 0.0) / 2 / np.cos(np.pi / _FACETS)
        solid = manifold3d.Manifold.cylinder(keep.height or 0.0, radius, radius, _FACETS).translate(tuple(keep.center))
    found = solid.to_mesh64()
    return Mesh(np.asarray(found.vert_properties)[:, :3], np.asarray(found.tri_verts).astype(np.int32))


def _enters(copies: list[Mesh], keep: KeepOut) -> bool:
    """Whether any surface reaches into a keep-out, or a copy holds it whole."""
    from gullyrise.core.geometry.nearest import Tree
    from gullyrise.core.geometry.topology import points_of_shells
    from gullyrise.core.geometry.winding import inside

    if min(keep.box.size) <= 0:
        return False
    block = block_of(keep)
    near = [mesh for mesh in copies if mesh.box.gap_to(block.box) <= 0]
    if not near:
        return False
    tree = Tree(block)
    return any(
        tree.crosses(Tree(mesh))[0] or inside(block, points_of_shells(mesh)).any() or inside(mesh, block.vertices[:1])[0]
        for mesh in near
    )
