"""Which machine the job stands on, and the library of machines."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from gullyrise.core.machines import Machine
from gullyrise.core.machines.drafts import idle_words
from gullyrise.core.machines.library import library
from gullyrise.desktop.features.machines import text
from gullyrise.desktop.features.machines.sheet import MachineSheet
from gullyrise.desktop.ports import Looks, Notifier
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.widgets.raising import raised
from gullyrise.drawing.palette import Palette


class MachinesController:
    """sheet : that of the library, once it has been opened"""

    def __init__(self, parent: QWidget, model: Workbench, notifier: Notifier, looks: Looks) -> None:
        self._parent, self._model, self._notifier, self._looks = parent, model, notifier, looks
        self.sheet: MachineSheet | None = None

    def wear(self, palette: Palette) -> None:
        if self.sheet is not None:
            self.sheet.drawing.wear(palette)

    def open_library(self) -> MachineSheet:
        if self.sheet is None:
            self.sheet = MachineSheet(self._parent, self._model, self._looks)
            self.sheet.library_changed.connect(self.library_changed)
            self.sheet.used.connect(self.use_machine)
        self.sheet.refresh()
        return raised(self.sheet)

    def use_machine(self, id: str) -> None:
        machine = next((one for one in self._model.job.library if one.id == id), None)
        if machine is not None:
            self._model.document.set_machine(machine)
            self._tell_of_idle(machine)

    def library_changed(self, id: str) -> None:
        """A machine's file is another: the job's library follows; the job's own machine changes by an edit, and all that depends
        on it is judged anew."""
        shelf = tuple(library())
        fresh = next((one for one in shelf if one.id == id), None)
        self._model.document.put_library(shelf)
        job = self._model.job
        if fresh is not None and job.machine.id == id and job.machine != fresh:
            self._model.document.edit(text.CHANGE.format(fresh.name), lambda job: job.with_machine_changed(fresh))
            self._tell_of_idle(fresh)

    def _tell_of_idle(self, machine: Machine) -> None:
        idle = idle_words(machine)
        if idle:
            self._notifier.say(f"{machine.name}: {idle}", False, about="idle keep-outs")
