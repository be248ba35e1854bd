"""The camera as numbers: random gestures keep it finite and upright, and Home frames everything."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gullyrise.core.camera.camera import NAMED, Camera
from gullyrise.core.checks.protocol import FaceField
from gullyrise.core.geometry import Box
from gullyrise.drawing.captions import round_length
from gullyrise.drawing.colour_maps import scale_for
from gullyrise.drawing.palette import THEMES

BOX = Box(np.array([10.0, -20, 0]), np.array([60.0, 40, 35]))
gesture = st.tuples(st.sampled_from(["turn", "slide", "zoom"]), st.floats(-400, 400), st.floats(-400, 400))


@settings(max_examples=100, deadline=None)
@given(st.lists(gesture, min_size=1, max_size=100), st.booleans())
def test_any_gestures_leave_a_finite_upright_view_that_home_brings_back(
    steps: list[tuple[str, float, float]], parallel: bool
) -> None:
    camera = replace(Camera(np.zeros(3)), parallel=parallel)
    for kind, x, y in steps:
        if kind == "turn":
            camera = camera.turned(BOX.middle, x, y)
        elif kind == "slide":
            camera = camera.slid(x, y)
        else:
            camera = camera.zoomed(float(np.exp(x / 100)), BOX.middle)
    right, up, back = camera.frame()
    assert np.isfinite([*camera.target, camera.span, *camera.eye]).all()
    assert up[2] >= -1e-9 and abs(right[2]) < 1e-12, "the vertical stays upright"
    assert np.allclose(np.cross(right, up), back)
    home = camera.framing(BOX, 900, 600)
    seen = home.to_picture(BOX.corners(), 900, 600)
    assert (seen[:, :2] > 0).all() and (seen[:, 0] < 900).all() and (seen[:, 1] < 600).all()
    near, far = home.clipping(BOX)
    assert (seen[:, 2] > near).all() and (seen[:, 2] < far).all(), "nothing that is looked at is clipped"


@settings(max_examples=60, deadline=None)
@given(st.floats(0, 360), st.floats(-90, 90), st.booleans(), st.floats(0, 899), st.floats(0, 599), st.floats(50, 400))
def test_to_the_picture_and_back(heading: float, elevation: float, parallel: bool, x: float, y: float, depth: float) -> None:
    camera = Camera(np.array([5.0, 6, 7]), heading, elevation, 200.0, parallel)
    point = camera.from_picture(x, y, depth, 900, 600)
    assert camera.to_picture(point[None], 900, 600)[0] == pytest.approx([x, y, depth], abs=1e-6)


def test_named_views_look_where_their_names_say() -> None:
    looks = {
        "front": [0, 1, 0],
        "back": [0, -1, 0],
        "right": [-1, 0, 0],
        "left": [1, 0, 0],
        "top": [0, 0, -1],
        "underside": [0, 0, 1],
    }
    for view, ahead in looks.items():
        _, heading, elevation = NAMED[view]
        assert Camera(np.zeros(3), heading, elevation).frame()[2] == pytest.approx(-np.array(ahead), abs=1e-12)


def test_ways_between_views_are_short() -> None:
    half = Camera(np.zeros(3), 350, 0).between(Camera(np.zeros(3), 10, 20), 0.5)
    assert (half.heading % 360, half.elevation) == pytest.approx((0, 10), abs=1e-9)


@pytest.mark.parametrize(("limit", "below", "unit"), [(0.8, True, "mm"), (45.0, False, "°"), (0.5, False, "")])
def test_colours_break_hard_at_the_limit(limit: float, below: bool, unit: str) -> None:
    scale = scale_for(FaceField("x", unit, (), limit, below))
    just = scale.colours(np.array([limit - 1e-6, limit + 1e-6, np.nan])).astype(int)
    assert np.abs(just[0] - just[1]).sum() > 60
    bad = just[0] if below else just[1]
    assert bad[0] > bad[2] + 60, "what fails is warm"


@pytest.mark.parametrize("most", [0.003, 0.7, 1.0, 19.9, 4000.0])
def test_the_scale_bar_is_round(most: float) -> None:
    length = round_length(most)
    assert most / 2.51 <= length <= most and f"{length:.0e}"[0] in "125"


def _luminance(colour: str) -> float:
    channels = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


@pytest.mark.parametrize("name", THEMES)
def test_text_reaches_a_contrast_of_4_5(name: str) -> None:
    palette = THEMES[name]
    for text, ground in (("ink", "panel"), ("quiet", "panel"), ("quiet", "ground"), ("ink", "field"), ("on_accent", "accent"),
                         ("passed", "panel"), ("review", "panel"), ("failed", "panel"), ("accent", "field")):  # fmt: skip
        light, dark = sorted((_luminance(getattr(palette, text)), _luminance(getattr(palette, ground))), reverse=True)
        assert (light + 0.05) / (dark + 0.05) >= 4.5, f"{text} on {ground}"
