"""Where the keys go: no control that was passed changes the job by a key or by the wheel afterwards."""

from __future__ import annotations

from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest
import strokes
import trimesh
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QAbstractSlider, QApplication, QComboBox, QPushButton, QWidget
from waiting import until

from gullyrise.desktop.widgets.number_field import NumberField, NumberLine

WALKING = (Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown, Qt.Key.Key_Up, Qt.Key.Key_Down)


@pytest.fixture
def made(window: Any, tmp_path: Path, unwalled: None) -> Any:
    paths = [tmp_path / f"piece-{number}.stl" for number in range(2)]
    for path in paths:
        trimesh.creation.box((10, 20, 30)).export(path)
    made = window(*map(str, paths))
    made.settings.set("view.glide", 0)
    made.activateWindow()
    return made


def state(made: Any) -> tuple[Any, ...]:
    """What keys must not change in passing."""
    return (made.model.job.machine.id, made.model.job.given, made.model.job.parts, made.model.document.history.undo_name)


def visible(made: Any, kind: Any) -> list[Any]:
    return [one for one in made.findChildren(kind) if one.isVisible() and one.isEnabled() and not one.visibleRegion().isEmpty()]


def next_of(made: Any, seen: set[tuple[str, str, str]], spared: tuple[str, ...]) -> tuple[tuple[str, str, str], Any] | None:
    for kind in (QAbstractButton, QComboBox, QAbstractSlider):
        for control in visible(made, kind):
            name = (type(control).__name__, control.objectName(), getattr(control, "text", str)())
            if name not in seen and name[2] not in spared:
                return name, control
    return None


def test_a_click_on_any_control_leaves_the_keys_with_the_bench(made: Any) -> None:
    made.do("place.slip")
    made.traveller.show_check("clearances")
    made.notifications.say("Something.", False, [("Well", lambda: None)])
    assert made.wait_until_idle(60)
    # What asks for a file or takes the parts away is no passing control.
    spared = ("Open…", "Save", "Remove", "Columns", "Views", "Best face")
    seen: set[tuple[str, str, str]] = set()
    # Rows are made anew by what is clicked: always the next that was not yet.
    while (found := next_of(made, seen, spared)) is not None:
        name, control = found
        seen.add(name)
        made.bench.setFocus()
        before = made.model.job
        QTest.mouseClick(control, Qt.MouseButton.LeftButton)
        QTest.qWait(1)
        popup = QApplication.activePopupWidget()
        if popup is not None:
            QTest.keyClick(popup, Qt.Key.Key_Escape)
            popup.close()
            QTest.qWait(1)
        for other in QApplication.topLevelWidgets():
            if other is not made and other.isVisible():
                other.close()
        made.activateWindow()
        until(lambda: QApplication.focusWidget() is not None, 5)
        focus = QApplication.focusWidget()
        words = (*name, type(focus).__name__)
        assert not isinstance(focus, QAbstractButton | QComboBox | QAbstractSlider | NumberField | NumberLine), words
        after = state(made)
        for key in WALKING:
            QTest.keyClick(focus, key)
        assert state(made) == after, words
        if made.model.job is not before:
            made.model.document.undo()
    assert len(seen) > 25, sorted(seen)


def test_enter_in_a_field_gives_the_keys_back(made: Any) -> None:
    made.do("place.slip")
    made.model.selection.select({made.model.job.parts[0].id})
    assert made.wait_until_idle(60)
    for field in [*visible(made, NumberField), *visible(made, NumberLine), made.parts_panel.filter]:
        field.setFocus()
        QTest.keyClick(field, Qt.Key.Key_Return)
        until(made.bench.hasFocus, 5)
    field = made.traveller.rows["clearances"].limit
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "1,234")
    QTest.keyClick(field, Qt.Key.Key_Return)
    QTest.qWait(20)
    assert field.hasFocus(), "what is refused waits for the hand"
    made.bench.dial.type_bearing()
    QTest.keyClicks(made.bench.dial.field, "45 30")
    QTest.keyClick(made.bench.dial.field, Qt.Key.Key_Return)
    until(made.bench.hasFocus, 5)


