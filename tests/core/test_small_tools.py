"""Laws of the small tools that measures stand on: polygons, winding, grouping, numbers out of text, kept arrays."""

from __future__ import annotations

import io
import pickle

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

import zoo
from gullyrise.core.checks.places import Cells
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.ball import shrink_balls
from gullyrise.core.geometry.facets import facet_errors
from gullyrise.core.geometry.nearest import Surface
from gullyrise.core.geometry.polygons import split, split_all
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.sampling import spread
from gullyrise.core.geometry.topology import edges_of
from gullyrise.core.geometry.winding import inside, winding_numbers
from gullyrise.core.reading.numbers import Lines, counted_lists, first_columns, numbers_in, portions, words_per_line

turns = st.builds(
    lambda x, y, z, degrees: Transform.turned(np.array([x, y, z + 1.5]), degrees),
    st.floats(-1, 1), st.floats(-1, 1), st.floats(-1, 1), st.floats(0, 360),
)  # fmt: skip


def grouped(points: np.ndarray) -> np.ndarray:
    every = np.ones(len(points), dtype=bool)
    return Cells.dealt(points, points, 1.0).gathered(every, ~every)


def area_vectors(points: np.ndarray, triangles: np.ndarray) -> np.ndarray:
    a, b, c = (points[triangles[:, k]] for k in range(3))
    return np.cross(b - a, c - a) / 2


@settings(max_examples=60, deadline=None)
@given(st.lists(st.floats(0.2, 5.0), min_size=4, max_size=14), turns)
def test_a_star_of_any_shape_is_split_without_folding(radii: list[float], turn: Transform) -> None:
    angle = np.arange(len(radii)) / len(radii) * 2 * np.pi
    ring = turn.apply(np.column_stack([np.cos(angle) * radii, np.sin(angle) * radii, np.full(len(radii), 2.0)]))
    triangles = split(ring, np.arange(len(radii))[None])[0]
    assert triangles.shape == (len(radii) - 2, 3)
    normal = turn.apply(np.array([[0.0, 0.0, 1.0]]))[0] - turn.apply(np.zeros((1, 3)))[0]
    along = area_vectors(ring, triangles) @ normal
    step = np.sin(2 * np.pi / len(radii)) / 2
    assert along.sum() == pytest.approx(step * float(np.dot(radii, np.roll(radii, 1))), rel=1e-9)
    assert along.min() > -1e-9, "no triangle looks the other way"


def test_mixed_polygons_keep_their_order_and_owner() -> None:
    points = np.array([(0, 0, 0), (2, 0, 0), (2, 2, 0), (0, 2, 0), (1, 3, 0)], dtype=float)
    sides = np.array([4, 2, 3, 5])
    triangles, owner = split_all(points, sides, np.array([0, 1, 2, 3, 0, 1, 3, 2, 4, 0, 1, 2, 4, 3]))
    assert owner.tolist() == [0, 0, 2, 3, 3, 3], "a polygon of two corners is none"
    areas = np.linalg.norm(area_vectors(points, triangles), axis=1)
    assert [areas[owner == polygon].sum() for polygon in (0, 2, 3)] == pytest.approx([4, 1, 5])


def test_the_winding_number_tells_inside_cavity_and_outside() -> None:
    mesh = zoo.mesh_of(zoo.hollow_box(30, 2))
    points = np.array([(1.0, 15, 15), (15, 15, 15), (40, 0, 0), (29.5, 29.5, 29.5)])
    assert winding_numbers(mesh, points) == pytest.approx([1, 0, 0, 1], abs=1e-9)
    assert inside(mesh, points).tolist() == [True, False, False, True]


@settings(max_examples=20, deadline=None)
@given(turns, st.integers(0, 1000))
def test_few_points_and_many_agree_on_what_is_inside(turn: Transform, seed: int) -> None:
    mesh = zoo.mesh_of(zoo.t_slot()).placed(turn)
    box = mesh.box
    points = box.low + np.random.default_rng(seed).random((40, 3)) * box.size
    near = Surface(mesh).nearest(points)[0] < 1e-3
    assert (Surface(mesh).inside(points) == (winding_numbers(mesh, points) > 0.5))[~near].all()


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 60))
def test_groups_join_what_is_near_and_part_what_is_far(seed: int, count: int) -> None:
    points = np.random.default_rng(seed).random((count, 3)) * 12
    label = grouped(points)
    gaps = np.linalg.norm(points[:, None] - points[None], axis=2)
    assert (label[:, None] == label[None])[gaps <= 1.0].all()
    # Two crowds farther apart than two cells in a straight line are never one.
    both = grouped(np.concatenate([points, points + [15.0, 0, 0]]))
    assert not set(both[:count].tolist()) & set(both[count:].tolist())


