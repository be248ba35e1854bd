"""What is asked before a part is split: pegs across the cut, or none."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QLabel,
    QPushButton,
    QWidget,
)

from gullyrise.core.cutting.pegs import PegWish
from gullyrise.desktop.commands.floating_form import FloatingForm
from gullyrise.desktop.widgets.number_field import NumberField
from gullyrise.desktop.widgets.pieces import caption, named


class SplitForm(FloatingForm):
    """wanted : a PegWish, or None for a plain cut;  changed : another would be wanted;  closed : nothing is to be split."""

    wanted = pyqtSignal(object)
    changed = pyqtSignal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, "split_slip", "", ("split_close", "Leave the part whole"))
        column = self._column
        words = caption("Two closed parts take its place; undo, or “Make whole again”, brings it back.", "quiet", wrap=True)
        column.addWidget(words)
        self.pegs = QCheckBox("Pegs on one half, holes in the other")
        self.pegs.setObjectName("split_pegs")
        column.addWidget(self.pegs)
        grid = QGridLayout()
        grid.setSpacing(4)
        self.count = NumberField("", 0, 1, 50)
        self.count.setValue(2)
        self.diameter = _length(4.0, 0.2, 500)
        self.length = _length(5.0, 0.2, 500)
        self.clearance = _length(0.15, 0.0, 10)
        for row, (name, words_, field) in enumerate(
            (
                ("split_count", "How many", self.count), ("split_diameter", "Diameter", self.diameter),
                ("split_length", "Length", self.length), ("split_clearance", "Clearance all round", self.clearance),
            )
        ):  # fmt: skip
            named(field, name, words_)
            grid.addWidget(QLabel(words_), row, 0)
            grid.addWidget(field, row, 1)
        column.addLayout(grid)
        self.go = QPushButton("Split")
        self.go.setObjectName("split_go")
        self.go.clicked.connect(self._go)
        column.addWidget(self.go)
        self.trouble = caption("", "quiet", name="split_trouble", wrap=True)
        column.insertWidget(column.count() - 1, self.trouble)
        self.pegs.toggled.connect(self._settle)
        for field in (self.count, self.diameter, self.length, self.clearance):
            field.valueChanged.connect(lambda _: self.changed.emit())
        self._settle(False)
        self.setFixedWidth(290)
        self.hide()

    def show_part(self, name: str) -> None:
        self.title.setText(f"Split {name}")
        self.adjustSize()

    def _settle(self, shown: bool) -> None:
        for field in (self.count, self.diameter, self.length, self.clearance):
            field.setEnabled(shown)
        self.changed.emit()

    @property
    def wish(self) -> PegWish | None:
        """The pegs that are asked for, None for none."""
        if not self.pegs.isChecked():
            return None
        return PegWish(int(self.count.value()), self.diameter.value(), self.length.value(), self.clearance.value())

    def tell(self, trouble: str) -> None:
        """Why it cannot be split so; empty where it can."""
        self.trouble.setText(trouble)
        self.trouble.setVisible(bool(trouble))
        self.go.setEnabled(not trouble)

    def _go(self) -> None:
        self.wanted.emit(self.wish)


def _length(value: float, low: float, high: float) -> NumberField:
    field = NumberField("mm", 2, low, high)
    field.setValue(value)
    field.setSingleStep(0.05 if high <= 10 else 0.5)
    return field
