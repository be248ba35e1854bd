"""The section strip: axis, position typed or dragged on the area curve, flip, and the cut laid flat."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QAbstractSpinBox, QButtonGroup, QDoubleSpinBox, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from gullyrise.core.cutting import Section
from gullyrise.core.geometry import Floats, Plane
from gullyrise.desktop.actions import named_keys
from gullyrise.desktop.bench.scene import CutPlane
from gullyrise.desktop.bench_job import BenchJob
from gullyrise.desktop.crew import Crew, Errand
from gullyrise.desktop.instruments.area_curve import AreaCurveRuler
from gullyrise.desktop.instruments.flat_profile import FlatProfile
from gullyrise.desktop.placed import placed_box
from gullyrise.desktop.theme.palette import Palette
from gullyrise.workers.work import AreaAlong, CutPlaced

_SETTLE_MS = 120


class SectionStrip(QWidget):
    """cut_changed : the plane that the bench clips by, or None."""

    cut_changed = pyqtSignal(object)

    def __init__(self, model: BenchJob, crew: Crew, palette: Palette, towards_eye: Callable[[], Floats]) -> None:
        super().__init__()
        self._model, self._crew, self._palette = model, crew, palette
        self._towards_eye = towards_eye
        self.setObjectName("section_strip")
        self.setProperty("panel", True)
        self.cut: CutPlane | None = None
        self.section: Section | None = None
        self._axis = 2
        self._errand: Errand | None = None
        self._curve_errand: Errand | None = None
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.setInterval(_SETTLE_MS)
        self._settle.timeout.connect(self._measure)
        self._build()
        model.job_changed.connect(self._job_changed)
        model.selection_changed.connect(self._job_changed)
        self._job_changed()

    def _build(self) -> None:
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 12, 6)
        row.setSpacing(12)
        left = QVBoxLayout()
        left.setSpacing(4)
        head = QLabel("SECTION")
        head.setProperty("role", "head")
        left.addWidget(head)
        axes = QHBoxLayout()
        axes.setSpacing(4)
        self.axes = QButtonGroup(self)
        self.axes.setExclusive(False)
        for axis, letter in enumerate("XYZ"):
            button = QPushButton(letter)
            button.setObjectName(f"cut_{letter.lower()}")
            button.setCheckable(True)
            button.setFixedWidth(38)
            button.setAccessibleName(f"Cut across {letter}")
            named_keys.tip(button, f"cut.{letter.lower()}", f"Cut across {letter}; again to close the cut")
            button.clicked.connect(lambda checked, axis=axis: self.cut_across(axis) if checked else self.close_cut())
            self.axes.addButton(button, axis)
            axes.addWidget(button)
        self.flip_button = QPushButton("Flip")
        self.flip_button.setObjectName("cut_flip")
        named_keys.tip(self.flip_button, "cut.flip", "Show the other side")
        self.flip_button.clicked.connect(self.flip)
        axes.addWidget(self.flip_button)
        left.addLayout(axes)
        self.position = QDoubleSpinBox()
        self.position.setObjectName("cut_position")
        self.position.setAccessibleName("Position of the cut")
        self.position.setDecimals(3)
        self.position.setRange(-1e6, 1e6)
        self.position.setSuffix(" mm")
        self.position.setKeyboardTracking(False)
        self.position.setButtonSymbols(QAbstractSpinBox.ButtonSymbols.NoButtons)
        self.position.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.position.valueChanged.connect(self.move_to)
        left.addWidget(self.position)
        row.addLayout(left)
        self.ruler = AreaCurveRuler(self._palette)
        self.ruler.moved.connect(self.move_to)
        row.addWidget(self.ruler, 1)
        right = QVBoxLayout()
        right.setSpacing(2)
        self.figures = QLabel()
        self.figures.setObjectName("cut_figures")
        self.profile = FlatProfile(self._palette)
        right.addWidget(self.profile, 1)
        right.addWidget(self.figures)
        row.addLayout(right)

    def wear(self, palette: Palette) -> None:
        self._palette = palette
        self._show()

    # --- wishes ----------------------------------------------------------------------------------------------------

    def cut_across(self, axis: int) -> None:
        """Cuts in the middle of what is in view, or moves an open cut to another axis."""
        box = placed_box(self._model.in_view())
        if box is None:
            self.close_cut()
            return
        self._axis = axis
        # What stands before the cut, as seen now, goes away.
        self.cut = CutPlane(axis, float(box.middle[axis]), bool(self._towards_eye()[axis] < 0))
        self._ask_curve()
        self._changed()

    def move_to(self, position: float) -> None:
        if self.cut is None:
            self.cut_across(self._axis)
        if self.cut is not None and position != self.cut.position:
            self.cut = CutPlane(self.cut.axis, float(position), self.cut.flipped)
            self._changed()

    def flip(self) -> None:
        if self.cut is not None:
            self.cut = CutPlane(self.cut.axis, self.cut.position, not self.cut.flipped)
            self._changed()

    def close_cut(self) -> None:
        self.cut, self.section = None, None
        self._changed()

    # --- following -------------------------------------------------------------------------------------------------

    def _job_changed(self) -> None:
        box = placed_box(self._model.in_view())
        self.setEnabled(box is not None)
        if box is None and self.cut is not None:
            self.close_cut()
            return
        if box is not None:
            self.ruler.show_range(float(box.low[self._axis]), float(box.high[self._axis]))
        if self.cut is not None:
            self._ask_curve()
            self._settle.start()
        self._show()

    def _changed(self) -> None:
        self._settle.start()
        self._show()
        self.cut_changed.emit(self.cut)

    def _show(self) -> None:
        for axis in range(3):
            button = self.axes.button(axis)
            if button is not None:
                button.setChecked(self.cut is not None and self.cut.axis == axis)
        self.flip_button.setEnabled(self.cut is not None)
        self.position.blockSignals(True)
        if self.cut is not None:
            self.position.setValue(self.cut.position)
        self.position.setEnabled(self.cut is not None)
        self.position.blockSignals(False)
        self.ruler.show_position(None if self.cut is None else self.cut.position, self._palette)
        self.profile.show_section(self.section, self._palette)
        if self.cut is None:
            self.figures.setText("No cut. X, Y or Z opens one.")
        elif self.section is None:
            self.figures.setText("Measuring the cut…")
        else:
            still_open = f"   open {self.section.open_length:.2f} mm" if self.section.open_length else ""
            self.figures.setText(f"{self.section.area:,.2f} mm²   outline {self.section.perimeter:,.2f} mm{still_open}")

    def _stands(self) -> tuple[Any, ...]:
        return tuple((standing.part, standing.placement) for standing in self._model.in_view())

    def _measure(self) -> None:
        """The section's figures, in a worker; an older question is dropped."""
        if self._errand is not None:
            self._crew.cancel(self._errand)
            self._errand = None
        if self.cut is None or not self._model.job.standings:
            return
        plane = Plane.across(self.cut.axis, self.cut.position)
        self._errand = self._crew.send(
            CutPlaced(self._stands(), plane), self._measured, lambda error: self.figures.setText(str(error)), first=True
        )

    def _measured(self, section: Section) -> None:
        self._errand = None
        self.section = section
        self._show()

    def _ask_curve(self) -> None:
        if self._curve_errand is not None:
            self._crew.cancel(self._curve_errand)
        box = placed_box(self._model.in_view())
        if box is not None:
            self.ruler.show_range(float(box.low[self._axis]), float(box.high[self._axis]))
        self._curve_errand = self._crew.send(
            AreaAlong(self._stands(), self._axis), self._curve_found, lambda error: self.figures.setText(str(error)), first=True
        )

    def _curve_found(self, curve: Any) -> None:
        self._curve_errand = None
        self.ruler.show_curve(curve)
