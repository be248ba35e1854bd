"""Wall thickness against known answers: every value within the uncertainty that the outcome itself states."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

import zoo
from gullyrise.core.geometry import Mesh


@pytest.mark.slow
@pytest.mark.parametrize(("sides", "turn"), [(zoo.COARSE, 0), (zoo.COARSE, 1), (zoo.COARSE, 2), (zoo.FINE, 1)])
@pytest.mark.parametrize("index", range(9))
def test_thinnest_wall_is_within_the_stated_uncertainty(index: int, sides: int, turn: int) -> None:
    known = zoo.walls_zoo(sides)[index]
    found = zoo.outcome("walls", known.mesh.placed(zoo.TURNS[turn]), min_wall=1.0)
    assert found.worst is not None and found.uncertainty is not None, known.name
    assert abs(found.worst.value - known.wall) <= found.uncertainty + 1e-9, known.name
    assert found.uncertainty < 0.25 * known.wall + 0.05, "an uncertainty that excuses anything proves nothing"
    if known.wall < 1.0:
        assert found.verdict == "fail", known.name
    if known.wall > 1.0 + found.uncertainty:
        assert found.verdict in ("pass", "review"), known.name


@pytest.mark.parametrize("degrees", [15, 30, 45, 60])
def test_a_wedge_tapers_and_does_not_enter_the_minimum(degrees: float) -> None:
    found = zoo.outcome("walls", zoo.mesh_of(zoo.wedge(degrees)), min_wall=0.8)
    assert found.verdict == "review"
    tapers = [finding for finding in found.findings if finding.what.startswith("tapers")]
    assert any(abs(finding.at[0] - 30) < 0.5 for finding in tapers), "the taper is at the sharp edge"
    assert found.measured["min_ball"] is None or found.measured["min_ball"] > 0.8


@pytest.mark.slow
def test_a_cone_tapers_at_its_tip() -> None:
    found = zoo.outcome("walls", zoo.mesh_of(Manifold.cylinder(20, 5, 0, 64)), min_wall=0.8)
    assert any(finding.what.startswith("tapers") and finding.at[2] > 18 for finding in found.findings)
    assert found.verdict == "review"


@pytest.mark.slow
@pytest.mark.parametrize("sides", [6, 8, 12, 24, 96])
@pytest.mark.parametrize("turn", range(2))
def test_a_thin_pin_on_a_wide_plate_is_found_however_coarse_its_facets(sides: int, turn: int) -> None:
    found = zoo.outcome("walls", zoo.mesh_of(zoo.pin_on_plate(0.6, sides)).placed(zoo.TURNS[turn]), min_wall=0.8)
    assert found.verdict == "fail"
    across = 0.6 * np.cos(np.pi / sides)
    assert found.measured["min_ball"] == pytest.approx(across, abs=found.uncertainty + 1e-9)


@pytest.mark.parametrize("web", [0.15, 0.35])
@pytest.mark.parametrize("sides", [24, 96])
def test_a_web_beside_a_bore_is_a_wall_and_no_taper(web: float, sides: int) -> None:
    found = zoo.outcome("walls", zoo.mesh_of(zoo.bore_near_side(web, sides)), min_wall=0.8)
    assert found.verdict == "fail"
    assert found.measured["min_ball"] == pytest.approx(web, abs=found.uncertainty + 1e-9)
    assert [finding.what for finding in found.findings] == ["thin wall in part"]


@pytest.mark.parametrize("end", [0.5, 1.5])
@pytest.mark.parametrize("turn", range(3))
def test_a_blunt_wedge_is_as_thin_as_its_end_allows(end: float, turn: int) -> None:
    found = zoo.outcome("walls", zoo.mesh_of(zoo.blunt_wedge(end)).placed(zoo.TURNS[turn]), min_wall=0.8)
    assert found.measured["min_ball"] == pytest.approx(zoo.blunt_wedge_ball(end), abs=found.uncertainty + 1e-9)
    assert not any(finding.what.startswith("tapers") for finding in found.findings)
    assert found.verdict == ("fail" if end < 0.8 else "pass")


def test_edges_of_seventy_degrees_are_no_taper() -> None:
    cone = Manifold.cylinder(30, 15, 5, 96) - Manifold.cylinder(30, 14, 4, 96)
    found = zoo.outcome("walls", zoo.mesh_of(cone), min_wall=0.8)
    assert found.verdict == "pass" and found.findings == ()
    assert found.measured["min_ball"] == pytest.approx(1 / np.hypot(1, 1 / 3), abs=found.uncertainty)


def test_two_thin_places_under_one_flat_are_two_findings() -> None:
    plate = zoo.block((0, 0, 0), (80, 60, 6)) - zoo.block((20, -1, 0.3), (21, 61, 7)) - zoo.block((60, -1, 0.4), (61, 61, 7))
    found = zoo.outcome("walls", zoo.mesh_of(plate), min_wall=0.8)
    assert [round(finding.value, 3) for finding in found.findings] == [0.3, 0.4]
    assert [round(finding.at[0] / 10) for finding in found.findings] == [2, 6]


@pytest.mark.parametrize("size", [3.0, 20.0, 150.0])
def test_a_sharp_cube_is_no_thin_wall(size: float) -> None:
    found = zoo.outcome("walls", zoo.mesh_of(zoo.block((0, 0, 0), (size,) * 3)))
    assert found.verdict == "pass"
    assert found.measured["min_ball"] == pytest.approx(size, rel=0.03)
    assert found.findings == ()


def test_the_area_below_is_that_of_both_sides_of_the_rib() -> None:
    found = zoo.outcome("walls", zoo.mesh_of(zoo.ribbed_plate(0.5)), min_wall=0.8)
    # The faces over the plate: 22 mm long, 11 mm high, on two sides; narrow end faces belong to no wall.
    assert found.measured["area_below"] == pytest.approx(2 * 22 * 11, rel=0.06)
    assert len(found.findings) == 1, "the two sides are one finding"


def test_an_open_surface_is_never_a_pass() -> None:
    mesh = zoo.mesh_of(zoo.hollow_box(30, 2))
    opened = mesh.only(np.arange(len(mesh.faces)) > 1)
    assert zoo.outcome("walls", opened).verdict == "review"


def test_a_wall_at_the_limit_is_reviewed() -> None:
    assert zoo.outcome("walls", zoo.mesh_of(zoo.hollow_box(30, 0.8)), min_wall=0.8).verdict == "review"


@pytest.mark.slow
@settings(max_examples=15, deadline=None)
@given(st.floats(0.3, 3.0), st.floats(0.05, 0.5), st.sampled_from(["rib", "tube", "box"]), st.integers(0, 2))
def test_a_wall_thinner_than_the_limit_never_passes(wall: float, under: float, kind: str, turn: int) -> None:
    solid = {
        "rib": lambda: zoo.ribbed_plate(wall),
        "tube": lambda: zoo.tube(10, 10 - wall, 12, 64),
        "box": lambda: zoo.hollow_box(25, wall),
    }[kind]()
    limit = wall * (1 + under)
    found = zoo.outcome("walls", zoo.mesh_of(solid).placed(zoo.TURNS[turn]), min_wall=limit)
    assert found.verdict != "pass"
    if limit - wall > 2 * (found.uncertainty or 0):
        assert found.verdict == "fail"


def test_order_of_faces_does_not_matter() -> None:
    mesh = zoo.mesh_of(zoo.tube(8, 6.8, 30, 48))
    mixed = Mesh(mesh.vertices, mesh.faces[np.random.default_rng(3).permutation(len(mesh.faces))])
    a, b = zoo.outcome("walls", mesh), zoo.outcome("walls", mixed)
    assert a.measured["min_ball"] == pytest.approx(b.measured["min_ball"], abs=a.uncertainty)


@pytest.mark.parametrize("degrees", [30.0, 60.0])
def test_a_twisted_rib_is_as_thin_as_its_sheared_facets(degrees: float) -> None:
    from manifold3d import CrossSection

    rib = zoo.mesh_of(Manifold.extrude(CrossSection.square((20, 0.6), True), 20, 40, degrees))
    found = zoo.outcome("walls", rib, min_wall=0.8)
    assert found.verdict == "fail" and found.worst is not None
    # The normal distance of the two ruled sides at the border: their slope there is border speed over height.
    slope = 10 * np.radians(degrees) / 20
    assert 0.6 / np.hypot(1, slope) - 0.05 <= found.worst.value <= 0.61
