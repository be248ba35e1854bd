"""Soft shade of a picture at rest: in corners, on no flat face however it lies, round no edge of another thing."""

from __future__ import annotations

import numpy as np
import pytest

from gullyrise.core.camera.camera import Camera
from gullyrise.core.machines.library import default_machine
from gullyrise.drawing.display import Display
from gullyrise.drawing.palette import LIMESTONE
from gullyrise.drawing.requests import Frame, Request
from gullyrise.drawing.rest_shading import shaded, softened
from gullyrise.drawing.scene import Scene

CAMERA = Camera(np.zeros(3), 0, 0, 100, parallel=True)
NEAR, FAR = 100.0, 300.0
WHITE = np.full((200, 300, 4), 255, dtype=np.uint8)


def drawn(z: np.ndarray, camera: Camera = CAMERA) -> np.ndarray:
    """(h, w) how light the picture is where such depths are, mm."""
    raw = (z - NEAR) / (FAR - NEAR) if camera.parallel else (FAR - NEAR * FAR / z) / (FAR - NEAR)
    return shaded(WHITE, raw.astype(np.float32), NEAR, FAR, camera)[:, :, 0].astype(int)


def ramp(slope: float) -> np.ndarray:
    return np.tile(200.0 + slope * np.arange(300)[None, :] * 0.5, (200, 1))


@pytest.mark.parametrize("slope", [0.0, 0.3, -0.5])
def test_a_flat_face_stays_as_it_is_however_it_lies(slope: float) -> None:
    assert (drawn(ramp(slope)) >= 252).all()


def test_a_corner_is_dark_and_a_ridge_is_not() -> None:
    # Two faces that meet in the middle: the corner lies deepest, the ridge nearest.
    away = np.abs(np.arange(300) - 150) * 0.5
    corner, ridge = (np.tile(200.0 + way * 0.8 * away[None, :], (200, 1)) for way in (-1, 1))
    light = drawn(corner)
    assert light[:, 146:154].mean() < 215 and light[:, 20:60].min() > 250
    assert drawn(ridge).min() > 250


def test_what_stands_far_before_a_face_casts_no_shade_round_it() -> None:
    z = np.full((200, 300), 250.0)
    z[60:140, 100:200] = 120.0
    light = drawn(z)
    assert light[60:140, 100:200].min() > 250 and light[:, :80].min() > 250
    assert light[100, 70:95].min() > 240, "no halo beside it"


def test_the_ground_behind_all_is_not_touched_and_the_picture_given_is_left_alone() -> None:
    z = np.full((200, 300), FAR)
    before = WHITE.copy()
    assert (drawn(z) == 255).all() and (before == WHITE).all()
    small = np.full((20, 20, 4), 200, dtype=np.uint8)
    assert shaded(small, np.zeros((20, 20), dtype=np.float32), NEAR, FAR, CAMERA) is small


def test_a_perspective_picture_has_its_corner_in_the_same_place() -> None:
    camera = Camera(np.zeros(3), 0, 0, 100, parallel=False)
    away = np.abs(np.arange(300) - 150) * 0.5
    light = drawn(np.tile(200.0 - 0.8 * away[None, :], (200, 1)), camera)
    assert light[:, 146:154].mean() < 225 and light[:, 20:60].mean() > 246


def test_edges_that_are_drawn_before_a_face_make_no_stripes_beside_it() -> None:
    z = np.full((200, 300), 250.0)
    z[:, 150:152] = 247.0
    z[80:82] = 247.0
    assert drawn(z).min() > 250


def test_wires_and_what_is_seen_through_are_not_shaded() -> None:
    z = 200.0 + np.abs(np.arange(300) - 150)[None, :] * -0.8 + np.zeros((200, 1))
    depth = ((z - NEAR) / (FAR - NEAR)).astype(np.float32)

    def darkest(display: Display) -> int:
        request = Request(Scene((), default_machine(), LIMESTONE, display=display), CAMERA, 300, 200, False, 1)
        return int(softened(Frame(request, WHITE, depth, None, NEAR, FAR)).pixels[:, :, 0].min())

    assert darkest(Display()) < 230
    assert darkest(Display(surface="wireframe")) == darkest(Display(see_through=True)) == 255
