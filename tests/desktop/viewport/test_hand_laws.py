"""Laws of the hand on the view, for any view: what is held stays held, halves make a whole, there and back is where it began."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from test_hand import SIZE, Host

from gullyrise.core.camera.camera import Camera
from gullyrise.core.geometry import Box
from gullyrise.desktop.viewport.pointer.hand import DEGREES_PER_PIXEL, Hand

NO_KEYS: frozenset[str] = frozenset()
BOX = Box(np.array([-40.0, -25, -15]), np.array([40.0, 25, 15]))
bearings = st.tuples(st.floats(0, 360), st.floats(-60, 60))
ways = st.tuples(st.floats(-150, 150), st.floats(-150, 150))
inner = st.tuples(st.floats(380, 520), st.floats(260, 340))
extents = st.tuples(st.floats(30, 200), st.floats(30, 120))
LIKELY = settings(max_examples=120, deadline=None)


def hand_on(bearing: tuple[float, float], *, parallel: bool, roll: float = 0.0) -> tuple[Host, Hand]:
    host = Host(BOX, parallel=parallel)
    host.camera = replace(host.camera, heading=bearing[0], elevation=bearing[1], roll=roll).framing(BOX, *SIZE)
    return host, Hand(host)


def drag(hand: Hand, button: str, start: tuple[float, float], by: tuple[float, float], keys: frozenset[str], steps: int) -> None:
    x, y = start
    hand.press("drag", frozenset({button}), x, y, NO_KEYS)
    for step in range(1, steps + 1):
        hand.move(x + by[0] * step / steps, y + by[1] * step / steps, keys)
    hand.release(x + by[0], y + by[1], keys)


def seen(camera: Camera, point: np.ndarray) -> np.ndarray:
    return np.asarray(camera.to_picture(point[None], *SIZE)[0])


@LIKELY
@given(bearings, st.booleans(), st.floats(-80, 80), inner, ways, st.integers(1, 12))
def test_what_is_slid_stays_under_the_pointer(
    bearing: tuple[float, float], parallel: bool, roll: float, start: tuple[float, float], by: tuple[float, float], steps: int
) -> None:
    assume(np.hypot(*by) / steps > 5)
    host, hand = hand_on(bearing, parallel=parallel, roll=roll)
    under = host.under(*start)
    assume(under is not None)
    assert under is not None
    before = host.camera
    drag(hand, "middle", start, by, NO_KEYS, steps)
    assert seen(host.camera, under.point)[:2] == pytest.approx(np.array(start) + by, abs=1e-6)
    assert host.camera.frame()[2] == pytest.approx(before.frame()[2]) and host.camera.span == before.span


@LIKELY
@given(bearings, st.booleans(), inner, ways, st.integers(1, 12))
def test_the_pivot_stays_and_many_short_turns_are_a_long_one(
    bearing: tuple[float, float], parallel: bool, start: tuple[float, float], by: tuple[float, float], steps: int
) -> None:
    assume(np.hypot(*by) / steps > 5)
    host, hand = hand_on(bearing, parallel=parallel)
    under = host.under(*start)
    assume(under is not None)
    assert under is not None
    before = seen(host.camera, under.point)
    drag(hand, "right", start, by, NO_KEYS, steps)
    assert seen(host.camera, under.point) == pytest.approx(before, abs=1e-6)
    assert (host.camera.heading - bearing[0] + by[0] * DEGREES_PER_PIXEL + 180) % 360 - 180 == pytest.approx(0, abs=1e-6)
    wanted = bearing[1] + by[1] * DEGREES_PER_PIXEL
    if abs(wanted) < 89:
        assert host.camera.elevation == pytest.approx(wanted)


@LIKELY
@given(bearings, st.booleans(), inner, st.floats(0.2, 4), st.booleans())
def test_zooming_keeps_the_place_at_the_pointer_and_back_is_where_it_began(
    bearing: tuple[float, float], parallel: bool, at: tuple[float, float], notches: float, fine: bool
) -> None:
    host, hand = hand_on(bearing, parallel=parallel)
    under = host.under(*at)
    assume(under is not None)
    assert under is not None
    keys = frozenset({"ctrl"}) if fine else NO_KEYS
    before = host.camera
    hand.wheel(notches, *at, keys)
    assert seen(host.camera, under.point)[:2] == pytest.approx(at, abs=1e-6)
    nearer = seen(host.camera, under.point)[2] / seen(before, under.point)[2] if not parallel else host.camera.span / before.span
    assert 0 < nearer < 1
    hand.wheel(-notches, *at, keys)
    assert seen(host.camera, under.point) == pytest.approx(seen(before, under.point), abs=1e-5)
    assert host.camera.to_picture(BOX.corners(), *SIZE) == pytest.approx(before.to_picture(BOX.corners(), *SIZE), abs=1e-4)


@LIKELY
@given(bearings, inner, ways)
def test_fine_is_a_share_and_one_axis_is_one(
    bearing: tuple[float, float], start: tuple[float, float], by: tuple[float, float]
) -> None:
    # Both ways long enough to be one, and one of them the longer: made so, since most that are drawn are not.
    by = tuple(np.sign(side or 1.0) * (15 + 5 * place + abs(side)) for place, side in enumerate(by))  # type: ignore[assignment]
    assume(abs(abs(by[0]) - abs(by[1])) > 5)
    ends = []
    for keys in (NO_KEYS, frozenset({"ctrl"}), frozenset({"shift"})):
        host, hand = hand_on((bearing[0], bearing[1] / 2), parallel=False)
        drag(hand, "right", start, (by[0] / 4, by[1] / 4), keys, 1)
        turned = (host.camera.heading - bearing[0] + 180) % 360 - 180
        ends.append((turned, host.camera.elevation - bearing[1] / 2))
    whole, fine, single = ends
    assert fine == pytest.approx((whole[0] * 0.15, whole[1] * 0.15), abs=1e-6)
    longer = 0 if abs(by[0]) > abs(by[1]) else 1
    if max(abs(by[0]), abs(by[1])) / 4 >= 6:
        assert single[1 - longer] == pytest.approx(0, abs=1e-9) and single[longer] == pytest.approx(whole[longer])


@LIKELY
@given(
    bearings,
    st.booleans(),
    st.tuples(st.floats(300, 420), st.floats(200, 280)),
    st.tuples(st.floats(30, 200), st.floats(30, 120)),
)
def test_a_rectangle_zoomed_to_fills_the_picture(
    bearing: tuple[float, float], parallel: bool, corner: tuple[float, float], extent: tuple[float, float]
) -> None:
    host, _ = hand_on(bearing, parallel=parallel)
    low, high = corner, (corner[0] + extent[0], corner[1] + extent[1])
    under = host.under((low[0] + high[0]) / 2, (low[1] + high[1]) / 2)
    depth = seen(host.camera, BOX.middle if under is None else under.point)[2]
    corners = [host.camera.from_picture(x, y, depth, *SIZE) for x, y in (low, high)]
    host.framed(low, high)
    places = np.array([seen(host.camera, place)[:2] for place in corners])
    size = places[1] - places[0]
    assert places.mean(axis=0) == pytest.approx(np.array(SIZE) / 2, abs=1e-6)
    assert (size / SIZE).max() == pytest.approx(1.0) and size[0] / size[1] == pytest.approx(extent[0] / extent[1])
