"""The family bar: every action is found by reading, with the mouse alone, by keys alone, and by the words that people bring."""

from __future__ import annotations

from typing import Any

import pytest
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QEnterEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from words import FINDS

from conftest import as_opened
from gullyrise.demo import demo_files
from gullyrise.desktop.app import all_actions
from gullyrise.desktop.commands.needs import Present
from gullyrise.desktop.commands.registry import CARDS, RECENT, found_by_words
from gullyrise.desktop.commands.synonyms import SYNONYMS


@pytest.fixture(scope="module")
def opened(long_lived: Any) -> Any:
    return long_lived(demo_files()[6])


@pytest.fixture
def made(opened: Any, monkeypatch: pytest.MonkeyPatch) -> Any:
    """A window in which actions are told, not run."""
    as_opened(opened)
    opened.told = []
    monkeypatch.setattr(opened.runner, "do", opened.told.append)
    yield opened
    opened.key_card.shut_down()
    del opened.told


def click(made: Any, letter: str) -> None:
    QTest.mouseClick(made.family_bar.buttons[letter], Qt.MouseButton.LeftButton)


def wanted() -> set[str]:
    """All but recent jobs, which have rows where there are any."""
    return {id for id in all_actions() if not id.startswith(RECENT)}


def test_every_action_is_reached_by_the_mouse_alone(made: Any) -> None:
    for letter in CARDS:
        click(made, letter)
        assert made.key_card.isVisible() and made.family_bar.buttons[letter].isChecked()
        for row in range(len(made.key_card.rows)):
            if row:
                click(made, letter)
            QTest.mouseClick(made.key_card.list.viewport(), Qt.MouseButton.LeftButton, pos=made.key_card.place_of(row))
            assert not made.key_card.isVisible() and not made.family_bar.buttons[letter].isChecked()
    assert set(made.told) == wanted() and len(made.told) == len(wanted()), "each on one card"


def test_every_action_is_reached_by_the_keyboard_alone(made: Any) -> None:
    for letter in CARDS:
        count = 1
        row = 0
        while row < count:
            QTest.keyClick(made.bench, getattr(Qt.Key, f"Key_{letter}"), Qt.KeyboardModifier.AltModifier)
            assert made.key_card.hasFocus() or QApplication.focusWidget() is made.key_card.search
            count = len(made.key_card.rows)
            for _ in range(row):
                QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Down)
            QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
            row += 1
    assert set(made.told) == wanted()


def test_arrows_and_the_pointer_go_from_card_to_card(made: Any) -> None:
    letters = list(CARDS)
    click(made, letters[0])
    for letter in [*letters[1:], letters[0]]:
        QTest.keyClick(made.key_card.search, Qt.Key.Key_Right)
        assert made.family_bar.buttons[letter].isChecked() and made.key_card.isVisible()
    QTest.keyClick(made.key_card.search, Qt.Key.Key_Left)
    assert made.family_bar.buttons[letters[-1]].isChecked()
    place = QPointF(4, 4)
    QApplication.sendEvent(made.family_bar.buttons["C"], QEnterEvent(place, place, place))
    assert made.family_bar.buttons["C"].isChecked() and "cut.x" in [entry.id for _, entry in made.key_card.rows]
    QTest.keyClick(made.key_card.search, Qt.Key.Key_Escape)
    assert not made.key_card.isVisible() and not any(one.isChecked() for one in made.family_bar.buttons.values())
    QApplication.sendEvent(made.family_bar.buttons["V"], QEvent(QEvent.Type.Enter))
    assert not made.key_card.isVisible(), "without an open card the pointer passes by"


def test_what_is_typed_finds_on_the_card_and_then_elsewhere(made: Any) -> None:
    click(made, "V")
    QTest.keyClicks(made.key_card.search, "underside")
    assert made.key_card.rows[0][1].id == "view.underside"
    made.key_card.search.clear()
    assert len(made.key_card.rows) > 20
    QTest.keyClicks(made.key_card.search, "screenshot")
    assert made.key_card.rows[0][1].id == "record.picture"
    QTest.keyClick(made.key_card.search, Qt.Key.Key_Return)
    assert made.told == ["record.picture"]


def test_what_cannot_be_done_says_why_in_a_word(made: Any) -> None:
    made.context_menu.show_card("B", made.rect().topLeft())
    lacks = {row.action.id: row.lacks for row in made.key_card.rows_model.shown}
    assert lacks["bodies.hide"] == "nothing selected" and lacks["bodies.select-all"] == ""
    for entry in all_actions().values():
        for need in entry.needs:
            assert need.word and len(need.word.split()) <= 3 and not need.met(Present(0, 0, 0, False))
    index = made.key_card.rows_model.index(list(lacks).index("bodies.hide"))
    assert "nothing selected" in index.data(Qt.ItemDataRole.AccessibleTextRole), "it is read out, too"


def test_the_job_is_named_whole_with_a_mark_while_it_is_not_kept(made: Any) -> None:
    made.family_bar.name_job("River & gauge", changed=True)
    button = made.family_bar.buttons["J"]
    assert made.family_bar.title == "River & gauge" and button.text() == "River && gauge*"
    made.family_bar.name_job("River & gauge", changed=False)
    assert button.text() == "River && gauge" and "River & gauge" in button.accessibleName()
    made.family_bar.name_job("A very long name of a job " * 4, changed=False)
    assert button.toolTip().startswith("A very long name of a job A very")


def test_the_words_that_people_bring_find_the_action_first() -> None:
    missed = []
    for words, ids in FINDS.items():
        found = [entry.id for entry in found_by_words(words)]
        if not found or found[0] not in ids.split():
            missed.append(f"{words}: {found[:4]}")
    assert not missed


def test_further_words_belong_to_actions_that_are_there() -> None:
    assert set(SYNONYMS) <= set(all_actions())
    assert len(FINDS) >= 200


def test_a_card_goes_when_the_looks_change_for_its_rows_are_painted_in_those_of_before(made: Any) -> None:
    click(made, "K")
    assert made.key_card.isVisible()
    made.appearance.swap_theme()
    assert not made.key_card.isVisible() and not made.family_bar.buttons["K"].isChecked()
    made.appearance.swap_theme()