def test_a_notice_that_is_dismissed_by_a_key_gives_the_keys_to_the_bench(made: Any) -> None:
    before = state(made)
    made.notifications.say("Something is to be read.", False, [("Yes", lambda: None)])
    until(lambda: any(one.isVisible() for one in made.notifications.findChildren(QPushButton)))
    for words in ("Dismiss", "Yes"):
        made.notifications.say("Something is to be read.", False, [("Yes", lambda: None)])
        QApplication.processEvents()
        buttons = made.notifications.findChildren(QAbstractButton)
        button = next(one for one in buttons if one.isVisible() and words in (one.text(), one.toolTip()))
        button.setFocus(Qt.FocusReason.TabFocusReason)
        QTest.keyClick(button, Qt.Key.Key_Space)
        until(made.bench.hasFocus, 5)
        for key in WALKING:
            QTest.keyClick(QApplication.focusWidget(), key)
    assert state(made) == before


def test_boxes_change_by_a_key_only_while_open_and_no_wheel_changes_in_passing(made: Any) -> None:
    made.do("place.slip")
    made.traveller.show_check("access" if "access" in made.traveller.rows else "clearances")
    made.do("help.settings")
    made.do("place.machines")
    QApplication.processEvents()
    sheets = [one for one in QApplication.topLevelWidgets() if one.isVisible()]
    boxes = [box for sheet in sheets for box in sheet.findChildren(QComboBox)]
    assert len(boxes) > 12
    before = state(made)
    for box in boxes:
        shown = box.currentIndex()
        box.window().activateWindow()
        box.setFocus(Qt.FocusReason.TabFocusReason)
        for key in (*WALKING, Qt.Key.Key_D, Qt.Key.Key_M):
            box.keyPressEvent(key_press(key))
        strokes.wheel(box, QPointF(5, 5), 1)
        strokes.wheel(box, QPointF(5, 5), -1)
        assert box.currentIndex() == shown, box.objectName()
    for field in [one for sheet in sheets for one in sheet.findChildren(NumberField)]:
        value = field.value()
        made.bench.setFocus()
        strokes.wheel(field, QPointF(5, 5), 1)
        assert field.value() == value, field.objectName()
    for slider in made.findChildren(QAbstractSlider):
        if slider.objectName() and "slider" in type(slider).__name__.lower() + slider.objectName():
            value = slider.value()
            made.bench.setFocus()
            strokes.wheel(slider, QPointF(5, 5), 1)
            assert slider.value() == value, slider.objectName()
    assert state(made) == before


def key_press(key: Qt.Key) -> Any:
    from PyQt6.QtCore import QEvent
    from PyQt6.QtGui import QKeyEvent

    return QKeyEvent(QEvent.Type.KeyPress, key, Qt.KeyboardModifier.NoModifier, chr(key).lower() if key < 128 else "")


def test_a_stroke_is_told_as_it_was_pressed_and_function_keys_wait_while_typing(made: Any) -> None:
    told: list[str] = []
    made.bench.stroke_words.note = told.append
    QTest.keyClick(made.bench, Qt.Key.Key_V)
    QTest.keyClick(made.bench, Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(made.bench, Qt.Key.Key_V)
    QTest.keyClick(made.bench, Qt.Key.Key_F)
    assert [words.partition("  ")[0] for words in told if "V J" in words] == [] and told[-1].startswith("V F")
    field: QWidget = made.parts_panel.filter
    field.setFocus()
    seen: list[str] = []
    made.keys.chosen.connect(seen.append)
    QTest.keyClick(field, Qt.Key.Key_F8)
    assert seen == []


def test_tab_goes_in_the_order_of_the_eye(made: Any) -> None:
    made.do("cut.z")
    QTest.qWait(60)
    made.family_bar.buttons["J"].setFocus(Qt.FocusReason.TabFocusReason)
    first, seen = QApplication.focusWidget(), []
    for _ in range(300):
        seen.append(QApplication.focusWidget())
        QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Tab)
        if QApplication.focusWidget() is first:
            break
    strip = made.area_strip
    regions = (made.head, made.panels.left, made.bench, strip.controls, strip, strip.line, made.traveller, made.status)
    order = [next(at for at, area in enumerate(regions) if area is one or area.isAncestorOf(one)) for one in seen]
    assert order == sorted(order) and set(order) == set(range(len(regions))), "one region after the other, none left out"
    assert len({id(one) for one in seen}) == len(seen) > 40
    for one, other in pairwise(seen):
        a, b = (widget.mapTo(made, widget.rect().center()) for widget in (one, other))
        if order[seen.index(one)] == order[seen.index(other)] and one not in regions:
            assert b.y() > a.y() - 16 and (b.y() > a.y() + 10 or b.x() > a.x()), (one.objectName(), other.objectName())
    QTest.keyClick(first, Qt.Key.Key_Backtab)
    assert QApplication.focusWidget() is seen[-1]
    made.do("cut.off")
    made.bench.setFocus()
