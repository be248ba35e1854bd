"""Every gesture of every ready scheme, made with real events in the real window, lands on the view that it should."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import strokes
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest

from conftest import as_opened
from gullyrise.demo import FILES
from gullyrise.desktop.pointer.schemes import DRAGGED, GESTURES, READY
from gullyrise.desktop.pointer.triggers import trigger
from gullyrise.desktop.viewport.pointer.hand import DEGREES_PER_PIXEL, WHEEL_STEP

BY = QPointF(48, -24)


@pytest.fixture(scope="module")
def opened(long_lived: Any) -> Any:
    return long_lived(str(FILES / "float_well.stl"))


@pytest.fixture
def made(opened: Any) -> Any:
    """The window with one part, as it was opened, nothing gliding."""
    as_opened(opened)
    return opened


def settle(window: Any) -> None:
    assert window.wait_until_idle(240)


def middle(window: Any) -> QPointF:
    return window.bench.to_widget(window.bench.scene.items[0].box.middle)


def expected(window: Any, gesture: str, motion: str, at: QPointF) -> Any:
    """What to look for after a gesture, from the view before it: a function of the view after."""
    bench = window.bench
    before, size, pivot = bench.camera, bench.view_size(), bench.under(at.x(), at.y()).point
    depth = before.to_picture(pivot[None], *size)[0, 2]

    def place(camera: Any) -> np.ndarray:
        return camera.to_picture(pivot[None], *size)[0]

    if gesture == "turn":
        turned = before.turned(pivot, -BY.x() * DEGREES_PER_PIXEL, BY.y() * DEGREES_PER_PIXEL)
        return lambda after: after.same_view(turned)
    if gesture == "slide":
        wanted = np.array([at.x() + BY.x(), at.y() + BY.y()])
        return lambda after: np.abs(place(after)[:2] - wanted).max() < 1.0 and after.heading == before.heading
    if gesture == "zoom":
        steps = {"wheel": 1.0, "pinch": np.log(1.2) / np.log(WHEEL_STEP), "two-finger scroll": BY.y() / 60.0}
        factor = WHEEL_STEP ** -steps[motion] if motion in steps else np.exp(BY.y() * 0.008)
        return lambda after: (
            place(after)[2] == pytest.approx(depth * factor, rel=1e-6) and np.abs(place(after)[:2] - [at.x(), at.y()]).max() < 0.5
        )
    if gesture == "dolly":
        return lambda after: np.linalg.norm(after.eye - before.eye) == pytest.approx(0.04 * bench.parts_size(), rel=1e-6)
    if gesture == "roll":
        # Two fingers turned by 30 degrees roll by 30; a stroke rolls by its way across.
        wanted = 30.0 if motion == "two-finger turn" else BY.x() * DEGREES_PER_PIXEL
        return lambda after: after.roll == pytest.approx(before.roll + wanted)
    if gesture == "frame":
        centre = bench.under(at.x() + BY.x() / 2, at.y() + BY.y() / 2).point
        wide, high = abs(BY.x()) / size[0], abs(BY.y()) / size[1]
        return lambda after: (
            np.abs(after.to_picture(centre[None], *size)[0, :2] - np.array(size) / 2).max() < 1.0
            and after.span
            == pytest.approx(before.resting_on(before.to_picture(centre[None], *size)[0, 2]).span * max(wide, high))
        )
    return lambda after: after is before and window.model.selection.bodies == {bench.scene.items[0].key}


@pytest.mark.parametrize("scheme", READY)
def test_every_gesture_of_a_scheme_lands_where_it_should(made: Any, scheme: str) -> None:
    made.settings.set("pointer.scheme", scheme)
    made.settings.set("view.named", "as it is")
    made.do("view.projection")
    tried = set()
    for gesture, wanted in READY[scheme].bindings:
        made.do("view.isometric")
        made.model.selection.select_bodies(())
        at = middle(made) + QPointF(0, 20)
        lands = expected(made, gesture, wanted.motion, at)
        strokes.make(made.bench, wanted, at, BY)
        assert lands(made.bench.camera), f"{wanted.words()} {GESTURES[gesture]}"
        assert not made.key_card.isVisible(), "a drag is no click"
        tried.add(gesture)
    assert {"turn", "slide", "zoom"} <= tried <= DRAGGED


@pytest.mark.parametrize("scheme", READY)
def test_the_hint_line_says_what_each_button_does_now(made: Any, scheme: str) -> None:
    made.settings.set("pointer.scheme", scheme)
    assert READY[scheme].title == made.status.scheme.text()
    plain = made.status.hint.text()
    assert f"{READY[scheme].words_of('turn')} orbits" in plain or READY[scheme].words_of("turn").startswith("alt")
    QTest.keyPress(made.bench, Qt.Key.Key_Alt)
    assert made.status.hint.text() != plain, "held keys change what it says"
    QTest.keyRelease(made.bench, Qt.Key.Key_Alt)
    assert made.status.hint.text() == plain


def test_keys_held_beyond_the_trigger_change_its_manner(made: Any) -> None:
    bench, at = made.bench, middle(made)
    for late, axis in ((("shift",), "heading"), (("ctrl",), "both finely"), (("alt",), "roll")):
        bench.moves.frame_all(glide=False)
        before = bench.camera
        strokes.make(bench, trigger("right drag"), at, QPointF(80, 8), late=late)
        after = bench.camera
        turned = abs((after.heading - before.heading + 180) % 360 - 180)
        if axis == "heading":
            assert turned > 25 and abs(after.elevation - before.elevation) < 1.0
        elif axis == "roll":
            assert turned == 0 and after.roll == pytest.approx(80 * DEGREES_PER_PIXEL)
        else:
            assert turned == pytest.approx(80 * DEGREES_PER_PIXEL * 0.15) and after.elevation != before.elevation
        bench.panes.active.camera = before


def test_inversions_and_speeds(made: Any) -> None:
    bench, at = made.bench, middle(made)

    def turned() -> tuple[float, float]:
        bench.moves.frame_all(glide=False)
        before = bench.camera
        strokes.make(bench, trigger("right drag"), at, QPointF(40, 20))
        step = (bench.camera.heading - before.heading + 180) % 360 - 180, bench.camera.elevation - before.elevation
        bench.panes.active.camera = before
        return step

    plain = turned()
    made.settings.set("pointer.invert_heading", True)
    assert turned() == pytest.approx((-plain[0], plain[1]))
    made.settings.set("pointer.invert_elevation", True)
    made.settings.set("pointer.turn_speed", 2.0)
    assert turned() == pytest.approx((-2 * plain[0], -2 * plain[1]))
    span = bench.camera.span
    made.settings.set("pointer.invert_zoom", True)
    strokes.wheel(bench, at, 1)
    assert bench.camera.span > span


def test_a_wheel_goes_on_through_a_skin_to_the_inside_and_never_stalls(made: Any) -> None:
    bench, at = made.bench, middle(made)
    made.do("view.projection")
    box = bench.scene.items[0].box
    strokes.wheel(bench, at, 1)
    seen = []
    for _ in range(160):
        before = bench.camera
        strokes.wheel(bench, at, 1)
        assert np.linalg.norm(bench.camera.eye - before.eye) > 0, "no step is lost"
        seen.append(bench.camera.eye)
    along = np.array(seen) - box.middle
    crossed = (along[1:] * along[:-1]).sum(axis=1)
    assert (crossed < 0).any() or np.linalg.norm(along[-1]) < np.linalg.norm(along[0]) / 3, "the eye got inside and beyond"
    radii = np.hypot(along[:, 0], along[:, 1])
    assert radii.min() < 23.0, "inside the tube's wall of 23 mm"
    QTest.keyClick(bench, Qt.Key.Key_Home)
    settle(made)
    corners = bench.camera.to_picture(box.corners(), *bench.view_size())
    assert (corners[:, :2] > 0).all() and (corners[:, 0] < bench.width()).all() and (corners[:, 1] < bench.height()).all()


def test_free_turning_goes_over_the_top_and_upright_turning_does_not(made: Any) -> None:
    bench, at = made.bench, middle(made)
    strokes.make(bench, trigger("right drag"), at, QPointF(0, 400))
    assert bench.camera.elevation == 90 and bench.camera.frame()[1][2] >= -1e-9
    bench.moves.frame_all(glide=False)
    made.do("view.isometric")
    made.do("view.free")
    strokes.make(bench, trigger("right drag"), middle(made), QPointF(0, 300))
    assert bench.camera.frame()[1][2] < 0, "past the top the picture stands on its head, as asked for"
    made.do("view.free")
    made.do("view.front")
    assert bench.camera.frame()[1][2] == pytest.approx(1.0)


def test_a_tipped_picture_comes_upright_again_by_turning(made: Any) -> None:
    bench = made.bench
    QTest.keyClick(bench, Qt.Key.Key_Period)
    QTest.keyClick(bench, Qt.Key.Key_Period)
    assert bench.camera.roll == pytest.approx(30)
    for _ in range(20):
        QTest.keyClick(bench, Qt.Key.Key_Comma)
    assert bench.camera.roll == pytest.approx(-90) and bench.camera.frame()[1][2] >= -1e-9, "never upside down"
    for _ in range(4):
        QTest.keyClick(bench, Qt.Key.Key_Right)
    assert bench.camera.roll == 0


def test_a_view_is_drawn_once_and_again_where_it_is_another_or_came_to_nothing(made: Any) -> None:
    settle(made)
    pane = made.bench.panes.active
    first = pane.asked
    made.do("view.front")
    settle(made)
    QTest.qWait(400)
    settle(made)
    assert pane.asked == pane.shown == first + 1 and pane.frame.final, "coming to rest asks for what is there already"
    made.bench.pictures.ask_all()
    assert pane.asked == first + 1
    made.bench.resize(made.bench.width() - 7, made.bench.height())
    settle(made)
    assert pane.asked > first + 1 and pane.frame.request.width == pane.size()[0], "another size is another picture"
    second = pane.asked
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("gullyrise.desktop.viewport.pictures.tell", lambda error: None)
        made.bench.pictures._fail(RuntimeError("a driver's"))
    made.bench.pictures.ask_all()
    settle(made)
    assert pane.asked == pane.shown == second + 1
    made.notifications.dismiss_all()
    made.notifications.sentences[:] = [one for one in made.notifications.sentences if "could not be drawn" not in one]


def test_esc_drops_a_rectangle_in_hand_and_never_moves_the_view(made: Any) -> None:
    before = made.bench.camera
    made.do("view.rectangle")
    assert "rectangle" in made.status.hint.text()
    QTest.keyClick(made.bench, Qt.Key.Key_Escape)
    assert made.bench.camera is before and "left drag selects" in made.status.hint.text()
    made.settings.set("pointer.scheme", "left-turns")
    made.do("view.rectangle")
    strokes.drag(made.bench, {"left"}, middle(made), BY)
    assert "draw a rectangle" not in made.status.hint.text()
    assert made.bench.camera.span < before.span and made.bench.camera.heading == before.heading, "whatever the scheme"
    here = made.bench.camera
    strokes.drag(made.bench, {"left"}, middle(made), BY)
    assert made.bench.camera.heading != here.heading, "once"


def test_the_own_scheme_is_made_by_making_the_motion(made: Any) -> None:
    sheet = made.sheets.open_settings()
    editor = sheet.editor_of("pointer.own")
    editor.gesture.setCurrentIndex(editor.gesture.findData("roll"))
    strokes.drag(editor.pad, {"middle"}, QPointF(20, 20), QPointF(40, 0), ("ctrl",))
    assert made.settings["pointer.scheme"] == "own" and ["roll", "ctrl + middle drag"] in made.settings["pointer.own"]
    strokes.make(made.bench, trigger("ctrl + middle drag"), middle(made), QPointF(50, 0))
    assert made.bench.camera.roll == pytest.approx(50 * DEGREES_PER_PIXEL)
    editor.gesture.setCurrentIndex(editor.gesture.findData("slide"))
    strokes.drag(editor.pad, {"right"}, QPointF(20, 20), QPointF(40, 0))
    assert "wanted twice" in editor.trouble.text() and ["slide", "right drag"] not in made.settings["pointer.own"]
    strokes.wheel(editor.pad, QPointF(20, 20), 1)
    assert "cannot make" in editor.trouble.text(), "a wheel has one number, sliding wants two"
    sheet.close()


def test_a_two_button_mouse_and_a_chord_in_any_order(made: Any) -> None:
    made.settings.set("pointer.scheme", "both-buttons")
    before = made.bench.camera
    strokes.drag(made.bench, {"left", "right"}, middle(made), QPointF(50, 0))
    assert made.bench.camera.heading == pytest.approx((before.heading - 50 * DEGREES_PER_PIXEL) % 360)
    assert made.model.selection.bodies == frozenset() and not made.key_card.isVisible(), (
        "the chord's buttons neither pick nor open a card"
    )


def test_right_click_and_right_drag_coexist(made: Any) -> None:
    strokes.click(made.bench, middle(made), "right")
    assert made.key_card.isVisible() and made.model.selection.bodies == {made.bench.scene.items[0].key}
    assert made.runner.actions["view.normal"] in [entry for _, entry in made.key_card.rows], "a part's card offers its face too"
    made.key_card.hide()
    strokes.click(made.bench, QPointF(30, made.bench.height() - 80), "right")
    assert made.key_card.title == "Bench" and made.runner.actions["view.all"] in [entry for _, entry in made.key_card.rows]
    made.key_card.hide()
    strokes.drag(made.bench, {"right"}, middle(made), QPointF(30, 0))
    assert not made.key_card.isVisible()


def test_touchpads_with_a_notched_wheel_beside_them(made: Any) -> None:
    made.settings.set("pointer.scheme", "touchpad")
    at, before = middle(made), made.bench.camera
    strokes.scroll(made.bench, at, QPoint(30, 0), ("shift",))
    assert made.bench.camera.span == before.span and not np.allclose(made.bench.camera.target, before.target)
    here = made.bench.camera
    strokes.wheel(made.bench, at, 1)
    assert made.bench.to_widget(here.target) != QPointF() and made.bench.camera.span != here.span, "the wheel still zooms"
