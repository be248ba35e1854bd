"""What pointing rests on: rays in blocks against brute force, the anatomy of bodies, likeness of shapes, stand-ins."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

import zoo
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.anatomy import anatomy_of
from gullyrise.core.geometry.blocks import along_ray, blocks_of
from gullyrise.core.geometry.likeness import alike, moments
from gullyrise.core.geometry.reducing import reduced
from gullyrise.core.picking.prepared import prepared
from gullyrise.core.reading import read
from gullyrise.demo import FILES


def soup(seed: int, count: int) -> Mesh:
    """Triangles anywhere, of any size."""
    rng = np.random.default_rng(seed)
    corners = rng.normal(size=(count, 1, 3)) * 20 + rng.normal(size=(count, 3, 3)) * rng.uniform(0.01, 8, size=(count, 1, 1))
    return Mesh(corners.reshape(-1, 3), np.arange(3 * count, dtype=np.int32).reshape(-1, 3))


def by_brute_force(mesh: Mesh, origin: np.ndarray, direction: np.ndarray) -> list[tuple[float, int]]:
    out = []
    for number, (a, b, c) in enumerate(mesh.triangles()):
        matrix = np.column_stack([b - a, c - a, -direction])
        if abs(np.linalg.det(matrix)) < 1e-14:
            continue
        u, v, t = np.linalg.solve(matrix, origin - a)
        if u >= 0 and v >= 0 and u + v <= 1 and t >= 0:
            out.append((float(t), number))
    return sorted(out)


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 900))
def test_rays_in_blocks_meet_what_brute_force_meets(seed: int, count: int) -> None:
    mesh = soup(seed, count)
    blocks = blocks_of(mesh)
    assert sorted(blocks.order.tolist()) == list(range(count)), "every face stands in one block"
    rng = np.random.default_rng(seed + 1)
    for _ in range(4):
        aim = mesh.centroids()[rng.integers(count)]
        origin = rng.normal(size=3) * 60
        direction = (aim - origin) / np.linalg.norm(aim - origin)
        distances, faces = along_ray(mesh, blocks, origin, direction)
        wanted = by_brute_force(mesh, origin, direction)
        assert faces.tolist() == [face for _, face in wanted]
        assert distances == pytest.approx([distance for distance, _ in wanted])


def test_rays_along_axes_and_into_nothing() -> None:
    box = zoo.mesh_of(Manifold.cube((2, 3, 4)))
    blocks = blocks_of(box)
    for axis in range(3):
        origin, direction = np.array([0.7, 0.8, 0.9]), np.zeros(3)
        origin[axis], direction[axis] = -5.0, 1.0
        distances, _ = along_ray(box, blocks, origin, direction)
        assert distances == pytest.approx([5.0, 5.0 + (2, 3, 4)[axis]])
    assert not len(along_ray(box, blocks, np.array([9.0, 9, 9]), np.array([1.0, 0, 0]))[0])
    empty = Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int32))
    assert not len(along_ray(empty, blocks_of(empty), np.zeros(3), np.array([1.0, 0, 0]))[0])


@pytest.mark.parametrize("turn", range(len(zoo.TURNS)))
@pytest.mark.parametrize(
    ("shape", "faces", "edges", "corners"),
    [
        (Manifold.cube((10, 20, 30)), 6, 12, 8),
        (Manifold.cube((10, 20, 30)).refine(4), 6, 12, 8),
        (Manifold.cube((10, 20, 5)) + Manifold.cube((4, 4, 15)), 9, 21, 14),
        (Manifold.cylinder(20, 5, 5, 64), 66, 2, 0),
        (Manifold.cube((20, 20, 4)) - Manifold.cylinder(9, 3, 3, 48).translate((10, 10, -2)), 6 + 48, 12 + 2, 8),
    ],
)
def test_meshes_have_the_faces_edges_and_corners_that_a_person_sees(
    shape: Manifold, faces: int, edges: int, corners: int, turn: int
) -> None:
    mesh = zoo.mesh_of(shape).placed(zoo.TURNS[turn])
    found = anatomy_of(mesh)
    assert (found.face_of.max() + 1, found.edge_of.max() + 1, len(found.corners)) == (faces, edges, corners)


@pytest.mark.parametrize("steps", [90, 720])
def test_a_flat_that_runs_into_a_fine_rounding_is_a_face_of_its_own(steps: int) -> None:
    """A plate whose long edges are rounded by facets of half a degree: flats and rounding bend into each other unseen."""
    from manifold3d import CrossSection

    rounded = CrossSection.square((20, 10), True)
    rounded = rounded.offset(3, circular_segments=steps)
    mesh = zoo.mesh_of(rounded.extrude(40))
    found = anatomy_of(mesh)
    areas = np.sort(np.bincount(found.face_of, weights=mesh.face_areas()))[::-1]
    end = 26 * 16 - (4 - np.pi) * 9
    assert areas[:6] == pytest.approx([800, 800, end, end, 400, 400], rel=0.02), "four flats and two ends, a little over at most"


def test_open_and_noisy_meshes_have_rims_as_edges() -> None:
    sheet = trimesh.creation.box((10, 10, 1))
    open_box = Mesh(np.asarray(sheet.vertices), np.asarray(sheet.faces)[sheet.face_normals[:, 2] < 0.5])
    found = anatomy_of(open_box)
    assert (found.face_of.max() + 1, found.edge_of.max() + 1, len(found.corners)) == (5, 12, 8)
    rng = np.random.default_rng(5)
    bumpy = trimesh.creation.icosphere(4, 10)
    bumpy = Mesh(np.asarray(bumpy.vertices) + rng.normal(size=bumpy.vertices.shape) * 0.4, np.asarray(bumpy.faces))
    found = anatomy_of(bumpy)
    assert len(found.face_of) == len(bumpy.faces) and found.edge_of.max() < len(found.segments)


@pytest.mark.parametrize("name", ["mount_plate.step", "clamp_saddle.step"])
def test_solids_have_their_true_faces_and_edges(name: str) -> None:
    for body in read(FILES / name).bodies:
        found = body.anatomy
        assert found is not None and len(found.face_of) == len(body.mesh.faces)
        assert set(found.face_of) == set(range(found.face_of.max() + 1)), "every face has triangles"
        areas = np.bincount(found.face_of, weights=body.mesh.face_areas())
        assert areas.sum() == pytest.approx(body.mesh.area)
        vertices = {tuple(row) for row in np.round(body.mesh.vertices, 6)}
        ends = {tuple(row) for row in np.round(found.segments.reshape(-1, 3), 6)}
        assert len(ends - vertices) == 0, "edges run along the triangles"


def test_a_cylinder_of_a_solid_file_is_one_face_with_two_round_edges(tmp_path: Path) -> None:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder
    from OCP.BRepTools import BRepTools

    path = tmp_path / "pin.brep"
    BRepTools.Write_s(BRepPrimAPI_MakeCylinder(5.0, 20.0).Shape(), str(path))
    (body,) = read(path).bodies
    assert body.anatomy is not None
    assert body.anatomy.face_of.max() + 1 == 3 and body.anatomy.edge_of.max() + 1 == 2 and len(body.anatomy.corners) == 0
    around = np.linalg.norm(body.anatomy.segments[:, 1] - body.anatomy.segments[:, 0], axis=1).sum()
    assert around == pytest.approx(2 * 2 * np.pi * 5, rel=0.01)


CHIRAL = Manifold.cube((10, 20, 5)) + Manifold.cube((4, 4, 15)) + Manifold.cube((3, 2, 2)).translate((7, 16, 5))


@settings(max_examples=12, deadline=None)
@given(st.floats(-180, 180), st.tuples(*[st.floats(-1, 1)] * 3), st.tuples(*[st.floats(-200, 200)] * 3), st.integers(0, 3))
def test_shapes_are_alike_however_turned_and_no_others(
    angle: float, axis: tuple[float, float, float], move: tuple[float, float, float], which: int
) -> None:
    if np.linalg.norm(axis) < 1e-3:
        axis = (0.0, 0.0, 1.0)
    shapes = [CHIRAL, Manifold.cylinder(20, 5, 5, 48), Manifold.cube((9, 9, 9)), Manifold.cube((10, 20, 30))]
    mesh = zoo.mesh_of(shapes[which])
    place = Transform.turned(np.array(axis), angle).then(Transform.moved(np.array(move)))
    assert alike(mesh, mesh.placed(place))
    assert alike(mesh, zoo.mesh_of(shapes[which].refine(3)).placed(place)), "however its triangles are cut"
    assert not alike(mesh, zoo.mesh_of(shapes[which].scale((1.0, 1.0, 1.01))).placed(place)), "one per cent longer is another"
    mirrored = zoo.mesh_of(shapes[which].mirror((1, 0, 0))).placed(place)
    assert alike(mesh, mirrored) == (which != 0), "a mirror image is alike only where the shape is its own"


def test_moments_are_those_of_a_sphere() -> None:
    ball = trimesh.creation.icosphere(5, 7.0)
    centre, size, axes = moments(Mesh(np.asarray(ball.vertices) + 3.0, np.asarray(ball.faces)))
    assert centre == pytest.approx([3, 3, 3]) and size == pytest.approx([7 / np.sqrt(3)] * 3, rel=2e-3)
    assert np.linalg.det(axes) == pytest.approx(1)


@pytest.mark.parametrize("wanted", [200, 3000])
def test_a_stand_in_has_the_shape_with_fewer_triangles(wanted: int) -> None:
    mesh = Mesh(*(np.asarray(a) for a in (lambda t: (t.vertices, t.faces))(trimesh.creation.torus(20, 6, 96, 64))))
    found = reduced(mesh, wanted)
    assert 0.3 * wanted < len(found.faces) <= 1.1 * wanted and len(found.source) == len(found.faces)
    off = np.abs(np.hypot(np.hypot(found.vertices[:, 0], found.vertices[:, 1]) - 20, found.vertices[:, 2]) - 6)
    assert off.max() < 0.2, "its vertices lie on the surface"
    middles = found.vertices[found.faces].mean(axis=1)
    lent = mesh.centroids()[found.source]
    assert np.linalg.norm(lent - middles, axis=1).max() < 8, "each takes its colour from nearby"


def test_small_bodies_need_no_stand_in_and_large_ones_have_two() -> None:
    assert prepared(zoo.mesh_of(Manifold.cube((1, 2, 3))), None).levels == ()
    ball = trimesh.creation.icosphere(7, 10)
    levels = prepared(Mesh(np.asarray(ball.vertices), np.asarray(ball.faces)), None).levels
    assert [len(level.faces) < 60_000 for level in levels] == [True, True] and len(levels[0].faces) > len(levels[1].faces)
