"""Snaps while measuring, without a window: against every corner, middle, centre and edge of a part seen from anywhere."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

import gauge
from gullyrise.core.camera.camera import Camera
from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.geometry import Transform
from gullyrise.core.machines.library import default_machine
from gullyrise.core.measuring.taking import take
from gullyrise.core.part import Body
from gullyrise.core.picking.feature import Hit
from gullyrise.core.picking.pointing import Finder
from gullyrise.core.picking.prepared import prepared
from gullyrise.core.picking.snapping import REACH, Snap, snap_at
from gullyrise.drawing.display import Display
from gullyrise.drawing.palette import LIMESTONE
from gullyrise.drawing.scene import Item, Scene

SIZE = (900, 700)
PLACE = Transform.turned(np.array([1.0, 0.3, 2.0]), 25).then(Transform.moved(np.array([20.0, -10, 30])))


def item_of(body: Body, place: Transform = PLACE, key: tuple[int, int] = (1, 0)) -> Item:
    ready = prepared(body.mesh, body.anatomy, body.facts)
    return Item(key, body.name, body.mesh, place.matrix, body.mesh.placed(place).box, False, prepared=ready)


def scene_of(*items: Item, cuts: tuple[Cut, ...] = ()) -> Scene:
    return Scene(items, default_machine(), LIMESTONE, cuts, display=Display(bed=False))


SCENES = {"solid": scene_of(item_of(gauge.solid())), "mesh": scene_of(item_of(gauge.as_file(gauge.solid())))}


def hit_at(scene: Scene, camera: Camera, at: tuple[float, float]) -> Hit | None:
    return Finder(scene).first(*camera.ray(*at, *SIZE, reach=2000))


def snap(
    scene: Scene, camera: Camera, place: np.ndarray, off: tuple[float, float] = (0, 0), *, spots: bool = False
) -> Snap | None:
    x, y, _ = camera.to_picture(place[None], *SIZE)[0]
    at = (float(x) + off[0], float(y) + off[1])
    return snap_at(scene, hit_at(scene, camera, at), at, camera, SIZE, spots=spots)


def camera_of(seed: int, scene: Scene) -> Camera:
    random = np.random.default_rng(seed)
    assert scene.parts_box is not None
    whole = Camera(np.zeros(3), random.uniform(0, 360), random.uniform(-70, 70), parallel=bool(seed % 2))
    return whole.framing(scene.parts_box, *SIZE)


@pytest.mark.parametrize("seed", range(8))
@pytest.mark.parametrize("name", ["solid", "mesh"])
def test_every_corner_that_is_seen_is_taken_within_its_reach(name: str, seed: int) -> None:
    scene = SCENES[name]
    camera, ready = camera_of(seed, scene), scene.items[0].prepared
    assert ready is not None
    corners = PLACE.apply(ready.anatomy.corners)
    taken = 0
    for number, corner in enumerate(corners):
        x, y, depth = camera.to_picture(corner[None], *SIZE)[0]
        others = np.linalg.norm(camera.to_picture(corners, *SIZE)[:, :2] - [x, y], axis=1)
        others[number] = np.inf
        hit = hit_at(scene, camera, (float(x), float(y)))
        if hit is None or abs(hit.distance - np.linalg.norm(hit.point - corner)) < 0 or others.min() < 3 * REACH:
            continue
        if float(camera.to_picture(hit.point[None], *SIZE)[0, 2]) < depth - 0.2:
            continue  # Something stands before it.
        found = snap(scene, camera, corner)
        assert found is not None and found.pick.what in ("corner", "centre", "middle")
        if found.pick.what == "corner":
            taken += found.pick.index == number
            assert found.place == pytest.approx(corner, abs=1e-6)
    assert taken >= 3


@pytest.mark.parametrize("name", ["solid", "mesh"])
def test_what_is_snapped_to_measures_what_it_is(name: str) -> None:
    scene = SCENES[name]
    camera = Camera(np.zeros(3), 30, 40).framing(scene.items[0].box, *SIZE)
    body = gauge.solid() if name == "solid" else gauge.as_file(gauge.solid())
    subject = gauge.subject(body, PLACE)
    for place, what, figure, value in (
        ((20, 25, 20), "centre", "diameter", 12.0), ((0, 12, 20), "edge", "length", 50.0),
        ((40, 40, 26), "centre", "diameter", 10.0), ((6, 6, 20), "face", "thickness here, straight through", 20.0),
    ):  # fmt: skip
        found = snap(scene, camera, PLACE.apply(np.array([place], dtype=float))[0])
        assert found is not None and found.pick.what == what, place
        measured = next(one for one in take((found.pick,), (subject,)).figures if one.name == figure)
        assert abs(measured.value - value) <= measured.uncertainty + 1e-6


def test_a_place_between_things_is_a_face_or_a_place_on_it() -> None:
    scene = SCENES["solid"]
    camera = Camera(np.zeros(3), 30, 40).framing(scene.items[0].box, *SIZE)
    place = PLACE.apply(np.array([[8.0, 8.0, 20.0]]))[0]
    face, spot = snap(scene, camera, place), snap(scene, camera, place, spots=True)
    assert face is not None and spot is not None and (face.pick.what, spot.pick.what) == ("face", "spot")
    assert spot.pick.spot == pytest.approx((8, 8, 20), abs=1e-6) and face.pick.index == spot.pick.index
    assert snap(scene, camera, place, (-430.0, -330.0)) is None


def test_a_corner_wins_near_it_and_its_edge_farther_off() -> None:
    scene = SCENES["solid"]
    camera = Camera(np.zeros(3), 30, 40).framing(scene.items[0].box, *SIZE)
    corner, along = PLACE.apply(np.array([[0, 0, 20.0], [0, 20, 20.0]]))
    ends = camera.to_picture(np.array([corner, along]), *SIZE)[:, :2]
    way = (ends[1] - ends[0]) / np.linalg.norm(ends[1] - ends[0])
    kinds = []
    for pixels in (1.0, 4.0, 25.0):
        found = snap(scene, camera, corner, tuple(way * pixels))
        kinds.append(found.pick.what if found else None)
    assert kinds == ["corner", "corner", "edge"]


def test_what_is_cut_away_is_not_snapped_to() -> None:
    camera = Camera(np.zeros(3), 30, 40).framing(SCENES["solid"].items[0].box, *SIZE)
    corner = PLACE.apply(np.array([[0, 0, 20.0]]))[0]
    below = Cut.through(PLACE.apply(np.array([[0, 0, 15.0]]))[0], PLACE.matrix[:3, 2])
    scene = scene_of(SCENES["solid"].items[0], cuts=(below,))
    found = snap(scene, camera, corner)
    assert found is None or found.pick.what != "corner" or np.linalg.norm(found.place - corner) > 1
    other = replace(SCENES["solid"].items[0], key=(2, 0))
    spared = scene_of(other, cuts=(below.model_copy(update={"only": ((1, 0),)}),))
    kept = snap(spared, camera, corner)
    assert kept is not None and kept.pick.what == "corner", "a cut of other bodies leaves it whole"


def test_a_body_that_is_not_ready_has_nothing_to_snap_to() -> None:
    bare = replace(SCENES["solid"].items[0], prepared=None)
    scene = scene_of(bare)
    camera = Camera(np.zeros(3), 30, 40).framing(bare.box, *SIZE)
    assert snap(scene, camera, PLACE.apply(np.array([[0, 0, 20.0]]))[0]) is None


def test_among_many_bodies_the_one_under_the_pointer_is_snapped_to() -> None:
    bar = item_of(gauge.solid(), Transform.identity())
    items = []
    for number in range(60):
        place = Transform.moved(np.array([100.0 * (number % 10), 70.0 * (number // 10), 0.0]))
        items.append(replace(bar, key=(number, 0), matrix=place.matrix, box=gauge.solid().mesh.placed(place).box))
    scene = scene_of(*items)
    assert scene.parts_box is not None
    camera = Camera(np.zeros(3), 0, 89, parallel=True).framing(scene.parts_box, *SIZE)
    close = replace(camera, target=np.array([520.0, 235.0, 20.0]), span=120.0)
    for number in (35, 34, 36):
        centre = np.array([100.0 * (number % 10) + 20, 70.0 * (number // 10) + 25, 20.0])
        x, y, _ = close.to_picture(centre[None], *SIZE)[0]
        if not (0 < x < SIZE[0] and 0 < y < SIZE[1]):
            continue
        found = snap(scene, close, centre)
        assert found is not None and found.pick.what == "centre" and found.pick.part == number
