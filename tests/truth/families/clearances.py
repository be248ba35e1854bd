"""Clearances: running fits of solids, balls, bodies in cavities, overlaps small against their bodies, crowds of blocks."""

from __future__ import annotations

import numpy as np
from manifold3d import Manifold

import zoo
from truth.families import solids
from truth.families.case import Case, Random


def running_fit(rng: Random) -> Case:
    """A pin in a hole of a solid, off the middle by less than the clearance; the gap at its nearest."""
    radius, room = rng.uniform(2, 40), rng.uniform(0.01, 0.2)
    off = rng.uniform(0, 0.8) * room
    hole = solids.rod((0, 0, -1), radius + room, 40)
    plate = solids.cut(solids.block((-radius - 12, -radius - 12, 0), (radius + 12, radius + 12, 25)), hole)
    turn = rng.uniform(0, 2 * np.pi)
    pin = solids.rod((off * np.cos(turn), off * np.sin(turn), -6), radius, 45)
    return Case("clearances", (solids.body(plate), solids.body(pin)), float(room - off), "min_gap", stays=True)


def press_fit(rng: Random) -> Case:
    """A pin too thick for its hole all round: they run into each other, by half of the difference of the diameters."""
    radius, over = rng.uniform(4, 30), rng.uniform(0.05, 0.4)
    plate = solids.cut(
        solids.block((-radius - 12, -radius - 12, 0), (radius + 12, radius + 12, 25)), solids.rod((0, 0, -1), radius, 40)
    )
    pin = solids.rod((0, 0, -6), radius + over, 45)
    return Case(
        "clearances",
        (solids.body(plate), solids.body(pin)),
        0.0,
        "min_gap",
        stays=True,
        limit_at=0.02,
        doubt=-over,
        reading=False,
    )


def balls_of_solids(rng: Random) -> Case:
    a, b, gap = rng.uniform(2, 20), rng.uniform(2, 20), rng.uniform(0.01, 0.6)
    return Case(
        "clearances",
        (solids.body(solids.ball((0, 0, 0), a)), solids.body(solids.ball((a + b + gap, 0, 0), b))),
        gap,
        "min_gap",
        stays=True,
    )


def ball_in_a_ring(rng: Random) -> Case:
    ring, thick, gap = rng.uniform(10, 30), rng.uniform(2, 5), rng.uniform(0.02, 0.4)
    inner = solids.body(solids.rod((0, 0, -30), ring - thick - gap, 60))
    return Case("clearances", (solids.body(solids.ring((0, 0, 0), ring, thick)), inner), gap, "min_gap", stays=True)


def cone_in_a_cone(rng: Random) -> Case:
    gap, low, high, length = rng.uniform(0.02, 0.4), rng.uniform(3, 8), rng.uniform(10, 20), rng.uniform(15, 30)
    lean = np.arctan2(high - low, length)
    wide = gap / np.cos(lean)
    hole = solids.cone((0, 0, 0), low + wide, high + wide, length)
    holder = solids.cut(solids.block((-30, -30, 0), (30, 30, length)), hole)
    # The plug stays clear of both mouths, so that the nearest way is square to the sides.
    share = 0.25
    plug = solids.cone(
        (0, 0, share * length), low + share * (high - low), low + (1 - share) * (high - low), length * (1 - 2 * share)
    )
    return Case("clearances", (solids.body(holder), solids.body(plug)), gap, "min_gap", stays=True)


def plates_in_one_mesh(rng: Random) -> Case:
    gap = rng.uniform(0.05, 1.5)
    return Case("clearances", (zoo.parallel_plates(gap),), gap, "min_gap")


def pin_in_a_block(rng: Random) -> Case:
    gap, radius, sides = rng.uniform(0.05, 0.8), rng.uniform(2, 6), int(rng.choice([24, 48, 96]))
    block = zoo.block((-12, -12, 0), (12, 12, 8)) - Manifold.cylinder(10, radius + gap, radius + gap, sides).translate((0, 0, -1))
    shaft = Manifold.cylinder(14, radius, radius, sides).translate((0, 0, -3))
    return Case("clearances", (block, shaft), gap, "min_gap")


def balls(rng: Random) -> Case:
    gap = rng.uniform(0.05, 1.5)
    a, b = Manifold.sphere(5, 64), Manifold.sphere(3, 64).translate((8 + gap, 0, 0))
    return Case("clearances", (a, b), gap, "min_gap")


