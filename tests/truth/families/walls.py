"""Walls: webs between inside edges, corners and points, pits and scores, bodies that touch, shells that overlap."""

from __future__ import annotations

import numpy as np
from manifold3d import CrossSection, Manifold
from shapely.geometry import Polygon

import zoo
from truth.families import solids
from truth.families.case import Case, Random


def _turned(profile: list[tuple[float, float]], sides: int) -> Manifold:
    return CrossSection([profile]).revolve(sides)


def _sides(rng: Random) -> int:
    return int(rng.choice([16, 24, 48, 96]))


def pockets_corner_to_corner(rng: Random) -> Case:
    dx, dy = rng.uniform(0.1, 1.0, 2)
    floor = rng.uniform(2, 4)
    a, b = rng.uniform(6, 14, 2)
    body = zoo.block((0, 0, 0), (40, 40, 10)) - zoo.block((4, 4, floor), (4 + a, 4 + b, 11))
    body -= zoo.block((4 + a + dx, 4 + b + dy, floor), (36, 36, 11))
    return Case("walls", (body,), float(np.hypot(dx, dy)), "min_wall")


def score_from_both_sides(rng: Random) -> Case:
    plate, left, off = rng.uniform(3, 8), rng.uniform(0.15, 0.9), rng.uniform(0, 0.3)
    upper = rng.uniform(0.3, 0.7) * (plate - left)
    half = rng.uniform(0.25, 1.2)
    low = plate - left - upper
    profile = CrossSection([[(0, 0), (40, 0), (40, plate), (0, plate)]])
    top = CrossSection([[(20 - half * upper, plate + 1e-3), (20, plate - upper), (20 + half * upper, plate + 1e-3)]])
    bottom = CrossSection([[(20 + off + half * low, -1e-3), (20 + off, low), (20 + off - half * low, -1e-3)]])
    # Beside a blunt score the tip of the other is nearer to its flank than to its tip.
    apart = np.hypot(left, off) if off * half <= left else (off + left * half) / np.hypot(1, half)
    return Case("walls", ((profile - top - bottom).extrude(float(rng.uniform(10, 80))),), float(apart), "min_wall")


def scores_that_cross(rng: Random) -> Case:
    plate, left = rng.uniform(3, 8), rng.uniform(0.15, 0.9)
    upper = rng.uniform(0.3, 0.7) * (plate - left)
    low = plate - left - upper

    def groove(depth: float) -> Manifold:
        return CrossSection([[(-depth, 1e-3), (0, -depth), (depth, 1e-3)]]).extrude(90).translate((0, 0, -45)).rotate((90, 0, 0))

    body = zoo.block((-25, -25, -plate), (25, 25, 0)) - groove(upper)
    under = groove(low).rotate((0, 180, 0)).rotate((0, 0, float(rng.uniform(70, 110)))).translate((0, 0, -plate))
    return Case("walls", (body - under,), left, "min_wall")


def groove_round_a_bar(rng: Random) -> Case:
    left, sides = rng.uniform(0.2, 1.2), _sides(rng)
    radius, lean = rng.uniform(3, 7), rng.uniform(0.2, 1.2)
    bar = _turned([(0, 0), (radius, 0), (radius, 10 - lean * (radius - left / 2)), (left / 2, 10),
                   (radius, 10 + lean * (radius - left / 2)), (radius, 22), (0, 22)], sides)  # fmt: skip
    return Case("walls", (bar,), left, "min_wall")


def groove_against_counterbore(rng: Random) -> Case:
    dx, dy = rng.uniform(0.15, 0.8), rng.uniform(0.15, 0.8)
    sides = int(rng.choice([48, 96]))
    bore = rng.uniform(3, 5)
    foot = rng.uniform(4, 6)
    # The counterbore's inside edge at (bore, foot) from above, the groove's at (bore + dx, foot - dy) from outside.
    profile = [(0.0, 0.0), (12, 0), (12, foot - dy - 2), (bore + dx, foot - dy - 2), (bore + dx, foot - dy), (12, foot - dy),
               (12, 14), (bore, 14), (bore, foot), (0, foot)]  # fmt: skip
    if foot - dy - 2 < 0.5:
        profile[2:6] = [(12, 0.5), (bore + dx, 0.5), (bore + dx, foot - dy), (12, foot - dy)]
    return Case("walls", (_turned(profile, sides),), float(np.hypot(dx, dy)), "min_wall")


