"""Rays in lots, rooms under cuts, and the views that are composed of them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import zoo
from gullyrise.core.checks.protocol import Finding
from gullyrise.core.cutting.cuts import Cut, kept_way, kept_ways
from gullyrise.core.evidence.composing import compose, compose_between
from gullyrise.core.evidence.room import Room
from gullyrise.core.evidence.small_picture import Surface, marks_in, small_picture
from gullyrise.core.evidence.view import EvidenceView, proved
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.blocks import along_ray, along_rays, blocks_of
from gullyrise.core.geometry.spots import outermost
from gullyrise.core.machines.library import default_machine
from gullyrise.core.report.picture_form import picture_form

BLOCK = zoo.mesh_of(zoo.block((0, 0, 0), (30, 20, 10)))
BALLS = zoo.as_one(
    zoo.mesh_of(zoo.sphere_shell(10, 8, 60)), zoo.mesh_of(zoo.tube(9, 7, 30, 90)).placed(Transform.moved(np.array([25.0, 0, 0])))
)
UP, FRONT = np.array([0.0, 0.0, 1.0]), np.array([0.0, -1.0, 0.0])


def room_of(*meshes: Mesh) -> Room:
    part = zoo.part(meshes[0], "first", *(part for mesh in meshes[1:] for part in ("more", mesh)))
    return Room.of_part(part, Transform.identity(), default_machine())


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(*[st.floats(-40, 40)] * 3), min_size=1, max_size=6), st.integers(0, 5))
def test_rays_in_lots_meet_what_each_meets_alone(starts: list[tuple[float, float, float]], axis: int) -> None:
    # Off the edges that two faces share, on which one of them or both may be met.
    origins = np.array(starts).round(2) + np.array([0.0031, 0.0047, 0.0029])
    ways = np.vstack([np.eye(3), -np.eye(3)])
    # Along an axis, where a box's side is parallel to the ray, and aslant.
    directions = np.tile(ways[axis], (len(origins), 1)) + (np.arange(len(origins)) % 2)[:, None] * np.array([0.3, 0.2, 0.1])
    blocks = blocks_of(BALLS)
    ray, distance, face = along_rays(BALLS, blocks, origins, directions)
    for number, (origin, direction) in enumerate(zip(origins, directions, strict=True)):
        alone, met = along_ray(BALLS, blocks, origin, direction)
        mine = np.flatnonzero(ray == number)
        assert sorted(face[mine].tolist()) == sorted(met.tolist())
        assert np.allclose(np.sort(distance[mine]), alone)


def test_rays_of_many_under_cuts_go_as_far_as_each_alone() -> None:
    rng = np.random.default_rng(3)
    cuts = (Cut.across(0, 4.0), Cut.through(np.array([1.0, 2, 3]), np.array([1.0, 1, 0]), flipped=True), Cut.across(2, 7.0))
    origins, directions = rng.uniform(-20, 20, (50, 3)), rng.normal(size=(50, 3))
    directions[:6] = np.vstack([np.eye(3), -np.eye(3)])
    start, end = kept_ways(cuts, origins, directions)
    alone = [kept_way(cuts, origin, direction) for origin, direction in zip(origins, directions, strict=True)]
    assert np.allclose(np.column_stack([start, end]), np.array(alone))


def test_a_place_is_hidden_by_what_stands_before_it_and_by_a_cut_face_before_it() -> None:
    room = room_of(BLOCK)
    foot = np.array([[15.0, 10, 0]])
    assert room.hides(foot, -UP[None], 0.01)[0] == np.inf and room.hides(foot, UP[None], 0.01)[0] == pytest.approx(10)
    halved = room.with_cuts((Cut.across(2, 4.0),))
    assert halved.hides(foot, UP[None], 0.01)[0] == pytest.approx(4), "the cut face stands before it"
    open_box = room_of(BLOCK.only(np.flatnonzero(BLOCK.normals()[:, 2] < 0.5)))
    assert open_box.hides(foot, UP[None], 0.01)[0] == np.inf
    assert room.holds(np.array([[15.0, 10, 5], [15.0, 10, 15]]), np.tile(UP, (2, 1))).tolist() == [True, False]


def test_a_view_that_does_not_hold_says_what_does_not() -> None:
    room = room_of(BLOCK)
    mark = np.array([[15.0, 10, 0]])
    view = compose(Finding("x", None, "mm", (15.0, 10.0, 0.0), code="x"), room)
    assert view.proof.holds and view.toward[2] < 0
    behind = proved(replace(view, camera=replace(view.camera, elevation=90.0)), room)
    assert behind.proof.hidden == (0,) and not behind.proof.holds
    aside = proved(
        replace(view, camera=replace(view.camera, target=view.camera.target + view.camera.frame()[0] * view.camera.span)), room
    )
    assert aside.proof.off == (0,)
    gone = proved(EvidenceView(view.camera, (Cut.across(2, -1.0),), marks=mark), room)
    assert gone.proof.hidden == (0,), "what a cut takes away is seen by nobody"
    assert not proved(replace(view, size=view.camera.span), room).proof.scaled


def test_a_wall_is_cut_through_both_contacts_and_looked_at_straight() -> None:
    plate = zoo.mesh_of(zoo.ribbed_plate(0.6))
    room = room_of(plate)
    box = plate.box
    a = np.array([box.middle[0] - 0.3, box.middle[1], box.high[2] - 2])
    finding = Finding(
        "w",
        0.6,
        "mm",
        tuple(a),
        code="thin",
        shown="across",
        ends=(tuple(a), tuple(a + [0.6, 0, 0])),
        ball=(tuple(a + [0.3, 0, 0]), 0.3),
    )
    view = compose(finding, room)
    (cut,) = view.cuts
    assert view.proof.holds and np.allclose(cut.plane.normal, view.toward)
    assert np.abs(cut.plane.heights(view.marks)).max() < 1e-9
    assert 1 / 12 <= 0.6 / view.camera.span <= 1 / 2


def test_a_dimension_taken_by_hand_is_seen_from_outside_where_it_can_be() -> None:
    room = room_of(BLOCK)
    over = compose_between(np.array([0.0, 0, 10]), np.array([30.0, 0, 10]), room)
    assert over.proof.holds and not over.cuts and len(over.marks) == 2
    through = compose_between(np.array([15.0, 10, 0]), np.array([15.0, 10, 10]), room)
    assert through.proof.holds and through.cuts, "top and foot at once are seen on a cut"
    place = compose_between(np.array([15.0, 10, 10]), np.array([15.0, 10, 10]), room)
    assert place.proof.holds and len(place.marks) == 1


def test_a_picture_is_told_in_the_files_coordinates() -> None:
    part = zoo.part(BLOCK, "block")
    there = Transform.turned(UP, 30.0).then(Transform.moved(np.array([100.0, 50, 7])))
    room = Room.of_part(part, there, default_machine())
    finding = Finding("x", 1.0, "mm", (15.0, 0.0, 5.0), code="x", ends=((15.0, 0.0, 5.0), (15.0, 0.0, 6.0)), shown="across")
    view = compose(finding.placed(there), room)
    form = picture_form(view, part, there.inverse(), "x.png")
    assert np.allclose(form["marks"], [[15, 0, 5], [15, 0, 6]])
    eye, target = np.array(form["camera"]["eye"]), np.array(form["camera"]["target"])
    assert np.allclose((eye - target) / np.linalg.norm(eye - target), there.inverse().matrix[:3, :3] @ view.toward)
    assert np.linalg.norm(eye - target) > part.box.diagonal, "all of the part stands before the eye"
    assert all(
        abs(np.dot(np.subtract(cut["point"], mark), cut["normal"])) < 1e-9 for cut in form["cuts"] for mark in form["marks"]
    )


def test_the_outermost_places_bound_the_others() -> None:
    places = np.random.default_rng(1).normal(size=(500, 3))
    kept = outermost(places)
    assert (
        len(kept) <= 26
        and np.allclose(kept.min(axis=0), places.min(axis=0))
        and np.allclose(kept.max(axis=0), places.max(axis=0))
    )
    assert len(outermost(np.zeros((0, 3)))) == 0


def _colours(mesh: Mesh) -> np.ndarray:
    """Red above, blue elsewhere."""
    return np.where(mesh.normals()[:, 2:] > 0.5, [200, 10, 10], [10, 10, 200]).astype(np.uint8)


def test_a_small_picture_shows_the_view_with_its_cut_face_and_its_scale() -> None:
    room = room_of(BLOCK)
    surface = Surface(BLOCK, np.eye(4), _colours(BLOCK))
    above = compose_between(np.array([0.0, 10, 10]), np.array([30.0, 10, 10]), room)
    above = replace(above, camera=replace(above.camera, heading=0.0, elevation=90.0, span=40.0, target=BLOCK.box.middle), cuts=())
    made = small_picture([surface], above.camera, (), (80, 80), (1, 2, 3))
    covered = made[..., 3] > 0
    assert covered[40].sum() * 0.5 == 30 and covered[:, 40].sum() * 0.5 == 20, "half a millimetre a pixel"
    assert (made[covered][:, 0] > 4 * made[covered][:, 2]).all(), "its top is red"
    inside = small_picture([surface], above.camera, (Cut.across(2, 5.0),), (80, 80), (100, 200, 50))
    seen = inside[inside[..., 3] > 0][:, :3]
    assert {tuple(one) for one in seen.tolist()} == {(100, 200, 50), (72, 144, 36)}, "hatched in the colour of cuts"
    assert np.allclose(marks_in(above, (80, 80)), [[10, 40], [70, 40]])
    aside = replace(above.camera, target=np.array([900.0, 0, 0]))
    assert not small_picture([surface], aside, (), (40, 40), (1, 2, 3)).any()


@pytest.mark.parametrize(("degrees", "heading"), [(20.0, 0.0), (55.0, 130.0), (80.0, 301.0)])
def test_an_overhang_is_shown_beside_it_in_a_section_in_which_its_angle_is_seen_as_it_is(degrees: float, heading: float) -> None:
    """A plate that leans so many degrees from the vertical, turned about it anyhow."""
    lean = Transform.turned(np.array([1.0, 0.0, 0.0]), degrees).then(Transform.turned(UP, heading))
    plate = zoo.mesh_of(zoo.block((-10, -1, 0), (10, 1, 40))).placed(lean)
    place, normal = lean.apply(np.array([[0.0, 1.0, 20.0], [0.0, -1.0, 20.0]])), lean.matrix[:3, :3] @ [0, 1, 0]
    under, normal = (place[0], normal) if normal[2] < 0 else (place[1], -normal)
    finding = Finding(
        "overhang", degrees, "°", tuple(under.tolist()), 800.0, code="overhang", shown="below", around=plate.vertices
    )
    beside = compose(finding, room_of(plate)).beside
    assert beside is not None and beside.leaning is not None
    assert np.degrees(np.arccos(beside.leaning[2])) == pytest.approx(degrees, abs=1e-3)
    assert abs(beside.leaning @ normal) < 1e-6, "it lies in the face"
    (cut,), toward = beside.cuts, beside.camera.frame()[2]
    assert abs(toward @ beside.leaning) < 1e-9 and abs(toward @ UP) < 1e-9, "square to the eye: no angle is foreshortened"
    assert abs(cut.plane.heights(under[None])[0]) < 1e-9, "the cut goes through the place"


def test_what_a_tool_does_not_reach_is_shown_from_where_it_comes_too() -> None:
    place = (15.0, 10.0, 2.0)
    finding = Finding("hidden", 9.0, "mm²", place, 9.0, code="hidden", shown="tool", along=(0.0, 0.0, 1.0))
    beside = compose(finding, room_of(BLOCK)).beside
    assert beside is not None and not beside.cuts and beside.camera.frame()[2] @ UP == pytest.approx(1)
