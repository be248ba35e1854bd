"""The other checks against known answers."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

import zoo
from gullyrise.core.checks.protocol import Snapshot
from gullyrise.core.checks.registry import checks, run_check
from gullyrise.core.gaps.between import between
from gullyrise.core.gaps.pieces import Piece
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.machines import Limits
from gullyrise.core.machines.library import library, machine_named
from gullyrise.core.placing.bed import in_the_middle
from gullyrise.core.placing.turning import Room, best_turn

# --- clearances ----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("turn", range(3))
@pytest.mark.parametrize("sides", [zoo.COARSE, zoo.FINE])
def test_the_gap_of_two_spheres(sides: int, turn: int) -> None:
    both = Manifold.sphere(5, sides) + Manifold.sphere(3, sides).translate((8.4, 0, 0))
    found = zoo.outcome("clearances", zoo.mesh_of(both).placed(zoo.TURNS[turn]), min_gap=0.3)
    assert found.subject == ("part #1", "part #2")
    assert found.measured["distance"] == pytest.approx(0.4, abs=found.uncertainty)
    assert found.verdict in ("pass", "review")


@settings(max_examples=20, deadline=None)
@given(st.floats(0.01, 2.0), st.integers(0, 2))
def test_the_gap_of_parallel_plates_is_exact(gap: float, turn: int) -> None:
    found = zoo.outcome("clearances", zoo.mesh_of(zoo.parallel_plates(gap)).placed(zoo.TURNS[turn]), min_gap=0.3)
    assert found.measured["distance"] == pytest.approx(gap, abs=1e-4)
    apart = np.subtract(found.measured["point_a"], found.measured["point_b"])
    assert np.linalg.norm(apart) == pytest.approx(gap, abs=1e-4), "the two points are that far apart"
    assert found.verdict == ("fail" if gap < 0.3 - 1e-3 else "pass" if gap > 0.3 + 1e-3 else found.verdict)


def test_overlap_is_measured_and_symmetric() -> None:
    a, b = zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 10))), zoo.mesh_of(zoo.block((8, 2, 5), (20, 9, 8)))
    one, other = (between(Piece("a", p, 0, None), Piece("b", q, 1, None)) for p, q in ((a, b), (b, a)))
    assert one.volume == pytest.approx(2 * 7 * 3) == other.volume
    assert one.distance == other.distance == 0
    assert zoo.outcome("clearances", zoo.part(a, "a", b)).verdict == "fail"


def test_a_body_wholly_inside_another_collides_though_no_surfaces_meet() -> None:
    outer, inner = zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 10))), zoo.mesh_of(zoo.block((3, 3, 3), (6, 6, 6)))
    found = zoo.outcome("clearances", zoo.part(outer, "a", inner))
    assert found.verdict == "fail" and found.measured["interference_volume"] == pytest.approx(27)
    assert found.measured["distance"] == 0


def test_touching_bodies_have_no_gap_and_share_nothing() -> None:
    a, b = zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 10))), zoo.mesh_of(zoo.block((10, 0, 0), (20, 10, 10)))
    found = zoo.outcome("clearances", zoo.part(a, "a", b), min_gap=0.2)
    assert (found.verdict, found.measured["distance"], found.measured["interference_volume"]) == ("fail", 0, 0)


def test_a_cavity_is_no_second_body() -> None:
    found = zoo.outcome("clearances", zoo.mesh_of(zoo.hollow_box(20, 2)))
    assert found.verdict == "pass" and found.worst is None


# --- overhangs -----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("cap", [16.0, 30.0])
def test_the_underside_of_a_mushroom(cap: float) -> None:
    found = zoo.outcome("overhangs", zoo.mesh_of(zoo.mushroom(8, cap)))
    sides = zoo.FINE
    polygon = sides / 2 * np.sin(2 * np.pi / sides)
    area = polygon * ((cap / 2) ** 2 - 4**2)
    assert found.verdict == "fail" and found.measured["regions"] == 1
    assert found.measured["area"] == pytest.approx(area, rel=1e-6)
    assert found.measured["support_volume"] == pytest.approx(area * 20, rel=0.01)


@pytest.mark.parametrize(("lean", "verdict"), [(30, "pass"), (44, "pass"), (45, "review"), (46, "fail"), (70, "fail")])
def test_the_angle_is_measured_from_the_vertical(lean: float, verdict: str) -> None:
    run = np.tan(np.radians(lean)) * 20
    solid = Manifold.hull_points([(x, y, z) for y in (0, 10) for x, z in ((0, 0), (10, 0), (10 + run, 20), (0, 20))])
    found = zoo.outcome("overhangs", zoo.mesh_of(solid), overhang_angle=45)
    assert found.verdict == verdict


def test_a_cap_on_a_stem_spans_nothing() -> None:
    found = zoo.outcome("overhangs", zoo.mesh_of(zoo.mushroom(8, 30)))
    assert [finding.what for finding in found.findings] == ["overhang"]


def test_a_cone_that_stands_on_its_small_end_does_not_start_in_the_air() -> None:
    found = zoo.outcome("overhangs", zoo.mesh_of(Manifold.cylinder(20, 10, 32, 96)))
    assert [finding.what for finding in found.findings] == ["overhang"]


def test_a_bridge_is_named_with_its_span() -> None:
    solid = zoo.block((0, 0, 0), (40, 10, 20)) - zoo.block((10, -1, -1), (30, 11, 12))
    found = zoo.outcome("overhangs", zoo.mesh_of(solid))
    assert found.findings[0].what == "bridge of 20.0 mm"
    assert found.measured["area"] == pytest.approx(200)


def test_what_rests_on_the_bed_needs_no_support() -> None:
    assert zoo.outcome("overhangs", zoo.mesh_of(zoo.block((5, 5, 7), (20, 20, 9)))).measured["area"] == 0


# --- fit -----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("side", "verdict"), [(211.9, "pass"), (211.99, "pass"), (212.01, "fail"), (230, "fail")])
def test_fit_on_a_square_bed_at_the_margin(side: float, verdict: str) -> None:
    found = zoo.outcome("fit", zoo.mesh_of(zoo.block((0, 0, 0), (side, 20, 20))))
    assert found.verdict == verdict
    assert found.measured["slack"]["x"] == pytest.approx([(212 - side) / 2] * 2)
    assert found.measured["inside"] is (verdict == "pass")


@pytest.mark.parametrize(("diameter", "verdict"), [(249.9, "pass"), (250.1, "fail")])
def test_fit_on_a_round_bed(diameter: float, verdict: str) -> None:
    disc = zoo.mesh_of(Manifold.cylinder(5, diameter / 2, diameter / 2, 256))
    found = zoo.outcome("fit", disc, machine_named("dipper-260"))
    assert found.verdict == verdict
    assert found.measured["slack"]["radial"] == pytest.approx([125 - diameter / 2])


def test_a_long_bar_fits_turned_and_a_longer_one_does_not() -> None:
    found = zoo.outcome("fit", zoo.mesh_of(zoo.block((0, 0, 0), (300, 5, 5))))
    assert found.verdict == "fail" and found.measured["fits_turned"] is True
    # The room's own diagonal is 389 mm; a bar of that length has no turn.
    assert zoo.outcome("fit", zoo.mesh_of(zoo.block((0, 0, 0), (392, 1, 1)))).measured["fits_turned"] is False


def test_a_turn_that_fits_is_a_turn() -> None:
    bar = zoo.mesh_of(zoo.block((0, 0, 0), (300, 5, 5))).vertices
    found = best_turn(bar, Room.of(machine_named("heron-220"), 4, 2))
    assert np.allclose(found.matrix @ found.matrix.T, np.eye(3), atol=1e-9) and np.linalg.det(found.matrix) > 0
    size = np.ptp(bar @ found.matrix.T, axis=0)
    assert (size <= np.array([212, 212, 248]) + 1e-6).all()


def test_a_keep_out_is_not_entered() -> None:
    plate = zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (211, 211, 5))))
    heron = machine_named("heron-220")
    found = run_check("fit", Snapshot(plate, in_the_middle(plate.box, heron), heron, ()), heron.full_limits())[0]
    assert found.verdict == "fail" and "keep-out" in found.why


# --- tool access ---------------------------------------------------------------------------------------------------


def test_the_wings_of_a_t_slot_are_out_of_sight() -> None:
    mill = machine_named("alder-mill")
    found = zoo.outcome("access", zoo.mesh_of(zoo.t_slot()), mill, setups=("+z",))
    # Ceiling, floor and end wall of each wing: (5 + 5 + 4) x 20 on both sides.
    assert found.measured["unreachable_area"] == pytest.approx(2 * (5 + 5 + 4) * 20, rel=0.03)
    assert found.verdict == "fail"


@pytest.mark.slow
def test_a_plain_block_is_touched_all_over() -> None:
    found = zoo.outcome("access", zoo.mesh_of(zoo.block((0, 0, 0), (30, 20, 10))), machine_named("alder-mill"))
    assert found.measured == {"unreachable_area": 0, "smallest_inside_radius": None, "deepest_ratio": None}
    assert found.verdict == "pass"


def test_a_sharp_pocket_corner_has_no_radius() -> None:
    found = zoo.outcome("access", zoo.mesh_of(zoo.blind_pocket(4)), machine_named("alder-mill"), setups=("+z",))
    assert found.measured["smallest_inside_radius"] == 0 and found.verdict == "fail"


@pytest.mark.slow
@pytest.mark.parametrize(("check", "machine"), [("overhangs", "heron-220"), ("access", "alder-mill")])
def test_an_open_surface_is_never_passed(check: str, machine: str) -> None:
    block = zoo.mesh_of(zoo.block((0, 0, 0), (30, 20, 10)))
    opened = block.only(np.arange(len(block.faces)) > 1)
    found = zoo.outcome(check, opened, machine_named(machine))
    assert found.verdict != "pass"
    if found.verdict == "review":
        assert "open" in found.why
    assert zoo.outcome(check, block, machine_named(machine)).verdict == "pass"


# --- health --------------------------------------------------------------------------------------------------------


def test_health_counts_what_was_planted() -> None:
    mesh = zoo.mesh_of(Manifold.sphere(10, 40))
    faces = mesh.faces.copy()
    faces[[5, 50, 90]] = faces[[5, 50, 90]][:, ::-1]
    flipped = zoo.outcome("health", Mesh(mesh.vertices, faces))
    assert flipped.measured["flipped_faces"] == 3 and flipped.verdict == "review"
    doubled = zoo.outcome("health", Mesh(mesh.vertices, np.vstack([mesh.faces, mesh.faces[:2]])))
    assert doubled.measured["duplicate_faces"] == 2 and doubled.verdict == "fail"
    holed = zoo.outcome("health", mesh.only(np.arange(len(mesh.faces)) != 7))
    assert holed.measured["boundary_edges"] == 3 and holed.verdict == "fail"
    turned = zoo.outcome("health", Mesh(mesh.vertices, mesh.faces[:, ::-1]))
    assert turned.measured["inside_out_shells"] == 1 and turned.verdict == "fail"


def test_a_sealed_cavity_is_reviewed() -> None:
    found = zoo.outcome("health", zoo.mesh_of(zoo.hollow_box(20, 2)))
    assert found.measured["cavities"] == 1 and found.verdict == "review"


# --- laws ----------------------------------------------------------------------------------------------------------


@pytest.mark.slow
@pytest.mark.parametrize("check", ["health", "walls", "clearances"])
def test_measures_do_not_change_with_turning_and_moving(check: str) -> None:
    mesh = zoo.mesh_of(zoo.hollow_box(20, 1.5) + zoo.block((25, 0, 0), (30, 5, 5)))
    values = []
    for turn in zoo.TURNS:
        found = zoo.outcome(check, mesh.placed(turn))
        values.append(found.worst.value if found.worst is not None else 0.0)
    assert values == pytest.approx([values[0]] * 3, abs=2e-3)


@pytest.mark.slow
def test_scaling_scales() -> None:
    mesh = zoo.mesh_of(zoo.ribbed_plate(0.5))
    small = zoo.outcome("walls", mesh, min_wall=0.1)
    large = zoo.outcome("walls", mesh.placed(Transform.scaled(10)), min_wall=1.0)
    assert large.measured["min_ball"] == pytest.approx(10 * small.measured["min_ball"], rel=1e-3)


def test_every_check_has_a_row_limits_and_a_method() -> None:
    orders = [check.ROW.order for check in checks().values()]
    assert orders == sorted(set(orders))
    for name, check in checks().items():
        assert check.ROW.id == name and check.ROW.title
        assert {limit.name for limit in check.ROW.limits} <= set(Limits.model_fields)
        assert not check.ROW.judged_by or check.ROW.own_limit is not None
        assert set(check.Limits.__dataclass_fields__) <= set(Limits.model_fields)


def test_machines_that_fit_are_those_that_hold_the_part() -> None:
    found = zoo.outcome("fit", zoo.mesh_of(zoo.block((0, 0, 0), (140, 60, 60))))
    assert found.measured["machines_that_fit"] == ["alder-mill", "dipper-260", "heron-220"]
    assert {machine.id for machine in library()} == {"alder-mill", "dipper-260", "heron-220", "lantern-130"}


def test_each_hole_of_an_open_surface_is_one_finding_on_its_rim() -> None:
    mesh = zoo.mesh_of(zoo.hollow_box(30, 2))
    lid = mesh.normals()[:, 2] > 0.99
    found = zoo.outcome("health", mesh.only(~(lid & (mesh.centroids()[:, 2] > 29)) & (mesh.centroids()[:, 2] > 0)))
    holes = [finding for finding in found.findings if finding.what.startswith("open edge")]
    assert found.verdict == "fail" and len(holes) == 2
    assert sorted(round(finding.at[2]) for finding in holes) == [0, 30]
    assert all(finding.value == 4 for finding in holes)


@pytest.mark.slow
@pytest.mark.parametrize("sides", [24, 96])
def test_the_radius_of_a_pockets_corners_is_that_of_its_fillets(sides: int) -> None:
    corners = [Manifold.cylinder(9, 3, 3, sides).translate((x, y, 4)) for x in (13, 27) for y in (11, 19)]
    pocket = Manifold.batch_hull(corners)
    found = zoo.outcome("access", zoo.mesh_of(zoo.block((0, 0, 0), (40, 30, 12)) - pocket), machine_named("alder-mill"))
    assert found.measured["smallest_inside_radius"] == pytest.approx(3, rel=0.03)


@pytest.mark.slow
def test_what_cuts_a_bore_leaves_no_tight_corner() -> None:
    body = zoo.tube(26, 23, 60, 96) - zoo.block((-4.2, -40, 20), (3.7, 40, 40))
    mesh = zoo.mesh_of(body - Manifold.cylinder(30, 2.75, 2.75, 96).translate((26, 0, -1)))
    rounded = Mesh(mesh.vertices.astype(np.float32).astype(float) + np.array([150.0, 90.0, 0.0]), mesh.faces)
    for one in (mesh, rounded):
        found = zoo.outcome("access", one, machine_named("alder-mill"))
        assert found.measured["smallest_inside_radius"] == pytest.approx(2.75, rel=0.02)


def test_the_gap_inside_one_printed_part_colours_its_faces() -> None:
    hinge = zoo.block((-10, -10, 0), (10, 10, 10)) - Manifold.cylinder(12, 5.2, 5.2, 96).translate((0, 0, -1))
    found = zoo.outcome("clearances", zoo.mesh_of(hinge + Manifold.cylinder(20, 5, 5, 96).translate((0, 0, -5))), min_gap=0.3)
    assert found.verdict == "fail" and found.field is not None
    assert np.nanmin(found.field.values[0]) == pytest.approx(0.2, abs=0.01)
    assert np.isfinite(found.field.values[0]).sum() > 300
