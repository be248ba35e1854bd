"""The hint line: what each button does now, the pointer, background work."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QPushButton, QSizePolicy, QWidget

from gullyrise.core.geometry import Floats
from gullyrise.desktop.crew import Crew

AT_REST = "left click picks · right drag turns · middle drag slides · wheel zooms at the pointer · V views"


class HintLine(QWidget):
    """cancelled : background work is not wanted any more."""

    cancelled = pyqtSignal()

    def __init__(self, crew: Crew) -> None:
        super().__init__()
        self._crew = crew
        self.setObjectName("hint_line")
        self.setProperty("panel", True)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 2, 12, 2)
        row.setSpacing(12)
        self.setFixedHeight(30)
        self.hint = QLabel(AT_REST)
        self.hint.setProperty("role", "quiet")
        self.hint.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.pointer = QLabel()
        self.pointer.setObjectName("pointer")
        self.pointer.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.work = QLabel()
        self.work.setProperty("role", "quiet")
        self.bar = QProgressBar()
        self.bar.setFixedWidth(90)
        self.bar.setTextVisible(False)
        self.cancel = QPushButton("Cancel")
        self.cancel.setObjectName("cancel_work")
        self.cancel.setToolTip("Cancel background work (Ctrl+.)")
        self.cancel.setProperty("flat", True)
        self.cancel.clicked.connect(self.cancelled)
        unit = QLabel("mm")
        unit.setProperty("role", "quiet")
        row.addWidget(self.hint, 1)
        for widget in (self.pointer, unit, self.work, self.bar, self.cancel):
            row.addWidget(widget)
        crew.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        errands = self._crew.errands
        for widget in (self.work, self.bar, self.cancel):
            widget.setVisible(bool(errands))
        if not errands:
            return
        active = next((errand for errand in errands if errand.stage != "waiting"), errands[0])
        more = f" and {len(errands) - 1} more" if len(errands) > 1 else ""
        title = active.work.title if len(active.work.title) < 34 else active.work.title[:32] + "…"
        self.work.setText(f"{title}: {active.stage}{more}")
        if active.share >= 0:
            self.bar.setRange(0, 100)
            self.bar.setValue(int(active.share * 100))
        else:
            self.bar.setRange(0, 0)

    def show_pointer(self, point: Floats | None, name: str) -> None:
        if point is None:
            self.pointer.setText("")
            self.hint.setText(AT_REST)
            return
        places = "  ".join(f"{letter} {value:.2f}" for letter, value in zip("xyz", point.tolist(), strict=True))
        self.pointer.setText(f"{places}   {name}" if name else places)
        self.hint.setText(f"left click selects {name} · right drag turns about here · wheel zooms here" if name else AT_REST)
