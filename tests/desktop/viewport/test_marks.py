"""What is painted over the picture: borders, bands, the pivot's ring, words; and what the keyboard and the pen do there."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import strokes
import trimesh
from PyQt6.QtCore import QEvent, QPoint, QPointF, QRect, Qt
from PyQt6.QtGui import QContextMenuEvent, QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from conftest import as_opened
from gullyrise.drawing.scene import Item


@pytest.fixture(scope="module")
def opened(long_lived: Any, tmp_path_factory: pytest.TempPathFactory) -> Any:
    path = tmp_path_factory.mktemp("parts") / "block.stl"
    trimesh.creation.box((60, 40, 30)).export(path)
    return long_lived(str(path))


@pytest.fixture
def made(opened: Any) -> Any:
    """Straight from the front, parallel, without lines of bed, edges or selection."""
    as_opened(opened)
    opened.do("view.front")
    opened.do("view.projection")
    for id in ("display.bed", "display.rulers", "display.edges", "display.quiet"):
        opened.do(id)
    strokes.hover(opened.bench, QPointF(5, 5))
    assert opened.wait_until_idle(240)
    return opened


def block(window: Any) -> Item:
    window.scene.bring_in_step()
    (item,) = window.bench.scene.items
    return item


def place(window: Any, x: float, z: float) -> QPointF:
    """On the front of the block: shares of its width and height from its middle, -1 to 1."""
    box = block(window).box
    return window.bench.to_widget(
        np.array([box.middle[0] + x * box.size[0] / 2, box.low[1], box.middle[2] + z * box.size[2] / 2])
    )


def card_on_bench(window: Any) -> QRect:
    """Where the key card lies, on the bench."""
    card = window.key_card
    return QRect(window.bench.mapFrom(window, card.pos()), card.size())


def painted(window: Any) -> QImage:
    assert window.wait_until_idle(30)
    return window.bench.grab().toImage()


def without_outline(window: Any) -> QImage:
    """Without the outline of the whole chosen body, which runs along the same borders."""
    assert window.wait_until_idle(30)
    pane = window.bench.panes.free
    frame, pane.frame = pane.frame, None
    picture = window.bench.grab().toImage()
    pane.frame = frame
    return picture


def count(picture: QImage, at: QPointF, colour: str, reach: int = 3, near: int = 60) -> int:
    """Pixels of about a colour in a square round a place."""
    red, green, blue = (int(colour[i : i + 2], 16) for i in (1, 3, 5))
    found = 0
    for x in range(round(at.x()) - reach, round(at.x()) + reach + 1):
        for y in range(round(at.y()) - reach, round(at.y()) + reach + 1):
            seen = picture.pixelColor(x, y)
            found += abs(seen.red() - red) + abs(seen.green() - green) + abs(seen.blue() - blue) < near
    return found


def test_the_rim_of_a_chosen_face_is_drawn_and_goes_with_the_choice(made: Any) -> None:
    accent = made.appearance.palette.accent
    made.do("bodies.pick-faces")
    border, inside = place(made, -0.4, 1), place(made, -0.4, 0.4)
    strokes.click(made.bench, inside)
    chosen = without_outline(made)
    assert count(chosen, border, accent) > 8 and count(chosen, inside, accent) == 0
    assert count(chosen, place(made, 1, 0.3), accent) > 8
    strokes.click(made.bench, QPointF(20, made.bench.height() - 90))
    assert count(painted(made), border, accent) == 0


def test_a_chosen_corner_is_a_dot_and_an_edge_a_line(made: Any) -> None:
    accent = made.appearance.palette.accent
    made.do("bodies.pick-corners")
    corner, along = place(made, 1, 1), place(made, 0.3, 1)
    strokes.click(made.bench, corner + QPointF(-3, 3))
    dotted = without_outline(made)
    assert count(dotted, corner, accent) > 30 and count(dotted, along, accent) == 0
    made.do("bodies.pick-edges")
    strokes.click(made.bench, along + QPointF(0, 3))
    lined = without_outline(made)
    assert count(lined, along, accent) > 5 and count(lined, place(made, 0.3, -1), accent) == 0


def test_what_a_click_would_take_is_lit_under_the_pointer_and_not_when_it_left(made: Any) -> None:
    ink = made.appearance.palette.ink
    made.do("bodies.pick-edges")
    along = place(made, 0.3, 1)
    strokes.hover(made.bench, along + QPointF(0, 4))
    assert count(painted(made), along, ink) > 4 and "block" in made.status.pointer.text()
    QApplication.sendEvent(made.bench, QEvent(QEvent.Type.Leave))
    assert count(painted(made), along, ink) == 0 and made.status.pointer.text() == ""


@pytest.mark.parametrize("gesture", ["turn", "roll"])
def test_the_ring_stays_on_the_pivot_while_the_view_turns(made: Any, gesture: str) -> None:
    accent, start = made.appearance.palette.accent, place(made, 0.5, 0.5)
    keys = ("alt",) if gesture == "roll" else ()
    strokes.hold(made.bench, "right", start, QPointF(90, 30), keys)
    assert made.bench.hand.stroke.gesture == "turn"
    turning = made.bench.grab().toImage()
    for turn in np.radians((0, 90, 180, 270)):
        assert count(turning, start + QPointF(9 * np.cos(turn), 9 * np.sin(turn)), accent, 1) >= 3
    strokes.let_go(made.bench, "right", start + QPointF(90, 30), keys)
    assert count(painted(made), start + QPointF(9, 0), accent, 1) == 0


@pytest.mark.parametrize("way", ["touching", "inside"])
def test_the_band_shows_what_a_rectangle_will_take(made: Any, way: str) -> None:
    made.settings.set("select.rectangle", way)
    start, by = QPointF(60, 300), QPointF(120, 90)
    strokes.hold(made.bench, "left", start, by)
    picture, accent = made.bench.grab().toImage(), made.appearance.palette.accent
    for x, y in ((0, 0.5), (1, 0.5), (0.5, 0), (0.5, 1)):
        assert count(picture, start + QPointF(by.x() * x, by.y() * y), accent, 1, 200) >= 3
    words = [count(picture, start + QPointF(x, -13), made.appearance.palette.ink, 5) for x in range(10, 100, 10)]
    assert sum(words) > 20, "its words stand on it"
    strokes.let_go(made.bench, "left", start + by)
    assert count(painted(made), start + QPointF(0, by.y() / 2), accent, 1, 200) == 0


def test_the_menu_key_opens_the_card_of_what_is_under_the_pointer(made: Any) -> None:
    inside = place(made, 0.2, 0.2)
    strokes.hover(made.bench, inside)
    event = QContextMenuEvent(QContextMenuEvent.Reason.Keyboard, QPoint(3, 3), made.bench.mapToGlobal(QPoint(3, 3)))
    QApplication.sendEvent(made.bench, event)
    assert (
        made.key_card.isVisible() and made.key_card.title == block(made).name and made.model.selection.bodies == {block(made).key}
    )
    assert card_on_bench(made).adjusted(-20, -20, 20, 20).contains(inside.toPoint()), "at the pointer"
    made.key_card.hide()
    strokes.hover(made.bench, QPointF(20, 400))
    made.do("help.card")
    assert made.key_card.isVisible() and made.key_card.title == "Bench"
    made.key_card.hide()


def test_straight_at_says_what_is_missing_and_looks_at_insides_from_inside(made: Any) -> None:
    before = made.bench.camera
    strokes.hover(made.bench, QPointF(20, 400))
    made.do("view.normal")
    assert made.bench.camera is before and "no face under the pointer" in made.notifications.sentences[-1]
    made.do("view.isometric")
    made.do("cut.z")
    made.wait_until_idle(30)
    item = block(made)
    strokes.hover(made.bench, made.bench.to_widget(np.array([*item.box.middle[:2], made.sections.cut.position])))
    made.do("view.normal")
    assert made.bench.camera.elevation == pytest.approx(90), "a cut is looked at straight too"
    made.do("cut.off")


def test_the_own_scheme_takes_the_pen_and_two_fingers_as_they_are_made(made: Any) -> None:
    sheet = made.sheets.open_settings()
    editor = sheet.editor_of("pointer.own")
    took: list[str] = []
    editor.pad.made.connect(lambda trigger: took.append(trigger.words()))
    at, by = QPointF(20, 20), QPointF(40, 0)
    strokes.drag(editor.pad, {"right"}, at, by, pen=True)
    strokes.drag(editor.pad, {"left"}, at, by, ("shift",), pen=True)
    strokes.native(editor.pad, at, Qt.NativeGestureType.ZoomNativeGesture, 0.2)
    strokes.native(editor.pad, at, Qt.NativeGestureType.RotateNativeGesture, 20)
    strokes.scroll(editor.pad, at, QPoint(0, 30))
    wanted = ["pen barrel", "shift + pen tip", "pinch", "two-finger turn", "two-finger scroll"]
    assert took == wanted, "each once, and fingers that only lie there are nothing"
    took.clear()
    strokes.drag(editor.pad, {"left"}, at, QPointF(0, 0), pen=True)
    strokes._pen(editor.pad, QEvent.Type.TabletMove, at + by, Qt.MouseButton.NoButton, Qt.MouseButton.NoButton, ())
    assert took == [], "a tap is no stroke, and what comes after it in the air neither"
    sheet.close()


def test_the_finder_says_when_nothing_has_the_words_and_arrows_walk_it(made: Any) -> None:
    made.do("help.find")
    QTest.keyClicks(made.finder, "zzzz")
    assert "No action has these words" in made.finder.answers.item(0).text() and made.finder.offered() == []
    QTest.keyClick(made.finder, Qt.Key.Key_Return)
    made.finder.selectAll()
    QTest.keyClicks(made.finder, "top")
    first = made.finder.answers.currentRow()
    QTest.keyClick(made.finder, Qt.Key.Key_Down)
    assert made.finder.answers.currentRow() == first + 1
    QTest.keyClick(made.finder, Qt.Key.Key_Up)
    QTest.keyClick(made.finder, Qt.Key.Key_Up)
    assert made.finder.answers.currentRow() == made.finder.answers.count() - 1, "round from the first to the last"
    QTest.keyClick(made.finder, Qt.Key.Key_Escape)
    assert not made.finder.answers.isVisible() and made.bench.hasFocus()


def test_the_dial_names_a_height_under_the_pointer(made: Any) -> None:
    dial = made.bench.dial
    plain = dial.grab().toImage()
    strokes.hover(dial, dial.marks()["Underside"])
    named = dial.grab().toImage()
    assert named != plain and dial.cursor().shape() == Qt.CursorShape.PointingHandCursor
    QApplication.sendEvent(dial, QEvent(QEvent.Type.Leave))
    assert dial.grab().toImage() == plain


def test_a_button_let_go_unheard_ends_the_stroke(made: Any) -> None:
    start = place(made, 0.2, 0.2)
    strokes.hold(made.bench, "right", start, QPointF(60, 0))
    turned = made.bench.camera
    strokes.hover(made.bench, start + QPointF(160, 90))
    assert made.bench.camera is turned and made.bench.hand.stroke is None
    assert made.wait_until_idle(30) and not made.bench.panes.free.frame.request.moving
    strokes.hold(made.bench, "left", QPointF(60, 300), QPointF(2, 0))
    strokes.hover(made.bench, start)
    assert made.model.selection.bodies == frozenset(), "and picks nothing"
