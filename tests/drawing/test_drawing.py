"""The drawing thread on its own: stand-ins in motion, fine still pictures, the newest request only, the pace."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import pytest
import trimesh

from gullyrise.core.camera.camera import Camera
from gullyrise.core.checks.protocol import FaceField
from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.geometry import Box, Mesh
from gullyrise.core.geometry.arrays import unit_rows
from gullyrise.core.machines.library import default_machine
from gullyrise.core.picking.pointing import Finder
from gullyrise.core.picking.prepared import prepared
from gullyrise.demo import FILES
from gullyrise.drawing import renderer, stage
from gullyrise.drawing.colour_maps import scale_for
from gullyrise.drawing.display import Display
from gullyrise.drawing.palette import LIMESTONE
from gullyrise.drawing.renderer import Pace, Renderer
from gullyrise.drawing.requests import Frame, Request
from gullyrise.drawing.scene import Item, Scene
from gullyrise.drawing.stage import Stage

SIZE = (420, 300)


def item(made: trimesh.Trimesh, number: int = 1, *, ready: bool = True) -> Item:
    mesh = Mesh(np.asarray(made.vertices), np.asarray(made.faces))
    return Item((number, 0), f"part {number}", mesh, np.eye(4), mesh.box, False, prepared=prepared(mesh, None) if ready else None)


class Listener:
    """Takes frames from a drawing thread as they come."""

    def __init__(self) -> None:
        self.frames: list[Frame] = []
        self.laments: list[Exception] = []
        self._came = threading.Condition()
        self.renderer = Renderer(self._take, self.laments.append)
        self.renderer.start()

    def _take(self, frame: Frame) -> None:
        with self._came:
            self.frames.append(frame)
            self._came.notify()

    def until(self, wanted: object) -> Frame:
        """The first frame that is as wanted."""
        with self._came:
            assert self._came.wait_for(lambda: any(wanted(frame) for frame in self.frames), 60)  # type: ignore[operator]
            return next(frame for frame in self.frames if wanted(frame))  # type: ignore[operator]


@pytest.fixture(scope="module")
def listener() -> Iterator[Listener]:
    made = Listener()
    yield made
    made.renderer.end()
    made.renderer.join(20)
    assert made.laments == []


numbers = iter(range(1, 10_000))
BARE = Display(bed=False)
GROUND = [int(LIMESTONE.ground[i : i + 2], 16) for i in (1, 3, 5)]


def ask(listener: Listener, scene: Scene, camera: Camera, *, moving: bool = False, pane: str = "free") -> int:
    number = next(numbers)
    listener.renderer.ask(Request(scene, camera, *SIZE, moving, number, pane))
    return number


def still(listener: Listener, scene: Scene, camera: Camera) -> Frame:
    number = ask(listener, scene, camera)
    return listener.until(lambda frame: frame.request.number == number and frame.final)


@pytest.mark.parametrize("ready", [True, False])
def test_a_heavy_part_in_motion_looks_as_it_does_at_rest(listener: Listener, ready: bool) -> None:
    ring = trimesh.creation.torus(40, 14, 400, 160)
    one = item(ring, ready=ready)
    values = one.mesh.centroids()[:, 2]
    one = replace(one, values=values, scale=scale_for(FaceField("height", "mm", (values,), 5.0, True)))
    scene = Scene((one,), default_machine(), LIMESTONE, display=Display(edges=False, bed=False))
    camera = Camera(np.zeros(3), 30, 60).framing(one.box, *SIZE)
    number = ask(listener, scene, camera, moving=True)
    moving = listener.until(lambda frame: frame.request.number == number)
    resting = still(listener, scene, camera)
    assert moving.owners is None and resting.owners is not None
    height, width = moving.depth.shape
    columns, rows = np.linspace(0, SIZE[0] - 1, width).astype(int), np.linspace(0, SIZE[1] - 1, height).astype(int)
    covered = (resting.depth < 1)[np.ix_(rows, columns)]
    assert (covered == (moving.depth < 1)).mean() > 0.97, "the same outline"
    if ready:
        off = np.abs(resting.pixels[np.ix_(rows, columns)].astype(int) - moving.pixels).max(axis=2)
        assert (off[covered] < 60).mean() > 0.9, "the same colours, those of the measure"


def test_many_bodies_in_motion_keep_their_places_and_see_through(listener: Listener) -> None:
    bodies = []
    for number in range(81):
        ball = trimesh.creation.icosphere(3, 4)
        ball.apply_translation([10 * (number % 9), 10 * (number // 9), 5])
        bodies.append(replace(item(ball, number), opacity=0.3 if number % 2 else 1.0))
    scene = Scene(tuple(bodies), default_machine(), LIMESTONE, display=Display(edges=False, bed=False))
    camera = replace(Camera(np.array([40.0, 40, 5]), 0, 90, 100), parallel=True)
    number = ask(listener, scene, camera, moving=True)
    moving = listener.until(lambda frame: frame.request.number == number)
    resting = still(listener, scene, camera)
    for where in (0, 1, 40, 79):
        x, y, _ = camera.to_picture(bodies[where].box.middle[None], *SIZE)[0]
        share = moving.depth.shape[1] / SIZE[0]
        seen, calm = moving.pixels[int(y * share), int(x * share)], resting.pixels[int(y), int(x)]
        assert np.abs(seen.astype(int) - calm).max() < 40
        assert resting.owners[int(y), int(x)] == where


def tinted(listener: Listener, scene: Scene, camera: Camera, *, moving: bool) -> np.ndarray:
    """The middle of a picture of the scene, in motion or at rest."""
    if moving:
        number = ask(listener, scene, camera, moving=True)
        frame = listener.until(lambda frame: frame.request.number == number)
    else:
        frame = still(listener, scene, camera)
    height, width = frame.depth.shape
    return frame.pixels[height // 2, width // 2].astype(int)


@pytest.mark.parametrize("how", ["closed", "inside out", "open", "mirrored", "from the inside", "cut open"])
def test_in_motion_insides_show_just_where_they_do_at_rest(listener: Listener, how: str) -> None:
    ball = trimesh.creation.icosphere(6, 30.0)
    if how == "inside out":
        ball.invert()
    if how == "open":
        ball.update_faces(ball.triangles_center[:, 1] > -20)
    one = item(ball)
    if how == "mirrored":
        one = replace(one, matrix=np.diag([-1.0, 1, 1, 1]))
    assert one.prepared is not None and one.prepared.sealed == (how not in ("inside out", "open"))
    cut = (Cut.across(1, 0.0, flipped=True),) if how == "cut open" else ()
    scene = Scene((one,), default_machine(), LIMESTONE, cut, display=Display(edges=False, bed=False, surface="facing"))
    camera = Camera(np.zeros(3), 0, 0, 4.0 if how == "from the inside" else 100.0)
    moving, resting = (tinted(listener, scene, camera, moving=moving) for moving in (True, False))
    # Where it is cut open its face is filled.
    shows_inside = how in ("inside out", "open", "from the inside")
    red = resting[0] - resting[2]
    assert (red > 60) == shows_inside and np.abs(moving - resting).max() < 40


def test_a_mirrored_copy_looks_like_a_part_made_the_other_way_round(listener: Listener) -> None:
    hook = trimesh.util.concatenate(
        [trimesh.creation.box((60, 10, 10)), trimesh.creation.cylinder(8, 30).apply_translation([26, 0, 15])]
    )
    other = hook.copy()
    other.vertices[:, 0] *= -1
    other.invert()
    camera = Camera(np.zeros(3), 30, 25, 90)
    pictures = [
        still(listener, Scene((one,), default_machine(), LIMESTONE, display=BARE), camera).pixels.astype(int)
        for one in (item(other, 1), item(hook, 2), replace(item(hook, 2), matrix=np.diag([-1.0, 1, 1, 1])))
    ]
    assert (np.abs(pictures[0] - pictures[1]) > 30).any(axis=2).mean() > 0.02, "it is no symmetric part"
    assert (np.abs(pictures[0] - pictures[2]) > 30).any(axis=2).mean() < 0.003, "mirrored while it stood there, too"


def test_a_flat_view_is_exact_to_the_corners(listener: Listener) -> None:
    block = item(trimesh.creation.box((100, 40, 20)))
    scene = Scene((block,), default_machine(), LIMESTONE, display=BARE)
    camera = replace(Camera(np.zeros(3), 0, 0, 60), parallel=True)
    frame = still(listener, scene, camera)
    inside = (
        np.abs(frame.pixels[:, :, :3].astype(int) - [int(LIMESTONE.ground[i : i + 2], 16) for i in (1, 3, 5)]).max(axis=2) > 24
    )
    rows = [np.flatnonzero(inside[:, column]) for column in range(SIZE[0]) if inside[:, column].any()]
    tops, feet = {int(found[0]) for found in rows[1:-1]}, {int(found[-1]) for found in rows[1:-1]}
    assert max(tops) - min(tops) <= 1 and max(feet) - min(feet) <= 1, "straight from corner to corner"
    mm = camera.span / SIZE[1]
    assert (max(feet) - min(tops)) * mm == pytest.approx(20, abs=3 * mm) and len(rows) * mm == pytest.approx(84, abs=20)


def test_requests_replace_one_another_pane_by_pane(listener: Listener) -> None:
    one = item(trimesh.creation.icosphere(4, 20))
    scene = Scene((one,), default_machine(), LIMESTONE)
    camera = Camera(np.zeros(3)).framing(one.box, *SIZE)
    before = len(listener.frames)
    asked = [ask(listener, scene, replace(camera, heading=float(step)), moving=True, pane="one") for step in range(60)]
    other = ask(listener, scene, camera, pane="other")
    listener.until(lambda frame: frame.request.number == asked[-1])
    listener.until(lambda frame: frame.request.number == other and frame.final)
    fresh = listener.frames[before:]
    assert sum(frame.request.pane == "one" for frame in fresh) < 30, "most were overtaken, the newest was drawn"


def test_a_bench_that_was_emptied_lets_go_of_its_drawing_and_draws_the_same_again(monkeypatch: pytest.MonkeyPatch) -> None:
    made: list[int] = []
    closed: list[int] = []

    class Watched(Stage):
        def __init__(self) -> None:
            super().__init__()
            made.append(1)

        def close(self) -> None:
            super().close()
            closed.append(1)

    monkeypatch.setattr(stage, "Stage", Watched)
    monkeypatch.setattr(stage, "_WORN", 2)
    monkeypatch.setattr(renderer, "_REST", 0.2)
    listener = Listener()
    scenes = [Scene((item(trimesh.creation.icosphere(3, radius=9), number),), default_machine(), LIMESTONE) for number in (1, 2)]
    camera = Camera(target=np.zeros(3)).framing(scenes[0].box, *SIZE)
    seen = [still(listener, scene, camera) for scene in scenes]
    time.sleep(0.6)
    assert closed == [], "it rests only where nothing stands"
    still(listener, Scene((), default_machine(), LIMESTONE), camera)
    end = time.monotonic() + 20
    while not closed and time.monotonic() < end:
        time.sleep(0.02)
    assert len(closed) == 1
    for before, scene in zip(seen, scenes, strict=True):
        after = still(listener, scene, camera)
        assert np.array_equal(before.pixels, after.pixels) and np.array_equal(before.owners, after.owners)
    assert len(made) == 2
    listener.renderer.end()
    listener.renderer.join(20)
    assert listener.laments == [] and len(closed) == 2


def test_what_is_hidden_and_what_is_cut_is_not_drawn(listener: Listener) -> None:

    one = item(trimesh.creation.box((40, 40, 40)))
    camera = replace(Camera(np.zeros(3), 0, 0, 80), parallel=True)
    whole = still(listener, Scene((one,), default_machine(), LIMESTONE, display=BARE), camera)
    cut = still(listener, Scene((one,), default_machine(), LIMESTONE, (Cut.across(2, 0.0),), display=BARE), camera)
    none = still(listener, Scene((), default_machine(), LIMESTONE, display=BARE), camera)
    covered = [(frame.depth < 1).mean() for frame in (whole, cut, none)]
    assert covered[1] == pytest.approx(covered[0] / 2, rel=0.05) and covered[2] == 0


def test_the_pace_gives_way_to_slow_pictures_and_comes_back() -> None:
    pace = Pace()
    assert pace.share == 1
    pace.took(0.2)
    assert pace.share == 1, "one slow picture is none"
    pace.took(0.2)
    coarser = pace.share
    assert coarser < 1
    for _ in range(20):
        pace.took(0.2)
    assert 0.4 < pace.share < coarser, "coarser, but never a blur"
    for _ in range(4):
        pace.took(0.002)
    assert pace.share == 1


def test_a_scene_knows_its_boxes() -> None:
    one = item(trimesh.creation.box((4, 4, 4)))
    far = replace(one, key=(2, 0), box=Box(np.array([500.0, 0, 0]), np.array([504.0, 4, 4])))
    scene = Scene((one, far), default_machine(), LIMESTONE)
    assert scene.parts_box is not None and scene.parts_box.size == pytest.approx([506, 6, 6])
    assert scene.box.high[0] == 504 and scene.box.low[2] < 0 and scene.corners.shape == (2, 8, 3)
    assert Scene((), default_machine(), LIMESTONE).parts_box is None


def some_camera(seed: int) -> Camera:
    """Any view of what lies within 60 mm of the origin: tipped, stretched, near and far."""
    rng = np.random.default_rng(seed)
    stretch = [(1.0, 1.0, 1.0), (1.0, 1.0, 2.0), (5.0, 1.0, 1.0)][seed % 3]
    return Camera(
        rng.uniform(-20, 20, 3), rng.uniform(0, 360), rng.uniform(-85, 85), rng.uniform(120, 260) * max(stretch) ** 0.5,
        bool(seed % 2), rng.uniform(-60, 60) if seed % 4 == 0 else 0.0, rng.uniform(15, 70), stretch,
    )  # fmt: skip


@pytest.mark.parametrize("seed", range(8))
def test_the_picture_shows_things_where_the_camera_says(listener: Listener, seed: int) -> None:
    rng = np.random.default_rng(100 + seed)
    beads = []
    for number in range(20):
        bead = trimesh.creation.icosphere(2, 2.0)
        bead.apply_translation(rng.uniform(-50, 50, 3))
        beads.append(item(bead, number))
    camera = some_camera(seed)
    frame = still(listener, Scene(tuple(beads), default_machine(), LIMESTONE, display=BARE), camera)
    checked = 0
    for number, bead in enumerate(beads):
        rows, columns = np.nonzero(frame.owners == number)
        outline = camera.to_picture(bead.mesh.vertices, *SIZE)[:, :2]
        whole = np.isfinite(outline).all() and (outline > 4).all() and (outline < np.array(SIZE) - 4).all()
        others = [camera.to_picture(one.mesh.vertices, *SIZE)[:, :2] for one in beads if one is not bead]
        apart = all((o.min(axis=0) > outline.max(axis=0)).any() or (o.max(axis=0) < outline.min(axis=0)).any() for o in others)
        if whole and apart and len(rows) > 10:
            checked += 1
            assert [columns.min(), rows.min()] == pytest.approx(outline.min(axis=0), abs=1.6)
            assert [columns.max() + 1, rows.max() + 1] == pytest.approx(outline.max(axis=0), abs=1.6)
    assert checked >= 2


@pytest.mark.parametrize("seed", range(8))
@pytest.mark.parametrize(
    "cut", [None, Cut.across(0, 3.0), Cut.across(2, -4.0, flipped=True), Cut(along=(1, 2, 2), position=1.0, depth=40.0)]
)
def test_a_ray_meets_what_the_picture_shows(listener: Listener, seed: int, cut: Cut | None) -> None:
    rng = np.random.default_rng(seed)
    bodies = []
    for number, made in enumerate(
        [trimesh.creation.box((50, 20, 30)), trimesh.creation.torus(20, 6), trimesh.creation.cone(14, 40)]
    ):
        turn = trimesh.transformations.random_rotation_matrix(rng.random(3))
        turn[:3, 3] = rng.uniform(-25, 25, 3)
        body = item(made, number)
        box = Mesh(body.mesh.vertices @ turn[:3, :3].T + turn[:3, 3], body.mesh.faces).box
        bodies.append(replace(body, matrix=turn, box=box))
    scene = Scene(tuple(bodies), default_machine(), LIMESTONE, () if cut is None else (cut,), display=BARE)
    camera = some_camera(seed)
    frame = still(listener, scene, camera)
    finder = Finder(scene)
    same: list[bool] = []
    near: list[bool] = []
    for x, y in rng.uniform((3, 3), (SIZE[0] - 3, SIZE[1] - 3), (250, 2)):
        column, row = int(x), int(y)
        seen = frame.owners[row - 1 : row + 2, column - 1 : column + 2]
        if (seen != seen[1, 1]).any():
            continue  # At a border half a pixel decides.
        hit = finder.first(*camera.ray(column + 0.5, row + 0.5, *SIZE, reach=2000))
        same.append((-1 if hit is None else hit.item) == seen[1, 1])
        if hit is not None and same[-1]:
            around = [finder.first(*camera.ray(x, y, *SIZE, reach=2000)) for x in (column, column + 1) for y in (row, row + 1)]
            depths = [camera.to_picture(one.point[None], *SIZE)[0, 2] for one in (hit, *around) if one is not None]
            seen_at, room = frame.depth_at(column, row), 0.003 * camera.distance
            near.append(min(depths) - room < seen_at < max(depths) + room)
    assert len(same) > 100 and np.mean(same) > 0.99
    assert np.mean(near) > 0.99, "at the depth that the picture has"


def colours_in(frame: Frame) -> np.ndarray:
    """(n, 3) of the picture's pixels that are not ground."""
    pixels = frame.pixels[:, :, :3].reshape(-1, 3).astype(int)
    return pixels[(np.abs(pixels - GROUND) > 8).any(axis=1)]


