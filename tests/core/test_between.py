"""What lies between points, lines and planes, against brute force; smallest gaps of edges; laws of order and place."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize

import zoo
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.measuring import gaps
from gullyrise.core.measuring.between import angle_at, between, chain
from gullyrise.core.measuring.figures import EXACT, Figure
from gullyrise.core.measuring.things import Flat, Line, Point, Thing

seeds = st.integers(0, 100_000)


def unit(random: np.random.Generator) -> np.ndarray:
    way = random.normal(size=3)
    return np.asarray(way / np.linalg.norm(way))


def a_point(random: np.random.Generator, off: float = 0.0) -> Thing:
    return Thing("corner", point=Point(random.uniform(-20, 20, 3), off, "corner"))


def a_line(random: np.random.Generator, along: np.ndarray | None = None, off: float = 0.0, lean: float = 0.0) -> Thing:
    direction = unit(random) if along is None else along
    return Thing("edge", line=Line(random.uniform(-20, 20, 3), direction, off, lean, "edge"))


def a_plane(random: np.random.Generator, normal: np.ndarray | None = None, off: float = 0.0, lean: float = 0.0) -> Thing:
    return Thing("face", plane=Flat(random.uniform(-20, 20, 3), unit(random) if normal is None else normal, off, lean))


def named(found: tuple[Figure, ...], name: str) -> Figure:
    return next(figure for figure in found if figure.name == name)


@settings(max_examples=80, deadline=None)
@given(seeds)
def test_the_shortest_way_between_lines_is_the_shortest(seed: int) -> None:
    random = np.random.default_rng(seed)
    a, b = a_line(random), a_line(random)
    assert a.line and b.line
    one, other = a.line, b.line

    def away(st_: np.ndarray) -> float:
        return float(np.linalg.norm(one.origin + st_[0] * one.direction - other.origin - st_[1] * other.direction))

    way = named(between(a, b), "edge to edge, where they pass")
    best = minimize(away, [0.0, 0.0], method="Nelder-Mead", options={"xatol": 1e-10, "fatol": 1e-12, "maxiter": 4000})
    assert way.value <= best.fun + 1e-6 and way.value == pytest.approx(best.fun, abs=1e-4)
    turn = named(between(a, b), "edge to edge, angle").value
    assert turn == pytest.approx(np.degrees(np.arccos(np.clip(abs(one.direction @ other.direction), 0, 1))), abs=1e-6)


@settings(max_examples=60, deadline=None)
@given(seeds)
def test_the_order_of_picks_turns_ways_round_and_changes_no_number(seed: int) -> None:
    random = np.random.default_rng(seed)
    make = [a_point, a_line, a_plane]
    a, b = make[seed % 3](random), make[seed // 3 % 3](random)
    there, back = between(a, b), between(b, a)
    assert [figure.quantity for figure in there] == [figure.quantity for figure in back]
    for one, other in zip(there, back, strict=True):
        assert one.value == pytest.approx(other.value, abs=1e-9) and one.uncertainty == pytest.approx(other.uncertainty)
        if one.a is not None and other.b is not None:
            assert one.a == pytest.approx(other.b, abs=1e-9) and one.b == pytest.approx(other.a, abs=1e-9)


@settings(max_examples=60, deadline=None)
@given(seeds)
def test_turning_and_moving_both_changes_nothing(seed: int) -> None:
    random = np.random.default_rng(seed)
    make = [a_point, a_line, a_plane]
    a, b = make[seed % 3](random), make[seed // 3 % 3](random)
    move = Transform.turned(unit(random), float(random.uniform(0, 360))).then(Transform.moved(random.uniform(-500, 500, 3)))
    for one, other in zip(between(a, b), between(a.placed(move), b.placed(move)), strict=True):
        assert other.value == pytest.approx(one.value, abs=1e-7)
        if one.a is not None and other.a is not None:
            assert other.a == pytest.approx(move.apply(np.array([one.a]))[0], abs=1e-6)


@settings(max_examples=60, deadline=None)
@given(seeds, st.floats(0, 0.2))
def test_the_uncertainty_covers_what_is_not_known(seed: int, off: float) -> None:
    """Things moved and turned by as much as they may be give values within what was stated."""
    random = np.random.default_rng(seed)
    lean = off / 50
    normal = unit(random)
    a, b = a_plane(random, normal, off, lean), a_point(random, off)
    stated = named(between(b, a), "corner to face")
    assert a.plane and b.point
    across = np.cross(normal, unit(random))
    turned = Transform.turned(across, np.degrees(lean)).matrix[:3, :3] @ normal
    real_plane = Thing("face", plane=Flat(a.plane.origin + off * normal, turned, 0, 0))
    real_point = Thing("corner", point=Point(b.point.place - off * normal, 0, "corner"))
    assert abs(named(between(real_point, real_plane), "corner to face").value - stated.value) <= stated.uncertainty * 1.01 + 1e-9


def test_parallel_things_have_a_distance_and_others_an_angle() -> None:
    random = np.random.default_rng(1)
    up = np.array([0, 0, 1.0])
    low, high = Thing("face", plane=Flat(np.zeros(3), up, 0, 0)), Thing("face", plane=Flat(np.array([5, 7, 12.0]), -up, 0, 0))
    found = between(low, high)
    assert [figure.name for figure in found] == ["face to face", "face to face, angle"]
    assert (found[0].value, found[1].value) == (12, 0) and found[0].a == pytest.approx((5, 7, 0))
    leaning = Thing("face", plane=Flat(np.array([0, 0, 12.0]), np.array([0, np.sin(0.01), np.cos(0.01)]), 0, 0))
    assert [figure.name for figure in between(low, leaning)] == ["face to face, angle"], "a draft is told, not averaged away"
    rough = Thing("face", method="fitted", plane=Flat(np.array([0, 0, 12.0]), np.array([0, np.sin(0.01), np.cos(0.01)]), 0, 0.02))
    assert between(low, rough)[0].name == "face to face", "within what is known of it, it is parallel"
    assert between(low, rough)[0].method.startswith("face: exact; face: fitted")
    along = a_line(random, np.array([1.0, 0, 0]))
    assert [figure.name for figure in between(along, low)] == ["edge to face", "edge to face, angle"]
    assert [figure.name for figure in between(a_line(random, up), low)] == ["edge to face, angle"]


def test_things_without_point_line_or_plane_have_nothing_between() -> None:
    random = np.random.default_rng(2)
    assert between(Thing("free-form face"), a_point(random)) == () and between(Thing("body"), Thing("body")) == ()


def test_angles_and_chains_of_points() -> None:
    places = [Point(np.array(at, dtype=float), 0.01, "corner") for at in ((3, 0, 0), (0, 0, 0), (0, 4, 0))]
    found = angle_at(*places)
    assert found is not None and found.value == pytest.approx(90)
    assert found.uncertainty == pytest.approx(np.degrees(0.02 / 3 + 0.02 / 4))
    assert chain(places).value == pytest.approx(7) and chain(places).uncertainty == pytest.approx(0.06)
    assert angle_at(places[0], places[0], places[2]) is None
    exact = [Point(point.place, 0.0, "corner") for point in places]
    assert chain(exact).method == EXACT and chain(exact).uncertainty == 0


@settings(max_examples=60, deadline=None)
@given(seeds)
def test_the_gap_of_edges_is_the_smallest_of_all_their_places(seed: int) -> None:
    random = np.random.default_rng(seed)
    a, b = (random.uniform(-10, 10, (int(random.integers(1, 5)), 2, 3)) for _ in range(2))
    if seed % 5 == 0:
        a[0, 1] = a[0, 0]  # A piece without length is a place.
    found = gaps._edges(a, b)
    share = np.linspace(0, 1, 60)
    one = (a[:, :1] + share[None, :, None] * (a[:, 1:] - a[:, :1])).reshape(-1, 3)
    other = (b[:, :1] + share[None, :, None] * (b[:, 1:] - b[:, :1])).reshape(-1, 3)
    brute = float(np.linalg.norm(one[:, None] - other[None], axis=2).min())
    assert found.distance <= brute + 1e-9 and found.distance >= brute - 0.6
    assert np.linalg.norm(found.point_a - found.point_b) == pytest.approx(found.distance)


def test_an_edge_that_goes_through_a_face_has_no_gap() -> None:
    wall = zoo.mesh_of(zoo.block((0, 0, 0), (20, 20, 1)))
    edge = np.array([[[10.3, 9.1, -5], [10.3, 9.1, 5.0]]])
    one, other = Thing("edge", segments=edge), Thing("face", surface=wall)
    assert gaps._between(one, other).distance == 0
    beside = Thing("edge", segments=edge + [0, 0, 8.5])
    assert gaps._between(beside, other).distance == pytest.approx(2.5)
    assert gaps._between(other, beside).point_a[2] == pytest.approx(1.0), "ends in the order asked"


@pytest.mark.parametrize("turn", range(3))
def test_the_wall_behind_a_place_of_a_mesh(turn: int) -> None:
    from gullyrise.core.measuring.picks import Pick
    from gullyrise.core.part import Body

    place = zoo.TURNS[turn]
    made = trimesh.creation.annulus(10, 12.5, 40, sections=96)
    body = Body("pipe", "mesh", Mesh(np.asarray(made.vertices), np.asarray(made.faces)).placed(place), (Transform.identity(),))
    at = place.apply(np.array([[12.5, 0.1, 3.0]]))[0]
    found = gaps.thickness_at(Pick(what="spot", part=1, copy_number=0, spot=(0.0, 0.0, 0.0)), body, at)
    assert [figure.name for figure in found] == ["thickness here, straight through", "thickness here, by a ball"]
    for figure in found:
        assert abs(figure.value - 2.5) <= figure.uncertainty < 0.1
