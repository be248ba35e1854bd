"""The one table of keys: no clashes, remapped, printed on its sheet; every action found and run by keyboard alone."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QToolButton

from conftest import as_opened
from gullyrise.demo import FILES
from gullyrise.desktop.app import all_actions
from gullyrise.desktop.commands.keymap import KeyMap, canonical
from gullyrise.desktop.commands.registry import FAMILIES, found_by_words
from gullyrise.desktop.features.preferences.key_sheet import GROUPS
from gullyrise.desktop.preferences.rows import BY_ID, ROWS
from gullyrise.desktop.preferences.store import Settings


@pytest.fixture(scope="module")
def opened(long_lived: Any) -> Any:
    return long_lived(str(FILES / "gland_nut.stl"))


@pytest.fixture
def made(opened: Any) -> Any:
    as_opened(opened)
    return opened


def test_no_two_actions_want_one_key() -> None:
    keymap = KeyMap(all_actions())
    assert keymap.clashes() == []
    assert {entry.group for entry in all_actions().values()} <= set(GROUPS), "every action has its place on the key sheet"
    for (family, second), id in keymap.second.items():
        assert family in FAMILIES and second and id in all_actions()


@pytest.mark.parametrize("id", all_actions())
def test_every_action_is_found_by_its_words_and_run_by_keyboard_alone(
    made: Any, monkeypatch: pytest.MonkeyPatch, id: str
) -> None:
    done: list[str] = []
    monkeypatch.setattr(made, "do", done.append)
    made.finder.chosen.disconnect()
    made.finder.chosen.connect(done.append)
    QTest.keyClick(made.bench, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    made.finder.begin()
    done.clear()
    QTest.keyClicks(made.finder, all_actions()[id].label.encode("ascii", "ignore").decode())
    offered = made.finder.offered()
    assert id in offered
    for _ in range(offered.index(id)):
        QTest.keyClick(made.finder, Qt.Key.Key_Down)
    QTest.keyClick(made.finder, Qt.Key.Key_Return)
    assert done == [id] and not made.finder.offered()


@pytest.mark.parametrize("id", [id for id, entry in all_actions().items() if entry.keys])
def test_every_key_of_the_table_runs_its_action(made: Any, id: str) -> None:
    for keys in made.runner.keymap.keys_of(id):
        chosen: list[str] = []
        made.keys.let_go()
        first, _, second = keys.partition(" ")
        made.keys.chosen.disconnect()
        made.keys.chosen.connect(chosen.append)
        for part in (first, second) if second else (first,):
            assert made.keys.read(event_of(part), typing=False), f"{keys} is taken"
        made.keys.chosen.disconnect()
        made.keys.chosen.connect(made._from_keys)
        made.keys.read_release(event_of(first, QEvent.Type.KeyRelease))
        assert chosen == [id], keys


def event_of(words: str, kind: QEvent.Type = QEvent.Type.KeyPress) -> QKeyEvent:
    from PyQt6.QtGui import QKeySequence

    combination = QKeySequence(words)[0]
    text = words if words in "+-,." else ""
    return QKeyEvent(kind, combination.key(), combination.keyboardModifiers(), text)


def test_the_key_sheet_is_made_from_the_table(made: Any) -> None:
    QTest.keyClick(made.bench, Qt.Key.Key_F1)
    sheet = made.sheets.keys
    assert sheet.isVisible() and sheet.rows() == {id: made.runner.keymap.words_of(id) for id in all_actions()}
    sheet.filter.setText("isometric")
    shown = [
        sheet.table.topLevelItem(n) for n in range(sheet.table.topLevelItemCount()) if not sheet.table.topLevelItem(n).isHidden()
    ]
    assert [top.text(0) for top in shown] == ["View"]
    sheet.filter.clear()
    sheet.close()


def test_keys_are_changed_on_the_sheet_and_given_back(made: Any) -> None:
    sheet = made.sheets.open_keys()
    sheet.choose("view.front")
    QTest.keyClick(sheet.field, Qt.Key.Key_V)
    QTest.keyClick(sheet.field, Qt.Key.Key_K)
    assert made.runner.keymap.keys_of("view.front") == ("V K",) and sheet.rows()["view.front"] == "V K (changed)"
    made.activateWindow()
    made.bench.setFocus()
    for key in (Qt.Key.Key_V, Qt.Key.Key_K):
        QTest.keyClick(made.bench, key)
    assert made.bench.camera.name() == "Front"
    made.do("view.isometric")
    for key in (Qt.Key.Key_V, Qt.Key.Key_F):
        QTest.keyClick(made.bench, key)
    assert made.bench.camera.name() == "Isometric", "the old keys do nothing any more"
    sheet.choose("view.back")
    QTest.keyClick(sheet.field, Qt.Key.Key_V)
    QTest.keyClick(sheet.field, Qt.Key.Key_T)
    assert "V T is wanted by" in sheet.trouble.text() and made.runner.keymap.keys_of("view.back") == ("V B",)
    QTest.keyClick(sheet.field, Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier)
    assert made.runner.keymap.keys_of("view.back") == ("Ctrl+J",)
    sheet.choose("view.front")
    sheet.give_back()
    assert made.runner.keymap.keys_of("view.front") == ("V F",)
    sheet.close()


def test_a_held_key_lasts_while_it_is_held(made: Any) -> None:
    QTest.keyPress(made.bench, Qt.Key.Key_Q)
    repeat = QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_Q, Qt.KeyboardModifier.NoModifier, "q", True)
    QApplication.sendEvent(made.bench, repeat)
    assert made.bench.magnifier.held
    QTest.keyRelease(made.bench, Qt.Key.Key_Q)
    assert not made.bench.magnifier.held


def test_a_held_key_that_came_up_in_another_window_works_at_the_next_press(made: Any) -> None:
    QTest.keyPress(made.bench, Qt.Key.Key_Q)
    made.parts_panel.tree.setFocus()
    assert not made.bench.magnifier.held, "the focus went, and the magnifier with it"
    made.bench.setFocus()
    QTest.keyPress(made.bench, Qt.Key.Key_Q)
    assert made.bench.magnifier.held
    QTest.keyRelease(made.bench, Qt.Key.Key_Q)


def test_words_name_the_keys_that_hold_now(made: Any) -> None:
    def words() -> tuple[str, ...]:
        button = made.findChild(QToolButton, "do_job_undo")
        return (
            made.bench.strokes.home_key,
            button.toolTip(),
            made.view_shelf.empty.text(),
            made.finder.placeholderText(),
            made.status.scheme.toolTip(),
        )

    came = words()
    assert came == (
        "Home", "Undo: open gland_nut.stl (Ctrl+Z)",
        "No views yet. Save this view with V S; it is kept with the job.", "Find…  Ctrl+K",
        "Choose what each button does (D P)",
    )  # fmt: skip
    made.settings.set(
        "keys.changed",
        {"view.all": ["Ctrl+H"], "job.undo": ["Ctrl+U"], "view.save": [], "help.find": ["F4"], "help.scheme": ["D Y"]},
    )
    assert words() == (
        "Ctrl+H", "Undo: open gland_nut.stl (Ctrl+U)",
        "No views yet. Save this view; it is kept with the job.", "Find…  F4",
        "Choose what each button does (D Y)",
    )  # fmt: skip
    made.settings.reset("Keys")
    assert words() == came


def test_keys_that_walk_in_lists_and_sliders_stay_theirs(made: Any) -> None:
    before = made.bench.camera
    made.parts_panel.tree.setFocus()
    QTest.keyClick(made.parts_panel.tree, Qt.Key.Key_Down)
    assert made.bench.camera is before
    made.bench.setFocus()
    QTest.keyClick(made.bench, Qt.Key.Key_Down)
    assert made.bench.camera is not before


def test_the_card_is_walked_by_keys_for_those_without_a_right_button(made: Any) -> None:
    QTest.keyClick(made.bench, Qt.Key.Key_F10, Qt.KeyboardModifier.ShiftModifier)
    assert made.key_card.isVisible() and made.key_card.hasFocus()
    row = [entry.id for _, entry in made.key_card.rows].index("bodies.show-all")
    for _ in range(row):
        QTest.keyClick(made.key_card, Qt.Key.Key_Down)
    made.model.shown.look(made.model.shown.visibility.hiding(frozenset({(99, 0)})))
    QTest.keyClick(made.key_card, Qt.Key.Key_Return)
    assert made.model.shown.visibility.hidden == frozenset() and not made.key_card.isVisible()


def test_words_find_actions_best_first() -> None:
    assert found_by_words("top")[0].id == "view.top"
    assert {entry.id for entry in found_by_words("select shape")} == {"bodies.alike-shape"}
    assert found_by_words("zebra crossing") == []


@pytest.mark.parametrize(
    ("given", "wanted"), [("v f", "V F"), ("ctrl+k", "Ctrl+K"), ("home", "Home"), ("shift+left", "Shift+Left")]
)
def test_keys_are_written_one_way(given: str, wanted: str) -> None:
    assert canonical(given) == wanted


@pytest.mark.parametrize("given", ["", "Z F", "Nonsense"])
def test_what_is_no_key_is_said(given: str) -> None:
    with pytest.raises(ValueError, match=r"\.$"):
        canonical(given)


# --- settings --------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("row", ROWS, ids=lambda row: row.id)
def test_every_setting_says_what_it_is_and_refuses_what_it_cannot_be(row: Any) -> None:
    assert row.sentence.endswith(".") and row.title and row.checked(row.default) == row.default
    wrong: list[Any] = [None, object()]
    if row.choices:
        wrong = ["of no use"]
    elif isinstance(row.default, bool):
        wrong = ["yes", 3]
    elif isinstance(row.default, float):
        assert row.low <= row.default <= row.high and row.step > 0
        wrong = [row.low - 1, row.high + 1, float("nan"), True, "1"]
    elif isinstance(row.default, str):
        wrong = []
    for value in wrong:
        with pytest.raises((TypeError, ValueError)):
            row.checked(value)


def test_settings_outlive_the_session_and_a_bad_file_costs_nothing_but_a_sentence(tmp_path: Path) -> None:
    path = tmp_path / "deep" / "settings.json"
    one = Settings(path)
    one.set("pointer.scheme", "pen")
    one.set("dial.size", 1.4)
    assert Settings(path)["pointer.scheme"] == "pen" and Settings(path)["dial.size"] == 1.4
    kept = json.loads(path.read_text(encoding="utf-8"))
    path.write_text(json.dumps({**kept, "of.tomorrow": 7, "dial.size": "huge"}))
    other = Settings(path)
    assert other["dial.size"] == 1.0 and other["pointer.scheme"] == "pen" and "Dial's size" in other.trouble
    other.set("view.glide", 0)
    assert json.loads(path.read_text(encoding="utf-8"))["of.tomorrow"] == 7, "what a newer version wrote is kept for it"
    for broken in ("{", "[1, 2]", "\0\0", "[" * 100_000):
        path.write_text(broken)
        assert Settings(path)["pointer.scheme"] == BY_ID["pointer.scheme"].default and Settings(path).trouble


def test_the_settings_sheet_shows_every_row_and_holds_at_once(made: Any) -> None:
    sheet = made.sheets.open_settings()
    for row in ROWS:
        if row.id not in ("keys.changed", "parts.columns", "parts.list_columns"):
            assert sheet.editor_of(row.id).accessibleName() == row.title
    box = sheet.editor_of("pointer.scheme")
    box.setCurrentIndex(box.findData("left-turns"))
    box.activated.emit(box.currentIndex())
    assert made.bench.hand.habits.scheme.id == "left-turns" and made.status.scheme.text() == "Left drag orbits"
    sheet.editor_of("view.field").setValue(60)
    assert made.bench.camera.field == 60
    made.status.menu.actions()[0].trigger()
    assert made.settings["pointer.scheme"] == "right-turns" and box.currentData() == "right-turns"
    sheet.close()
