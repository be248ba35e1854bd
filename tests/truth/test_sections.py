"""Sections against known areas and against an independent library."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

import zoo
from gullyrise.core.cutting import cut
from gullyrise.core.cutting.along import area_along
from gullyrise.core.errors import PlaneError
from gullyrise.core.geometry import Mesh, Plane


@pytest.mark.parametrize("turn", range(3))
def test_the_ring_of_a_tube(turn: int) -> None:
    place = zoo.TURNS[turn]
    mesh = zoo.mesh_of(zoo.tube(8, 6, 30, 64)).placed(place)
    plane = Plane(place.apply(np.array([[0, 0, 11.0]]))[0], place.matrix[:3, :3] @ np.array([0, 0, 1.0]))
    found = cut([mesh], plane)
    polygon = 64 / 2 * np.sin(2 * np.pi / 64)
    assert found.area == pytest.approx(polygon * (64 - 36), rel=1e-9)
    assert sorted(np.sign([loop.area for loop in found.loops])) == [-1, 1], "an outline and a hole"
    assert found.centroid == pytest.approx(plane.point, abs=1e-9)
    assert found.open_length == 0


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from(["vertex", "edge", "face", "free"]))
def test_area_agrees_with_an_independent_library(seed: int, through: str) -> None:
    random = np.random.default_rng(seed)
    solid = Manifold.hull_points(random.normal(size=(14, 3)) * 10) - Manifold.sphere(3, 12)
    mesh = zoo.mesh_of(solid)
    normal = random.normal(size=3)
    point = {
        "vertex": mesh.vertices[0],
        "edge": mesh.vertices[mesh.faces[0, :2]].mean(axis=0),
        "face": mesh.centroids()[0],
        "free": random.normal(size=3),
    }[through]
    found = cut([mesh], Plane(point, normal))
    plane = found.plane
    u, v = plane.frame()
    # The library slices at a height over z, so the solid is turned until the plane lies there.
    matrix = np.column_stack([np.vstack([u, v, plane.normal]), -np.vstack([u, v, plane.normal]) @ plane.point])
    expected = solid.transform(matrix).slice(0.0)
    assert found.area == pytest.approx(expected.area(), rel=1e-6, abs=1e-6)
    assert found.open_length == 0


def test_faces_in_the_plane_are_met_once_or_not_at_all() -> None:
    mesh = zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 10)))
    assert [cut([mesh], Plane.across(2, z)).area for z in (0.0, 5.0, 10.0)] == pytest.approx([0, 100, 100])


def test_an_open_mesh_gives_chains_and_says_so() -> None:
    mesh = zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 10)))
    opened = mesh.only(mesh.normals()[:, 0] < 0.9)
    found = cut([opened], Plane.across(2, 5))
    assert found.area == 0 and found.open_length == pytest.approx(30)
    assert [loop.closed for loop in found.loops] == [False]


def test_a_body_within_a_body_counts_once() -> None:
    both = [zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 10))), zoo.mesh_of(zoo.block((3, 3, 3), (6, 6, 6)))]
    joined = Mesh(np.vstack([m.vertices for m in both]), np.vstack([both[0].faces, both[1].faces + 8]))
    assert cut([joined], Plane.across(2, 5)).area == pytest.approx(100)


def test_wrong_winding_does_not_change_the_area() -> None:
    mesh = zoo.mesh_of(zoo.tube(8, 6, 30, 32))
    faces = mesh.faces.copy()
    faces[::3] = faces[::3, ::-1]
    assert cut([Mesh(mesh.vertices, faces)], Plane.across(2, 7)).area == pytest.approx(cut([mesh], Plane.across(2, 7)).area)


@pytest.mark.parametrize("axis", [0, 1, 2])
def test_the_area_curve_is_that_of_single_cuts(axis: int) -> None:
    mesh = zoo.mesh_of(zoo.tube(8, 6, 30, 32) + zoo.block((12, 0, 0), (20, 9, 9)))
    curve = area_along([mesh], np.eye(3)[axis], 23)
    single = [cut([mesh], Plane.across(axis, station)).area for station in curve.stations]
    assert curve.area == pytest.approx(single, abs=1e-9) and curve.sure.all()


def test_an_open_place_of_the_curve_is_marked() -> None:
    mesh = zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 10)))
    assert not area_along([mesh.only(mesh.normals()[:, 0] < 0.9)], np.eye(3)[2], 9).sure.any()


@pytest.mark.parametrize("words", ["x=1", "Y=-2.5", " z = 0 ", "0,0,1,0,0,2", "1,2,3,-1,0,0"])
def test_planes_are_read(words: str) -> None:
    assert np.linalg.norm(Plane.from_words(words).normal) == pytest.approx(1)


@pytest.mark.parametrize("words", ["", "w=1", "x=", "1,2,3", "0,0,0,0,0,0", "x=nan", "1,2,3,4,5,inf"])
def test_words_that_are_no_plane_get_a_sentence(words: str) -> None:
    with pytest.raises(PlaneError):
        Plane.from_words(words)


@settings(max_examples=10, deadline=None)
@given(st.integers(0, 2), st.integers(0, 2))
def test_the_areas_along_an_axis_add_up_to_the_volume(axis: int, turn: int) -> None:
    """Cavalieri's principle."""
    for solid in (zoo.t_slot(), zoo.tube(8, 6.8, 30, 64), zoo.hollow_box(30, 2)):
        mesh = zoo.mesh_of(solid).placed(zoo.TURNS[turn])
        curve = area_along([mesh], np.eye(3)[axis], 2000)
        assert np.trapezoid(curve.area, curve.stations) == pytest.approx(mesh.signed_volume, rel=2e-3)
        assert curve.sure.all()
