"""What else can be set of a check, and what it can be asked to do: a small form in its opened row, as the check itself says."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QLineEdit, QPushButton, QWidget

from gullyrise.core.checks.protocol import Row
from gullyrise.core.machines import Limits
from gullyrise.core.machines.limit_rows import LimitRow
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.widgets.number_field import NumberField
from gullyrise.desktop.widgets.pieces import caption, column_box, named

LIMIT_WIDTH = 80


def limit_field(limit: LimitRow, words: str) -> NumberField:
    """A field for a limit, right-aligned with its unit."""
    field = NumberField(limit.unit, limit.digits, limit.low, limit.high)
    named(field, f"limit_{limit.name}", words)
    changes = "change it and what depends on it is judged again"
    field.setToolTip(f"{limit.tip or limit.name.replace('_', ' ').capitalize()}: {changes}")
    field.setSingleStep(limit.step)
    field.setProperty("limit", True)
    field.setFixedWidth(LIMIT_WIDTH)
    field.setCursor(Qt.CursorShape.IBeamCursor)
    if limit.off:
        field.setSpecialValueText(limit.off)
    return field


class CheckOptions(QWidget):
    """limit_set : (limit, value or None);  wanted : the id of an action"""

    limit_set = pyqtSignal(str, object)
    wanted = pyqtSignal(str)

    def __init__(self, row: Row) -> None:
        super().__init__()
        self.setObjectName(f"options_{row.id}")
        column = column_box(self, (0, 0, 0, 0), 3)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setColumnStretch(0, 1)
        self.numbers: dict[str, NumberField] = {}
        self.words: dict[str, QLineEdit] = {}
        for place, limit in enumerate(row.options):
            before = caption(limit.words, "quiet")
            field = self._number(limit) if limit.kind == "number" else self._several(limit)
            field.setObjectName(f"option_{row.id}_{limit.name}")
            grid.addWidget(before, place, 0, Qt.AlignmentFlag.AlignRight)
            grid.addWidget(field, place, 1)
        column.addLayout(grid)
        self.deeds: dict[str, QPushButton] = {}
        for deed in row.deeds:
            button = self.deeds[deed.action] = small(
                deed.words,
                f"does_{deed.action.replace('.', '_')}",
                deed.tip,
                deed.action,
                do=lambda _, runs=deed.action: self.wanted.emit(runs),
            )
            column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)

    def _number(self, limit: LimitRow) -> NumberField:
        field = self.numbers[limit.name] = limit_field(limit, f"{limit.words} {limit.name.replace('_', ' ')}")
        field.valueChanged.connect(
            lambda value: self.limit_set.emit(limit.name, None if limit.off and value == limit.low else value)
        )
        return field

    def _several(self, limit: LimitRow) -> QLineEdit:
        field = self.words[limit.name] = QLineEdit()
        field.setAccessibleName(limit.words.capitalize())
        field.setToolTip(limit.tip)
        field.setFixedWidth(130)

        def take() -> None:
            if field.isModified():
                field.setModified(False)
                self.limit_set.emit(limit.name, tuple(field.text().split()))

        field.editingFinished.connect(take)
        return field

    def offer(self, actions: frozenset[str]) -> None:
        """Shows the buttons of these actions alone."""
        for action, button in self.deeds.items():
            button.setVisible(action in actions)

    def show_limits(self, limits: Limits) -> None:
        for name, field in self.numbers.items():
            if not field.hasFocus():
                field.blockSignals(True)
                field.setValue(limits.value(name) or 0.0)
                field.blockSignals(False)
        for name, words in self.words.items():
            if not words.hasFocus():
                words.setText(" ".join(limits.value(name) or ()))
