"""The sheet of the machine library: those that came with the application and one's own; each can be looked at, changed, copied,
taken from a file and put into one."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from gullyrise.core.errors import MachineError
from gullyrise.core.machines import Machine
from gullyrise.core.machines.drafts import FRESH, draft_of, idle_words
from gullyrise.core.machines.library import (
    bring_in,
    duplicate,
    export,
    fresh_id,
    is_shipped,
    library,
    own_file,
    remove_own,
    save_own,
)
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.features.machines.drawing import MachineDrawing
from gullyrise.desktop.features.machines.form import MachineForm
from gullyrise.desktop.ports import Looks
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.widgets.file_dialogs import Mode, ask, ask_where
from gullyrise.desktop.widgets.pieces import caption, named

_ID = Qt.ItemDataRole.UserRole


class MachineSheet(QDialog):
    """Stands beside the window, which stays live. library_changed : a machine's file is another;  used : a machine's id."""

    library_changed = pyqtSignal(str)
    used = pyqtSignal(str)

    def __init__(self, parent: QWidget, model: Workbench, looks: Looks) -> None:
        super().__init__(parent)
        self.setObjectName("machine_sheet")
        self.setWindowTitle("Machine library")
        self.setModal(False)
        self.resize(1140, 740)
        self._made: Machine | None = None
        row = QHBoxLayout(self)
        row.addLayout(self._left(), 0)
        middle = QVBoxLayout()
        self.form = MachineForm()
        self.form.tried.connect(self._tried)
        middle.addWidget(self.form, 1)
        self.trouble = caption(name="machine_trouble", wrap=True)
        middle.addWidget(self.trouble)
        foot = QHBoxLayout()
        self.save = small("Save", "machine_save", "Keep it in your own machines; parts on it are judged again", do=self._save)
        self.back = small("Revert", "machine_back", "Forget what was changed since it was saved", do=self._show_chosen)
        self.use = small("Put the parts on it", "machine_use", "Make it the machine of this job", do=self._use)
        for button in (self.save, self.back, self.use):
            foot.addWidget(button)
        foot.addStretch(1)
        middle.addLayout(foot)
        row.addLayout(middle, 1)
        self.drawing = MachineDrawing(looks.palette)
        row.addWidget(self.drawing, 0)
        self.list.currentRowChanged.connect(lambda _: self._show_chosen())
        self.refresh(model.job.machine.id)

    def _left(self) -> QVBoxLayout:
        column = QVBoxLayout()
        self.list = QListWidget()
        named(self.list, "machine_list", "Machines")
        self.list.setFixedWidth(250)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column.addWidget(self.list, 1)
        for line in (
            (("New", "machine_new", self._new), ("Duplicate", "machine_duplicate", self._duplicate)),
            (("Import…", "machine_import", self._import), ("Export…", "machine_export", self._export)),
            (("Remove", "machine_remove", self._remove),),
        ):
            row = QHBoxLayout()
            for words, name, run in line:
                button = small(words, name, _TIPS[name], do=run)
                row.addWidget(button)
            row.addStretch(1)
            column.addLayout(row)
        return column

    # --- showing ---------------------------------------------------------------------------------------------------

    def refresh(self, chosen: str = "") -> None:
        wanted = chosen or self.chosen_id()
        self.list.blockSignals(True)
        self.list.clear()
        for machine in library():
            own = own_file(machine.id) is not None
            kept = "yours" if own and not is_shipped(machine.id) else "changed by you" if own else "shipped"
            item = QListWidgetItem(f"{machine.name}\n{machine.envelope.words()} · {kept}")
            item.setData(_ID, machine.id)
            self.list.addItem(item)
            if machine.id == wanted:
                self.list.setCurrentItem(item)
        if self.list.currentRow() < 0:
            self.list.setCurrentRow(0)
        self.list.blockSignals(False)
        self._show_chosen()

    def chosen_id(self) -> str:
        item = self.list.currentItem()
        return str(item.data(_ID)) if item is not None else ""

    def _chosen(self) -> Machine | None:
        return next((machine for machine in library() if machine.id == self.chosen_id()), None)

    def _show_chosen(self) -> None:
        machine = self._chosen()
        if machine is not None:
            self.form.show_machine(machine)

    def _tried(self, machine: Machine | None, trouble: str) -> None:
        self._made = machine
        if machine is not None:
            self.drawing.show_machine(machine)
            trouble = idle_words(machine)
        self.trouble.setText(trouble)
        self.save.setEnabled(machine is not None and machine != self._chosen())
        self.use.setEnabled(machine is not None and machine == self._chosen())

    # --- doing -----------------------------------------------------------------------------------------------------

    def _save(self) -> None:
        if self._made is not None:
            self._keep(self._made)

    def _keep(self, machine: Machine) -> None:
        try:
            save_own(machine)
        except MachineError as error:
            self.trouble.setText(str(error))
            return
        self.library_changed.emit(machine.id)
        self.refresh(machine.id)

    def _use(self) -> None:
        if self._made is not None:
            self.used.emit(self._made.id)

    def _new(self) -> None:
        taken = {machine.id for machine in library()}
        self.form.show_draft({**FRESH, "id": fresh_id(FRESH["id"], taken)})

    def _duplicate(self) -> None:
        machine = self._chosen()
        if machine is not None:
            self.form.show_draft(draft_of(duplicate(machine)))

    def _import(self) -> None:
        ask(self, "Import a machine", Mode.ExistingFile, ["Machine files (*.toml)"], lambda names: self.bring(names[0]))

    def bring(self, path: str) -> None:
        """Takes a machine's file into the library."""
        try:
            machine = bring_in(Path(path))
        except MachineError as error:
            self.trouble.setText(str(error))
            return
        self.library_changed.emit(machine.id)
        self.refresh(machine.id)

    def _export(self) -> None:
        machine = self._chosen()
        if machine is not None:
            ask_where(self, "Export the machine", f"{machine.id}.toml", ["Machine files (*.toml)"], self.write)

    def write(self, path: str) -> None:
        """Writes the chosen machine to a file."""
        machine = self._chosen()
        if machine is None:
            return
        try:
            export(machine, Path(path))
        except MachineError as error:
            self.trouble.setText(str(error))
            return
        self.trouble.setText(f"{Path(path).name} is written.")

    def _remove(self) -> None:
        machine = self._chosen()
        if machine is None:
            return
        try:
            gone = remove_own(machine.id)
        except MachineError as error:
            self.trouble.setText(str(error))
            return
        if not gone:
            self.trouble.setText(f"{machine.name} came with Gullyrise and stays; change it, or duplicate it.")
            return
        self.library_changed.emit(machine.id)
        self.refresh()


_TIPS = {
    "machine_new": "A new machine, from the start",
    "machine_duplicate": "A copy of the selected machine, to change",
    "machine_import": "Take a machine's file into the library",
    "machine_export": "Put the selected machine into a file",
    "machine_remove": "Remove your own machine; one that came with Gullyrise is reset",
}
