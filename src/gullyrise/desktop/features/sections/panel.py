"""The cut line at the foot of the bench, and what opens above it: the area curve a cut is dragged on, and the cut laid flat."""

from __future__ import annotations

from contextlib import contextmanager
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QSizePolicy, QVBoxLayout, QWidget

from gullyrise.core.measuring.figures import Figure, Quantity
from gullyrise.core.measuring.words import Wording, said
from gullyrise.core.report.section_figures import figures_of
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.features.sections.area_curve import AreaCurveRuler
from gullyrise.desktop.features.sections.flat_profile import FlatProfile
from gullyrise.desktop.widgets.number_field import NumberField
from gullyrise.desktop.widgets.pieces import ShyLabel, caption, column_box, fill, named, row_box
from gullyrise.drawing.palette import Palette

if TYPE_CHECKING:
    from collections.abc import Iterator

    from gullyrise.desktop.features.sections.controller import SectionsController

_CHIPS = 6
LINE = 30
"""Height of the cut line."""
_MOST_TILT = ((-89.99, 89.99), (-180.0, 180.0))
"""Degrees sideways and over: each direction has one reading."""


class SectionStrip(QWidget):
    """wanted : the id of an action;  moved, slab, tilted (about which direction, by how much), taken : what was set by hand
    speed_set : of a sweep, mm a second
    """

    wanted = pyqtSignal(str)
    moved = pyqtSignal(float)
    slab = pyqtSignal(float)
    tilted = pyqtSignal(int, float)
    taken = pyqtSignal(int)
    speed_set = pyqtSignal(float)

    def __init__(self, cutting: SectionsController, palette: Palette) -> None:
        super().__init__()
        self._cutting, self._palette = cutting, palette
        self._wording = Wording()
        self._shown: object = None
        self._shown_exact: object = None
        self.setObjectName("section_strip")
        self.setProperty("panel", True)
        row = row_box(self, (8, 6, 8, 6), 8)
        self.line = self._cut_line()
        self.controls = QWidget()
        self.controls.setFixedWidth(164)
        self.controls.setLayout(self._controls())
        row.addWidget(self.controls)
        self.ruler = AreaCurveRuler(palette)
        self.ruler.moved.connect(self._dragged)
        row.addWidget(self.ruler, 3)
        self._right = column_box(spacing=2)
        self.figures = caption("", "quiet", name="cut_figures", wrap=True)
        self.figures.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.profile = FlatProfile(palette)
        self._right.addWidget(self.figures)
        self._right.addWidget(self.profile, 1)
        row.addLayout(self._right, 4)
        cutting.changed.connect(self.refresh)
        cutting.measured.connect(self._show_measured)
        self.refresh()

    def _cut_line(self) -> QWidget:
        """One line at the foot of the bench: what opens a cut, and what is cut."""
        line = QWidget()
        named(line, "cut_line", "Cut line")
        line.setProperty("panel", True)
        line.setFixedHeight(LINE)
        row = row_box(line, (8, 2, 8, 2), 3)
        row.addWidget(caption("CUT", "head"))
        row.addSpacing(5)
        self.axes: list[QPushButton] = []
        for letter in "xyz":
            tip = f"Cut across {letter.upper()}; again closes that cut"
            button = small(letter.upper(), f"cut_{letter}", tip, f"cut.{letter}")
            button.setCheckable(True)
            button.clicked.connect(lambda checked, id=f"cut.{letter}": self.wanted.emit(id if checked else "cut.close"))
            self.axes.append(button)
            row.addWidget(button)
        row.addWidget(self._button("Face", "cut_face", "cut.face", "Cut on the selected face"))
        self.position = _number("cut_position", "Position of the cut", "mm", 3, -1e6, 1e6)
        self.position.setFixedWidth(90)
        self.position.valueChanged.connect(self.moved)
        self.flip_button = self._button("Flip", "cut_flip", "cut.flip", "Show the other side")
        row.addWidget(self.position)
        row.addWidget(self.flip_button)
        self.chips: list[QPushButton] = []
        for number in range(_CHIPS):
            chip = small(str(number + 1), f"cut_chip_{number + 1}", f"Cut {number + 1}", "cut.next")
            chip.setCheckable(True)
            chip.clicked.connect(lambda _, number=number: self.taken.emit(number))
            self.chips.append(chip)
            row.addWidget(chip)
        self.more = self._button("+", "cut_more", "cut.more", "Add a cut")
        row.addWidget(self.more)
        self.hint = ShyLabel("X, Y or Z opens the parts along a plane.", "quiet", "cut_hint")
        row.addSpacing(5)
        row.addWidget(self.hint, 1)
        self._rest = QWidget()
        row.addWidget(self._rest, 1)
        self.uses = [
            self._button(words, name, runs, tip)
            for words, name, runs, tip in (
                ("Split", "cut_split", "cut.split", "Split the part along this cut"),
                ("Large", "cut_profile", "cut.profile", "Lay the cut over the bench"),
                ("Save", "cut_export", "cut.export", "Save the section as a drawing"),
            )
        ]
        for button in self.uses:
            row.addWidget(button)
        return line

    def _controls(self) -> QVBoxLayout:
        """What a cut may be besides its place, beside its curve."""
        column = column_box(margins=(0, 0, 0, 0), spacing=4)
        self.sweep = self._button("Sweep", "cut_sweep", "cut.sweep", "Move the cut to and fro")
        self.sweep.setCheckable(True)
        self.speed = _number("cut_speed", "Speed of a sweep", "mm/s", 1, 0.1, 1000)
        self.speed.valueChanged.connect(self.speed_set)
        self.slab_button = self._button("Slab", "cut_slab", "cut.slab", "Keep only a slab")
        self.slab_button.setCheckable(True)
        self.thickness = _number("cut_depth", "Thickness of the slab", "mm", 3, 0.0, 1e6)
        self.thickness.valueChanged.connect(self.slab)
        for button, field in ((self.sweep, self.speed), (self.slab_button, self.thickness)):
            button.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
            column.addLayout(fill(row_box(spacing=4), button, field))
        self.tilts: list[NumberField] = []
        for direction, name in enumerate(("sideways", "over")):
            turn = _number(f"cut_tilt_{name}", f"Tilt {name}", "°", 2, *_MOST_TILT[direction])
            turn.setToolTip(f"How far the plane leans {name} from how it was opened")
            turn.valueChanged.connect(lambda value, direction=direction: self.tilted.emit(direction, value))
            words = caption(f"Tilt {name}", "quiet")
            self.tilts.append(turn)
            row = row_box(spacing=4)
            row.addWidget(words, 1)
            turn.setFixedWidth(68)
            row.addWidget(turn)
            column.addLayout(row)
        column.addStretch(1)
        return column

    def _button(self, words: str, name: str, runs: str, tip: str) -> QPushButton:
        return small(words, name, tip, runs, do=lambda: self.wanted.emit(runs))

    def take_profile(self) -> None:
        """The flat profile back in its place."""
        self._right.addWidget(self.profile, 1)

    def wear(self, palette: Palette) -> None:
        self._palette, self._shown = palette, None
        self.refresh()

    def word(self, wording: Wording) -> None:
        """How figures are to be written."""
        self._wording = wording
        self.profile.word(wording)
        self._shown = None
        self.refresh()

    def show_speed(self, speed: float) -> None:
        with _quiet(self.speed):
            self.speed.setValue(speed)

    def _dragged(self, position: float) -> None:
        if self._cutting.cut is None:
            self.wanted.emit("cut.z")
        self.moved.emit(position)

    def refresh(self) -> None:
        cutting = self._cutting
        cut = cutting.cut
        self.setEnabled(cutting.box() is not None)
        for number, chip in enumerate(self.chips):
            chip.setVisible(len(cutting.cuts) > 1 and number < len(cutting.cuts))
            chip.setChecked(number == cutting.active)
        self.hint.setVisible(cut is None)
        self._rest.setVisible(cut is not None)
        self.line.setEnabled(cutting.box() is not None)
        for widget in (self.more, self.position, self.flip_button, *self.uses):
            widget.setVisible(cut is not None)
        for axis, button in enumerate(self.axes):
            button.setChecked(cut is not None and cut.axis == axis)
        self.sweep.setChecked(cutting.sweep.running)
        self.slab_button.setChecked(cut is not None and cut.depth is not None)
        self.thickness.setEnabled(cut is not None and cut.depth is not None)
        shown = [(self.position, cut.position if cut else 0.0), (self.thickness, (cut.depth if cut else 0.0) or 0.0)]
        for field, value in (*shown, *zip(self.tilts, cut.tilt if cut else (0.0, 0.0), strict=True)):
            if not field.hasFocus() or cutting.sweep.running or not field.lineEdit().isModified():  # type: ignore[union-attr]
                with _quiet(field):
                    # What rounds to nothing has no sign.
                    field.setValue(round(value, field.decimals()) + 0.0)
        low, high = cutting.reach()
        self.ruler.show_range(low, high)
        self.ruler.show_position(cut, self._palette)
        self._show_measured()

    def _show_measured(self) -> None:
        cutting = self._cutting
        self.ruler.show_curve(cutting.curve if cutting.cut is not None else None)
        if cutting.section is self._shown and cutting.exact is self._shown_exact and self._shown is not None:
            return
        self._shown, self._shown_exact = cutting.section, cutting.exact
        self.profile.show_cut(cutting, self._palette)
        self.figures.setText(self._words())
        self.figures.setToolTip(self._all_figures())

    def _words(self) -> str:
        cutting = self._cutting
        if cutting.cut is None:
            return ""
        if cutting.trouble:
            return cutting.trouble
        if cutting.beyond:
            low, high = (self._said(end, "length") for end in cutting.reach())
            return f"Nothing is here to cut: what is in view lies from {low} to {high}."
        if cutting.section is None:
            return "Measuring the cut…" if cutting.stands() else "Nothing is in view that this cut goes through."
        found, exact = cutting.section, cutting.exact
        area, outline = (exact.area, exact.perimeter) if exact is not None else (found.area, found.perimeter)
        how = "exact" if exact is not None else "triangles"
        if not (area or outline or found.open_length):
            return "Nothing is cut here."
        words = [f"{self._said(area, 'area')} {how}", f"perimeter {self._said(outline, 'length')}"]
        if found.open_length:
            words.append(f"open {self._said(found.open_length, 'length')}")
        return "  ".join(words)

    def _all_figures(self) -> str:
        section = self._cutting.section
        rows = figures_of(section, self._cutting.exact) if section is not None else []
        return "\n".join(f"{name}  {value:,.4f} {unit}" for name, value, unit in rows) or "What the cut shows"

    def _said(self, value: float, quantity: Quantity) -> str:
        return said(Figure("", value, quantity, 0.0, ""), Wording(self._wording.unit, min(self._wording.digits, 2)))


def _number(name: str, words: str, unit: str, digits: int, low: float, high: float) -> NumberField:
    field = NumberField(unit, digits, low, high)
    named(field, name, words, words)
    field.setProperty("small", True)
    field.setMinimumWidth(40)
    return field


@contextmanager
def _quiet(field: NumberField) -> Iterator[None]:
    """What is shown is not what somebody set."""
    field.blockSignals(True)
    yield
    field.blockSignals(False)
