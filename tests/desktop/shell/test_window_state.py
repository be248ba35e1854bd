"""How the window was left comes back: sizes, folds, the machine, the folders; what makes no sense is as at first."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog
from waiting import until

from gullyrise.demo import demo_files
from gullyrise.desktop.preferences.window_state import WindowState, keep_window_state, state_file, window_state


def test_sizes_folds_machine_and_scheme_come_back(window: Any) -> None:
    first = window()
    first.resize(1400, 900)
    first.panels.columns.setSizes([300, 760, 340])
    first.machines.use_machine("alder-mill")
    first.settings.set("pointer.scheme", "left-turns")
    first.do("panels.strip")
    QTest.qWait(20)
    sizes = first.panels.columns.sizes()
    first.close()
    other = window()
    assert (other.width(), other.height()) == (1400, 900)
    assert other.panels.columns.sizes() == pytest.approx(sizes, abs=4)
    assert other.model.job.machine.id == "alder-mill" and other.model.document.history.undo_name is None
    assert other.status.scheme.text() == "Left drag orbits"
    other.model.open_files([demo_files()[6]])
    assert other.wait_until_idle(100)
    other.do("cut.z")
    assert not other.area_strip.isVisible(), "folded as it was left"
    other.do("panels.sides")
    other.close()
    third = window()
    assert not third.parts_panel.isVisible() and not third.traveller.isVisible()
    third.do("panels.sides")
    QTest.qWait(20)
    assert third.panels.columns.sizes()[0] == pytest.approx(sizes[0], abs=8)


def test_a_machine_that_is_gone_is_the_usual_one(window: Any) -> None:
    keep_window_state(WindowState(machine="no-such-machine"))
    assert window().model.job.machine.id == "heron-220"


def test_dialogs_begin_where_the_user_last_was(window: Any, tmp_path: Path) -> None:
    folder, other = tmp_path / "parts here", tmp_path / "written there"
    folder.mkdir()
    other.mkdir()
    made = window()
    made.do("job.open")
    dialog = made.findChild(QFileDialog)
    dialog.filesSelected.emit([str(folder / "some.stl")])
    dialog.close()
    QApplication.processEvents()
    made.dialogs.ask_where("Save", "list.csv", ["Tables (*.csv)"], lambda path: None).filesSelected.emit([str(other / "a.csv")])
    made.close()
    again = window()
    assert again.dialogs.ask("Open", QFileDialog.FileMode.ExistingFile, [], print).directory().path() == str(folder)
    assert again.dialogs.ask_where("Save", "b.csv", [], print).directory().path() == str(other)
    folder.rmdir()
    assert again.dialogs.ask("Open", QFileDialog.FileMode.ExistingFile, [], print).directory().exists()


@pytest.mark.parametrize(
    "text", ["", "[1]", "{", "\0", "null", '{"size": "large"}', '{"size": [1e9, 2]}', '{"columns": [1, 2, 3, 4, 5, 6, 7]}',
             '{"guided": 1}', '{"folders": {"a": 3}}', '{"machine": 7}', "[" * 20000],
)  # fmt: skip
def test_what_cannot_be_read_is_as_at_first(text: str) -> None:
    state_file().parent.mkdir(parents=True, exist_ok=True)
    state_file().write_text(text)
    assert window_state() == WindowState()


def test_what_is_kept_is_read_again_and_nothing_else_of_it() -> None:
    state = WindowState([1300, 850], True, [1, 2, 3], [4, 5], [6, 7], True, True, "lantern-130", {"opened": "/somewhere"}, True)
    keep_window_state(state)
    assert window_state() == state
    found = json.loads(state_file().read_text())
    state_file().write_text(json.dumps({**found, "from another version": 1}))
    assert window_state() == state


def test_the_first_demo_points_at_three_things_until_a_key_is_pressed(window: Any) -> None:
    made = window()
    made.opening.open_demo()
    until(lambda: made.first_steps.pointers)
    pointers = made.first_steps.pointers
    assert len(pointers) == 3 and all(one.isVisible() for one in pointers)
    assert "orbits" in pointers[0].step.words and "cuts" in pointers[1].step.words and "next finding" in pointers[2].step.words
    for pointer in pointers:
        assert made.rect().contains(pointer.geometry()), "in the window"
    made.resize(1000, 700)
    QTest.qWait(20)
    assert all(made.rect().contains(pointer.geometry()) for pointer in pointers)
    QTest.keyClick(made.bench, Qt.Key.Key_V)
    assert made.first_steps.pointers == []
    made.close()
    again = window()
    again.opening.open_demo()
    until(lambda: len(again.model.job.parts) == 9)
    QTest.qWait(200)
    assert again.first_steps.pointers == [], "dismissed for good"
