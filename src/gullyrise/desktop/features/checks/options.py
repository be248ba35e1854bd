"""What else can be set of a check, and what it can be asked to do: a small form in its opened row."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from gullyrise.core.machines import Limits
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.widgets.number_field import NumberField

_UNITS = {"overhang_angle": "°", "min_region_area": "mm²"}
_ANGLE = "overhang_angle"


@dataclass(frozen=True, slots=True)
class _Option:
    """limit : its name;  words : before the field;  off : what nothing means, for limits that may be left out"""

    limit: str
    words: str
    off: str = ""


_OPTIONS: dict[str, tuple[_Option, ...]] = {
    "walls": (_Option("max_wall", "at most", "any"), _Option("min_gap", "slots at least")),
    "overhangs": (_Option("min_region_area", "regions from"),),
    "access": (_Option("tool_reach", "reach"), _Option("min_region_area", "regions from")),
}
_DOES: dict[str, tuple[tuple[str, str, str], ...]] = {
    "walls": (
        ("Thinnest places", "check.thinnest", "List the thinnest places, whatever the limit"),
        ("Cut through the ball", "check.ball-cut", "Cut the part through the ball of the flagged place"),
    ),
    "clearances": (("Matrix of pairs", "check.matrix", "Show every pair, and say what is wanted of each"),),
    "access": (
        ("Fewest set-ups", "check.setups", "Find the fewest set-ups that touch all that any can"),
        ("Set-up from the face", "check.setup-from-face", "The tool comes straight at the chosen face"),
    ),
}


def limit_field(name: str, words: str) -> NumberField:
    """A field for a limit, right-aligned with its unit."""
    high = 90.0 if name == _ANGLE else 1e6 if name == "min_region_area" else 1000.0
    field = NumberField(_UNITS.get(name, "mm"), 1 if name in _UNITS else 2, 0.0, high)
    field.setObjectName(f"limit_{name}")
    field.setAccessibleName(words)
    field.setToolTip(f"{name.replace('_', ' ').capitalize()}: change it and what depends on it is judged again")
    field.setSingleStep(1.0 if name in _UNITS else 0.05)
    field.setFixedWidth(84)
    field.setCursor(Qt.CursorShape.IBeamCursor)
    return field


class CheckOptions(QWidget):
    """limit_set : (limit, value or None);  wanted : the id of an action"""

    limit_set = pyqtSignal(str, object)
    wanted = pyqtSignal(str)

    def __init__(self, check: str) -> None:
        super().__init__()
        self.setObjectName(f"options_{check}")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setColumnStretch(0, 1)
        self._fields: dict[str, tuple[_Option, NumberField]] = {}
        for number, option in enumerate(_OPTIONS.get(check, ())):
            words = QLabel(option.words)
            words.setProperty("role", "quiet")
            field = limit_field(option.limit, f"{option.words} {option.limit.replace('_', ' ')}")
            field.setObjectName(f"option_{check}_{option.limit}")
            if option.off:
                field.setSpecialValueText(option.off)
            field.valueChanged.connect(lambda value, option=option: self._set(option, value))
            grid.addWidget(words, number, 0, Qt.AlignmentFlag.AlignRight)
            grid.addWidget(field, number, 1)
            self._fields[option.limit] = (option, field)
        self.setups: QLineEdit | None = None
        if check == "access":
            words = QLabel("set-ups")
            words.setProperty("role", "quiet")
            self.setups = QLineEdit()
            self.setups.setObjectName("option_access_setups")
            self.setups.setAccessibleName("Set-up directions")
            self.setups.setToolTip("From where the tool comes: +z -x, or three numbers as 0,-1,1; a blank between two")
            self.setups.setFixedWidth(130)
            self.setups.editingFinished.connect(self._set_setups)
            grid.addWidget(words, len(self._fields), 0, Qt.AlignmentFlag.AlignRight)
            grid.addWidget(self.setups, len(self._fields), 1)
        column.addLayout(grid)
        for words_, runs, tip in _DOES.get(check, ()):
            button = small(QPushButton(), words_, f"does_{runs.replace('.', '_')}", tip, runs)
            button.clicked.connect(lambda _, runs=runs: self.wanted.emit(runs))
            column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)

    def show_limits(self, limits: Limits) -> None:
        for name, (_, field) in self._fields.items():
            if not field.hasFocus():
                field.blockSignals(True)
                field.setValue(getattr(limits, name) or 0.0)
                field.blockSignals(False)
        if self.setups is not None and not self.setups.hasFocus():
            self.setups.setText(" ".join(limits.setups or ()))

    def _set(self, option: _Option, value: float) -> None:
        self.limit_set.emit(option.limit, None if option.off and value == 0 else value)

    def _set_setups(self) -> None:
        if self.setups is not None and self.setups.isModified():
            self.setups.setModified(False)
            self.limit_set.emit("setups", tuple(self.setups.text().split()))
