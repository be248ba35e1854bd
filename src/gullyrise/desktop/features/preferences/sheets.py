"""The sheets of settings and of keys, each made when it is first wanted."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from gullyrise.desktop.commands.runner import ActionRunner
from gullyrise.desktop.features.preferences.about import AboutSheet
from gullyrise.desktop.features.preferences.key_sheet import KeySheet
from gullyrise.desktop.features.preferences.sheet import SettingsSheet
from gullyrise.desktop.preferences.store import Settings
from gullyrise.desktop.widgets.raising import raised


class PreferenceSheets:
    """settings, keys, about : the sheets, once they have been opened."""

    def __init__(self, parent: QWidget, settings: Settings, runner: ActionRunner) -> None:
        self._parent, self._settings, self._runner = parent, settings, runner
        self.settings: SettingsSheet | None = None
        self.keys: KeySheet | None = None
        self.about: AboutSheet | None = None

    def open_settings(self) -> SettingsSheet:
        if self.settings is None:
            self.settings = SettingsSheet(self._settings, self._parent)
        return raised(self.settings)

    def open_keys(self) -> KeySheet:
        if self.keys is None:
            self.keys = KeySheet(self._runner.actions, lambda: self._runner.keymap, self._settings, self._parent)
        return raised(self.keys)

    def open_about(self) -> AboutSheet:
        if self.about is None:
            self.about = AboutSheet(self._parent)
        return raised(self.about)
