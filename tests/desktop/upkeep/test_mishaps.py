"""Errors that nobody caught: told at one place, the job is safe, the window goes on."""

from __future__ import annotations

import ast
import contextlib
import functools
import importlib
import inspect
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
import strokes
import trimesh
from PyQt6.QtCore import QPointF, Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton, QWidget
from waiting import until

import gullyrise.desktop
import zoo
from gullyrise.core.writing.threemf import write_3mf

ROOM = Path(gullyrise.desktop.__file__).parent


class Broken(Exception):
    """Raised on purpose."""


@pytest.fixture
def made(window: Any, tmp_path: Path) -> Iterator[Any]:
    path = tmp_path / "bracket.stl"
    trimesh.creation.box((10, 20, 30)).export(path)
    made = window(str(path))
    yield made
    made.mishaps.met.clear()


def buttons(made: Any, words: str) -> list[QPushButton]:
    return [one for one in made.notifications.findChildren(QPushButton) if one.text() == words and one.isVisible()]


def break_action(made: Any, monkeypatch: pytest.MonkeyPatch, id: str) -> None:
    entry = made.runner.actions[id]

    def run(_: Any) -> None:
        raise Broken(id)

    run.__annotations__ = dict(entry.run.__annotations__)
    monkeypatch.setitem(made.runner.actions, id, type(entry)(**{**as_fields(entry), "run": run}))


def as_fields(entry: Any) -> dict[str, Any]:
    return {name: getattr(entry, name) for name in entry.__dataclass_fields__}