def drill_points(rng: Random) -> Case:
    left, off, sides = rng.uniform(0.2, 1.0), rng.uniform(0, 0.3), _sides(rng)
    point = float(np.tan(np.radians(rng.uniform(20, 60))))
    drill = Manifold.cylinder(3 * point, 0, 3, sides)
    drill += Manifold.cylinder(9, 3, 3, sides).translate((0, 0, 3 * point))
    under = drill.rotate((180, 0, 0)).translate((off, 0, -left / 2))
    body = zoo.block((-12, -12, -9), (12, 12, 9)) - drill.translate((0, 0, left / 2)) - under
    # Off the line the tip comes nearest to the other cone's side where that leans out far enough.
    side = np.array([-1.0, -point]) / np.hypot(1, point)
    away = np.array([-off, left])
    nearest = away - max(float(away @ side), 0.0) * side
    return Case("walls", (body,), float(np.linalg.norm(nearest)), "min_wall")


def polygon_holes(rng: Random) -> Case:
    left = rng.uniform(0.2, 1.0)
    shapes = []
    for _ in range(2):
        n, turn = int(rng.integers(3, 8)), rng.uniform(0, 2 * np.pi)
        angle = turn + np.arange(n) * 2 * np.pi / n
        shapes.append(np.column_stack([np.cos(angle), np.sin(angle)]) * rng.uniform(2, 5))
    # Pushed together along x until they are so far apart.
    low, high = 0.0, 20.0
    for _ in range(60):
        middle = (low + high) / 2
        if Polygon(shapes[0]).distance(Polygon(shapes[1] + (middle, 0))) < left:
            low = middle
        else:
            high = middle
    holes = [CrossSection([shape.tolist()]).extrude(20).translate((x, 0, -1)) for shape, x in zip(shapes, (0, high), strict=True)]
    return Case("walls", (zoo.block((-14, -14, 0), (high + 14, 14, 9)) - holes[0] - holes[1],), left, "min_wall")


def balls_with_a_neck(rng: Random) -> Case:
    radius, half = rng.uniform(3, 6), rng.uniform(0.4, 1.0)
    apart = 2 * float(np.sqrt(radius**2 - half**2))
    ball = Manifold.sphere(radius, int(rng.choice([64, 128])))
    return Case("walls", (ball + ball.translate((apart, 0, 0)),), 2 * half, "min_wall")


def cones_with_a_neck(rng: Random) -> Case:
    left, sides = rng.uniform(0.2, 1.2), _sides(rng)
    high, wide = rng.uniform(3, 8), rng.uniform(3, 6)
    bar = _turned(
        [(0, -5), (wide, -5), (wide, 0), (left / 2, high), (wide, 2 * high), (wide, 2 * high + 5), (0, 2 * high + 5)], sides
    )
    return Case("walls", (bar,), left, "min_wall")


def blocks_over_an_edge(rng: Random) -> Case:
    dx, dy = rng.uniform(0.1, 0.7, 2)
    body = zoo.block((0, 0, 0), (10, 10, 10)) + zoo.block((10 - dx, 10 - dy, 0), (22, 20, 10))
    return Case("walls", (body,), float(np.hypot(dx, dy)), "min_wall")


def blocks_on_one_edge(rng: Random) -> Case:
    a, b = zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 8))), zoo.mesh_of(zoo.block((10, 10, 0), (22, 20, 8)))
    del rng
    return Case("walls", (zoo.as_one(a, b),), 0.0, "min_wall", limit_at=0.8)


def pit_in_a_large_plate(rng: Random) -> Case:
    left, thick, size = rng.uniform(0.2, 0.8), rng.uniform(3, 8), rng.uniform(120, 400)
    sides = int(rng.choice([4, 6, 12, 24]))
    wide = rng.uniform(0.15, 1.0)
    pit = Manifold.cylinder(thick + 1 - left, 0, wide * (thick + 1 - left) / (thick - left), sides)
    place = (*(rng.uniform(0.1, 0.65, 2) * size), left)
    return Case(
        "walls", (zoo.block((0, 0, 0), (size, size * 0.7 + 20, thick)) - pit.translate(place),), left, "min_wall", stays=True
    )