def test_numbers_come_out_of_text_or_the_line_is_refused() -> None:
    assert numbers_in(b"1 2.5\n-3e2").tolist() == [1, 2.5, -300]
    assert numbers_in(b" 1.  +2\t.5\n\n-3E2 007").tolist() == [1, 2, 0.5, -300, 7], "written as JSON would not"
    assert first_columns(b"1 2 3\n4 5 6\n", 3).tolist() == [[1, 2, 3], [4, 5, 6]]
    assert first_columns(b"1 2 3 0.5\n4 5 6\n", 3).tolist() == [[1, 2, 3], [4, 5, 6]], "what follows is passed over"
    assert first_columns(b"1 2 3 red\n4 5 6 red\n", 3).tolist() == [[1, 2, 3], [4, 5, 6]]
    assert first_columns(b"", 3).shape == (0, 3)
    for wrong in (b"1 2\n3 4 5\n", b"1 2 three\n", b"1 2 3\n4 5\n", b"1 2 3 4\n5 6\n"):
        with pytest.raises(ValueError, match=r".+"):
            first_columns(wrong, 3)


@settings(max_examples=150, deadline=None)
@given(st.lists(st.lists(st.floats(-1e6, 1e6), min_size=1, max_size=4), min_size=1, max_size=12), st.data())
def test_words_are_counted_and_numbers_read_however_they_are_parted(rows: list[list[float]], data: st.DataObject) -> None:
    blank = st.sampled_from([b" ", b"  ", b"\t", b" \t "])
    text = b""
    for row in rows:
        for number in row:
            text += repr(number).encode() + data.draw(blank)
        text += b"\n"
    assert words_per_line(text).tolist() == [len(row) for row in rows]
    assert numbers_in(text).tolist() == [number for row in rows for number in row]


@pytest.mark.parametrize("end", [b"\n", b"\r\n", b"\r"])
@pytest.mark.parametrize("size", [1, 3, 7, 4096])
def test_portions_are_whole_lines_whatever_ends_them(end: bytes, size: int) -> None:
    lines = [b"one", b"", b"three 3", b"f", b"last"]
    pieces = list(portions(io.BytesIO(end.join(lines)), size))
    assert all(piece.endswith(b"\n") for piece in pieces)
    assert b"".join(pieces) == b"\n".join(lines) + b"\n"
    taken = Lines(iter(pieces))
    assert b"".join(taken.take(2)) == b"one\nthree 3\n" and b"".join(taken.take(9)) == b"f\nlast\n"


def test_lists_that_count_themselves_are_taken_apart() -> None:
    counts, numbers = counted_lists(b"3 0 1 2\n4 5 6 7 8 0.5 0.5\n3 1 2 3 255\n")
    assert counts.tolist() == [3, 4, 3] and numbers.tolist() == [0, 1, 2, 5, 6, 7, 8, 1, 2, 3]
    with pytest.raises(ValueError, match="too few"):
        counted_lists(b"4 1 2 3\n")


def test_what_a_mesh_keeps_is_not_sent_along() -> None:
    mesh = zoo.mesh_of(Manifold.sphere(5, 48))
    bare = len(pickle.dumps(mesh))
    assert mesh.normals() is mesh.normals(), "worked out once"
    with pytest.raises(ValueError, match="read-only"):
        mesh.normals()[0] = 0
    assert len(pickle.dumps(mesh)) == bare
    again: Mesh = pickle.loads(pickle.dumps(mesh))
    assert (again.normals() == mesh.normals()).all() and again.area == mesh.area


def test_a_round_surface_stands_outside_its_facets_and_a_bore_inside() -> None:
    rod = Manifold.cylinder(60, 10, 10, 24)
    mesh = zoo.mesh_of(rod)
    outward, inward = facet_errors(mesh, edges_of(mesh))
    rise = 10 * (1 - np.cos(np.pi / 24))
    assert outward.max() >= rise and inward.max() == 0
    bore = zoo.mesh_of(zoo.block((-20, -20, 5), (20, 20, 50)) - rod)
    outward, inward = facet_errors(bore, edges_of(bore))
    assert inward.max() >= rise and outward.max() == 0


@settings(max_examples=12, deadline=None)
@given(turns, st.floats(0.01, 50))
def test_balls_turn_and_scale_with_the_part_and_never_exceed_the_straight_distance(turn: Transform, factor: float) -> None:
    def balls(mesh: Mesh) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        samples = spread(mesh, 400)
        found = shrink_balls(RayScene(mesh), Surface(mesh), samples.points, samples.normals, np.inf)
        return found.diameter, found.through, found.wall

    still = zoo.mesh_of(zoo.ribbed_plate(0.5))
    diameter, through, wall = balls(still)
    assert (diameter <= through * (1 + 1e-5)).all()
    moved_diameter, _, moved_wall = balls(still.placed(turn).placed(Transform.scaled(factor)))
    both = wall & moved_wall
    assert both.sum() > 0.9 * wall.sum()
    assert np.quantile(np.abs(moved_diameter[both] / factor - diameter[both]), 0.99) < 0.01
