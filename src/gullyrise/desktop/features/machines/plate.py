"""The machine, its envelope and the fit stamp, always in sight."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QLabel, QWidget

from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.widgets.choice import Choice
from gullyrise.desktop.widgets.pieces import caption, named, row_box
from gullyrise.desktop.widgets.stamp import WORDS, Stamp
from gullyrise.drawing.palette import Palette


class MachinePlate(QWidget):
    """Chooses the machine; `chosen` gives its id."""

    chosen = pyqtSignal(str)

    def __init__(self, model: Workbench, palette: Palette) -> None:
        super().__init__()
        self._model, self._palette = model, palette
        self.setObjectName("machine_plate")
        row = row_box(self, (0, 0, 0, 0), 8)
        self.machines = Choice()
        named(self.machines, "machine", "Machine", "The machine that will make the parts")
        self.machines.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToContents)
        self._shelf: tuple[tuple[str, str], ...] = ()
        self.machines.activated.connect(lambda index: self.chosen.emit(self.machines.itemData(index)))
        self.envelope = caption("", "quiet")
        self.stamp = Stamp(palette, 18)
        self.words = QLabel()
        for widget in (self.machines, self.envelope, self.stamp, self.words):
            row.addWidget(widget)
        model.document.changed.connect(self._show_machine)
        model.results.changed.connect(self.refresh)
        self.refresh()

    def wear(self, palette: Palette) -> None:
        self._palette = palette
        self.refresh()

    def refresh(self) -> None:
        self._show_machine()
        self._show_fit()

    def _show_machine(self) -> None:
        machine, unknown = self._model.job.machine, self._model.job.unknown
        shelf = {one.id: one.name for one in self._model.job.library}
        # A job may stand on a machine that this library does not have, or that this version cannot use.
        shelf[machine.id] = machine.name
        shown = machine.id if unknown is None else ""
        if unknown is not None:
            shelf[""] = f"Unknown: {unknown.name[:40]}"
        if tuple(shelf.items()) != self._shelf:
            self._shelf = tuple(shelf.items())
            self.machines.clear()
            for id, name in self._shelf:
                self.machines.addItem(name, id)
        index = self.machines.findData(shown)
        if index != self.machines.currentIndex():
            self.machines.setCurrentIndex(index)
        self.envelope.setText(machine.envelope.words() if unknown is None else "select a machine to judge by")

    def _show_fit(self) -> None:
        """After an edit this waits for what is told of the outcomes: with hundreds of parts it takes a while."""
        fit = next((pair for pair in self._model.document.active_checks() if pair[1].ROW.room), None)
        if fit is None or not self._model.job.parts:
            self.stamp.show_verdict("not-run", stale=False, palette=self._palette)
            self.words.setText("No part to fit")
            return
        row = self._model.results.row(*fit, list(self._model.job.parts))
        self.stamp.show_verdict(row.verdict, stale=row.stale, palette=self._palette)
        old = row.stale and not row.running and row.verdict != "not-run"
        self.words.setText(f"Fit: {WORDS[row.verdict].lower()}{', out of date' if old else ''}")