def score_in_a_large_plate(rng: Random) -> Case:
    left, thick, size = rng.uniform(0.2, 0.8), rng.uniform(3, 8), rng.uniform(120, 400)
    half, length = rng.uniform(0.05, 0.6) * (thick - left), rng.uniform(0.5, 8)
    score = CrossSection([[(-half, thick + 1e-3), (0, left), (half, thick + 1e-3)]]).extrude(length)
    score = CrossSection([[(-half, 0), (0, -(thick - left)), (half, 0)]]).extrude(length).rotate((90, 0, 0))
    body = zoo.block((0, 0, 0), (size, size, thick)) - score.translate((size * 0.37, size * 0.61, thick))
    return Case("walls", (body,), left, "min_wall", stays=True)


def bores_that_cross(rng: Random) -> Case:
    left, sides = rng.uniform(0.2, 1.0), int(rng.choice([48, 96]))
    one, other = rng.uniform(2, 5, 2)
    upper = Manifold.cylinder(80, one, one, sides).translate((0, 0, -40)).rotate((90, 0, 0)).translate((0, 0, one + left / 2))
    lower = (
        Manifold.cylinder(80, other, other, sides).translate((0, 0, -40)).rotate((0, 90, 0)).translate((0, 0, -other - left / 2))
    )
    body = zoo.block((-20, -20, -16), (20, 20, 16)) - upper - lower
    return Case("walls", (body,), left, "min_wall")


def floors_that_overlap(rng: Random) -> Case:
    """Two pockets from both sides whose floors lie over each other along a narrow strip only."""
    left, strip = rng.uniform(0.2, 1.0), rng.uniform(0.05, 0.6)
    body = zoo.block((0, 0, 0), (60, 40, 10)) - zoo.block((5, 5, 5 + left / 2), (30, 35, 11))
    body -= zoo.block((30 - strip, 8, -1), (55, 30, 5 - left / 2))
    return Case("walls", (body,), left, "min_wall")


def rib_on_a_plate(rng: Random) -> Case:
    wall = rng.uniform(0.5, 2.5)
    return Case("walls", (zoo.ribbed_plate(wall),), wall, "min_wall")


def tube(rng: Random) -> Case:
    wall, outer, sides = rng.uniform(0.5, 2.5), rng.uniform(6, 12), int(rng.choice([24, 36, 64, 120]))
    return Case("walls", (zoo.tube(outer, outer - wall, float(rng.uniform(8, 30)), sides),), wall, "min_wall")


def box(rng: Random) -> Case:
    wall = rng.uniform(0.5, 2.8)
    return Case("walls", (zoo.hollow_box(float(rng.uniform(10, 20)), wall),), wall, "min_wall")


def blunt(rng: Random) -> Case:
    end = rng.uniform(0.5, 2.0)
    return Case("walls", (zoo.blunt_wedge(end),), zoo.blunt_wedge_ball(end), "min_wall")


def ball_shell(rng: Random) -> Case:
    wall, outer = rng.uniform(0.5, 2.5), rng.uniform(6, 14)
    body = zoo.sphere_shell(outer, outer - wall, int(rng.choice([64, 128])))
    return Case("walls", (body,), wall, "min_wall")


def rib_through_a_plate(rng: Random) -> Case:
    """Shells that overlap and were never united: the rib goes down into the plate's material."""
    plate, rib = rng.uniform(1.5, 4), rng.uniform(1.5, 4)
    deep = rng.uniform(0.1, 0.9) * plate
    a = zoo.mesh_of(zoo.block((0, 0, 0), (40, 30, plate)))
    b = zoo.mesh_of(zoo.block((20 - rib / 2, 4, plate - deep), (20 + rib / 2, 26, plate + 10)))
    return Case("walls", (zoo.as_one(a, b),), float(min(plate, rib)), "min_wall")


def stout(rng: Random) -> Case:
    """Nothing thin at all: a solid block with a step."""
    a, b = rng.uniform(6, 10, 2)
    body = zoo.block((0, 0, 0), (a + b, 12, a)) + zoo.block((0, 0, 0), (a, 12, a + b))
    return Case("walls", (body,), float(min(a, 12.0)), "min_wall")