def test_a_slot_that_fails_is_told_once_with_details_and_the_window_goes_on(made: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    break_action(made, monkeypatch, "view.front")
    job = made.model.job
    for _ in range(3):
        QTest.keyClick(made.bench, Qt.Key.Key_V)
        QTest.keyClick(made.bench, Qt.Key.Key_F)
    until(lambda: buttons(made, "Copy details"))
    assert len(buttons(made, "Copy details")) == 1 and "Broken" not in made.notifications.sentences[-1], (
        "no error's text in a sentence"
    )
    QTest.mouseClick(buttons(made, "Copy details")[0], Qt.MouseButton.LeftButton)
    copied = QApplication.clipboard().text()
    assert "Broken: view.front" in copied and "Met 3 times" in copied and str(Path.home()) not in copied
    assert made.model.job is job
    QTest.keyClick(made.bench, Qt.Key.Key_V)
    QTest.keyClick(made.bench, Qt.Key.Key_B)
    assert made.bench.camera.name() == "Back" or (made.wait_until_idle(30) and made.bench.camera.name() == "Back")


def test_timers_painting_and_threads(made: Any) -> None:
    def fail(*_: Any) -> None:
        raise Broken("in a timer")

    QTimer.singleShot(0, fail)
    until(lambda: any("in a timer" in one.details for one in made.mishaps.met.values()))

    class Picture(QWidget):
        def paintEvent(self, event: Any) -> None:
            raise Broken("while painted")

    picture = Picture(made)
    picture.show()
    until(lambda: any("while painted" in one.details for one in made.mishaps.met.values()))
    picture.hide()
    thread = threading.Thread(target=fail)
    thread.start()
    thread.join()
    until(lambda: sum(one.count for one in made.mishaps.met.values()) == 3)
    assert made.wait_until_idle(60)


def test_an_answer_that_cannot_be_taken_in_is_told_and_nothing_waits_for_it(
    made: Any, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    def refuse(*_: Any, **__: Any) -> None:
        raise Broken("taking it in")

    with monkeypatch.context() as patch:
        patch.setattr(made.model.checks.cache, "put", refuse)
        made.model.document.set_limit("min_wall", 1.7)
        until(lambda: made.mishaps.met)
        assert made.wait_until_idle(60), "it waits for nothing"
    path = tmp_path / "second.stl"
    trimesh.creation.box((5, 6, 7)).export(path)
    made.model.open_files([str(path)])
    assert made.wait_until_idle(120)
    assert [one.part.name for one in made.model.job.parts] == ["bracket", "second"]


def test_a_crew_that_stumbles_loses_one_piece_of_work_and_no_later_one(
    made: Any, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    import gullyrise.desktop.state.task_runner as task_runner

    paths = [tmp_path / f"piece-{number}.stl" for number in range(3)]
    for path in paths:
        trimesh.creation.box((5, 6, 7)).export(path)

    class Stumbling(task_runner.Worker):
        left = 1

        def start(self) -> None:
            if type(self).left:
                type(self).left -= 1
                raise Broken("starting")
            super().start()

    monkeypatch.setattr(task_runner, "Worker", Stumbling)
    made.model.open_files([str(path) for path in paths])
    assert made.wait_until_idle(120) and made.mishaps.met
    made.model.open_files([str(path) for path in paths])
    assert made.wait_until_idle(120) and len(made.model.job.parts) >= 4


# --- a matrix of two parts, one wish changed ------------------------------------------------------------------------------


def test_what_is_wanted_of_a_touching_pair_can_be_changed(window: Any, tmp_path: Path) -> None:
    lid, base = zoo.block((0, 0, 0), (20, 20, 10)), zoo.block((0, 0, 10.1), (20, 20, 20))
    path = tmp_path / "touching.3mf"
    write_3mf(zoo.part(zoo.mesh_of(lid), "lid", zoo.mesh_of(base)), path)
    made = window(str(path))
    made.model.document.set_limit("min_gap", 0.5)
    QTest.keyClick(made.bench, Qt.Key.Key_K)
    QTest.keyClick(made.bench, Qt.Key.Key_G)
    until(lambda: made.matrix_panel.table.rowCount() == 2)
    assert made.wait_until_idle(60)
    made.matrix_panel.table.setCurrentCell(0, 1)
    # Moving, with the gap that is wanted of all: judged anew, the same findings come again.
    for kind in ("moving", "touching", "pressed", "as all"):
        made.matrix_panel.kind.setCurrentIndex(made.matrix_panel.kind.findData(kind))
        made.matrix_panel.kind.activated.emit(made.matrix_panel.kind.currentIndex())
        assert made.wait_until_idle(60)
    assert not made.mishaps.met and "Wanted of" in made.model.document.history.undo_name


# --- every slot, every event, broken once ---------------------------------------------------------------------------------


def connected() -> set[tuple[str, str, str]]:
    """(module, class, method) of all that signals and timers call by name, and of the events that widgets answer."""
    found = set()
    for path in ROOM.rglob("*.py"):
        module = "gullyrise.desktop." + ".".join(path.relative_to(ROOM).with_suffix("").parts)
        for made in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if not isinstance(made, ast.ClassDef):
                continue
            own = {one.name for one in made.body if isinstance(one, ast.FunctionDef)}
            named = {one for one in own if one.endswith("Event") and one[0].islower()}
            for call in ast.walk(made):
                if not (isinstance(call, ast.Call) and isinstance(call.func, ast.Attribute) and call.args):
                    continue
                last = call.args[-1]
                of_self = isinstance(last, ast.Attribute) and isinstance(last.value, ast.Name) and last.value.id == "self"
                if call.func.attr in ("connect", "singleShot") and of_self:
                    named.add(last.attr)
            found |= {(module, made.name, name) for name in named & own}
    return found


_SPARED = {
    # Without these nothing is heard, seen or ended: what they call is broken instead.
    ("gullyrise.desktop.state.task_runner", "TaskRunner", "_hear"), ("gullyrise.desktop.upkeep.mishaps", "Mishaps", "_tell"),
    ("gullyrise.desktop.shell.main_window", "Window", "closeEvent"),
    ("gullyrise.desktop.shell.main_window", "Window", "paintEvent"),
}  # fmt: skip


def broken_once(monkeypatch: pytest.MonkeyPatch, armed: Callable[[], bool]) -> set[str]:
    """Lets every slot raise at its first call once `armed`; which have."""
    fallen: set[str] = set()

    def wrap(method: Any, name: str) -> Any:
        words_of = inspect.signature(method).parameters.values()
        takes = sum(one.kind in (one.POSITIONAL_ONLY, one.POSITIONAL_OR_KEYWORD) for one in words_of)
        anything = any(one.kind is one.VAR_POSITIONAL for one in words_of)

        @functools.wraps(method)
        def called(*words: Any, **named: Any) -> Any:
            if armed() and name not in fallen:
                fallen.add(name)
                raise Broken(name)
            return method(*(words if anything else words[:takes]), **named)

        return called

    for module, kind, name in sorted(connected() - _SPARED):
        owner = getattr(importlib.import_module(module), kind)
        if name in vars(owner) and inspect.isfunction(vars(owner)[name]):
            monkeypatch.setattr(owner, name, wrap(vars(owner)[name], f"{kind}.{name}"))
    return fallen


def test_every_slot_and_event_may_fail_once(window: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    armed = [False]
    fallen = broken_once(monkeypatch, lambda: armed[0])
    heard: list[str] = []
    paths = [tmp_path / f"piece-{number}.stl" for number in range(3)]
    for path in paths:
        trimesh.creation.box((12, 16, 7)).export(path)
    made = window(*map(str, paths[:2]))
    made.mishaps._came.connect(lambda _, details: heard.append(details))
    armed[0] = True
    # What asks for a file or a word waits for an answer.
    asking = {id for id, entry in made.runner.actions.items() if entry.label.endswith("…")}
    for _ in range(2):
        for id in sorted(set(made.runner.actions) - asking):
            # What an action calls straight is caught by who pressed its key: here nobody did.
            with contextlib.suppress(Broken):
                made.do(id)
            QApplication.processEvents()
        for widget in made.findChildren(QWidget):
            if widget.isVisible():
                strokes.hover(widget, QPointF(widget.width() / 2, widget.height() / 2))
        strokes.drag(made.bench, {"left"}, QPointF(300, 300), QPointF(60, 20))
        strokes.wheel(made.bench, QPointF(300, 300), 1)
        made.model.open_files([str(paths[2])])
        QTest.qWait(300)
        for other in QApplication.topLevelWidgets():
            if other is not made and other.isVisible():
                other.close()
    armed[0] = False
    assert len(fallen) > 60, sorted(fallen)
    told = {name for name in fallen if any(f"Broken: {name}" in details for details in heard)}
    assert len(told) > 50
    # The job and the window are whole: parts can be opened, judged and saved.
    made.do("work.cancel")
    made.do("bodies.select-all")
    made.do("bodies.remove")
    made.model.open_files([str(paths[0])])
    assert made.wait_until_idle(240)
    assert [one.part.name for one in made.model.job.parts] == ["piece-0"]
    assert made.model.results.verdict_of(made.model.job.parts[0])[1] is False, "judged anew"
    path = tmp_path / "whole.gullyrise"
    made.job_file.save_to(str(path))
    until(path.exists)
    made.mishaps.met.clear()
