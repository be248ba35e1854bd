"""What a rectangle of the picture takes, against an independent library; what lies under a place; borders of faces."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from gullyrise.core.camera import before_eye
from gullyrise.core.camera.camera import Camera
from gullyrise.core.geometry import Mesh
from gullyrise.core.machines.library import machine_named
from gullyrise.core.picking.feature import Feature, Kind
from gullyrise.core.picking.pointing import FeatureLines, bed_point, in_rectangle, own_lines
from gullyrise.core.picking.prepared import prepared
from gullyrise.drawing.palette import LIMESTONE
from gullyrise.drawing.scene import Item, Scene

SIZE = (800, 600)


def item(made: trimesh.Trimesh, matrix: np.ndarray | None = None, *, ready: bool = True) -> Item:
    mesh = Mesh(np.asarray(made.vertices), np.asarray(made.faces))
    place = np.eye(4) if matrix is None else matrix
    box = Mesh(mesh.vertices @ place[:3, :3].T + place[:3, 3], mesh.faces).box
    return Item((1, 0), "part", mesh, place, box, False, prepared=prepared(mesh, None) if ready else None)


SHAPES = {
    "block": trimesh.creation.box((40, 30, 20)),
    "wedge": trimesh.convex.convex_hull([[0, 0, 0], [50, 0, 0], [0, 40, 0], [0, 0, 25], [50, 40, 3]]),
    "prism": trimesh.creation.cylinder(15, 40, sections=7),
}
LIKELY = settings(max_examples=150, deadline=None)


def flat_of(one: Item, camera: Camera, points: np.ndarray) -> np.ndarray:
    return camera.to_picture(points @ one.matrix[:3, :3].T + one.matrix[:3, 3], *SIZE)[:, :2]


def wanted_of(one: Item, kind: Kind, camera: Camera, box: shapely.Polygon, *, touching: bool) -> tuple[set[int], set[int]]:
    """(what shapely says is taken, what is too near to the rectangle's border to say)."""
    anatomy = one.prepared.anatomy  # type: ignore[union-attr]
    if kind in ("body", "face"):
        shapes = [shapely.Polygon(corners) for corners in flat_of(one, camera, one.mesh.vertices)[one.mesh.faces]]
        group = np.zeros(len(shapes), dtype=int) if kind == "body" else anatomy.face_of
    elif kind == "edge":
        shapes = [shapely.LineString(ends) for ends in flat_of(one, camera, anatomy.segments.reshape(-1, 3)).reshape(-1, 2, 2)]
        group = anatomy.edge_of
    else:
        shapes = [shapely.Point(place) for place in flat_of(one, camera, anatomy.corners)]
        group = np.arange(len(shapes))
    taken, unsure = set(), set()
    for number in range(int(group.max()) + 1):
        own = [shape for shape, of in zip(shapes, group, strict=True) if of == number]
        test = [(box.intersects(s) if touching else box.covers(s), s.distance(box.exterior)) for s in own]
        answers = [met for met, _ in test]
        if (any if touching else all)(answers):
            taken.add(number)
        # What lies on the border to a thousandth of a pixel may be told either way.
        grown, shrunk = box.buffer(1e-3), box.buffer(-1e-3)
        if any((grown.intersects(s) != shrunk.intersects(s)) or (grown.covers(s) != shrunk.covers(s)) for s in own):
            unsure.add(number)
    return taken, unsure


@LIKELY
@given(
    shape=st.sampled_from(sorted(SHAPES)),
    kind=st.sampled_from(["body", "face", "edge", "vertex"]),
    touching=st.booleans(),
    parallel=st.booleans(),
    bearing=st.tuples(st.floats(0, 360), st.floats(-80, 80)),
    corner=st.tuples(st.floats(150, 620), st.floats(100, 480)),
    extent=st.tuples(st.floats(2, 450), st.floats(2, 400)),
    mirrored=st.booleans(),
)
def test_a_rectangle_takes_just_what_geometry_says(
    shape: str, kind: Kind, touching: bool, parallel: bool, bearing: tuple[float, float], corner: tuple[float, float],
    extent: tuple[float, float], mirrored: bool,
) -> None:  # fmt: skip
    matrix = trimesh.transformations.rotation_matrix(0.7, (1, 2, 3), (5, 0, 0)) @ np.diag([-1.0 if mirrored else 1.0, 1, 1, 1])
    one = item(SHAPES[shape], matrix)
    camera = Camera(one.box.middle, *bearing, span=70, parallel=parallel)
    low, high = np.array(corner), np.array(corner) + extent
    got = set(in_rectangle(one, kind, camera, SIZE, low, high, touching=touching))
    wanted, unsure = wanted_of(one, kind, camera, shapely.box(*low, *high), touching=touching)
    assert got - unsure == wanted - unsure


@settings(max_examples=200, deadline=None)
@given(
    st.sampled_from(sorted(SHAPES)),
    st.sampled_from(["body", "face", "edge"]),
    st.booleans(),
    st.tuples(st.floats(0, 360), st.floats(-89, 89)),
    st.floats(1, 30),
    st.tuples(*[st.floats(-30, 30)] * 3),
    st.tuples(st.floats(0, 700), st.floats(0, 500)),
)
def test_close_by_and_inside_whatever_is_seen_in_a_rectangle_is_touched(
    shape: str, kind: Kind, parallel: bool, bearing: tuple[float, float], span: float, off: tuple[float, float, float],
    corner: tuple[float, float],
) -> None:  # fmt: skip
    one = item(SHAPES[shape])
    anatomy = one.prepared.anatomy  # type: ignore[union-attr]
    camera = Camera(one.box.middle + np.array(off), *bearing, span=span, parallel=parallel)
    low, high = np.array(corner), np.array(corner) + 100
    got = set(in_rectangle(one, kind, camera, SIZE, low, high, touching=True))
    share = np.random.default_rng(1).dirichlet(np.ones(2 if kind == "edge" else 3), 400)
    pieces = anatomy.segments if kind == "edge" else one.mesh.triangles()
    group = {"body": np.zeros(len(pieces), dtype=int), "face": anatomy.face_of, "edge": anatomy.edge_of}[kind]
    for piece, of in zip(pieces, group, strict=True):
        seen = flat_of(one, camera, share @ piece)
        if ((seen > low) & (seen < high)).all(axis=1).any():
            assert int(of) in got


def test_what_is_behind_the_eye_is_in_no_rectangle() -> None:
    one = item(SHAPES["block"])
    camera = Camera(one.box.middle + np.array([0, 400.0, 0]), 0, 0, span=100)
    everything = np.array([-1e5, -1e5]), np.array([1e5, 1e5])
    for kind in ("body", "face", "edge", "vertex"):
        assert in_rectangle(one, kind, camera, SIZE, *everything, touching=True) == []


def test_a_body_that_is_not_ready_is_taken_whole_and_has_no_features() -> None:
    one = item(SHAPES["block"], ready=False)
    camera = Camera(one.box.middle, 20, 20, span=70)
    within = np.array([398.0, 298.0]), np.array([402.0, 302.0])
    assert in_rectangle(one, "body", camera, SIZE, *within, touching=True) == [0]
    assert in_rectangle(one, "body", camera, SIZE, *within, touching=False) == []
    assert in_rectangle(one, "face", camera, SIZE, *within, touching=True) == []


def test_the_rim_of_a_face_is_its_outline() -> None:
    plate = trimesh.creation.annulus(10, 30, 8, sections=48)
    one = item(plate)
    top = next(n for n in range(200) if (one.mesh.normals()[one.prepared.anatomy.face_of == n] @ [0, 0, 1.0] > 0.99).all())  # type: ignore[union-attr]
    lines = own_lines(one, Feature("face", one.key, top))
    length = np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1).sum()
    assert length == pytest.approx(2 * 48 * np.sin(np.pi / 48) * (10 + 30)), "the outer and the inner circle, no spokes"
    assert np.allclose(lines[:, :, 2], 4)


