"""Parts with known answers, made in code: each carries what it should measure, in mm, mm2 and mm3."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection, Manifold

from gullyrise.core.checks.protocol import Outcome, Snapshot
from gullyrise.core.checks.registry import run_check
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.joining import joined
from gullyrise.core.geometry.mesh import merged
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.machines.library import default_machine, library
from gullyrise.core.part import Body, Part
from gullyrise.core.placing.bed import in_the_middle

COARSE, FINE = 36, 120
TURNS = (
    Transform.identity(),
    Transform.turned(np.array([1.0, 2.0, 3.0]), 37.0),
    Transform.turned(np.array([-2.0, 1.0, 0.5]), 110.0).then(Transform.moved(np.array([250.0, -80.0, 31.0]))),
)


@dataclass(frozen=True)
class Known:
    """wall : thinnest wall;  volume, gap : exact, or None where not meant."""

    name: str
    mesh: Mesh
    wall: float | None = None
    volume: float | None = None
    gap: float | None = None
    tapers: bool = False


def mesh_of(solid: Manifold) -> Mesh:
    found = solid.to_mesh64()
    return Mesh(np.asarray(found.vert_properties)[:, :3].copy(), np.asarray(found.tri_verts).astype(np.int32))


def block(low: tuple[float, float, float], high: tuple[float, float, float]) -> Manifold:
    return Manifold.cube(tuple(b - a for a, b in zip(low, high, strict=True))).translate(low)


def tube(outer: float, inner: float, height: float, sides: int) -> Manifold:
    return Manifold.cylinder(height, outer, outer, sides) - Manifold.cylinder(height + 2, inner, inner, sides).translate(
        (0, 0, -1)
    )


def sphere_shell(outer: float, inner: float, sides: int) -> Manifold:
    return Manifold.sphere(outer, sides) - Manifold.sphere(inner, sides)


def hollow_box(size: float, wall: float) -> Manifold:
    return block((0, 0, 0), (size, size, size)) - block((wall, wall, wall), (size - wall,) * 3)


def ribbed_plate(rib: float) -> Manifold:
    return block((0, 0, 0), (40, 30, 3)) + block((20 - rib / 2, 4, 2), (20 + rib / 2, 26, 14))


def t_slot() -> Manifold:
    return block((0, 0, 0), (40, 20, 12)) - block((16, -1, 7), (24, 21, 13)) - block((11, -1, 3), (29, 21, 7))


def wedge(degrees: float, length: float = 30.0) -> Manifold:
    rise = float(np.tan(np.radians(degrees)) * length)
    return CrossSection([[(0, 0), (length, 0), (0, rise)]]).extrude(20)


def mushroom(stem: float, cap: float) -> Manifold:
    """A cap of diameter `cap` on a stem, standing on the stem: the underside of the cap hangs."""
    return Manifold.cylinder(20, stem / 2, stem / 2, FINE) + Manifold.cylinder(4, cap / 2, cap / 2, FINE).translate((0, 0, 20))


def blind_pocket(floor: float) -> Manifold:
    return block((0, 0, 0), (40, 30, 12)) - block((10, 8, floor), (30, 22, 13))


def parallel_plates(gap: float) -> Manifold:
    return block((0, 0, 0), (30, 20, 4)) + block((0, 0, 4 + gap), (30, 20, 8 + gap))


def pin_on_plate(diameter: float, sides: int) -> Manifold:
    """A pin so small against its plate that an even spread of samples never meets it."""
    pin = Manifold.cylinder(3, diameter / 2, diameter / 2, sides).translate((33.3, 77.7, 4.9))
    return block((0, 0, 0), (100, 100, 5)) + pin


def bore_near_side(web: float, sides: int) -> Manifold:
    """A plate with a bore whose wall to the flat side is thinnest at one place, between two that lean like a wedge."""
    return block((0, 0, 0), (40, 40, 5)) - Manifold.cylinder(20, 3, 3, sides).translate((20, 37 - web, -5))


def blunt_wedge(end: float) -> Manifold:
    """A wedge of 17.6 degrees cut off at a width; its least ball touches both sides and the end."""
    return CrossSection([[(0, 0), (30, 0), (30, end), (0, end + 9.5)]]).extrude(20)


def blunt_wedge_ball(end: float) -> float:
    """Diameter of the ball that touches base, slope and end: 2 r with (end + t r - r) cos(a) = r, t the slope."""
    slope = 9.5 / 30
    cosine = 1 / np.hypot(1.0, slope)
    return float(2 * end * cosine / (1 + cosine * (1 - slope)))


def walls_zoo(sides: int) -> list[Known]:
    return [
        Known("tube", mesh_of(tube(8, 6.8, 30, sides)), wall=1.2, volume=np.pi * (8**2 - 6.8**2) * 30),
        Known("sphere shell", mesh_of(sphere_shell(20, 17, sides)), wall=3.0, volume=4 / 3 * np.pi * (20**3 - 17**3)),
        Known("hollow box", mesh_of(hollow_box(30, 2.0)), wall=2.0, volume=30**3 - 26**3),
        Known("ribbed plate", mesh_of(ribbed_plate(0.5)), wall=0.5),
        Known("t slot", mesh_of(t_slot()), wall=3.0),
        Known("blind pocket", mesh_of(blind_pocket(0.9)), wall=0.9, volume=40 * 30 * 12 - 20 * 14 * 11.1),
        Known("thin rod", mesh_of(Manifold.cylinder(20, 0.3, 0.3, sides)), wall=0.6, volume=np.pi * 0.09 * 20),
        Known("square bar", mesh_of(block((0, 0, 0), (0.6, 0.6, 20))), wall=0.6, volume=0.36 * 20),
        Known("sphere", mesh_of(Manifold.sphere(3, sides)), wall=6.0, volume=4 / 3 * np.pi * 27),
    ]


def part(mesh: Mesh, name: str = "part", *more: Mesh) -> Part:
    bodies = tuple(
        Body(name if number == 0 else f"{name} {number + 1}", "mesh", one, (Transform.identity(),))
        for number, one in enumerate((mesh, *more))
    )
    return Part(name, f"{name}.stl", "stl", "mm", "assumed", bodies)


def snapshot(subject: Part | Mesh, machine: Machine | None = None) -> Snapshot:
    chosen = machine or default_machine()
    one = part(subject) if isinstance(subject, Mesh) else subject
    return Snapshot(one, in_the_middle(one.box, chosen), chosen, tuple(library()))


def outcome(check: str, subject: Part | Mesh, machine: Machine | None = None, **limits: object) -> Outcome:
    """The first outcome of a check on the default machine, with some limits given."""
    shot = snapshot(subject, machine)
    chosen = shot.machine
    assert chosen is not None
    return run_check(check, shot, chosen.full_limits(Limits(**limits)))[0]


def as_one(*meshes: Mesh) -> Mesh:
    """Several meshes as one, equal vertices joined, nothing united."""
    whole = merged(list(meshes))
    return joined(whole.vertices, whole.faces)