def near(pixels: np.ndarray, colour: str) -> int:
    wanted = np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)])
    return int((np.abs(pixels - wanted).max(axis=1) < 24).sum())


def test_cut_faces_are_filled_hatched_by_body_and_red_where_bodies_overlap(listener: Listener) -> None:
    left = trimesh.creation.box((40, 30, 30))
    right = left.copy()
    right.apply_translation([30, 0, 0])
    two = (item(left, 0), replace(item(right, 1), key=(1, 0)))
    camera = Camera(np.array([15.0, 0, 0]), 0, 90, 60, True)
    cut = (Cut.across(2, 0.0),)
    places = [np.eye(4), np.eye(4)]
    places[0][0, 3], places[1][0, 3] = -12, 12
    apart = tuple(replace(one, matrix=place) for one, place in zip(two, places, strict=True))
    seen = {}
    for name, items in (("over", two), ("apart", apart)):
        scene = Scene(items, default_machine(), LIMESTONE, cut, display=Display(bed=False, edges=False))
        seen[name] = colours_in(still(listener, scene, camera))
    assert near(seen["apart"], LIMESTONE.failed) == 0 and near(seen["apart"], LIMESTONE.cut) > 1000, "filled"
    assert near(seen["over"], LIMESTONE.failed) > 300, "the overlap, 10 mm wide"
    plain = near(seen["apart"], LIMESTONE.cut)
    assert plain < 0.95 * len(seen["apart"]), "and hatched"