def pockets_in_a_solid(rng: Random) -> Case:
    dx, dy, floor = rng.uniform(0.1, 1.0), rng.uniform(0.1, 1.0), rng.uniform(2, 4)
    a, b = rng.uniform(6, 14, 2)
    shape = solids.cut(
        solids.block((0, 0, 0), (40, 40, 10)), solids.block((4, 4, floor), (4 + a, 4 + b, 11)),
        solids.block((4 + a + dx, 4 + b + dy, floor), (36, 36, 11)),
    )  # fmt: skip
    return Case("walls", (solids.body(shape),), float(np.hypot(dx, dy)), "min_wall", stays=True)


def drills_in_a_solid(rng: Random) -> Case:
    left, point = rng.uniform(0.2, 1.0), float(np.tan(np.radians(rng.uniform(20, 60))))
    upper = solids.fused(solids.cone((0, 0, left / 2), 0, 3, 3 * point), solids.rod((0, 0, left / 2 + 3 * point), 3, 20))
    lower = solids.fused(
        solids.cone((0, 0, -left / 2 - 3 * point), 3, 0, 3 * point), solids.rod((0, 0, -left / 2 - 3 * point - 20), 3, 20)
    )
    body = solids.cut(solids.block((-12, -12, -9), (12, 12, 9)), upper, lower)
    return Case("walls", (solids.body(body),), left, "min_wall", stays=True)


def bores_in_a_solid(rng: Random) -> Case:
    """Two bores that cross in different planes, nearest where they pass."""
    left, one, other = rng.uniform(0.2, 1.0), rng.uniform(2, 5), rng.uniform(2, 5)
    upper = solids.rod((0, -40, one + left / 2), one, 80, (0, 1, 0))
    lower = solids.rod((-40, 0, -other - left / 2), other, 80, (1, 0, 0))
    return Case(
        "walls",
        (solids.body(solids.cut(solids.block((-20, -20, -16), (20, 20, 16)), upper, lower)),),
        left,
        "min_wall",
        stays=True,
    )


def groove_round_a_solid_shaft(rng: Random) -> Case:
    left, radius = rng.uniform(0.4, 2.0), rng.uniform(4, 7)
    lean = rng.uniform(0.4, 1.2) * (radius - left / 2)
    shaft = solids.fused(
        solids.rod((0, 0, 0), radius, 10), solids.cone((0, 0, 10), radius, left / 2, lean),
        solids.cone((0, 0, 10 + lean), left / 2, radius, lean), solids.rod((0, 0, 10 + 2 * lean), radius, 10),
    )  # fmt: skip
    return Case("walls", (solids.body(shaft),), left, "min_wall", stays=True)


def pocket_rounded_at_its_corners(rng: Random) -> Case:
    """Rounded corners of two pockets, nearest over the corner."""
    left, radius, sides = rng.uniform(0.2, 0.8), rng.uniform(0.8, 2.5), int(rng.choice([32, 64]))
    away = (left / 2 + radius) / np.sqrt(2)

    def pocket(sign: float) -> Manifold:
        posts = [
            Manifold.cylinder(20, radius, radius, sides).translate((sign * x, sign * y, 2))
            for x in (away, away + 8)
            for y in (away, away + 8)
        ]
        return Manifold.batch_hull(posts)

    body = zoo.block((-20, -20, 0), (20, 20, 8)) - pocket(1.0) - pocket(-1.0)
    return Case("walls", (body,), left, "min_wall")


ALL = (
    pockets_in_a_solid, drills_in_a_solid, bores_in_a_solid, groove_round_a_solid_shaft, pocket_rounded_at_its_corners,
    pockets_corner_to_corner, score_from_both_sides, scores_that_cross, groove_round_a_bar, groove_against_counterbore,
    drill_points, polygon_holes, balls_with_a_neck, cones_with_a_neck, blocks_over_an_edge, blocks_on_one_edge,
    pit_in_a_large_plate, score_in_a_large_plate, bores_that_cross, floors_that_overlap, rib_on_a_plate, tube, box, blunt,
    ball_shell, rib_through_a_plate, stout,
)  # fmt: skip
