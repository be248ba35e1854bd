"""Fits and what they do not know: the stated bound holds whatever way the points are off; facets against what they stand for."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from hypothesis import example, given, settings
from hypothesis import strategies as st

import zoo
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.measuring.faceting import area_doubt, border_doubt, chord_sag, faceting, volume_doubt
from gullyrise.core.measuring.fits import fit_circle, fit_cylinder, fit_plane, fit_sphere, grain

seeds = st.integers(0, 100_000)


def somewhere(random: np.random.Generator) -> Transform:
    return Transform.turned(random.normal(size=3), float(random.uniform(0, 360))).then(
        Transform.moved(random.uniform(-80, 80, 3))
    )


def noise(random: np.random.Generator, points: np.ndarray, most: float) -> np.ndarray:
    """Every coordinate off by up to so much, or, in half of the cases, in one way for all of one side: the worst for a fit."""
    if random.integers(2):
        return points + random.uniform(-most, most, points.shape) / np.sqrt(3)
    side = np.sign(points @ random.normal(size=3))
    return points + (side * most)[:, None] * random.normal(size=3) / np.sqrt(3) / 2


def angle(a: np.ndarray, b: np.ndarray) -> float:
    return float(np.arctan2(np.linalg.norm(np.cross(a, b)), abs(a @ b)))


@settings(max_examples=60, deadline=None)
@given(seeds)
# Few points, most of whose scatter the plane itself takes up.
@example(423)
def test_a_plane_is_known_within_its_bound(seed: int) -> None:
    random = np.random.default_rng(seed)
    place, most = somewhere(random), float(10 ** random.uniform(-5, -1.5))
    points = random.uniform(-30, 30, (int(random.integers(4, 60)), 3)) * [1, 1, 0]
    found = fit_plane(noise(random, place.apply(points), most), place.matrix[:3, 2])
    assert found is not None
    normal = place.matrix[:3, 2]
    assert angle(found.normal, normal) <= found.lean * 1.5 + 1e-9 or found.residual < most / 4
    assert found.normal @ normal > 0, "to the side that was seen"
    assert found.residual <= 2 * most


@settings(max_examples=60, deadline=None)
@given(seeds, st.floats(0.6, 2 * np.pi))
def test_a_circle_is_known_within_its_bound(seed: int, sweep: float) -> None:
    random = np.random.default_rng(seed)
    place, radius, most = somewhere(random), float(random.uniform(1, 40)), float(10 ** random.uniform(-5, -2))
    turn = np.linspace(0, sweep, int(random.integers(8, 60)), endpoint=sweep < 6)
    points = place.apply(np.column_stack([radius * np.cos(turn), radius * np.sin(turn), np.zeros(len(turn))]))
    found = fit_circle(noise(random, points, most))
    assert found is not None
    # Where chance has laid the points well together, the residual does not tell how far they all are off.
    share = max(most / max(found.residual, 1e-12), 1.0)
    assert abs(found.radius - radius) <= found.radius_off * share + 1e-9
    assert np.linalg.norm(found.centre - place.matrix[:3, 3]) <= found.off * share + most + 1e-9


@settings(max_examples=60, deadline=None)
@given(seeds, st.floats(0.9, 2 * np.pi))
# A short arc seen askew: the nearest end of the search is a cylinder a third as large.
@example(596, 1.0)
def test_a_cylinder_is_known_within_its_bound(seed: int, sweep: float) -> None:
    random = np.random.default_rng(seed)
    place, radius, most = somewhere(random), float(random.uniform(1, 20)), float(10 ** random.uniform(-5, -2.3))
    turn = np.linspace(0, sweep, 24, endpoint=sweep < 6)
    heights = (-radius, 0.0, radius * 1.3)
    rings = [np.column_stack([radius * np.cos(turn), radius * np.sin(turn), np.full(len(turn), z)]) for z in heights]
    points = place.apply(np.concatenate(rings))
    axis = place.matrix[:3, 2]
    found = fit_cylinder(noise(random, points, most), axis + random.normal(size=3) * 0.05)
    assert found is not None
    share = max(most / max(found.residual, 1e-12), 1.0)
    assert abs(found.radius - radius) <= found.radius_off * share + 1e-9
    assert angle(found.direction, axis) <= found.lean * share + 1e-9
    away = found.point - place.matrix[:3, 3]
    off = np.linalg.norm(away - (away @ axis) * axis)
    assert off <= (found.off + found.lean * abs(away @ axis)) * share + 1e-9


@settings(max_examples=40, deadline=None)
@given(seeds)
def test_a_sphere_is_known_within_its_bound(seed: int) -> None:
    random = np.random.default_rng(seed)
    place, radius, most = somewhere(random), float(random.uniform(1, 30)), float(10 ** random.uniform(-5, -2))
    ways = random.normal(size=(60, 3))
    ways = ways[ways[:, 2] > -0.2 * np.linalg.norm(ways, axis=1)]
    points = place.apply(radius * ways / np.linalg.norm(ways, axis=1)[:, None])
    found = fit_sphere(noise(random, points, most))
    assert found is not None
    share = max(most / max(found.residual, 1e-12), 1.0)
    assert abs(found.radius - radius) <= found.radius_off * share + 1e-9
    assert np.linalg.norm(found.centre - place.matrix[:3, 3]) <= found.off * share + 1e-9


def test_what_cannot_be_fitted_is_none() -> None:
    line = np.array([[0, 0, 0], [1, 1, 1], [2, 2, 2], [5, 5, 5.0]])
    assert fit_plane(line) is None and fit_plane(line[:2]) is None and fit_circle(line) is None and fit_sphere(line) is None
    assert fit_cylinder(line, np.array([0, 0, 1.0])) is None
    flat = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [1, 1, 0], [3, 1, 0.0]])
    assert fit_sphere(flat) is None and fit_circle(flat[:3]) is None


def test_single_precision_stands_in_what_is_not_known() -> None:
    points = np.array([[1000.0, 0, 0], [1000, 10, 0], [1000, 0, 10], [1000, 10, 10]])
    assert grain(points) == pytest.approx(1000 * 2**-23)
    found = fit_plane(points)
    assert found is not None and found.residual == 0 and 0 < found.lean < 1e-4


@pytest.mark.parametrize("sides", [12, 24, 60, 200])
def test_a_polygon_for_a_circle_is_off_by_no_more_than_is_said(sides: int) -> None:
    """A rod of many sides: volume, area and border against those of the round one."""
    mesh = zoo.mesh_of(zoo.tube(10, 6, 25, sides))
    found = faceting(mesh)
    volume = np.pi * (100 - 36) * 25
    assert abs(mesh.signed_volume - volume) <= volume_doubt(mesh, found) <= 5 * abs(mesh.signed_volume - volume) + 1e-3
    top = np.flatnonzero(mesh.normals()[:, 2] > 0.99)
    ring = np.pi * (100 - 36)
    assert abs(mesh.face_areas()[top].sum() - ring) <= border_doubt(mesh, top) <= 8 * ring * (np.pi / sides) ** 2 + 1e-3
    wall = np.flatnonzero((np.abs(mesh.normals()[:, 2]) < 0.01) & (np.linalg.norm(mesh.centroids()[:, :2], axis=1) > 8))
    assert abs(mesh.face_areas()[wall].sum() - 2 * np.pi * 10 * 25) <= area_doubt(mesh, found, wall)
    assert found.sag.max() == pytest.approx(10 * (1 - np.cos(np.pi / sides)), rel=0.02)


@pytest.mark.parametrize("level", [2, 3, 4])
def test_a_ball_of_facets_is_off_by_no_more_than_is_said(level: int) -> None:
    made = trimesh.creation.icosphere(level, 20.0)
    mesh = Mesh(np.asarray(made.vertices), np.asarray(made.faces))
    found = faceting(mesh)
    assert abs(mesh.signed_volume - 4 / 3 * np.pi * 8000) <= volume_doubt(mesh, found)
    assert abs(mesh.area - 4 * np.pi * 400) <= area_doubt(mesh, found, np.arange(len(mesh.faces)))
    middles = np.linalg.norm(mesh.centroids(), axis=1)
    assert (20 - middles <= found.sag * 1.05 + 1e-9).all()


def test_flat_faces_and_sharp_edges_have_no_facets() -> None:
    block = zoo.mesh_of(zoo.block((0, 0, 0), (10, 20, 30)))
    found = faceting(block)
    assert found.sag.max() == 0 and found.bend.max() == 0
    assert volume_doubt(block, found) < 0.02 and border_doubt(block, np.arange(2)) < 1e-3


@pytest.mark.parametrize("count", [16, 40, 90])
def test_the_sag_of_a_chain_of_chords(count: int) -> None:
    turn = np.linspace(0, np.pi, count)
    points = 15 * np.column_stack([np.cos(turn), np.sin(turn), np.zeros(count)])
    assert chord_sag(np.stack([points[:-1], points[1:]], axis=1)) == pytest.approx(
        15 * (1 - np.cos(np.pi / (count - 1) / 2)), rel=0.02
    )
    assert chord_sag(points[None, :2]) == 0
