"""The sheets that stand beside the window, each made when it is first wanted."""

from __future__ import annotations

from typing import TYPE_CHECKING, TypeVar

from gullyrise.desktop.machines.sheet import MachineSheet
from gullyrise.desktop.settings.key_sheet import KeySheet
from gullyrise.desktop.settings.sheet import SettingsSheet

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window


S = TypeVar("S", SettingsSheet, KeySheet, MachineSheet)


class Sheets:
    """settings, keys, machines : the sheets, once they have been opened."""

    def __init__(self, window: Window) -> None:
        self._window = window
        self.settings: SettingsSheet | None = None
        self.keys: KeySheet | None = None
        self.machines: MachineSheet | None = None

    def open_settings(self) -> SettingsSheet:
        if self.settings is None:
            self.settings = SettingsSheet(self._window.settings, self._window)
        return _shown(self.settings)

    def open_machines(self) -> MachineSheet:
        if self.machines is None:
            window = self._window
            self.machines = MachineSheet(window)
            self.machines.library_changed.connect(window.slips.library_changed)
            self.machines.used.connect(window.slips.use_machine)
        self.machines.refresh()
        return _shown(self.machines)

    def open_keys(self) -> KeySheet:
        if self.keys is None:
            window = self._window
            self.keys = KeySheet(window.actions_by_id, lambda: window.keymap, window.settings, window)
        return _shown(self.keys)


def _shown(sheet: S) -> S:
    sheet.show()
    sheet.raise_()
    sheet.activateWindow()
    return sheet
