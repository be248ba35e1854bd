"""A hand that does anything at any time: actions, strokes, typed words, files, machines; all from one seed."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import strokes
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit, QMenu, QPushButton

from gullyrise.core.geometry import Transform
from gullyrise.core.machines.library import library
from gullyrise.core.placing.fixture_shapes import FixtureShape
from gullyrise.desktop.pointer.schemes import READY

MOST_PARTS = 10
_KEYS = "VDBCMPKR"
_WORDS = [
    "0", "1", "12.5", "0,5", "30,5", "1/4\"", "0.5 in", "12,7mm", "-3", "abc", "1e3", "1.000,5", "90", "45", "200 %", "", "2 3",
    "99999999", "3.", ",5", "+z -x", "min(1,2)",
]  # fmt: skip
_LEFT_OUT = {
    # Those that wait for a file dialog are done with a path instead; the demo is large.
    "job.open", "job.open-folder", "job.save-as", "job.write-beds", "job.write-parts", "job.demo", "record.picture-as",
    "measure.export", "cut.export", "help.find",
}  # fmt: skip


class Hand:
    """done : what was done, newest last"""

    def __init__(self, window: Any, files: list[Path], folder: Path, seed: int) -> None:
        self.window, self.files, self.folder = window, files, folder
        self.random = np.random.default_rng(seed)
        self.done: list[str] = []
        self._ids = [id for id in window.runner.actions if id not in _LEFT_OUT]
        self._ways = [
            (self.act, 30), (self.click, 8), (self.stroke, 10), (self.drag_part, 6), (self.two_keys, 8),
            (self.type_somewhere, 10), (self.choose, 12), (self.put, 10), (self.turn, 5), (self.copy, 2), (self.resize, 3),
            (self.open_one, 3), (self.machine, 3), (self.fixture, 1), (self.limit, 3), (self.steps, 8), (self.answer, 4),
            (self.press_a_button, 5), (self.sweep_off, 2),
        ]  # fmt: skip

    @property
    def model(self) -> Any:
        return self.window.model

    def any_of(self, things: Any) -> Any:
        return things[int(self.random.integers(len(things)))]

    def once(self) -> str:
        """Does one thing; what it was."""
        if len(self.model.job.parts) > MOST_PARTS:
            return self._told("thin out", self._thin_out())
        weights = np.array([weight for _, weight in self._ways], float)
        way = self._ways[int(self.random.choice(len(self._ways), p=weights / weights.sum()))][0]
        return self._told(way.__name__, way())

    def _told(self, what: str, details: Any) -> str:
        words = f"{what} {details if details is not None else ''}".strip()
        self.done.append(words)
        self.tidy()
        return words

    def tidy(self) -> None:
        """Dialogs, sheets and menus that came are closed, as somebody would who opened them by mistake."""
        for one in QApplication.topLevelWidgets():
            stands = one is not self.window and one.isVisible() and one.window() is one
            if stands and (isinstance(one, QMenu) or self.random.random() < 0.7):
                one.close()
        if self.random.random() < 0.3:
            self.window.key_card.hide()

    def _thin_out(self) -> str:
        numbers = [one.id for one in self.model.job.parts]
        gone = {int(one) for one in self.random.choice(numbers, len(numbers) // 2, replace=False)}
        self.model.document.edit("Remove", lambda job: job.without(gone))
        return f"{len(gone)} parts"

    # --- the ways --------------------------------------------------------------------------------------------------

    def act(self) -> str:
        id = self.any_of(self._ids)
        self.window.do(id)
        return id

    def _place(self) -> QPointF:
        bench = self.window.bench
        if self.random.random() < 0.6 and bench.scene.items:
            item = self.any_of(bench.scene.items)
            at = bench.to_widget(item.box.low + self.random.random(3) * item.box.size)
            if np.isfinite([at.x(), at.y()]).all() and bench.rect().contains(at.toPoint()):
                return at
        return QPointF(self.random.uniform(0, bench.width()), self.random.uniform(0, bench.height()))

    def _held(self) -> tuple[str, ...]:
        return tuple(key for key in ("shift", "ctrl", "alt") if self.random.random() < 0.12)

    def click(self) -> str:
        at, button = self._place(), self.any_of(["left", "left", "left", "right"])
        strokes.hover(self.window.bench, at)
        strokes.click(self.window.bench, at, button, self._held())
        return button

    def stroke(self) -> str:
        scheme = READY[self.any_of(list(READY))]
        self.window.settings.set("pointer.scheme", scheme.id)
        gesture, wanted = self.any_of(scheme.bindings)
        strokes.make(self.window.bench, wanted, self._place(), QPointF(*self.random.normal(0, 90, 2)))
        return f"{scheme.id} {gesture}"

    def drag_part(self) -> str:
        tray = self.window.gizmo.seen()
        at = self._place()
        if tray is not None and self.random.random() < 0.7:
            name, place = self.any_of(tray.places())
            at = self.window.bench.to_widget(place)
            if not np.isfinite([at.x(), at.y()]).all():
                return "nothing"
            strokes.drag(self.window.bench, {"left"}, at, QPointF(*self.random.normal(0, 70, 2)), self._held())
            return str(name)
        strokes.drag(self.window.bench, {"left"}, at, QPointF(*self.random.normal(0, 120, 2)), self._held())
        return "the part"

    def two_keys(self) -> str:
        keys = self.any_of(_KEYS) + chr(ord("A") + int(self.random.integers(26)))
        if any(entry.id in _LEFT_OUT for second, entry in self.window.runner.keymap.family(keys[0]) if second == keys[1]):
            return "nothing"
        self.window.bench.setFocus()
        for key in keys:
            QTest.keyClick(self.window.bench, getattr(Qt.Key, f"Key_{key}"))
        return keys

    def type_somewhere(self) -> str:
        fields = [one for one in self.window.findChildren(QLineEdit) if one.isVisible() and one.isEnabled()]
        if not fields:
            return "nowhere"
        field, words = self.any_of(fields), self.any_of(_WORDS)
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, words)
        QTest.keyClick(field, self.any_of([Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Escape]))
        return f"{words!r} into {field.objectName() or field.parent().objectName()}"

    def choose(self) -> str:
        parts = self.model.job.parts
        count = int(self.random.integers(0, min(len(parts), 3) + 1))
        self.model.selection.select({self.any_of(parts).id for _ in range(count)} if parts else set())
        return f"{count}"

    def put(self) -> str:
        size = self.model.job.machine.envelope.box.size
        at = self.random.uniform(-0.4, 1.4, 2) * size[:2]
        self.window.placement.put_at(float(at[0]), float(at[1]), float(self.any_of([0, 0, 0, 0.5, -0.2, 30])))
        return f"{at.round(1).tolist()}"

    def turn(self) -> str:
        axis, degrees = int(self.random.integers(3)), float(self.any_of([90, 45, 15, -30, 7.3]))
        self.window.placement.turn(axis, degrees)
        return f"{degrees} about {axis}"

    def copy(self) -> str:
        count = int(self.random.integers(1, 4))
        if self.model.selection.parts:
            self.window.placement.copy(count)
        return f"{count}"

    def resize(self) -> str:
        factors = self.random.uniform(0.4, 1.8, 3) if self.random.random() < 0.5 else np.full(3, self.random.uniform(0.3, 2))
        self.window.placement.stretch(factors)
        return f"{factors.round(2).tolist()}"

    def open_one(self) -> str:
        path = self.any_of(self.files)
        self.model.open_files([str(path)])
        return path.name

    def machine(self) -> str:
        machine = self.any_of(library())
        self.model.document.set_machine(machine)
        return machine.id

    def fixture(self) -> str:
        sides = tuple(float(side) for side in self.random.uniform(5, 60, 3).round(1))
        self.window.placement.add_fixture(FixtureShape(shape="block", size=sides))
        return f"{sides}"

    def limit(self) -> str:
        name = self.any_of(["min_gap", "edge_margin", "min_wall", "max_angle"])
        if not hasattr(self.model.job.limits, name):
            name = "min_gap"
        value = float(self.any_of([0.1, 0.3, 1.0, 2.5]))
        self.model.document.set_limit(name, value)
        return f"{name} {value}"

    def steps(self) -> str:
        back = self.random.random() < 0.6
        count = int(self.random.integers(1, 5))
        for _ in range(count):
            self.window.do("job.undo" if back else "job.redo")
        return f"{'undo' if back else 'redo'} {count}"

    def answer(self) -> str:
        """What a notice asks, or its dismissal."""
        buttons = [one for one in self.window.notifications.findChildren(QPushButton) if one.isVisible()]
        if not buttons:
            return "nothing"
        button = self.any_of(buttons)
        words = button.text()
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        return words

    def press_a_button(self) -> str:
        """Any button of the window that asks for no file."""
        every = self.window.findChildren(QPushButton)
        buttons = [one for one in every if one.isVisible() and one.isEnabled() and one.menu() is None]
        buttons = [one for one in buttons if "…" not in one.text() and not {"Open", "Save"} & set(one.text().split())]
        buttons = [one for one in buttons if "demo" not in one.objectName() and "export" not in one.objectName()]
        if not buttons:
            return "nothing"
        button = self.any_of(buttons)
        name = f"{button.objectName()} {button.text()}"
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        return name

    def sweep_off(self) -> str:
        """Something is pushed far away, or all are set out again."""
        if self.random.random() < 0.5 and self.model.selection.parts:
            far = self.random.normal(0, 400, 3)
            self.window.placement.move("Push", lambda _: Transform.moved(far))
            return "pushed"
        self.window.do("place.arrange")
        return "arranged"
