"""The small picture of a finding shows its surface in its colours, from where it is seen."""

from __future__ import annotations

import numpy as np

import zoo
from gullyrise.core.geometry import Mesh
from gullyrise.core.report.finding_picture import picture_of, reach_of, surface_near

BLOCK = zoo.mesh_of(zoo.block((0, 0, 0), (30, 20, 10)))


def colours_of(mesh: Mesh) -> np.ndarray:
    """Red above, blue elsewhere."""
    up = mesh.normals()[:, 2] > 0.5
    return np.where(up[:, None], [200, 10, 10], [10, 10, 200]).astype(np.uint8)


def test_the_face_that_is_looked_at_fills_the_picture_in_its_colour() -> None:
    made = picture_of(BLOCK, colours_of(BLOCK), np.array([15.0, 10, 10]), np.array([0.0, 0, 1]), 5.0, (60, 40))
    assert made.shape == (40, 60, 4) and (made[..., 3] == 255).all() and (made[..., 0] > 4 * made[..., 2]).all()
    below = picture_of(BLOCK, colours_of(BLOCK), np.array([15.0, 10, 0]), np.array([0.0, 0, -1]), 5.0, (60, 40))
    assert (below[..., 2] > 4 * below[..., 0]).all()


def test_what_lies_beside_the_part_is_clear_and_its_width_is_to_scale() -> None:
    made = picture_of(BLOCK, colours_of(BLOCK), np.array([15.0, 10, 10]), np.array([0.0, 0, 1]), 40.0, (160, 160))
    covered = made[..., 3] > 0
    assert covered[80].sum() * 0.5 == 30 and covered[:, 80].sum() * 0.5 == 20, "half a millimetre a pixel"
    assert not covered[:20].any()
    empty = picture_of(BLOCK, colours_of(BLOCK), np.array([900.0, 10, 10]), None, 5.0, (60, 40))
    assert not empty.any()


def test_only_the_copies_that_are_near_are_in_it() -> None:
    part = zoo.part(BLOCK, "block")
    near = surface_near(part, lambda _, mesh: colours_of(mesh), np.array([15.0, 10, 10]), 5.0)
    assert near is not None and len(near[0].faces) == len(near[1]) == len(BLOCK.faces)
    assert surface_near(part, lambda _, mesh: colours_of(mesh), np.array([900.0, 0, 0]), 5.0) is None


def test_its_reach_follows_its_area_or_its_value_within_the_size_of_the_part() -> None:
    assert reach_of(100.0, 100.0, None) == 13.0 and reach_of(100.0, None, 1.0) == 8.0
    assert reach_of(100.0, 1e-6, None) == 6.0 and reach_of(100.0, 1e9, None) == 50.0 and reach_of(100.0, None, None) == 6.0
