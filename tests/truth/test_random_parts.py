"""Two hundred parts at random, seeded: what breaks its limit by more than the stated uncertainty never passes, and what keeps
it by more than that passes but for two in a hundred."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import pytest
from manifold3d import Manifold

import zoo
from gullyrise.core.checks.protocol import Outcome, Verdict
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.machines.library import default_machine, machine_named

_EACH = 7
_Random = np.random.Generator


@dataclass(frozen=True)
class Case:
    """least : whether the limit is a least value;  value : the true one;  limit : its name;  turned : whether its attitude is
    free
    doubt : how far from the limit the truth has to be, where the outcome does not state it in the limit's unit"""

    check: str
    mesh: Mesh
    value: float
    limit: str
    least: bool = True
    turned: bool = True
    more: tuple[Mesh, ...] = ()
    doubt: float = 0.0


def _sides(rng: _Random) -> int:
    return int(rng.choice([24, 36, 64, 120]))


def rib(rng: _Random) -> Case:
    wall = rng.uniform(0.6, 2.5)
    return Case("walls", zoo.mesh_of(zoo.ribbed_plate(wall)), wall, "min_wall")


def tube(rng: _Random) -> Case:
    wall, outer, sides = rng.uniform(0.5, 2.5), rng.uniform(6, 12), _sides(rng)
    mesh = zoo.mesh_of(zoo.tube(outer, outer - wall, rng.uniform(8, 30), sides))
    # Between the flats of the facets, which is where it is thinnest.
    return Case("walls", mesh, wall * float(np.cos(np.pi / sides)), "min_wall")


def box(rng: _Random) -> Case:
    wall = rng.uniform(0.5, 2.8)
    return Case("walls", zoo.mesh_of(zoo.hollow_box(rng.uniform(10, 20), wall)), wall, "min_wall")


def pocket(rng: _Random) -> Case:
    floor = rng.uniform(0.6, 2.5)
    return Case("walls", zoo.mesh_of(zoo.blind_pocket(floor)), floor, "min_wall")


def blunt(rng: _Random) -> Case:
    end = rng.uniform(0.5, 2.0)
    return Case("walls", zoo.mesh_of(zoo.blunt_wedge(end)), zoo.blunt_wedge_ball(end), "min_wall")


def web(rng: _Random) -> Case:
    thin, sides = rng.uniform(0.4, 1.2), _sides(rng)
    mesh = zoo.mesh_of(zoo.bore_near_side(thin, sides))
    # A flat or a corner of the bore's facets points to the side.
    nearest = float(mesh.vertices[np.hypot(mesh.vertices[:, 0] - 20, mesh.vertices[:, 1] - 37 + thin) < 3.001][:, 1].max())
    return Case("walls", mesh, 40.0 - nearest, "min_wall")


def plates(rng: _Random) -> Case:
    gap = rng.uniform(0.05, 1.5)
    return Case("clearances", zoo.mesh_of(zoo.parallel_plates(gap)), gap, "min_gap")


def pin(rng: _Random) -> Case:
    gap, radius, sides = rng.uniform(0.05, 0.8), rng.uniform(2, 6), _sides(rng)
    block = zoo.block((-12, -12, 0), (12, 12, 8)) - Manifold.cylinder(10, radius + gap, radius + gap, sides).translate((0, 0, -1))
    shaft = Manifold.cylinder(14, radius, radius, sides).translate((0, 0, -3))
    return Case("clearances", zoo.mesh_of(block), gap * float(np.cos(np.pi / sides)), "min_gap", more=(zoo.mesh_of(shaft),))


def spheres(rng: _Random) -> Case:
    gap = rng.uniform(0.05, 1.5)
    # Corners of the two meshes lie on the line between their middles.
    a, b = Manifold.sphere(5, 64), Manifold.sphere(3, 64).translate((8 + gap, 0, 0))
    return Case("clearances", zoo.mesh_of(a), gap, "min_gap", more=(zoo.mesh_of(b),))


def leaning(rng: _Random) -> Case:
    lean = rng.uniform(5, 80)
    out = float(np.tan(np.radians(lean)) * 15)
    solid = Manifold.hull_points([(x, y, z) for y in (0, 12) for x, z in ((0, 0), (10, 0), (10 + out, 15), (0, 15))])
    mesh = zoo.mesh_of(solid).placed(Transform.turned(np.array([0.0, 0.0, 1.0]), rng.uniform(0, 360)))
    return Case("overhangs", mesh, lean, "overhang_angle", least=False, turned=False, doubt=0.1)


