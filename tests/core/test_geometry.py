"""Laws of meshes, topology, rays and nearest points: fast answers equal slow ones."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

import zoo
from gullyrise.core.geometry import Box, Mesh, Transform
from gullyrise.core.geometry.facets import facet_error
from gullyrise.core.geometry.joining import joined, joined_soup
from gullyrise.core.geometry.nearest import Surface
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.sampling import spread
from gullyrise.core.geometry.topology import closed, disagreeing, edges_of, runs_of_edges, sealed, shells_of
from gullyrise.core.intake.health import degenerate_faces, health_of
from gullyrise.core.machines.library import machine_named
from gullyrise.core.placing.bed import bed_under, in_the_middle, side_by_side


def torus() -> Mesh:
    from manifold3d import CrossSection

    return zoo.mesh_of(CrossSection.circle(2, 24).translate((8, 0)).revolve(48))


@pytest.mark.parametrize(("mesh", "genus"), [(zoo.mesh_of(Manifold.sphere(5, 32)), 0), (torus(), 1)])
def test_eulers_number_adds_up(mesh: Mesh, genus: int) -> None:
    edges = edges_of(mesh)
    assert len(mesh.vertices) - len(edges.ends) + len(mesh.faces) == 2 - 2 * genus
    assert closed(edges) and shells_of(mesh)[0] == 1


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 60))
def test_turned_faces_are_found_again(seed: int, count: int) -> None:
    mesh = zoo.mesh_of(Manifold.sphere(5, 20))
    chosen = np.random.default_rng(seed).choice(len(mesh.faces), count, replace=False)
    faces = mesh.faces.copy()
    faces[chosen] = faces[chosen][:, ::-1]
    found = disagreeing(Mesh(mesh.vertices, faces), edges_of(Mesh(mesh.vertices, faces)))
    assert set(np.flatnonzero(found)) == set(chosen.tolist())


def test_a_one_sided_strip_does_not_hang_or_crash() -> None:
    turn = np.linspace(0, 2 * np.pi, 24, endpoint=False)
    rings = []
    for side in (-1, 1):
        reach = 5 + side * np.cos(turn / 2)
        rings.append(np.column_stack([reach * np.cos(turn), reach * np.sin(turn), side * np.sin(turn / 2)]))
    faces = []
    for i in range(24):
        j = (i + 1) % 24
        a, b, c, d = (i, i + 24, j, j + 24) if j else (i, i + 24, j + 24, j)
        faces += [[a, c, b], [b, c, d]]
    found = health_of(Mesh(np.vstack(rings), np.array(faces)))
    assert found.boundary_edges == 48 and not found.watertight and found.flipped_faces >= 1


def test_boundary_loops_count_the_holes() -> None:
    mesh = zoo.mesh_of(Manifold.sphere(5, 32))
    near = np.argsort(np.linalg.norm(mesh.centroids() - [5, 0, 0], axis=1))[:6]
    far = np.argsort(np.linalg.norm(mesh.centroids() + [5, 0, 0], axis=1))[:6]
    keep = np.ones(len(mesh.faces), dtype=bool)
    keep[near] = keep[far] = False
    edges = edges_of(mesh.only(keep))
    assert len(runs_of_edges(edges, edges.uses == 1)) == 2


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 10_000))
def test_rays_and_nearest_points_agree_with_brute_force(seed: int) -> None:
    random = np.random.default_rng(seed)
    mesh = zoo.mesh_of(Manifold.hull_points(random.normal(size=(16, 3)) * 10 + 300))
    points = random.normal(size=(30, 3)) * 12 + 300
    distance, face, place = Surface(mesh).nearest(points)
    corners = mesh.triangles()
    # Dense points of every triangle are never nearer than the nearest, and nearly as near.
    share = random.dirichlet(np.ones(3), 2000)
    dense = np.einsum("ks,msd->kmd", share, corners).reshape(-1, 3)
    brute = np.linalg.norm(points[:, None, :] - dense[None], axis=2).min(axis=1)
    assert (distance <= brute + 1e-9).all() and (brute - distance < 2.0).all()
    assert np.linalg.norm(points - place, axis=1) == pytest.approx(distance, abs=1e-9)
    aims = mesh.centroids()[:10]
    away = aims - (aims + mesh.normals()[:10] * 5)
    hits = RayScene(mesh).first_hits(aims - away, away / 5)
    assert hits.distance == pytest.approx(np.full(10, 5.0), abs=1e-6), "a convex body is hit where it is aimed at"
    assert set(face) <= set(range(len(mesh.faces)))


def test_inside_is_told_far_from_the_origin() -> None:
    mesh = zoo.mesh_of(Manifold.sphere(5, 32)).placed(Transform.moved(np.array([1e5, -2e5, 3e4])))
    probes = mesh.box.middle + np.array([[0, 0, 0], [4.5, 0, 0], [5.5, 0, 0], [9, 9, 9]])
    assert Surface(mesh).inside(probes).tolist() == [True, True, False, False]


def test_samples_stand_for_the_whole_area_and_lie_on_it() -> None:
    mesh = zoo.mesh_of(zoo.ribbed_plate(0.5))
    samples = spread(mesh, 5000)
    assert samples.weight.sum() == pytest.approx(mesh.area)
    assert set(samples.face) == set(range(len(mesh.faces)))
    assert Surface(mesh).nearest(samples.points)[0].max() < 1e-9
    again = spread(mesh, 5000)
    assert (samples.points == again.points).all(), "the same every time"


@pytest.mark.parametrize("sides", [16, 32, 64, 128])
def test_the_facet_error_covers_the_sagitta_without_excess(sides: int) -> None:
    mesh = zoo.mesh_of(Manifold.cylinder(20, 8, 8, sides))
    sagitta = 8 * (1 - np.cos(np.pi / sides))
    error = facet_error(mesh, edges_of(mesh)).max()
    assert sagitta <= error <= 2.5 * sagitta


def test_a_flat_or_chamfered_part_has_no_facet_error() -> None:
    block = Manifold.hull_points([(x, y, z) for z, s in ((0, 20), (10, 20), (12, 18)) for x in (-s, s) for y in (-s, s)])
    assert facet_error(zoo.mesh_of(block), edges_of(zoo.mesh_of(block))).max() == 0


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000))
def test_joining_makes_one_vertex_of_equal_places(seed: int) -> None:
    random = np.random.default_rng(seed)
    places = random.integers(-3, 3, size=(30, 3)).astype(np.float32) * 0.1
    places[places == 0] = -0.0
    rows = places[random.integers(0, 30, 90)]
    mesh = joined_soup(rows)
    assert len(mesh.vertices) == len(np.unique(rows + 0.0, axis=0))
    assert mesh.vertices[mesh.faces].reshape(-1, 3) == pytest.approx(rows.astype(float), abs=0)


def test_empty_and_degenerate_meshes() -> None:
    empty = joined(np.zeros((0, 3)), np.zeros((0, 3), dtype=int))
    assert shells_of(empty)[0] == 0 and empty.area == 0 and empty.signed_volume == 0
    flat = Mesh(np.array([[0, 0, 0], [1, 0, 0], [2, 0, 0], [0, 1, 0]]), np.array([[0, 1, 2], [0, 1, 3], [0, 0, 1]]))
    assert degenerate_faces(flat).tolist() == [True, False, True]
    assert health_of(flat).degenerate_faces == 2


def test_mirroring_keeps_the_outside_outside() -> None:
    mesh = zoo.mesh_of(zoo.ribbed_plate(1.0))
    mirrored = mesh.placed(Transform(np.diag([-1.0, 1, 1, 1])))
    assert mirrored.signed_volume == pytest.approx(mesh.signed_volume) and mirrored.signed_volume > 0


@settings(max_examples=30, deadline=None)
@given(st.lists(st.tuples(st.floats(3, 90), st.floats(3, 90), st.floats(3, 90)), min_size=1, max_size=14))
def test_parts_set_out_never_overlap_and_stand_on_the_bed(sizes: list[tuple[float, float, float]]) -> None:
    boxes = [Box(np.array([5.0, -3.0, 7.0]), np.array([5.0, -3.0, 7.0]) + size) for size in sizes]
    for machine in (machine_named("heron-220"), machine_named("dipper-260")):
        found = side_by_side(boxes, machine)
        moves = found.moves
        placed = [
            Box(box.low + move.matrix[:3, 3], box.high + move.matrix[:3, 3]) for box, move in zip(boxes, moves, strict=True)
        ]
        for i, a in enumerate(placed):
            assert a.low[2] == pytest.approx(0)
            assert bed_under(a, machine, found.beds) is not None, "all are smaller than a bed: none waits"
            assert all(a.gap_to(b) > 0 for b in placed[i + 1 :])
    alone = in_the_middle(boxes[0], machine_named("heron-220")).matrix[:3, 3]
    assert boxes[0].middle[:2] + alone[:2] == pytest.approx([110, 110])


@pytest.mark.parametrize("side", [300.0, 5e4])
@pytest.mark.parametrize("count", [2, 3, 7])
def test_what_no_bed_has_room_for_waits_each_in_its_own_place(side: float, count: int) -> None:
    machine = machine_named("heron-220")
    boxes = [Box(np.zeros(3), np.array([side, side, 40.0])) for _ in range(count)]
    found = side_by_side(boxes, machine)
    ways = [move.matrix[:3, 3] for move in found.moves]
    placed = [Box(box.low + way, box.high + way) for box, way in zip(boxes, ways, strict=True)]
    assert all(a.gap_to(b) > 0 for i, a in enumerate(placed) for b in placed[i + 1 :])
    assert all(bed_under(box, machine, found.beds) is None for box in placed)


def test_sealed_means_that_from_outside_only_outsides_are_seen() -> None:
    def sealed_(made: trimesh.Trimesh) -> bool:
        return sealed(Mesh(np.asarray(made.vertices), np.asarray(made.faces)))

    ball = trimesh.creation.icosphere(3, 10.0)
    assert sealed_(ball) and sealed_(trimesh.util.concatenate([ball, ball.copy().apply_translation([40, 0, 0])]))
    inverted = ball.copy()
    inverted.invert()
    assert not sealed_(inverted) and not sealed_(trimesh.util.concatenate([ball, inverted.apply_translation([40, 0, 0])]))
    holed = trimesh.Trimesh(ball.vertices, ball.faces[1:], process=False)
    turned = trimesh.Trimesh(ball.vertices, np.vstack([ball.faces[:1, ::-1], ball.faces[1:]]), process=False)
    doubled = trimesh.Trimesh(ball.vertices, np.vstack([ball.faces, ball.faces[:1]]), process=False)
    assert not sealed_(holed) and not sealed_(turned) and not sealed_(doubled)
    assert not sealed(Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64)))
    far = ball.copy().apply_translation([1e6, -1e6, 1e6])
    assert sealed_(far), "however far from the origin"
