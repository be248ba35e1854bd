"""What the checks do quickly is what doing it plainly gives."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold
from scipy.ndimage import grey_dilation, grey_erosion

import zoo
from gullyrise.core.checks.access_map import HeightMap, left_by
from gullyrise.core.checks.places import Cells
from gullyrise.core.checks.tally import BINS, tallied
from gullyrise.core.gaps.by_face import gaps_of_faces
from gullyrise.core.gaps.pieces import Piece
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.nearest import Surface
from gullyrise.core.geometry.orientation import outward
from gullyrise.core.geometry.topology import clusters, edges_cancel, edges_of
from gullyrise.core.support.regions import hanging_of


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10_000), st.floats(0.0, 6.5))
def test_a_tool_over_a_height_map_is_grey_morphology_with_its_disc(seed: int, radius: float) -> None:
    height = np.random.default_rng(seed).random((24, 31)) * 10
    map_ = HeightMap(np.eye(3), np.zeros(2), 1.0, height, 0.0)
    reach = int(radius)
    step = np.arange(-reach, reach + 1)
    disc = step[:, None] ** 2 + step[None] ** 2 <= radius**2
    raised = grey_dilation(height, footprint=disc, mode="nearest")
    plain = grey_erosion(raised, footprint=disc, mode="nearest")
    inside = (slice(2 * reach, 24 - 2 * reach), slice(2 * reach, 31 - 2 * reach))
    assert left_by(map_, radius, 0.0)[inside] == pytest.approx(plain[inside])
    assert (left_by(map_, radius, 0.0)[inside] >= height[inside] - 1e-12).all(), "a tool leaves more, never less"


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000), st.floats(1.0, 85.0), st.floats(0.0, 4.0))
def test_regions_from_the_forest_are_those_of_the_faces_themselves(seed: int, limit: float, least: float) -> None:
    rng = np.random.default_rng(seed)
    solid = Manifold.hull_points(rng.normal(size=(30, 3)) * 8) - Manifold.sphere(4, 24).translate(rng.normal(size=3) * 4)
    mesh = zoo.mesh_of(solid)
    mesh = Mesh(mesh.vertices - [0, 0, mesh.vertices[:, 2].min()], mesh.faces)
    hanging = hanging_of(mesh, 45.0)
    found = hanging.regions(limit, least)
    over = (hanging.angles > limit + 1e-4) & ~hanging.resting & (hanging.areas > 0)
    plain = [group for group in clusters(mesh, edges_of(mesh), over) if hanging.areas[group].sum() >= least]
    assert sorted(found.area) == pytest.approx(sorted(float(hanging.areas[group].sum()) for group in plain))
    for group in plain:
        assert len(set(found.label[group].tolist())) == 1 and found.label[group[0]] >= 0
    assert (found.label >= 0).sum() == sum(len(group) for group in plain)


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 10_000), st.floats(0.3, 4.0))
def test_the_gap_map_leaves_out_nothing_within_its_ceiling(seed: int, ceiling: float) -> None:
    rng = np.random.default_rng(seed)
    a = zoo.mesh_of(Manifold.sphere(5, 32))
    b = zoo.mesh_of(zoo.block((0, 0, 0), (30, 12, 9))).placed(
        Transform.turned(rng.normal(size=3), 70.0).then(Transform.moved(rng.normal(size=3) * 3 + [8, 0, 0]))
    )
    pieces = [Piece("a", a, 0, None), Piece("b", b, 1, None)]
    found = gaps_of_faces(pieces, [len(a.faces), len(b.faces)], ceiling)
    for values, mesh, other in ((found[0], a, b), (found[1], b, a)):
        distance, _, _ = Surface(other).nearest(mesh.centroids())
        near = distance <= ceiling
        assert (np.isfinite(values) == near).all()
        assert values[near] == pytest.approx(distance[near], abs=1e-5)


def test_lows_are_the_dips_and_each_is_one_place() -> None:
    x = np.linspace(0, 60, 1200)
    points = np.column_stack([x, np.zeros_like(x), np.zeros_like(x)])
    value = 2.0 - 1.5 * np.exp(-((x - 12) ** 2) / 8) - 0.8 * np.exp(-((x - 45) ** 2) / 8)
    cells = Cells.dealt(points, points + [0, 0, 0.2], 1.0)
    every = np.ones(len(x), dtype=bool)
    lows = cells.lows(value, every)
    assert x[lows[0]] == pytest.approx(12, abs=0.1) and x[lows[1]] == pytest.approx(45, abs=0.1)
    assert len(cells.lows(value, ~every)) == 0
    only = np.abs(x - 45) < 5
    assert x[cells.lows(value, only)[0]] == pytest.approx(45, abs=0.1)


def test_a_tally_counts_every_area_once() -> None:
    values, area = np.array([0.0, 0.5, 0.99, 7.0, np.nan, -1.0]), np.arange(1.0, 7.0)
    found = tallied(values, area, 0.0, 1.0)
    assert found.area.sum() == 1 + 2 + 3 + 4 + 6 and len(found.area) == BINS
    assert found.area[-1] == 3 + 4, "what lies beyond is in the last"


def test_a_mesh_whose_edges_cancel_is_taken_as_it_is_and_any_other_is_mended() -> None:
    mesh = zoo.mesh_of(Manifold.sphere(5, 24))
    assert edges_cancel(mesh) and outward(mesh) is mesh
    inside_out = Mesh(mesh.vertices, mesh.faces[:, ::-1])
    assert edges_cancel(inside_out) and outward(inside_out).signed_volume > 0
    faces = mesh.faces.copy()
    faces[3] = faces[3][::-1]
    spoiled = Mesh(mesh.vertices, faces)
    assert not edges_cancel(spoiled) and outward(spoiled).signed_volume == pytest.approx(mesh.signed_volume)
    assert not edges_cancel(mesh.only(np.arange(len(mesh.faces)) > 0))
