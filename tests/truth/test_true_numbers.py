"""What trials on unknown parts brought down, each as a law that holds now."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from manifold3d import Manifold
from scipy.integrate import quad

import zoo
from gullyrise.core.checks import clearances, walls
from gullyrise.core.checks.protocol import Outcome
from gullyrise.core.checks.registry import run_check
from gullyrise.core.cutting.told import EXACT, TRIANGLES, section_told
from gullyrise.core.geometry import Mesh, Plane, Transform
from gullyrise.core.geometry.deepest import deepest, distance_to, to_triangles
from gullyrise.core.geometry.material import material_of, solids_of
from gullyrise.core.geometry.nearest import Surface
from gullyrise.core.geometry.reentrant import at_corners, inside_corners, inside_edges
from gullyrise.core.geometry.slivers import slim, unseamed
from gullyrise.core.geometry.topology import closed, edges_of
from gullyrise.core.machines import Limits
from gullyrise.core.number_words import number, of_doubt
from gullyrise.core.part import Part
from truth.families import solids


def outcomes(check: str, part: Part, **limits: object) -> tuple[Outcome, ...]:
    shot = zoo.snapshot(part)
    assert shot.machine is not None
    return run_check(check, shot, shot.machine.full_limits(Limits(**limits)))


# --- walls ---------------------------------------------------------------------------------------------------------


def test_a_corner_of_a_pocket_is_asked_into_the_material_only() -> None:
    mesh = zoo.mesh_of(zoo.block((0, 0, 0), (30, 30, 10)) - zoo.block((10, 10, 4), (20, 20, 11)))
    edges = edges_of(mesh)
    inside = inside_edges(mesh, edges)
    assert len(inside.edge) == 8, "four at the foot, four upright"
    assert np.degrees(inside.bend) == pytest.approx(90)
    asked = at_corners(mesh, edges, inside_corners(mesh, inside, 0.05))
    assert len(asked) and (asked.normals[:, 2] >= -1e-6).all(), "a ball below a foot lies downwards"
    assert Surface(mesh).inside(asked.points - 0.01 * asked.normals).all()


def test_blocks_that_share_an_edge_or_a_corner_have_a_wall_of_nothing() -> None:
    one = zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 10)))
    for other in (zoo.block((10, 10, 0), (20, 20, 10)), zoo.block((10, 10, 10), (20, 20, 20))):
        found = zoo.outcome("walls", zoo.as_one(one, zoo.mesh_of(other)), min_wall=0.8)
        assert (found.verdict, found.measured["min_ball"]) == ("fail", 0)


def test_shells_that_overlap_are_one_solid_whose_faces_know_where_they_come_from() -> None:
    plate, rib = zoo.mesh_of(zoo.block((0, 0, 0), (40, 30, 3))), zoo.mesh_of(zoo.block((20, 4, 1), (22, 26, 14)))
    both = zoo.as_one(plate, rib)
    found = material_of(both)
    assert found.mesh.signed_volume == pytest.approx(40 * 30 * 3 + 2 * 22 * 11)
    given = both.normals()[found.face_of]
    assert np.einsum("ij,ij->i", given, found.mesh.normals()) == pytest.approx(1)
    off = np.einsum("ij,ij->i", found.mesh.centroids() - both.centroids()[found.face_of], given)
    assert off == pytest.approx(0, abs=1e-9), "each piece lies in the plane of its face"


def test_a_shell_that_is_inside_out_and_no_cavity_is_material_all_the_same() -> None:
    one, other = zoo.mesh_of(zoo.block((0, 0, 0), (30, 30, 30))), zoo.mesh_of(zoo.block((40, 0, 0), (50, 10, 0.5)))
    turned = Mesh(other.vertices, other.faces[:, ::-1])
    found = zoo.outcome("walls", zoo.as_one(one, turned), min_wall=0.8)
    assert found.verdict == "fail" and found.measured["min_ball"] == pytest.approx(0.5, abs=1e-3)


def _seamed() -> Mesh:
    """A block one of whose edges is cut in two on one side only, the gap filled by a triangle without area."""
    block = zoo.mesh_of(zoo.block((0, 0, 0), (20, 20, 2)))
    face = block.faces[0]
    a, b = int(face[0]), int(face[1])
    middle = len(block.vertices)
    vertices = np.concatenate([block.vertices, (block.vertices[a] + block.vertices[b])[None] / 2])
    faces = [*block.faces[1:].tolist(), (a, middle, int(face[2])), (middle, b, int(face[2])), (a, b, middle)]
    return Mesh(vertices, np.array(faces, dtype=np.int32))


def test_a_seam_without_area_does_not_open_a_surface() -> None:
    seamed = _seamed()
    assert closed(edges_of(seamed)) and slim(seamed).sum() == 1
    repaired, of = unseamed(seamed)
    assert closed(edges_of(repaired)) and not slim(repaired).any() and len(of) == len(seamed.faces)
    assert repaired.signed_volume == pytest.approx(800)
    found = zoo.outcome("walls", seamed, min_wall=0.8)
    assert found.verdict == "pass" and found.measured["min_ball"] == pytest.approx(2, abs=1e-3), found.why


@pytest.mark.slow
def test_slivers_of_single_precision_read_no_wall_of_nothing() -> None:
    """Cuts leave slivers; turned and rounded, their normals are chance."""
    rng = np.random.default_rng(3)
    body = zoo.block((0, 0, 0), (60, 40, 4))
    for _ in range(12):
        x, y = rng.uniform(5, 55), rng.uniform(5, 35)
        body -= Manifold.cylinder(8, 1.2, 1.2, 40).translate((x, y, -2))
    mesh = zoo.mesh_of(body)
    for degrees in (40.0, 41.0, 42.0):
        turned = mesh.placed(Transform.turned(rng.normal(size=3), degrees).then(Transform.moved(np.array([300.0, 200, 100]))))
        single = Mesh(turned.vertices.astype(np.float32).astype(float), turned.faces)
        exact = zoo.outcome("walls", mesh, min_wall=0.1).measured["min_ball"]
        found = zoo.outcome("walls", single, min_wall=0.1)
        assert found.measured["min_ball"] == pytest.approx(exact, abs=found.uncertainty + 1e-3)


def test_the_area_under_the_limit_is_that_of_thin_walls_alone() -> None:
    """A tray with a thin floor and thick sides: the edges of the sides take nothing along."""
    tray = zoo.block((0, 0, 0), (60, 40, 12)) - zoo.block((5, 5, 0.5), (55, 35, 13))
    found = zoo.outcome("walls", zoo.mesh_of(tray), min_wall=0.8)
    assert found.measured["area_below"] == pytest.approx(2 * 50 * 30, rel=0.02)


def test_the_sentence_of_a_review_says_the_uncertainty_that_is_stated() -> None:
    found = zoo.outcome("walls", zoo.mesh_of(zoo.hollow_box(30, 1.0)), min_wall=1.0)
    assert found.verdict == "review" and f"mm ± {of_doubt(found.uncertainty)}" in found.why


@pytest.mark.parametrize("body", [zoo.hollow_box(30, 2.0), zoo.block((0, 0, 0), (20, 20, 20)), Manifold.sphere(8, 48)])
def test_where_not_every_place_was_looked_at_nothing_passes(body: Manifold) -> None:
    found = zoo.outcome("walls", zoo.mesh_of(body), min_wall=0.8)
    assert found.verdict == "pass"
    unsure = replace(found.evidence, bodies=tuple(replace(one, whole=False) for one in found.evidence.bodies))
    again = walls.judged_anew((replace(found, evidence=unsure),), found.evidence.asked)
    assert again is not None and again[0].verdict == "review" and "not every place" in again[0].why


# --- clearances ----------------------------------------------------------------------------------------------------


def test_a_running_fit_of_solids_has_its_exact_gap_and_shares_nothing() -> None:
    plate = solids.cut(solids.block((-40, -40, 0), (40, 40, 30)), solids.rod((0, 0, -1), 25.05, 40))
    pin = solids.rod((0, 0, -5), 25, 45)
    part = Part("fit", "fit.step", "step", "mm", "declared", (solids.body(plate), solids.body(pin)))
    (found,) = outcomes("clearances", part, min_gap=0.03)
    assert (found.verdict, found.measured["interference_volume"]) == ("pass", 0)
    assert found.measured["distance"] == pytest.approx(0.05, abs=1e-6) and found.uncertainty < 1e-4
    assert outcomes("clearances", part, min_gap=0.08)[0].verdict == "fail"


def test_what_the_facets_may_hide_is_neither_an_overlap_nor_clear() -> None:
    """Balls of facets a hair into each other: as meshes nobody can tell."""
    a, b = zoo.mesh_of(Manifold.sphere(10, 48)), zoo.mesh_of(Manifold.sphere(10, 48).translate((19.99, 0, 0)))
    (found,) = outcomes("clearances", zoo.part(a, "a", b), min_gap=0.0)
    assert found.verdict == "review" and found.uncertainty > 0.01
    (found,) = outcomes("clearances", zoo.part(a, "a", b), min_gap=0.5)
    assert found.verdict == "fail"


def test_an_overlap_small_against_its_bodies_is_told_in_full() -> None:
    plate = zoo.mesh_of(zoo.block((0, 0, 0), (300, 300, 10)))
    pin = zoo.mesh_of(Manifold.cylinder(20, 0.6, 0.6, 32).translate((150, 150, 6)))
    (found,) = outcomes("clearances", zoo.part(plate, "plate", pin), min_gap=0.0)
    assert found.verdict == "fail"
    assert found.measured["interference_volume"] == pytest.approx(4 * 16 * 0.36 * np.sin(2 * np.pi / 32), rel=1e-3)
    assert number(0.0004) == "0.000400", "what is not nothing is never told as nothing"


def test_the_depth_is_the_deepest_and_says_how_sure_it_is() -> None:
    ball = zoo.mesh_of(Manifold.sphere(8, 96))
    block = zoo.mesh_of(zoo.block((-20, -20, 3), (20, 20, 30)))
    shared = zoo.mesh_of(Manifold.sphere(8, 96) ^ zoo.block((-20, -20, 3), (20, 20, 30)))
    found = deepest(shared, tuple(distance_to(Surface(mesh).nearest, mesh) for mesh in (ball, block)))
    assert found.depth == pytest.approx(5, abs=found.more + 1e-9) and found.more < 0.01
    assert to_triangles(np.array([[0.0, 0, 3], [5, 0, 0]]), np.array([[[0.0, 0, 0], [1, 0, 0], [0, 1, 0]]] * 2)) == pytest.approx(
        [3, 4]
    )


def test_a_body_loose_in_a_cavity_is_a_pair_with_its_wall() -> None:
    shell = zoo.mesh_of(zoo.hollow_box(20, 2))
    ball = zoo.mesh_of(Manifold.sphere(7.5, 64).translate((10, 10, 10)))
    both = zoo.as_one(shell, ball)
    assert solids_of(both).count == 2
    (found,) = outcomes("clearances", zoo.part(both, "rattle"), min_gap=0.3)
    assert found.subject == ("rattle #1", "rattle #2")
    assert found.verdict == "pass" and found.measured["distance"] == pytest.approx(0.5, abs=found.uncertainty + 1e-6)


@pytest.mark.slow
def test_of_two_thousand_blocks_every_near_pair_is_judged() -> None:
    step = 1.05
    blocks = [
        zoo.mesh_of(zoo.block((i * step, j * step, 0), (i * step + 1, j * step + 1, 1))) for i in range(46) for j in range(46)
    ]
    assert "fail" in {one.verdict for one in outcomes("clearances", zoo.part(zoo.as_one(*blocks), "crowd"), min_gap=0.2)}


def test_pairs_that_are_too_many_to_judge_are_no_pass(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(clearances, "_EXACT_PAIRS", 5)
    monkeypatch.setattr(clearances, "_MOST_PAIRS", 10)
    blocks = [zoo.mesh_of(zoo.block((i * 1.3, 0, 0), (i * 1.3 + 1, 1, 1))) for i in range(30)]
    found = outcomes("clearances", zoo.part(zoo.as_one(*blocks), "row"), min_gap=0.25)
    assert [one.verdict for one in found].count("review") == 1
    assert any("were not measured" in one.why for one in found)


# --- overhangs -----------------------------------------------------------------------------------------------------


def test_what_stands_on_a_body_below_hangs_over_nothing() -> None:
    low, high = zoo.mesh_of(zoo.block((0, 0, 0), (30, 30, 5))), zoo.mesh_of(zoo.block((5, 5, 5), (15, 15, 20)))
    for part in (zoo.part(low, "stack", high), zoo.part(zoo.as_one(low, high), "stack")):
        (found,) = outcomes("overhangs", part)
        assert (found.verdict, found.measured["area"]) == ("pass", 0)
    shelf = zoo.mesh_of(zoo.block((20, 5, 12), (60, 15, 14)))
    post = zoo.mesh_of(zoo.block((20, 5, 4), (24, 15, 13)))
    (found,) = outcomes("overhangs", zoo.part(zoo.as_one(low, post, shelf), "shelf"))
    assert found.measured["area"] == pytest.approx(36 * 10), "the post carries the rest"
    assert found.measured["support_volume"] == pytest.approx(6 * 10 * 7 + 30 * 10 * 12, rel=0.03), "on the plate and beside it"


# --- sections ------------------------------------------------------------------------------------------------------


def test_the_section_of_a_solid_is_that_of_its_surfaces() -> None:
    ring = solids.body(solids.ring((0, 0, 0), 20, 5))
    part = Part("ring", "ring.step", "step", "mm", "declared", (ring,))
    plane = Plane(np.array([0.0, 2.0, 0.0]), np.array([0.0, 1.0, 0.0]))
    told = section_told(part, plane)
    true = 4 * quad(lambda x: np.sqrt(max(25 - (np.hypot(x, 2) - 20) ** 2, 0)), np.sqrt(15**2 - 4), np.sqrt(25**2 - 4))[0]
    assert told.method == EXACT and told.section.area == pytest.approx(true, abs=told.area_off + 1e-6)
    rough = section_told(zoo.part(ring.mesh, "ring"), plane)
    assert rough.method == TRIANGLES and rough.section.area == pytest.approx(true, abs=rough.area_off)
    assert rough.section.perimeter == pytest.approx(told.section.perimeter, abs=rough.perimeter_off + 0.02)
    assert abs(rough.section.area - true) > 0.5, "the triangles are that far off"


def test_a_plane_in_a_face_gives_both_areas() -> None:
    body = zoo.mesh_of(zoo.block((0, 0, 0), (40, 30, 5)) + zoo.block((5, 5, 5), (20, 20, 12)))
    turn = Transform.turned(np.array([1.0, 2, 3]), 33)
    turned = body.placed(turn)
    single = Mesh(turned.vertices.astype(np.float32).astype(float), turned.faces)
    normal = turn.matrix[:3, :3] @ np.array([0.0, 0, 1])
    told = section_told(zoo.part(single), Plane(5 * normal, normal))
    assert told.sides == (pytest.approx(1200, abs=0.01), pytest.approx(225, abs=0.01)) and "1200" in told.note
    assert told.section.area == told.sides[0]
