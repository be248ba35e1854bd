"""The hand on its own: random strokes by the thousand keep the view finite and upright, and Home frames everything."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gullyrise.core.camera.camera import NAMED, Camera
from gullyrise.core.geometry import Box
from gullyrise.desktop.pointer.schemes import GESTURES, READY, clashes, own_scheme, possible
from gullyrise.desktop.pointer.triggers import BUTTONS, KEYS, MOTIONS, Trigger, trigger
from gullyrise.desktop.viewport.pointer.hand import Hand, Under, approach

SIZE = (900, 600)


class Host:
    """A view of one box, without a window."""

    def __init__(self, box: Box, *, parallel: bool = False) -> None:
        self.box = box
        self.camera = replace(Camera(box.middle), parallel=parallel).framing(box, *SIZE)
        self.seen: list[str] = []

    def view_size(self) -> tuple[int, int]:
        return SIZE

    def under(self, x: float, y: float) -> Under | None:
        """The box as a ray meets it from outside, nothing from inside or beside it."""
        origin, ahead = self.camera.ray(x, y, *SIZE, reach=1e5)
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            a, b = (self.box.low - origin) / ahead, (self.box.high - origin) / ahead
        enter, leave = float(np.nanmax(np.fmin(a, b))), float(np.nanmin(np.fmax(a, b)))
        return Under(origin + enter * ahead, self.box.diagonal) if 0 < enter <= leave else None

    def still_pivot(self) -> np.ndarray:
        return self.box.middle

    def parts_size(self) -> float:
        return self.box.diagonal

    def put_camera(self, camera: Camera) -> None:
        self.camera = camera

    def clicked(self, button: str, x: float, y: float, keys: frozenset[str]) -> None:
        self.seen.append(f"click {button}")

    def framed(self, low: tuple[float, float], high: tuple[float, float]) -> None:
        under = self.under((low[0] + high[0]) / 2, (low[1] + high[1]) / 2)
        point = self.box.middle if under is None else under.point
        depth = float(self.camera.to_picture(point[None], *SIZE)[0, 2])
        self.camera = self.camera.onto(low, high, depth, *SIZE)

    def chosen(self, low: tuple[float, float], high: tuple[float, float], keys: frozenset[str]) -> None:
        self.seen.append("chosen")


places = st.tuples(st.floats(0, 900), st.floats(0, 600))
keys = st.frozensets(st.sampled_from(KEYS))
stroke = st.one_of(
    st.tuples(st.just("drag"), st.frozensets(st.sampled_from(BUTTONS), min_size=1), keys, places, places, keys),
    st.tuples(st.just("stroke"), st.frozensets(st.sampled_from(BUTTONS), min_size=1), keys, places, places, keys),
    st.tuples(st.sampled_from(["wheel", "pinch", "twist"]), st.floats(-30, 30), keys, places),
    st.tuples(st.just("scroll"), st.floats(-500, 500), keys, places, st.floats(-500, 500)),
)


@settings(max_examples=250, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.large_base_example])
@given(
    st.lists(stroke, min_size=40, max_size=60), st.sampled_from(sorted(READY)), st.booleans(), st.booleans(),
    st.sampled_from([0.1, 60.0, 10_000.0]),
)  # fmt: skip
def test_ten_thousand_strokes_never_lose_the_view(strokes: list, scheme: str, upright: bool, parallel: bool, size: float) -> None:  # type: ignore[type-arg]
    box = Box(np.array([1.0, -2.0, 0.0]) * size, np.array([2.0, 0.5, 1.2]) * size)
    host = Host(box, parallel=parallel)
    hand = Hand(host)
    hand.habits = replace(hand.habits, scheme=READY[scheme], upright=upright)
    for motion, what, held, (x, y), *rest in strokes:
        if motion in ("drag", "stroke"):
            (x1, y1), late = rest
            hand.press(motion, what, x, y, held)
            hand.move(x + (x1 - x) / 2, y + (y1 - y) / 2, held)
            hand.move(x1, y1, held | late)
            hand.release(x1, y1, held | late)
        elif motion == "scroll":
            hand.scroll(what, rest[0], x, y, held)
        else:
            getattr(hand, motion)(what, x, y, held)
        camera = host.camera
        assert np.isfinite([*camera.target, camera.span, camera.roll, camera.heading, camera.elevation, *camera.eye]).all()
        right, up, back = camera.frame()
        assert np.allclose(np.cross(right, up), back, atol=1e-9) and abs(np.linalg.norm(up) - 1) < 1e-9
        assert not upright or up[2] >= -1e-9, "the vertical never points down"
        near, far = camera.clipping(box)
        assert near < far and (camera.parallel or near > 0)
    home = host.camera.framing(box, *SIZE)
    seen = home.to_picture(box.corners(), *SIZE)
    assert (seen[:, :2] > 0).all() and (seen[:, 0] < SIZE[0]).all() and (seen[:, 1] < SIZE[1]).all()
    near, far = home.clipping(box)
    assert (seen[:, 2] > near).all() and (seen[:, 2] < far).all()


@settings(max_examples=80, deadline=None)
@given(st.floats(0, 360), st.floats(-89, 89), st.floats(-179, 179), st.floats(-200, 200), st.floats(-200, 200))
def test_free_turning_keeps_the_pivot_and_goes_back_the_way_it_came(
    heading: float, elevation: float, roll: float, across: float, over: float
) -> None:
    pivot = np.array([3.0, 4, 5])
    camera = Camera(np.zeros(3), heading, elevation, 100.0, False, roll)
    place = camera.to_picture(pivot[None], *SIZE)[0]
    turned = camera.turned_freely(pivot, across, 0.0).turned_freely(pivot, 0.0, over)
    assert turned.to_picture(pivot[None], *SIZE)[0] == pytest.approx(place, abs=1e-6)
    back = turned.turned_freely(pivot, 0.0, -over).turned_freely(pivot, -across, 0.0)
    assert np.allclose(back.frame(), camera.frame(), atol=1e-6)


@pytest.mark.parametrize("size", [0.1, 10_000.0])
@pytest.mark.parametrize("share", [1.0, 0.1, 1e-3])
def test_what_is_looked_at_is_never_clipped_from_a_tenth_of_a_millimetre_to_ten_metres(size: float, share: float) -> None:
    box = Box(np.zeros(3), np.full(3, size))
    room = Box(np.minimum(box.low, -6), np.maximum(box.high, 250)).grown(20)
    camera = Camera(np.array([size / 2, 0.0, size / 2]), 20, 15).framing(box, *SIZE)
    camera = replace(camera, target=np.array([size / 2, 0.0, size / 2])).zoomed(share, np.array([size / 2, 0.0, size / 2]))
    near, far = camera.clipping(room)
    depth = camera.to_picture(camera.target[None], *SIZE)[0, 2]
    assert near < depth < far
    assert depth / (near * 2**24) < 1e-5, "a depth buffer of 24 bits tells a hundred-thousandth of the distance"


@pytest.mark.parametrize("parallel", [False, True])
def test_a_step_takes_the_same_share_of_the_way_however_near(parallel: bool) -> None:
    at = np.array([0.0, 0, 0])
    camera = Camera(np.array([5.0, 1, 2]), parallel=parallel)
    place = camera.to_picture(at[None], *SIZE)[0, :2]
    for _ in range(40):
        nearer = approach(camera, 1 / 1.18, at, 0.0)
        before, after = (one.to_picture(at[None], *SIZE)[0] for one in (camera, nearer))
        if not parallel:
            assert after[2] == pytest.approx(before[2] / 1.18)
        assert after[:2] == pytest.approx(place, abs=1e-3)
        camera = nearer


def test_a_skin_is_gone_through_once_it_is_closer_than_that() -> None:
    at = np.array([0.0, 0, 0])
    camera = Camera(at, 0, 0, 1.0)
    depths = []
    while len(depths) < 60:
        camera = approach(camera, 1 / 1.18, at, 0.05)
        depths.append(float((camera.eye - at) @ np.array([0.0, -1, 0])))
        if depths[-1] < 0:
            break
    assert depths[-1] == pytest.approx(-0.05) and min(depths[:-1]) >= 0.05


@pytest.mark.parametrize("sides", [(1, 1, 1), (30, 2, 1), (0.1, 0.1, 40)])
def test_a_dozen_quick_notches_go_through_a_skin_and_slow_ones_stay_exact(sides: tuple[float, float, float]) -> None:
    def turned(pause: float, most: int) -> list[float]:
        host, now = Host(Box(-np.array(sides) / 2, np.array(sides) / 2)), [0.0]
        hand = Hand(host, lambda: now[0])
        eyes = []
        for _ in range(most):
            assert hand.wheel(1, SIZE[0] / 2, SIZE[1] / 2, frozenset())
            now[0] += pause
            eyes.append(host.camera.eye.copy())
            if (np.abs(eyes[-1]) < host.box.high).all():
                break
        return [float(np.linalg.norm(eye)) for eye in eyes]

    assert len(turned(0.05, 40)) <= 12, "the eye is inside"
    slow = turned(0.4, 12)
    assert len(slow) == 12, "nobody who goes step by step is thrown through"
    host = Host(Box(-np.array(sides) / 2, np.array(sides) / 2))
    surface = host.under(SIZE[0] / 2, SIZE[1] / 2).point
    hand, now = Hand(host, lambda: now[0]), [0.0]
    depths = []
    for _ in range(6):
        hand.wheel(1, SIZE[0] / 2, SIZE[1] / 2, frozenset())
        now[0] += 0.4
        depths.append(float(np.linalg.norm(host.camera.eye - surface)))
    assert np.array(depths[1:]) / depths[:-1] == pytest.approx(1 / 1.18, rel=1e-6)


@settings(max_examples=80, deadline=None)
@given(st.floats(0, 360), st.floats(-85, 85), st.floats(-60, 60), st.floats(-20, 20))
def test_what_is_parallel_for_its_name_comes_back_to_perspective_before_the_pivot(
    across: float, over: float, deep: float, shift: float
) -> None:
    lent = Camera(np.array([shift, deep, 3.0]), 0, 0, 100.0).lending()
    assert lent.parallel and lent.slid(3, 4).zoomed(0.5, lent.target).parallel
    pivot = np.array([5.0, -8.0, 12.0])
    turned = lent.turned(pivot, across, over)
    assert not turned.parallel and not turned.lent
    before, after = (one.to_picture(pivot[None], *SIZE)[0] for one in (lent, turned))
    assert after[:2] == pytest.approx(before[:2], abs=1e-6), "the pivot stays in its place"
    assert after[2] == pytest.approx(turned.distance), "and is as large as it was"
    own = replace(lent, lent=False)
    assert own.turned(pivot, across, over).parallel, "whoever chose a parallel picture keeps it"


def test_resting_elsewhere_changes_no_picture() -> None:
    camera = Camera(np.array([5.0, 1, 2]), 40, 20, 80.0, False, 12.0)
    points = np.random.default_rng(2).normal(size=(40, 3)) * 20
    for depth in (1.0, 60.0, 900.0):
        rested = camera.resting_on(depth)
        assert rested.distance == pytest.approx(depth)
        assert rested.to_picture(points, *SIZE) == pytest.approx(camera.to_picture(points, *SIZE), abs=1e-6, nan_ok=True)


@pytest.mark.parametrize("parallel", [False, True])
def test_a_stretched_picture_keeps_true_numbers(parallel: bool) -> None:
    camera = Camera(np.array([5.0, 1, 2]), 40, 20, 80.0, parallel).drawn_out((1.0, 1.0, 10.0))
    point = np.array([8.0, 2.0, 2.6])
    x, y, depth = camera.to_picture(point[None], *SIZE)[0]
    assert camera.from_picture(x, y, depth, *SIZE) == pytest.approx(point)
    origin, ahead = camera.ray(x, y, *SIZE, reach=500.0)
    along = (point - origin) @ ahead
    assert along > 0 and origin + along * ahead == pytest.approx(point, abs=1e-9)
    low, high = (camera.to_picture(np.array([[5.0, 1, z]]), *SIZE)[0, 1] for z in (2.0, 2.1))
    plain = camera.drawn_out((1.0, 1.0, 1.0))
    was_low, was_high = (plain.to_picture(np.array([[5.0, 1, z]]), *SIZE)[0, 1] for z in (2.0, 2.1))
    assert (low - high) / (was_low - was_high) == pytest.approx(10, rel=0.05)


def foreshortening(view: str) -> np.ndarray:
    """How long each axis of the room appears in a parallel picture, the longest being 1."""
    _, heading, elevation = NAMED[view]
    right, up, _ = Camera(np.zeros(3), heading, elevation, parallel=True).frame()
    lengths = np.hypot(right, up)
    return np.asarray(lengths / lengths.max())


def test_three_quarter_views_are_what_their_names_say() -> None:
    assert foreshortening("isometric") == pytest.approx([1, 1, 1])
    assert np.sort(foreshortening("dimetric")) == pytest.approx([0.5, 1, 1])
    apart = np.diff(np.sort(foreshortening("trimetric")))
    assert (apart > 0.02).all(), "three different scales"


@pytest.mark.parametrize("scheme", READY)
def test_ready_schemes_have_no_clashes_and_are_possible(scheme: str) -> None:
    bindings = list(READY[scheme].bindings)
    assert clashes(bindings) == []
    assert all(possible(gesture, wanted) for gesture, wanted in bindings)
    again = own_scheme([(gesture, wanted.words()) for gesture, wanted in bindings])
    assert list(again.bindings) == bindings, "words say a trigger wholly"


@given(st.sampled_from(sorted(MOTIONS)), st.frozensets(st.sampled_from(BUTTONS), min_size=1), keys)
def test_triggers_are_read_from_their_words(motion: str, buttons: frozenset[str], held: frozenset[str]) -> None:
    one = Trigger(motion, buttons if motion in ("drag", "stroke") else frozenset(), held)
    assert trigger(one.words()) == one


@pytest.mark.parametrize(
    ("rows", "says"),
    [
        ([("turn", "right drag"), ("slide", "right drag")], "wanted twice"),
        ([("turn", "wheel")], "cannot make"),
        ([("spin", "right drag")], "is no gesture"),
        ([("turn", "upper drag")], "nothing that a mouse"),
        ([("turn", "super + right drag")], "names a key"),
    ],
)
def test_an_own_scheme_that_cannot_be_used_is_refused_in_a_sentence(rows: list[tuple[str, str]], says: str) -> None:
    with pytest.raises(ValueError, match=says):
        own_scheme(rows)


def test_every_gesture_has_words() -> None:
    for scheme in READY.values():
        assert {gesture for gesture, _ in scheme.bindings} <= set(GESTURES)
        for needed in ("turn", "slide", "zoom"):
            assert scheme.words_of(needed), f"{scheme.title} cannot {needed}"