def flared(rng: _Random) -> Case:
    rise, out, sides = rng.uniform(6, 20), rng.uniform(1, 18), _sides(rng)
    lean = float(np.degrees(np.arctan2(out * np.cos(np.pi / sides), rise)))
    return Case(
        "overhangs",
        zoo.mesh_of(Manifold.cylinder(rise, 8, 8 + out, sides)),
        lean,
        "overhang_angle",
        least=False,
        turned=False,
        doubt=6.0,
    )


def rounded_pocket(rng: _Random) -> Case:
    radius = rng.uniform(1.5, 4.5)
    corners = [
        Manifold.cylinder(9, radius, radius, 96).translate((x, y, 6))
        for x in (8 + radius, 32 - radius)
        for y in (8 + radius, 24 - radius)
    ]
    body = zoo.block((0, 0, 0), (40, 32, 12)) - Manifold.batch_hull(corners)
    turn = Transform.turned(np.array([0.0, 0.0, 1.0]), rng.uniform(0, 360))
    # The largest tool that goes into its corners.
    return Case("access", zoo.mesh_of(body).placed(turn), 2 * radius, "tool_diameter", turned=False, doubt=0.4)


MAKERS: tuple[Callable[[_Random], Case], ...] = (
    rib, tube, box, pocket, blunt, web, rib, tube, box, pocket, blunt, web, plates, plates, plates, pin, pin, pin, spheres,
    spheres, leaning, leaning, leaning, leaning, flared, flared, flared, rounded_pocket, rounded_pocket, spheres,
)  # fmt: skip


def _judged(case: Case, rng: _Random) -> tuple[Outcome, float]:
    """(the outcome under a limit near the true value, that limit)."""
    limit = float(case.value * rng.uniform(0.6, 1.5))
    if case.check == "overhangs":
        limit = min(limit, 88.0)
    meshes = [case.mesh, *case.more]
    if case.turned:
        axis = rng.normal(size=3)
        turn = Transform.turned(axis, rng.uniform(0, 360)).then(Transform.moved(rng.uniform(-100, 100, 3)))
        meshes = [mesh.placed(turn) for mesh in meshes]
    if rng.random() < 0.5:
        meshes = [Mesh(mesh.vertices.astype(np.float32).astype(float), mesh.faces) for mesh in meshes]
    machine = machine_named("alder-mill") if case.check == "access" else default_machine()
    given: dict[str, object] = {case.limit: limit}
    if case.check == "access":
        given |= {"setups": ("+z",), "tool_reach": 40.0}
    # Gaps and walls are asked for one at a time.
    given |= {"min_gap": 0.0} if case.limit == "min_wall" else {}
    return zoo.outcome(case.check, zoo.part(meshes[0], "part", *meshes[1:]), machine, **given), limit


def _expected(case: Case, found: Outcome, limit: float) -> Verdict:
    """fail or pass where the truth is farther from the limit than the uncertainty, else review for either."""
    doubt = case.doubt or found.uncertainty or 0.0
    off = case.value - limit if case.least else limit - case.value
    return "review" if abs(off) <= doubt else "pass" if off > 0 else "fail"


@pytest.mark.slow
@pytest.mark.parametrize("batch", range(30))
def test_nothing_passes_that_should_not_and_little_is_held_up_that_should_pass(batch: int) -> None:
    rng = np.random.default_rng(2026 + batch)
    make = MAKERS[batch]
    alarms = []
    for number in range(_EACH):
        case = make(rng)
        found, limit = _judged(case, rng)
        words = f"{make.__name__} {number}: {case.value:.4f} at a limit of {limit:.4f}: {found.verdict}, {found.why}"
        expected = _expected(case, found, limit)
        if expected == "fail":
            assert found.verdict != "pass", words
        if expected == "pass" and found.verdict != "pass":
            alarms.append(words)
        if case.check in ("walls", "clearances") and found.worst is not None:
            assert found.worst.value == pytest.approx(case.value, abs=(found.uncertainty or 0) + 1e-6), words
    assert not alarms, f"{len(alarms)} of {_EACH} were held up: {alarms}"
