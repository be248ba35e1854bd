"""The sheets that stand beside the window, each made when it is first wanted."""

from __future__ import annotations

from typing import TypeVar

from PyQt6.QtWidgets import QWidget

from gullyrise.desktop.commands.runner import ActionRunner
from gullyrise.desktop.features.machines.sheet import MachineSheet
from gullyrise.desktop.features.placement.form import Slips
from gullyrise.desktop.features.preferences.key_sheet import KeySheet
from gullyrise.desktop.features.preferences.sheet import SettingsSheet
from gullyrise.desktop.ports import Looks
from gullyrise.desktop.preferences.store import Settings
from gullyrise.desktop.state.document_model import BenchJob
from gullyrise.drawing.palette import Palette

S = TypeVar("S", SettingsSheet, KeySheet, MachineSheet)


class Sheets:
    """settings, keys, machines : the sheets, once they have been opened."""

    def __init__(
        self, parent: QWidget, model: BenchJob, looks: Looks, settings: Settings, runner: ActionRunner, slips: Slips
    ) -> None:
        self._parent, self._model, self._looks, self._settings = parent, model, looks, settings
        self._runner, self._slips = runner, slips
        self.settings: SettingsSheet | None = None
        self.keys: KeySheet | None = None
        self.machines: MachineSheet | None = None

    def wear(self, palette: Palette) -> None:
        if self.machines is not None:
            self.machines.drawing.wear(palette)

    def open_settings(self) -> SettingsSheet:
        if self.settings is None:
            self.settings = SettingsSheet(self._settings, self._parent)
        return _shown(self.settings)

    def open_machines(self) -> MachineSheet:
        if self.machines is None:
            self.machines = MachineSheet(self._parent, self._model, self._looks)
            self.machines.library_changed.connect(self._slips.library_changed)
            self.machines.used.connect(self._slips.use_machine)
        self.machines.refresh()
        return _shown(self.machines)

    def open_keys(self) -> KeySheet:
        if self.keys is None:
            self.keys = KeySheet(self._runner.actions, lambda: self._runner.keymap, self._settings, self._parent)
        return _shown(self.keys)


def _shown(sheet: S) -> S:
    sheet.show()
    sheet.raise_()
    sheet.activateWindow()
    return sheet
