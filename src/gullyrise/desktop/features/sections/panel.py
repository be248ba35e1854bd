"""The section strip: the cuts that are open, the one in hand typed or dragged on its area curve, and what it shows laid flat."""

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
from gullyrise.desktop.widgets.pieces import caption, column_box, named, row_box
from gullyrise.drawing.palette import Palette

if TYPE_CHECKING:
    from collections.abc import Iterator

    from gullyrise.desktop.features.sections.controller import SectionsController

_CHIPS = 6
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
        row = row_box(self, (12, 4, 12, 4), 12)
        left = QWidget()
        left.setFixedWidth(264)
        left.setLayout(self._controls())
        row.addWidget(left)
        self.ruler = AreaCurveRuler(palette)
        self.ruler.moved.connect(self._dragged)
        row.addWidget(self.ruler, 1)
        right = QWidget()
        right.setFixedWidth(320)
        right.setLayout(self._flat())
        row.addWidget(right)
        cutting.changed.connect(self.refresh)
        cutting.measured.connect(self._show_measured)
        self.refresh()

    def _controls(self) -> QVBoxLayout:
        column = column_box(margins=(0, 0, 0, 0), spacing=3)
        top = row_box(spacing=3)
        head = caption("SECTION", "head")
        top.addWidget(head, 1)
        self.chips: list[QPushButton] = []
        for number in range(_CHIPS):
            chip = small(str(number + 1), f"cut_chip_{number + 1}", f"Take cut {number + 1} in hand", "cut.next")
            chip.setCheckable(True)
            chip.clicked.connect(lambda _, number=number: self.taken.emit(number))
            self.chips.append(chip)
            top.addWidget(chip)
        self.more = self._button("+", "cut_more", "cut.more", "One more cut")
        top.addWidget(self.more)
        column.addLayout(top)
        axes = row_box(spacing=3)
        self.axes: list[QPushButton] = []
        for letter in "xyz":
            tip = f"Cut across {letter.upper()}; again closes that cut"
            button = small(letter.upper(), f"cut_{letter}", tip, f"cut.{letter}")
            button.setCheckable(True)
            button.clicked.connect(lambda checked, id=f"cut.{letter}": self.wanted.emit(id if checked else "cut.close"))
            self.axes.append(button)
            axes.addWidget(button)
        axes.addWidget(self._button("Face", "cut_face", "cut.face", "Cut on the chosen face"))
        self.flip_button = self._button("Flip", "cut_flip", "cut.flip", "Show the other side")
        axes.addWidget(self.flip_button)
        column.addLayout(axes)
        place = row_box(spacing=3)
        self.position = _number("cut_position", "Position of the cut", "mm", 3, -1e6, 1e6)
        self.position.valueChanged.connect(self.moved)
        place.addWidget(self.position, 1)
        self.sweep = self._button("Sweep", "cut_sweep", "cut.sweep", "Move the cut to and fro")
        self.sweep.setCheckable(True)
        place.addWidget(self.sweep)
        self.speed = _number("cut_speed", "Speed of a sweep", "mm/s", 1, 0.1, 1000)
        self.speed.setFixedWidth(74)
        self.speed.valueChanged.connect(self.speed_set)
        place.addWidget(self.speed)
        column.addLayout(place)
        lower = row_box(spacing=3)
        self.slab_button = self._button("Slab", "cut_slab", "cut.slab", "Keep only a slab")
        self.slab_button.setCheckable(True)
        lower.addWidget(self.slab_button)
        self.thickness = _number("cut_depth", "Thickness of the slab", "mm", 3, 0.0, 1e6)
        self.thickness.valueChanged.connect(self.slab)
        lower.addWidget(self.thickness, 1)
        self.tilts: list[NumberField] = []
        for direction, name in enumerate(("sideways", "over")):
            turn = _number(f"cut_tilt_{name}", f"Tilt {name}", "°", 2, *_MOST_TILT[direction])
            turn.setPrefix("tilt " if not direction else "")
            turn.setToolTip(f"How far the plane leans {name} from how it was opened")
            turn.setFixedWidth(74 if not direction else 52)
            turn.valueChanged.connect(lambda value, direction=direction: self.tilted.emit(direction, value))
            self.tilts.append(turn)
            lower.addWidget(turn)
        column.addLayout(lower)
        return column

    def _flat(self) -> QVBoxLayout:
        column = self._right = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        self.profile = FlatProfile(self._palette)
        column.addWidget(self.profile, 1)
        foot = row_box(spacing=3)
        self.figures = caption("", "quiet", name="cut_figures")
        self.figures.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        foot.addWidget(self.figures, 1)
        for words, name, runs, tip in (
            ("Split", "cut_split", "cut.split", "Split the part along this cut"),
            ("Large", "cut_profile", "cut.profile", "Lay the cut over the bench"),
            ("Save", "cut_export", "cut.export", "Save the section as a drawing"),
        ):
            foot.addWidget(self._button(words, name, runs, tip))
        column.addLayout(foot)
        return column

    def _button(self, words: str, name: str, runs: str, tip: str) -> QPushButton:
        return small(words, name, tip, runs, do=lambda: self.wanted.emit(runs))

    def take_profile(self) -> None:
        """The flat profile back in its place."""
        self._right.insertWidget(0, self.profile, 1)

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
        self.more.setVisible(cut is not None)
        for axis, button in enumerate(self.axes):
            button.setChecked(cut is not None and cut.axis == axis)
        for widget in (self.flip_button, self.position, self.sweep, self.speed, self.slab_button, self.thickness, *self.tilts):
            widget.setEnabled(cut is not None)
        self.sweep.setChecked(cutting.sweep.running)
        self.slab_button.setChecked(cut is not None and cut.depth is not None)
        self.thickness.setEnabled(cut is not None and cut.depth is not None)
        shown = [(self.position, cut.position if cut else 0.0), (self.thickness, (cut.depth if cut else 0.0) or 0.0)]
        for field, value in (*shown, *zip(self.tilts, cut.tilt if cut else (0.0, 0.0), strict=True)):
            if not field.hasFocus() or cutting.sweep.running or not field.lineEdit().isModified():  # type: ignore[union-attr]
                with _quiet(field):
                    field.setValue(value)
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
            return "No cut. X, Y or Z opens one."
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
            return "Nothing is cut here: the plane goes between what is in view."
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