def ball_loose_in_a_cavity(rng: Random) -> Case:
    """All in one mesh: a block with a cavity, and a ball in it that touches nothing."""
    cavity, gap, sides = rng.uniform(4, 9), rng.uniform(0.1, 1.0), int(rng.choice([48, 96]))
    block = zoo.block((-12, -12, -12), (12, 12, 12)) - Manifold.sphere(cavity, sides)
    inner = Manifold.sphere(cavity - gap - 0.4, sides).translate((0.4, 0, 0))
    return Case("clearances", (zoo.as_one(zoo.mesh_of(block), zoo.mesh_of(inner)),), gap, "min_gap")


def cube_loose_in_a_cavity(rng: Random) -> Case:
    cavity, gap = rng.uniform(4, 9), rng.uniform(0.1, 1.0)
    block = zoo.block((-12,) * 3, (12,) * 3) - zoo.block((-cavity,) * 3, (cavity,) * 3)
    inner = zoo.block((-cavity + gap, -cavity + 1.5, -cavity + 2), (cavity - 1.2, cavity - 1.4, cavity - 3))
    return Case("clearances", (zoo.as_one(zoo.mesh_of(block), zoo.mesh_of(inner)),), gap, "min_gap")


def pin_into_a_large_plate(rng: Random) -> Case:
    """An overlap that is nothing against the plate; it fails whatever is wanted."""
    size, deep, radius = rng.uniform(100, 400), rng.uniform(0.05, 4), rng.uniform(0.3, 2)
    plate = zoo.block((0, 0, 0), (size, size, 6))
    pin = Manifold.cylinder(10, radius, radius, 24).translate((size * rng.uniform(0.2, 0.8), size * 0.4, 6 - deep))
    return Case("clearances", (plate, pin), 0.0, "min_gap", stays=True, limit_at=0.0, doubt=-1e-4, reading=False)


def balls_into_each_other(rng: Random) -> Case:
    """Deeper than the facets hide: they fail where nothing at all is wanted, too."""
    deep = rng.uniform(0.3, 1.0)
    a, b = Manifold.sphere(5, 128), Manifold.sphere(4, 128).translate((9 - deep, 0, 0))
    return Case("clearances", (a, b), 0.0, "min_gap", limit_at=0.0, doubt=-1e-4, reading=False)


def blocks_in_a_crowd(rng: Random) -> Case:
    gap, many = rng.uniform(0.05, 0.4), int(rng.integers(3, 15))
    step = 1 + gap
    blocks = [
        zoo.mesh_of(zoo.block((i * step, j * step, 0), (i * step + 1, j * step + 1, 1))) for i in range(many) for j in range(many)
    ]
    return Case("clearances", (zoo.as_one(*blocks),), gap, "min_gap", reading=False)


def rib_sunk_into_a_plate(rng: Random) -> Case:
    """Shells of one mesh that overlap are one solid: nothing to keep clear of."""
    deep = rng.uniform(0.1, 2)
    a, b = zoo.block((0, 0, 0), (40, 30, 3)), zoo.block((10, 5, 3 - deep), (12, 20, 12))
    return Case("clearances", (zoo.as_one(zoo.mesh_of(a), zoo.mesh_of(b)),), 1.0, "min_gap", limit_at=0.3, reading=False)


def few_facets_that_meet(rng: Random) -> Case:
    """Bodies of four to six faces whose boxes meet."""
    gap = rng.uniform(0.1, 1.0)
    a = Manifold.hull_points([(0, 0, 0), (10, 0, 0), (0, 10, 0), (0, 0, 10)])
    # Its slanted face is x + y + z = 10; the other's corner stands off it.
    corner = 10 / 3 + gap / np.sqrt(3)
    b = Manifold.hull_points(
        [(corner,) * 3, (corner + 8, corner, corner), (corner, corner + 8, corner), (corner, corner, corner + 8)]
    )
    return Case("clearances", (a, b), gap, "min_gap")


ALL = (
    running_fit, press_fit, balls_of_solids, ball_in_a_ring, cone_in_a_cone, plates_in_one_mesh, pin_in_a_block, balls,
    ball_loose_in_a_cavity, cube_loose_in_a_cavity, pin_into_a_large_plate, balls_into_each_other, blocks_in_a_crowd,
    rib_sunk_into_a_plate, few_facets_that_meet,
)  # fmt: skip