def test_a_large_cut_that_is_seen_edge_on_is_drawn_as_soon_as_any(listener: Listener) -> None:
    """Hatching that is filtered along the sight line costs minutes in software drawing."""
    wheel = trimesh.load(FILES / "pulley.obj")
    wheel.apply_scale(1000.0)
    wheel.apply_translation(np.array([-629.01595745, -635.35638298, 0.0]) - wheel.bounds[0])
    cut = Cut(along=(0.3212468432172457, 0.9469954940351905, 0.0), position=133.91863652934958)
    scene = Scene((item(wheel),), default_machine(), LIMESTONE, (cut,))
    number = next(numbers)
    camera = Camera(np.array([42.61507893, 166.50034126, 8.06349789]), 0.0, 90.0, 168.32446877303158, True)
    listener.renderer.ask(Request(scene, camera, 300, 207, False, number))
    assert listener.until(lambda frame: frame.request.number == number and frame.final)


def test_an_open_body_shows_where_its_cut_does_not_close(listener: Listener) -> None:
    box = trimesh.creation.box((40, 30, 30))
    box.update_faces(box.triangles_center[:, 0] < 19)
    scene = Scene((item(box),), default_machine(), LIMESTONE, (Cut.across(2, 0.0),), display=Display(bed=False, edges=False))
    seen = colours_in(still(listener, scene, Camera(np.zeros(3), 0, 90, 60, True)))
    assert near(seen, LIMESTONE.failed) > 40, "its chain is drawn in the colour of a fail"


