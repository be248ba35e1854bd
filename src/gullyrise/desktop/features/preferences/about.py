"""What the program is: its version, its licences, and where it keeps what."""

from __future__ import annotations

import platform

from platformdirs import user_config_path, user_data_path, user_state_path
from PyQt6.QtCore import PYQT_VERSION_STR, QT_VERSION_STR
from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QWidget

from gullyrise import __version__
from gullyrise.desktop.features.preferences import text
from gullyrise.desktop.widgets.pieces import caption, column_box, paragraph


class AboutSheet(QDialog):
    """Its words can be marked and copied, for whoever reports something."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("about")
        self.setWindowTitle(text.ABOUT)
        self.setMinimumWidth(460)
        column = column_box(self, (20, 16, 20, 16), 8)
        column.addWidget(caption(f"Gullyrise {__version__}", "title"))
        runs = f"Python {platform.python_version()}, Qt {QT_VERSION_STR}, PyQt {PYQT_VERSION_STR}, {platform.system()}"
        kept = [f"{words}: {place('gullyrise')}" for words, place in _KEPT.items()]
        for words in (text.WHAT_IT_DOES, text.LICENCES, runs, "\n".join(kept)):
            column.addWidget(paragraph(words, "" if words == text.WHAT_IT_DOES else "quiet"))
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.close)
        column.addWidget(buttons)


_KEPT = {"Settings": user_config_path, "Machines and recent jobs": user_data_path, "Log and unsaved work": user_state_path}