def test_lines_of_a_large_body_are_worked_out_aside() -> None:
    one = item(trimesh.creation.icosphere(7))
    asked: list[tuple[object, object]] = []
    came: list[bool] = []
    lines = FeatureLines(lambda work, done: asked.append((work, done)), lambda: came.append(True))
    assert len(lines.of(one, Feature("face", one.key, 0))) == 0 and len(lines.of(one, Feature("face", one.key, 0))) == 0
    assert len(asked) == 1, "asked once, and not waited for"
    work, done = asked[0]
    done(work())  # type: ignore[operator]
    assert came and len(lines.of(one, Feature("face", one.key, 0))) > 2


@pytest.mark.parametrize(("machine", "corner_is_bed"), [("heron-220", True), ("dipper-260", False)])
def test_the_bed_ends_where_it_ends(machine: str, corner_is_bed: bool) -> None:
    scene = Scene((), machine_named(machine), LIMESTONE)
    box = scene.machine.envelope.box
    down = np.array([0.0, 0, -1])

    def met(x: float, y: float) -> bool:
        found = bed_point(scene, np.array([x, y, 300.0]), down)
        assert found is None or (found[1] == 300 and found[0][2] == 0)
        return found is not None

    middle = box.middle
    assert met(middle[0], middle[1]) and met(box.high[0] - 0.5, middle[1]) and not met(box.high[0] + 0.5, middle[1])
    assert met(box.high[0] - 0.5, box.high[1] - 0.5) == corner_is_bed
    assert bed_point(scene, np.array([middle[0], middle[1], -5.0]), -down) is None, "from below it is glass"