@pytest.mark.parametrize("count", [3, 9])
@pytest.mark.parametrize("seed", range(4))
def test_what_several_planes_leave_is_what_the_picture_shows(listener: Listener, seed: int, count: int) -> None:
    """Each pixel of a cut ball belongs to it just where a ray meets what is left."""
    rng = np.random.default_rng(seed)
    one = item(trimesh.creation.icosphere(4, 30.0))
    cuts = tuple(Cut.through(way * rng.uniform(16, 26), way) for way in unit_rows(rng.normal(size=(count, 3))))
    scene = Scene((one,), default_machine(), LIMESTONE, cuts, display=BARE)
    camera = Camera(np.zeros(3), rng.uniform(0, 360), rng.uniform(-60, 60), 90)
    frame = still(listener, scene, camera)
    finder = Finder(scene)
    same = []
    for x, y in rng.uniform((3, 3), (SIZE[0] - 3, SIZE[1] - 3), (300, 2)):
        column, row = int(x), int(y)
        around = frame.owners[row - 1 : row + 2, column - 1 : column + 2]
        if (around == around[1, 1]).all():
            same.append((finder.first(*camera.ray(column + 0.5, row + 0.5, *SIZE, reach=2000)) is None) == (around[1, 1] < 0))
    assert len(same) > 100 and np.mean(same) > 0.99
