"""The receiving page, when nothing is open: a place to drop files, the demo job, the machine."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from gullyrise.core.reading import endings
from gullyrise.desktop.actions import named_keys
from gullyrise.desktop.theme.palette import Palette


class ReceivingPage(QWidget):
    """Lies over the bench. wanted : the id of an action."""

    wanted = pyqtSignal(str)

    def __init__(self, palette: Palette, parent: QWidget) -> None:
        super().__init__(parent)
        self._palette = palette
        self.setObjectName("receiving_page")
        self.setAccessibleName("Receiving page")
        self.setFixedSize(440, 204)
        column = QVBoxLayout(self)
        column.setContentsMargins(32, 28, 32, 24)
        column.setSpacing(8)
        title = QLabel("Drop part files here")
        title.setProperty("role", "title")
        title.setAlignment(Qt.AlignmentFlag.AlignCenter)
        kinds = QLabel(", ".join(sorted({ending.lstrip(".").upper() for ending in endings()})))
        kinds.setProperty("role", "quiet")
        kinds.setAlignment(Qt.AlignmentFlag.AlignCenter)
        kinds.setWordWrap(True)
        column.addWidget(title)
        column.addWidget(kinds)
        column.addStretch(1)
        row = QHBoxLayout()
        self.open_button = self._button("Open parts…", "job.open", "receiving_open")
        named_keys.caption(self.open_button, "job.open", "Open parts…{}", "  {}")
        self.demo_button = self._button("Open the demo job", "job.demo", "receiving_demo")
        row.addWidget(self.open_button)
        row.addWidget(self.demo_button)
        column.addLayout(row)
        about = QLabel("The demo job is a river-gauging station: nine parts, most with one fault that a check should find.")
        about.setProperty("role", "quiet")
        about.setWordWrap(True)
        about.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addWidget(about)

    def _button(self, words: str, action: str, name: str) -> QPushButton:
        button = QPushButton(words)
        button.setObjectName(name)
        button.setMinimumHeight(36)
        button.clicked.connect(lambda: self.wanted.emit(action))
        return button

    def wear(self, palette: Palette) -> None:
        self._palette = palette
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """The page is solid: a press on it is not one on the bench below."""

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = self._palette
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(p.colour("panel"))
        painter.setPen(QPen(p.colour("bed_line"), 1.5, Qt.PenStyle.DashLine))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 8, 8)
