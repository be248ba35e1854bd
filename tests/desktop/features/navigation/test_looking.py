"""Looking about in the real window: views, the way back, panes, the dial, saved views, what is drawn, pictures."""

from __future__ import annotations

import os
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import strokes
from PyQt6.QtCore import QPoint, QPointF, Qt, QTimer
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from waiting import until

from conftest import as_opened
from gullyrise.core.camera.camera import NAMED
from gullyrise.demo import FILES
from gullyrise.drawing.annotated_image import png_of

pytestmark = pytest.mark.usefixtures("unwalled")


@pytest.fixture(scope="module")
def opened(long_lived: Any) -> Any:
    return long_lived(str(FILES / "float_well.stl"), str(FILES / "mount_plate.step"))


@pytest.fixture
def made(opened: Any) -> Any:
    as_opened(opened)
    return opened


def settle(window: Any) -> None:
    assert window.wait_until_idle(240)


def bearing(window: Any) -> tuple[float, float]:
    return window.bench.camera.heading % 360, window.bench.camera.elevation


def press(window: Any, key: Qt.Key, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
    QTest.keyClick(window.bench, key, keys)


def test_steps_of_15_and_90_degrees_and_slides(made: Any) -> None:
    made.do("view.front")
    press(made, Qt.Key.Key_Right)
    press(made, Qt.Key.Key_Up)
    assert bearing(made) == pytest.approx((15, 15))
    press(made, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert bearing(made) == pytest.approx((285, 15))
    press(made, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert bearing(made)[1] == 90, "no further than straight from above"
    span, target = made.bench.camera.span, made.bench.camera.target
    press(made, Qt.Key.Key_Right, Qt.KeyboardModifier.ControlModifier)
    assert np.linalg.norm(made.bench.camera.target - target) == pytest.approx(0.1 * span)


def test_back_and_forward_through_views(made: Any) -> None:
    for view in ("front", "top", "right"):
        made.do(f"view.{view}")
    names = []
    for _ in range(3):
        press(made, Qt.Key.Key_Backspace)
        names.append(made.bench.camera.name())
    assert names == ["Top", "Front", "Isometric"]
    for _ in range(3):
        press(made, Qt.Key.Key_Backspace, Qt.KeyboardModifier.ShiftModifier)
    assert made.bench.camera.name() == "Right"
    press(made, Qt.Key.Key_Backspace)
    made.do("view.underside")
    press(made, Qt.Key.Key_Backspace, Qt.KeyboardModifier.ShiftModifier)
    assert made.bench.camera.name() == "Underside", "a new view ends the way forward"


def test_a_stroke_of_the_hand_can_be_gone_back_from(made: Any) -> None:
    before = made.bench.camera
    strokes.drag(made.bench, {"right"}, QPointF(300, 300), QPointF(120, 40))
    QTest.qWait(250)
    press(made, Qt.Key.Key_Backspace)
    assert made.bench.camera.same_view(before)


def seen_at(window: Any, place: np.ndarray) -> np.ndarray:
    """What stands foremost where a place lies in the picture."""
    at = window.bench.to_widget(place)
    return np.asarray(window.bench.under(at.x(), at.y()).point)


def test_straight_at_the_face_under_the_pointer(made: Any) -> None:
    made.do("view.isometric")
    plate = next(item for item in made.bench.scene.items if "mount_plate" in item.name)
    shares = np.stack(np.meshgrid(np.linspace(-0.45, 0.45, 13), np.linspace(-0.45, 0.45, 13)), axis=-1).reshape(-1, 2)
    tops = plate.box.middle + np.column_stack([shares * plate.box.size[:2], np.full(len(shares), plate.box.size[2] / 2)])
    top = next(place for place in tops if np.allclose(seen_at(made, place), place, atol=0.5))
    strokes.hover(made.bench, made.bench.to_widget(top))
    made.do("view.normal")
    assert bearing(made)[1] == pytest.approx(90, abs=1e-6)
    assert (made.bench.to_widget(top) - QPointF(made.bench.rect().center())).manhattanLength() < 3
    made.do("view.isometric")
    fronts = plate.box.middle + np.array([[x, -plate.box.size[1] / 2, z] for x in range(-48, 49, 6) for z in (-4, 0, 3)])
    front = next(place for place in fronts if np.allclose(seen_at(made, place), place, atol=0.5))
    strokes.hover(made.bench, made.bench.to_widget(front))
    made.do("view.normal")
    assert bearing(made) == pytest.approx((0, 0), abs=1e-6)


def test_projection_and_field_of_view(made: Any) -> None:
    def drawn() -> np.ndarray:
        corners = made.bench.scene.items[0].box.corners()
        return made.bench.camera.to_picture(corners, *made.bench.view_size())[:, :2]

    made.do("view.projection")
    assert not made.bench.camera.parallel
    wide = drawn()
    made.do("view.wider")
    assert made.bench.camera.field == 35 and made.settings["view.field"] == 35 and not np.allclose(wide, drawn())
    for _ in range(12):
        made.do("view.slimmer")
    assert made.bench.camera.field == 5
    nearly = drawn()
    press(made, Qt.Key.Key_V)
    press(made, Qt.Key.Key_P)
    made.do("view.wider")
    assert "no field of view" in made.notifications.sentences[-1] and made.bench.camera.field == 5
    assert made.bench.camera.parallel and np.abs(drawn() - nearly).max() < 25, "a slim field is nearly parallel"


def test_views_with_a_name_are_parallel_until_they_are_turned_by_hand(made: Any) -> None:
    bench = made.bench
    made.do("view.projection")
    assert not bench.camera.parallel
    by_hand = (
        lambda: strokes.drag(bench, {"right"}, bench.to_widget(bench.scene.parts_box.middle), QPointF(60, 20)),
        lambda: press(made, Qt.Key.Key_Right), lambda: press(made, Qt.Key.Key_Period),
        lambda: bench.dial.dragged.emit(33.0, 12.0),
    )  # fmt: skip
    for view in NAMED:
        made.do(f"view.{view}")
        settle(made)
        assert bench.camera.parallel and bench.camera.name() == NAMED[view][0]
        strokes.wheel(bench, bench.to_widget(bench.scene.parts_box.middle), 1)
        press(made, Qt.Key.Key_Plus)
        settle(made)
        assert bench.camera.parallel, "zooming and sliding leave the way it looks"
        by_hand[list(NAMED).index(view) % len(by_hand)]()
        settle(made)
        assert not bench.camera.parallel, view
        corners = bench.camera.to_picture(bench.scene.parts_box.corners(), *bench.view_size())
        assert np.isfinite(corners).all(), "and the eye is before the parts"
    made.do("view.projection")
    made.do("view.top")
    press(made, Qt.Key.Key_Right)
    settle(made)
    assert bench.camera.parallel, "whoever wants it parallel keeps it"
    made.do("view.projection")
    made.settings.set("view.named", "as it is")
    made.do("view.left")
    settle(made)
    assert not bench.camera.parallel


def test_four_panes_and_each_enlarged_by_one_key(made: Any) -> None:
    press(made, Qt.Key.Key_F8)
    settle(made)
    bench = made.bench
    assert made.pick_bar.way.width() >= made.pick_bar.way.sizeHint().width(), "its words have room where it stands upright"
    names = {pane.name: pane.camera.name() for pane in bench.panes.shown}
    assert names == {"top": "Top", "front": "Front", "right": "Right", "free": "Isometric"}
    assert all(pane.camera.parallel and pane.camera.lent == (pane.name == "free") for pane in bench.panes.shown)
    by_name = {pane.name: pane.rect for pane in bench.panes.shown}
    assert by_name["top"].center().x() == by_name["front"].center().x(), "top stands above front"
    assert by_name["right"].center().y() == by_name["front"].center().y(), "right stands beside front"
    for pane in bench.panes.shown:
        assert pane.frame is not None and pane.frame.owners.max() >= 0, f"{pane.name} shows the parts"
        seen = pane.camera.to_picture(bench.scene.parts_box.corners(), *pane.size())
        assert (seen[:, :2] > 0).all() and (seen[:, 0] < pane.rect.width()).all()
    front = QPointF(by_name["front"].center())
    strokes.hover(bench, front)
    assert bench.camera.name() == "Front", "keys go to the pane under the pointer"
    press(made, Qt.Key.Key_F7)
    assert [pane.name for pane in bench.panes.shown] == ["front"] and bench.panes.shown[0].rect == bench.rect()
    press(made, Qt.Key.Key_F7)
    assert len(bench.panes.shown) == 4
    press(made, Qt.Key.Key_Home)
    for pane in bench.panes.shown:
        seen = pane.camera.to_picture(bench.scene.parts_box.corners(), *pane.size())
        assert (seen[:, :2] > 0).all(), "Home brings all back in every pane"
    free = next(pane for pane in bench.panes.shown if pane.name == "free")
    before = free.camera
    strokes.wheel(bench, front, 2)
    assert free.camera is before and bench.camera.span < before.span, "a gesture moves the pane that it is made in"
    press(made, Qt.Key.Key_F8)
    assert [pane.name for pane in bench.panes.shown] == ["free"] and bench.camera is before


def test_one_pane_says_that_there_is_nothing_to_enlarge(made: Any) -> None:
    made.do("view.enlarge")
    assert "F8" in made.notifications.sentences[-1]


def test_the_dial_is_dragged_typed_into_and_moved_by_keys(made: Any) -> None:
    dial = made.bench.dial
    marks = dial.marks()
    middle = (marks["Front"] + marks["Back"]) / 2
    ring = marks["Front"] - middle
    QTest.mousePress(dial, Qt.MouseButton.LeftButton, pos=marks["Front"].toPoint())
    turned = QPointF(ring.y() * np.sin(np.radians(60)), ring.y() * np.cos(np.radians(60))) + middle
    strokes._mouse(dial, strokes.QEvent.Type.MouseMove, turned, Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, ())
    QTest.mouseRelease(dial, Qt.MouseButton.LeftButton, pos=turned.toPoint())
    assert bearing(made)[0] == pytest.approx(60, abs=1)
    up = marks["Level"]
    QTest.mousePress(dial, Qt.MouseButton.LeftButton, pos=up.toPoint())
    strokes._mouse(dial, strokes.QEvent.Type.MouseMove, marks["Top"], Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, ())
    QTest.mouseRelease(dial, Qt.MouseButton.LeftButton, pos=marks["Top"].toPoint())
    assert bearing(made)[1] == pytest.approx(90, abs=1)
    QTest.mouseDClick(dial, Qt.MouseButton.LeftButton, pos=middle.toPoint())
    assert dial.field.isVisible()
    dial.field.selectAll()
    QTest.keyClicks(dial.field, "123.5 -20")
    QTest.keyClick(dial.field, Qt.Key.Key_Return)
    assert bearing(made) == pytest.approx((123.5, -20)) and dial.words() == "123.5°  −20.0°" and not dial.field.isVisible()
    dial.setFocus()
    QTest.keyClick(dial, Qt.Key.Key_Right)
    QTest.keyClick(dial, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert bearing(made) == pytest.approx((124.5, -10))


@pytest.mark.parametrize("corner", ["top right", "top left", "bottom right", "bottom left"])
def test_the_dial_takes_its_corner_and_size_and_can_be_put_away(made: Any, corner: str) -> None:
    dial, bench = made.bench.dial, made.bench
    made.settings.set("dial.corner", corner)
    made.settings.set("dial.size", 1.5)
    middle = dial.geometry().center()
    assert (middle.x() > bench.width() / 2) == ("right" in corner) and (middle.y() > bench.height() / 2) == ("bottom" in corner)
    assert dial.width() == 198 and bench.rect().contains(dial.geometry())
    QTest.mouseClick(dial, Qt.MouseButton.LeftButton, pos=dial.marks()["Back"].toPoint())
    assert bearing(made)[0] == 180
    made.do("view.dial-shown")
    assert not dial.isVisible()
    made.do("view.dial-shown")
    assert dial.isVisible()


def test_the_dial_fades_while_the_pointer_is_elsewhere(made: Any) -> None:
    dial = made.bench.dial

    def ink() -> float:
        picture = QImage(dial.size(), QImage.Format.Format_ARGB32)
        picture.fill(0)
        dial.render(picture, QPoint(), flags=type(dial).RenderFlag(0))
        return max(picture.pixelColor(x, y).alphaF() for x in range(40, 90) for y in range(40, 90))

    clear = ink()
    made.settings.set("dial.faded", 0.2)
    assert ink() < 0.5 * clear


def test_views_are_saved_with_a_picture_named_gone_to_and_undone(made: Any) -> None:
    made.do("view.back")
    made.do("view.projection")
    kept = made.bench.camera
    press(made, Qt.Key.Key_V)
    press(made, Qt.Key.Key_S)
    settle(made)
    (view,) = made.model.job.views
    picture = QImage.fromData(view.picture)
    assert (picture.width(), picture.height()) == (128, 80) and view.name == "View 1" and made.view_shelf.isVisible()
    colours = {picture.pixel(x, y) for x in range(0, 128, 3) for y in range(0, 80, 3)}
    assert len(colours) > 8, "it shows something"
    there = png_of(made.bench.panes.active.image, 128, 80)
    assert view.picture == there, "the view that was asked for, not the one before it"
    made.do("view.isometric")
    item = made.view_shelf.list.item(0)
    item.setText("Rear with the slot")
    assert [one.name for one in made.model.job.views] == ["Rear with the slot"]
    made.view_shelf.list.itemClicked.emit(made.view_shelf.list.item(0))
    assert made.bench.camera.same_view(kept)
    made.do("view.save")
    settle(made)
    made.view_shelf.list.item(1).setText("Rear with the slot")
    assert "choose another name" in made.notifications.sentences[-1] and made.view_shelf.list.item(1).text() == "View 1"
    made.view_shelf.list.setCurrentRow(0)
    QTest.keyClick(made.view_shelf, Qt.Key.Key_Delete)
    assert [one.name for one in made.model.job.views] == ["View 1"]
    for _ in range(4):
        made.do("job.undo")
    assert made.model.job.views == () and made.model.document.history.redo_name == "Save View 1"
    made.view_shelf.hide()


def test_where_no_part_is_in_view_an_arrow_points_to_the_nearest(made: Any) -> None:
    from gullyrise.drawing.way_back import out_of_view

    bench = made.bench
    made.do("view.front")
    made.do("view.projection")
    boxes = bench.scene.corners
    assert out_of_view(bench.camera, bench.view_size(), boxes) is None
    far = 3 * bench.camera.span
    for moved, wanted in (((far, 0), (-1, 0)), ((-far, 0), (1, 0)), ((0, far), (0, 1)), ((0, -far), (0, -1))):
        away = out_of_view(bench.camera.slid(*moved), bench.view_size(), boxes)
        assert np.dot(away, wanted) > 0.8, "it points the way back"
    behind = replace(bench.camera, target=bench.camera.target + np.array([40.0, 5000, 0]))
    assert out_of_view(behind, bench.view_size(), boxes) is not None
    bench.moves.put_camera(bench.camera.slid(far, 0))
    settle(made)
    picture = bench.grab().toImage()
    rows = range(bench.height() // 2 - 90, bench.height() // 2 + 90, 4)
    colours = {picture.pixelColor(x, y).name() for x in range(20, bench.width() // 2, 4) for y in rows}
    assert made.appearance.palette.accent.lower() in colours, "the arrow is painted, on the side of the part"
    press(made, Qt.Key.Key_Home)
    assert out_of_view(bench.camera, bench.view_size(), boxes) is None


def test_the_picture_can_be_stretched_and_numbers_stay_true(made: Any) -> None:
    made.do("view.front")
    bench = made.bench
    item = bench.scene.items[0]
    top = np.array([*item.box.middle[:2], item.box.high[2]])
    plain = bench.to_widget(top)
    made.do("display.stretch-z")
    made.do("display.stretch-z")
    settle(made)
    assert bench.camera.stretch == (1, 1, 5) and bench.to_widget(top).y() < plain.y()
    made.do("view.all")
    settle(made)
    at = bench.to_widget(item.box.middle)
    seen, exact = bench.aim.seen_at(at), bench.under(at.x(), at.y()).point
    assert seen == pytest.approx(exact, abs=1.0) and item.box.low[2] <= exact[2] <= item.box.high[2]
    made.do("display.no-stretch")
    assert bench.camera.stretch == (1, 1, 1)


LOOKS = ("display.wireframe", "display.facets", "display.stripes", "display.facing", "display.see-through", "display.edges",
         "display.bed", "display.grid", "display.rulers", "display.axes", "display.scale-bar", "display.shaded")  # fmt: skip


def test_every_way_of_drawing_changes_the_picture(made: Any) -> None:
    made.do("view.isometric")
    settle(made)
    before = made.bench.grab().toImage()
    for look in LOOKS[:-1]:
        made.do(look)
        settle(made)
        assert made.bench.grab().toImage() != before, look
        made.do("display.shaded" if look in LOOKS[:4] else look)
        settle(made)
    assert made.bench.grab().toImage() == before, "and back"


def test_seeing_through_does_not_depend_on_the_order_of_bodies(made: Any) -> None:
    made.do("view.front")
    made.do("display.see-through")
    settle(made)
    bench = made.bench
    one = bench.panes.free.frame.pixels.copy()
    items = bench.scene.items
    bench.show_scene(replace(bench.scene, items=items[::-1]))
    settle(made)
    assert np.abs(bench.panes.free.frame.pixels.astype(int) - one).max() <= 2
    made.scene.refresh()


def test_the_magnifier_shows_what_is_there_four_times_as_large(made: Any) -> None:
    bench = made.bench
    made.do("view.isometric")
    settle(made)
    at = bench.to_widget(bench.scene.items[0].box.middle)
    strokes.hover(bench, at)
    QTest.keyPress(bench, Qt.Key.Key_Q)
    settle(made)
    assert bench.magnifier.held and bench.pictures.lens.image.width() == 180
    lens, pane = bench.pictures.lens.image, bench.panes.free.image
    for dx, dy in ((0, 0), (40, 24), (-32, 40)):
        near = lens.pixelColor(90 + dx, 90 + dy)
        far = pane.pixelColor(round(at.x() + dx / 4), round(at.y() + dy / 4))
        assert abs(near.lightness() - far.lightness()) < 26
    QTest.keyRelease(bench, Qt.Key.Key_Q)
    assert not bench.magnifier.held


def test_strokes_are_shown_to_those_who_watch_only_when_asked_for(made: Any) -> None:
    press(made, Qt.Key.Key_Right)
    assert made.bench.stroke_words.words == ()
    made.settings.set("display.strokes", True)
    made.scene.bring_in_step()
    press(made, Qt.Key.Key_V)
    press(made, Qt.Key.Key_T)
    strokes.drag(made.bench, {"right"}, QPointF(300, 300), QPointF(60, 0))
    assert made.bench.stroke_words.words == ("V T  Top", "right drag orbits")


def test_one_key_keeps_a_picture_with_what_it_shows(made: Any, tmp_path: Path) -> None:
    made.settings.set("record.folder", str(tmp_path / "record"))
    made.settings.set("display.strokes", True)
    made.do("view.front")
    strokes.hover(made.bench, made.bench.to_widget(made.bench.scene.parts_box.middle))
    settle(made)
    plain = made.bench.bare_grab()
    made.bench.stroke_words.note("V F  Front")
    assert made.bench.grab().toImage() != made.bench.bare_grab() == plain, "no strokes that teach"
    press(made, Qt.Key.Key_F12)
    settle(made)
    (path,) = (tmp_path / "record").glob("*.png")
    image = QImage(str(path))
    assert image.width() == made.bench.width() and image.height() > made.bench.height()
    assert image.text("Title") == "float_well, mount_plate: mount plate" and image.text("Machine") == "Heron, square bed"
    assert image.text("View").startswith("Front · heading 0.0° · elevation +0.0° · parallel")
    assert len(image.text("Date")) == 16 and path.name in made.notifications.sentences[-1]
    press(made, Qt.Key.Key_R)
    press(made, Qt.Key.Key_P)
    settle(made)
    assert len(list((tmp_path / "record").glob("*.png"))) == 2, "never over another one"
    made.settings.set("record.folder", "/proc/nowhere")
    press(made, Qt.Key.Key_R)
    press(made, Qt.Key.Key_P)
    settle(made)
    assert "could not be written" in made.notifications.sentences[-1]


def test_panels_come_back_as_they_came(made: Any) -> None:
    sizes = made.panels.columns.sizes()
    made.panels.columns.setSizes([100, 900, 270])
    made.do("cut.z")
    made.do("panels.strip")
    assert not made.area_strip.isVisible()
    made.do("panels.reset")
    assert made.area_strip.isVisible() and made.panels.columns.sizes() == pytest.approx(sizes, abs=60)


def test_a_still_bench_draws_nothing_and_costs_nothing(made: Any) -> None:
    def ticks_beside_this_thread() -> int:
        """Processor time of every other thread of the program, in hundredths of a second."""
        total = 0
        for task in Path("/proc/self/task").iterdir():
            if int(task.name) != os.getpid():
                fields = (task / "stat").read_text(encoding="utf-8").rsplit(")", 1)[1].split()
                total += int(fields[11]) + int(fields[12])
        return total

    settle(made)
    QTest.qWait(300)
    drawn, spent = made.bench.pictures.drawn, ticks_beside_this_thread()
    QTest.qWait(1500)
    assert made.bench.pictures.drawn == drawn
    assert ticks_beside_this_thread() - spent <= 2, "the threads that draw and ask sleep"
    ticking = [timer for timer in made.findChildren(QTimer) if timer.isActive() and not timer.isSingleShot()]
    assert ticking == [], "nothing ticks"


@pytest.fixture
def gliding(made: Any) -> Any:
    """The window on its way from the isometric view to the top, far from there."""
    made.settings.set("view.glide", 1000)
    made.do("view.top")
    # Not for a time but for the first step: a busy machine takes its own time.
    until(lambda: made.bench.camera.name() != "Isometric")
    assert made.bench.camera.name() == "Free", "on the way"
    return made


def test_projection_field_and_stretch_changed_on_the_way_are_not_lost(gliding: Any) -> None:
    bench = gliding.bench
    gliding.do("view.projection")
    gliding.do("view.projection")
    settle(gliding)
    assert bench.camera.parallel and not bench.camera.lent and bench.camera.name() == "Top"
    gliding.do("view.front")
    gliding.settings.set("view.field", 50)
    settle(gliding)
    assert bench.camera.field == 50 and bench.camera.name() == "Front" and bench.camera.parallel
    gliding.do("view.back")
    gliding.do("display.stretch-x")
    settle(gliding)
    assert bench.camera.stretch == (2, 1, 1) and bench.camera.name() == "Back"


def test_back_on_the_way_goes_to_the_view_that_was_left(gliding: Any) -> None:
    press(gliding, Qt.Key.Key_Backspace)
    settle(gliding)
    assert gliding.bench.camera.name() == "Isometric"
    press(gliding, Qt.Key.Key_Backspace, Qt.KeyboardModifier.ShiftModifier)
    settle(gliding)
    assert gliding.bench.camera.name() == "Top"


def test_a_press_on_the_way_stops_there_and_the_picture_comes_to_rest(gliding: Any) -> None:
    strokes.click(gliding.bench, QPointF(20, gliding.bench.height() - 90))
    stopped = gliding.bench.camera
    settle(gliding)
    assert gliding.bench.camera is stopped and stopped.name() == "Free"
    assert not gliding.bench.panes.free.frame.request.moving


def test_a_pane_that_the_pointer_left_comes_to_rest_too(made: Any) -> None:
    made.do("view.four")
    settle(made)
    top, front = (next(pane for pane in made.bench.panes.shown if pane.name == name) for name in ("top", "front"))
    strokes.wheel(made.bench, QPointF(top.rect.center()), 1)
    strokes.hover(made.bench, QPointF(front.rect.center()))
    settle(made)
    assert made.bench.panes.active is front and not top.in_motion and not top.frame.request.moving and top.frame.final
    made.settings.set("view.glide", 150)
    strokes.wheel(made.bench, QPointF(top.rect.center()), 1)
    strokes.hover(made.bench, QPointF(front.rect.center()))
    press(made, Qt.Key.Key_Right)
    settle(made)
    assert not top.in_motion and not front.in_motion and top.frame.final and front.frame.final


@pytest.mark.parametrize("tilt", [0.3, 1e-2, 1e-4])
def test_straight_is_straight_however_little_a_face_leans(made: Any, tilt: float) -> None:
    outward = np.array([tilt, -0.5 * tilt, 1.0])
    outward /= np.linalg.norm(outward)
    made.bench.moves.look_straight(made.bench.scene.items[0].box.middle, outward)
    assert made.bench.camera.frame()[2] == pytest.approx(outward, abs=1e-9)


def test_a_card_goes_when_the_bench_is_pressed_and_the_magnifier_with_esc(made: Any) -> None:
    place = QPointF(20, made.bench.height() - 90)
    strokes.click(made.bench, place, "right")
    assert made.key_card.isVisible()
    strokes.click(made.bench, place)
    assert not made.key_card.isVisible()
    made.do("display.magnifier")
    assert made.bench.magnifier.held
    press(made, Qt.Key.Key_Escape)
    assert not made.bench.magnifier.held


def test_the_finder_comes_with_the_bench_alone_and_goes_again(made: Any) -> None:
    press(made, Qt.Key.Key_F11)
    assert not made.head.isVisible()
    press(made, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    assert made.finder.isVisible() and made.finder.hasFocus() and made.finder.offered()
    QTest.keyClicks(made.finder, "underside")
    QTest.keyClick(made.finder, Qt.Key.Key_Return)
    assert made.bench.camera.name() == "Underside" and not made.head.isVisible()
    press(made, Qt.Key.Key_F11)
    assert made.head.isVisible()
