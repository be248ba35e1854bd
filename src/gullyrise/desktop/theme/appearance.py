"""The theme that the window wears, as the settings have it."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QApplication

from gullyrise.desktop.ports import Preferences
from gullyrise.desktop.theme.style_sheet import dress
from gullyrise.drawing.palette import LIMESTONE, SLATE, THEMES, Palette


class Appearance(QObject):
    """changed : another palette is worn;  palette : that of now"""

    changed = pyqtSignal(object)

    def __init__(self, preferences: Preferences) -> None:
        super().__init__()
        self._preferences = preferences
        self.palette: Palette = THEMES[preferences["looks.theme"]]

    def swap_theme(self) -> None:
        self._preferences.set("looks.theme", SLATE.name if self.palette is LIMESTONE else LIMESTONE.name)

    def settle(self) -> None:
        """Wears what the settings say."""
        wanted = THEMES[self._preferences["looks.theme"]]
        if wanted is self.palette:
            return
        self.palette = wanted
        application = QApplication.instance()
        if isinstance(application, QApplication):
            dress(application, wanted)
        self.changed.emit(wanted)
