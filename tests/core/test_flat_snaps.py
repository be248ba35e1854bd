"""What the pointer snaps to in a flat cut, and what each measures; the marks of a body; words of cuts and sections."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

import gauge
import zoo
from gullyrise.core.cutting import cut
from gullyrise.core.cutting.thickness import is_inside, nearest_on, ways_of
from gullyrise.core.geometry import Mesh, Plane, Transform
from gullyrise.core.geometry.anatomy import anatomy_of
from gullyrise.core.geometry.outline import Outline, circle_of, fitted_circle, rounded, straight
from gullyrise.core.measuring.between import between
from gullyrise.core.measuring.flat_snaps import snapped, thing_of
from gullyrise.core.measuring.marks import marks_of
from gullyrise.core.report.outlines import extent_of, outlines_of

PLANE = Plane(np.array([5.0, -3, 11]), np.array([0.2, -0.4, 1.0]))
SLOT = Outline(np.array([[10.0, -5], [10, 5], [-10, 5], [-10, -5]]), np.array([1.0, 0, 1.0, 0]), True)
"""Two straight sides of 20, two round ends of radius 5."""


@pytest.mark.parametrize(
    ("place", "kind", "at"),
    [
        ((10.2, 4.9), "corner", (10, 5)), ((3, 5.2), "line", (3, 5)), ((15.2, 0.1), "arc", (15, 0)),
        ((-9.8, 0.2), "centre", (-10, 0)), ((0, 0), None, None), ((10.1, 0.1), "centre", (10, 0)),
    ],
)  # fmt: skip
def test_the_nearest_thing_is_snapped_to(place: tuple[float, float], kind: str | None, at: tuple[float, float] | None) -> None:
    found = snapped((SLOT,), np.array(place), 0.5)
    assert (found.kind if found else None) == kind
    if found is not None and at is not None:
        assert found.place == pytest.approx(at, abs=0.11)


def test_nothing_is_near_an_empty_cut() -> None:
    assert snapped((), np.zeros(2), 9.0) is None
    assert snapped((Outline(np.zeros((1, 2)), np.zeros(1), False),), np.zeros(2), 9.0) is None


@pytest.mark.parametrize("exact", [True, False])
def test_snapped_things_measure_in_the_room(exact: bool) -> None:
    def thing(place: tuple[float, float]) -> object:
        found = snapped((SLOT,), np.array(place), 0.5)
        assert found is not None
        return thing_of((SLOT,), found, PLANE, exact=exact)

    side, other, end, middle = thing((3, 5)), thing((3, -5)), thing((15, 0)), thing((-10, 0))
    assert between(side, other)[0].value == pytest.approx(10)  # type: ignore[arg-type]
    assert end.words == "arc" and [figure.value for figure in end.own] == pytest.approx([10, 5, 5 * np.pi])  # type: ignore[attr-defined]
    assert between(end, middle)[0].value == pytest.approx(20)  # type: ignore[arg-type]
    assert (side.own[0].value, side.own[0].uncertainty == 0) == (pytest.approx(20), exact)  # type: ignore[attr-defined]
    assert PLANE.heights(end.segments.reshape(-1, 3)) == pytest.approx(0, abs=1e-9)  # type: ignore[attr-defined]


@pytest.mark.parametrize("sides", [24, 60, 150])
def test_a_circle_of_chords_states_its_sag(sides: int) -> None:
    mesh = zoo.mesh_of(zoo.tube(12, 7, 20, sides))
    section = cut([mesh], Plane.across(2, 9.0))
    outlines = outlines_of(section, 1e-3)
    assert sorted(len(one.points) for one in outlines) == [2, 2], "each is a whole circle"
    for radius in (12.0, 7.0):
        found = snapped(outlines, np.array([radius, 0.0]), 0.3)
        assert found is not None
        thing = thing_of(outlines, found, section.plane, exact=False)
        assert thing.words == "circle" and abs(thing.own[0].value - 2 * radius) <= thing.own[0].uncertainty + 1e-9
        assert thing.own[0].uncertainty == pytest.approx(2 * radius * (1 - np.cos(np.pi / sides)), rel=0.05, abs=1e-4)


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 100_000))
def test_inside_and_nearest_are_what_brute_force_says(seed: int) -> None:
    random = np.random.default_rng(seed)
    turn = np.sort(random.uniform(0, 2 * np.pi, 14))
    star = np.column_stack([np.cos(turn), np.sin(turn)]) * random.uniform(2, 9, (14, 1))
    ways = ways_of([star])
    place = random.uniform(-9, 9, 2)
    from shapely.geometry import Point, Polygon

    shape = Polygon(star)
    assert is_inside(ways.starts, ways.ends, place) == shape.contains(Point(place))
    distance, at, _ = nearest_on(ways.starts, ways.ends, place)
    assert distance == pytest.approx(shape.exterior.distance(Point(place)), abs=1e-9)
    assert np.linalg.norm(at - place) == pytest.approx(distance)


@settings(max_examples=60, deadline=None)
@given(st.floats(-0.95, 0.95).filter(lambda bulge: abs(bulge) > 0.02), st.integers(0, 1000))
def test_an_arc_is_where_its_bulge_says(bulge: float, seed: int) -> None:
    random = np.random.default_rng(seed)
    a, b = random.uniform(-20, 20, (2, 2))
    centre, radius = circle_of(a, b, bulge)
    assert np.linalg.norm(a - centre) == pytest.approx(radius) and np.linalg.norm(b - centre) == pytest.approx(radius)
    drawn = Outline(np.array([a, b]), np.array([bulge, 0.0]), False).drawn(radius * 1e-4)
    assert np.abs(np.linalg.norm(drawn - centre, axis=1) - radius).max() < 1e-9
    middle = drawn[len(drawn) // 2] - (a + b) / 2
    run = b - a
    assert (run[0] * middle[1] - run[1] * middle[0]) * bulge < 0, (
        "a positive bulge swings out to the right of the way, turning left"
    )
    low, high = extent_of((Outline(np.array([a, b]), np.array([bulge, 0.0]), False),))
    assert low == pytest.approx(drawn.min(axis=0), abs=radius * 1e-3) and high == pytest.approx(
        drawn.max(axis=0), abs=radius * 1e-3
    )


def test_places_in_the_middle_of_a_straight_way_are_left_out() -> None:
    ring = np.array([[0, 0], [5, 0], [10, 0], [10, 10], [4, 10], [0, 10], [0, 3.0]])
    assert straight(ring, closed=True).points.tolist() == [[0, 0], [10, 0], [10, 10], [0, 10]]
    chain = straight(ring[:3], closed=False)
    assert chain.points.tolist() == [[0, 0], [10, 0]] and chain.length == 10 and chain.area == 0
    assert rounded(chain.points, closed=False, within=1e-3).bulge.tolist() == [0, 0]


def test_an_open_chain_keeps_its_arc_and_its_ends() -> None:
    turn = np.linspace(0, np.pi / 2, 12)
    chain = np.concatenate([[[10, -8]], np.column_stack([10 * np.cos(turn), 10 * np.sin(turn)]), [[-8, 10]]])
    found = rounded(chain, closed=False, within=1e-6)
    assert found.points[[0, -1]].tolist() == [[10, -8], [-8, 10]] and np.count_nonzero(found.bulge) == 1
    assert found.length == pytest.approx(8 + 5 * np.pi + 8)
    assert fitted_circle(chain[:2])[1] == np.inf


def test_marks_of_meshes_leave_out_what_is_too_much() -> None:
    cylinder = trimesh.creation.cylinder(8, 20, sections=48)
    mesh = Mesh(np.asarray(cylinder.vertices), np.asarray(cylinder.faces))
    marks = marks_of(mesh, anatomy_of(mesh), None)
    assert sorted(marks.centres[:, 2].round(6).tolist()) == [-10, 10] and len(marks.axes) == 0
    assert np.linalg.norm(marks.centre_near - marks.centres, axis=1) == pytest.approx(8, abs=1e-6)
    noisy = Mesh(np.random.default_rng(1).uniform(0, 50, (6000, 3)), np.arange(6000).reshape(-1, 3))
    crowd = marks_of(noisy, anatomy_of(noisy), None)
    assert len(crowd.middles) == 0 and len(crowd.centres) == 0, "so many edges are noise"


def test_a_solid_has_marks_from_its_surfaces() -> None:
    body = gauge.solid()
    assert body.anatomy is not None
    marks = marks_of(body.mesh, body.anatomy, body.facts)
    ends = marks.axes[np.argmin(np.abs(marks.axes[:, 0, :2] - [20, 25]).sum(axis=1))]
    assert ends == pytest.approx(np.array([[20, 25, 0], [20, 25, 20]]), abs=1e-9)
    place = Transform.moved(np.array([1.0, 2, 3]))
    assert place.apply(marks.middles).shape == marks.middles.shape and len(marks.middles) == len(marks.middle_edge)