@settings(max_examples=100, deadline=None)
@given(st.integers(0, 10_000), st.booleans())
def test_what_lies_before_the_eye_is_all_of_it_and_no_more(seed: int, stretched: bool) -> None:
    rng = np.random.default_rng(seed)
    camera = Camera(rng.uniform(-20, 20, 3), rng.uniform(0, 360), rng.uniform(-89, 89), rng.uniform(5, 60))
    camera = camera.drawn_out((1.0, 1.0, 3.0)) if stretched else camera
    triangles = rng.uniform(-60, 60, (40, 3, 3))
    before, of = before_eye.triangles(camera, triangles)
    assert (before_eye.depths(camera, before.reshape(-1, 3)) >= -1e-9).all()
    share = rng.dirichlet(np.ones(3), 3000)
    for number, triangle in enumerate(triangles):
        own = before[of == number]
        whole = np.linalg.norm(np.cross(triangle[1] - triangle[0], triangle[2] - triangle[0]))
        kept = sum(np.linalg.norm(np.cross(one[1] - one[0], one[2] - one[0])) for one in own)
        wanted = (before_eye.depths(camera, share @ triangle) > 0).mean()
        assert kept / whole == pytest.approx(wanted, abs=0.05)
        for one in own:
            turn = np.cross(one[1] - one[0], one[2] - one[0]) @ np.cross(triangle[1] - triangle[0], triangle[2] - triangle[0])
            assert turn >= 0, "facing the same way"
    ends = triangles[:, :2]
    pieces, whose = before_eye.pieces(camera, ends)
    ahead = (before_eye.depths(camera, ends.reshape(-1, 3)) > 0).reshape(-1, 2)
    assert set(whose) == set(np.flatnonzero(ahead.any(axis=1)))
    assert (before_eye.depths(camera, pieces.reshape(-1, 3)) >= -1e-9).all()
    untouched = ahead[whose].all(axis=1)
    assert np.array_equal(pieces[untouched], ends[whose][untouched])


def test_in_a_parallel_picture_all_of_it_is_before_the_eye() -> None:
    camera = Camera(np.zeros(3), 20, 30, 10.0, parallel=True)
    corners = np.random.default_rng(1).uniform(-1e4, 1e4, (20, 3, 3))
    before, of = before_eye.triangles(camera, corners)
    assert np.array_equal(before, corners) and np.array_equal(of, np.arange(20))
