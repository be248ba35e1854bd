"""Overhangs: faces that lean, bodies that stand on bodies, shells that go through each other; and tool access of pockets."""

from __future__ import annotations

import numpy as np
from manifold3d import Manifold

import zoo
from gullyrise.core.geometry import Transform
from truth.families.case import Case, Random


def leaning(rng: Random) -> Case:
    lean = rng.uniform(5, 80)
    out = float(np.tan(np.radians(lean)) * 15)
    solid = Manifold.hull_points([(x, y, z) for y in (0, 12) for x, z in ((0, 0), (10, 0), (10 + out, 15), (0, 15))])
    return Case("overhangs", (solid,), lean, "overhang_angle", least=False, upright=True, stays=True, doubt=0.1, reading=False)


def _nothing_hangs(*bodies: Manifold, one: bool) -> Case:
    meshes = [zoo.mesh_of(body) for body in bodies]
    given = (zoo.as_one(*meshes),) if one else tuple(meshes)
    return Case(
        "overhangs", given, 0.0, "overhang_angle", least=False, upright=True, stays=True, doubt=0.1, reading=False, limit_at=45.0
    )


def stacked(rng: Random) -> Case:
    """A smaller block on a larger one, and a rod on that, exactly on each other."""
    a, b, c = rng.uniform(15, 30), rng.uniform(6, 14), rng.uniform(2, 5)
    h, k = rng.uniform(2, 10, 2)
    low = zoo.block((-a, -a, 0), (a, a, h))
    middle = zoo.block((-b, -b, h), (b, b, h + k))
    rod = Manifold.cylinder(8, c, c, 48).translate((0, 0, h + k))
    return _nothing_hangs(low, middle, rod, one=bool(rng.random() < 0.5))


def gone_through(rng: Random) -> Case:
    """A rib that goes down into a plate, and a rod through both, never united."""
    deep, lean = rng.uniform(0.2, 2.5), rng.uniform(0, 30)
    plate, rib = zoo.block((-20, -20, 0), (20, 20, 3)), zoo.block((-1.5, -12, 3 - deep), (1.5, 12, 15))
    rod = Manifold.cylinder(14, 2, 2, 48).translate((0, 0, 0.5)).rotate((0, 0, lean))
    return _nothing_hangs(plate, rib, rod, one=bool(rng.random() < 0.5))


def shelf_on_a_wall(rng: Random) -> Case:
    """A shelf that goes into a wall and hangs over air beyond it: that is told, however it is made."""
    out = rng.uniform(3, 20)
    wall, shelf = zoo.block((0, 0, 0), (4, 30, 30)), zoo.block((2, 5, 20), (4 + out, 25, 24))
    given: tuple[Manifold, ...] = (wall, shelf)
    meshes = tuple(zoo.mesh_of(body) for body in given)
    bodies = (zoo.as_one(*meshes),) if rng.random() < 0.5 else meshes
    return Case(
        "overhangs",
        bodies,
        90.0,
        "overhang_angle",
        least=False,
        upright=True,
        stays=True,
        doubt=0.1,
        reading=False,
        limit_at=45.0,
    )


def pocket(rng: Random) -> Case:
    """The largest tool that goes into the corners of a rounded pocket."""
    radius = rng.uniform(1.5, 4.5)
    corners = [
        Manifold.cylinder(9, radius, radius, 96).translate((x, y, 6))
        for x in (8 + radius, 32 - radius)
        for y in (8 + radius, 24 - radius)
    ]
    body = zoo.block((0, 0, 0), (40, 32, 12)) - Manifold.batch_hull(corners)
    return Case(
        "access", (body,), 2 * radius, "tool_diameter", least=True, upright=True, stays=True, doubt=0.4, reading=False,
        asked={"setups": ("+z",), "tool_reach": 40.0},
    )  # fmt: skip


def slot_wider_than_the_tool(rng: Random) -> Case:
    """A slot a little wider than the tool is touched all over."""
    tool, more = rng.uniform(3, 8), rng.uniform(0.06, 0.6)
    body = zoo.block((0, 0, 0), (60, 40, 12)) - zoo.block((20, -1, 5), (20 + tool + more, 41, 13))
    mesh = zoo.mesh_of(body).placed(Transform.turned(np.array([0.0, 0.0, 1.0]), float(rng.uniform(0, 90))))
    return Case(
        "access", (mesh,), tool + more, "tool_diameter", least=True, upright=True, stays=True, doubt=0.04, reading=False,
        limit_at=tool,
        asked={"setups": ("+z",), "tool_reach": 40.0},
    )  # fmt: skip


ALL = (leaning, stacked, gone_through, shelf_on_a_wall, pocket, slot_wider_than_the_tool)
