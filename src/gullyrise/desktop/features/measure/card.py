"""What is measured now, at the foot of the traveller: figures with their uncertainty and method, parts along X, Y and Z."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QEnterEvent
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QWidget

from gullyrise.desktop.commands.buttons import dress, small
from gullyrise.desktop.widgets.figure_row import FigureRow
from gullyrise.desktop.widgets.pieces import caption, clear, column_box, row_box
from gullyrise.drawing.palette import Palette

if TYPE_CHECKING:
    from gullyrise.desktop.features.measure.controller import MeasureController

_MOST = 10


class LegButton(QPushButton):
    """One part of a way. pointed : whether the pointer or the focus is on it."""

    pointed = pyqtSignal(bool)

    def enterEvent(self, event: QEnterEvent | None) -> None:
        self.pointed.emit(True)

    def leaveEvent(self, event: QEvent | None) -> None:
        self.pointed.emit(False)

    def focusInEvent(self, event: object) -> None:
        super().focusInEvent(event)  # type: ignore[arg-type]
        self.pointed.emit(True)

    def focusOutEvent(self, event: object) -> None:
        super().focusOutEvent(event)  # type: ignore[arg-type]
        self.pointed.emit(False)


class MeasureCard(QWidget):
    """wanted : the id of an action;  fronted : the number of a figure;  leg_pointed : 0, 1, 2 or None."""

    wanted = pyqtSignal(str)
    fronted = pyqtSignal(int)
    leg_pointed = pyqtSignal(object)

    def __init__(self, measuring: MeasureController, palette: Palette) -> None:
        super().__init__()
        self._measuring, self._palette = measuring, palette
        self.setObjectName("measure_card")
        column = column_box(self, (10, 10, 8, 4), 4)
        head = QHBoxLayout()
        title = caption("MEASURE", "head")
        head.addWidget(title, 1)
        self.clicks = self._button("By clicks", "measure_clicks", "measure.clicks", "Clicks on the bench pick what is measured")
        self.clicks.setCheckable(True)
        self.places = self._button("Places", "measure_places", "measure.places", "Clicks on faces take places on them")
        self.places.setCheckable(True)
        for button in (self.clicks, self.places):
            head.addWidget(button)
        column.addLayout(head)
        self.title = caption(name="measure_title", wrap=True)
        column.addWidget(self.title)
        self._figures = column_box(spacing=0)
        column.addLayout(self._figures)
        self.legs_row = QWidget()
        legs = QGridLayout(self.legs_row)
        legs.setContentsMargins(0, 0, 0, 0)
        legs.setSpacing(3)
        self.legs: list[LegButton] = []
        for number, axis in enumerate("XYZ"):
            tip = f"The part along {axis}; point at it to see it on the bench"
            leg = LegButton()
            dress(leg, axis, f"measure_leg_{axis.lower()}", tip)
            leg.pointed.connect(lambda on, number=number: self.leg_pointed.emit(number if on else None))
            self.legs.append(leg)
            legs.addWidget(leg, 0, number)
        self.axes = self._button("", "measure_axes", "measure.axes", "Along the machine's axes, or the part's own")
        legs.addWidget(self.axes, 1, 0, 1, 3, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self.legs_row)
        self.method = caption("", "quiet", name="measure_method", wrap=True)
        column.addWidget(self.method)
        foot = row_box(spacing=3)
        self.keep = self._button("Keep", "measure_keep", "measure.keep", "Keep the figure in front as a dimension of the job")
        self.copy = self._button("Copy", "measure_copy", "measure.copy", "Copy the figures as text")
        self.unit = self._button("mm", "measure_unit", "measure.unit", "The next unit")
        self.drop = self._button("Let go", "measure_drop", "measure.drop", "Let go of what is picked")
        for button in (self.keep, self.copy, self.unit, self.drop):
            foot.addWidget(button)
        foot.addStretch(1)
        column.addLayout(foot)
        measuring.changed.connect(self.refresh)
        self.refresh()

    def _button(self, words: str, name: str, runs: str, tip: str) -> QPushButton:
        return small(words, name, tip, runs, do=lambda: self.wanted.emit(runs))

    def wear(self, palette: Palette) -> None:
        self._palette = palette
        self.refresh()

    def refresh(self) -> None:
        measuring = self._measuring
        self.clicks.setChecked(measuring.by_clicks)
        self.places.setVisible(measuring.by_clicks)
        self.places.setChecked(measuring.spots)
        held = bool(measuring.picks)
        self.title.setText(measuring.title() or "Pick one thing for its own figures, a second for what lies between.")
        self.title.setProperty("role", "" if held else "quiet")
        style = self.title.style()
        if style is not None:
            style.polish(self.title)
        self._show_figures()
        legs = measuring.legs()
        self.legs_row.setVisible(bool(legs))
        for button, leg in zip(self.legs, legs, strict=False):
            button.setText(f"{leg.name[-1]}  {measuring.words(leg)[0]}")
        self.axes.setText("Axes of the part" if measuring.own_axes else "Axes of the machine")
        figure = measuring.figure
        if measuring.trouble:
            self.method.setText(measuring.trouble)
        elif figure is not None:
            self.method.setText(f"{figure.method[:1].upper()}{figure.method[1:]}. {measuring.rounding}")
        else:
            self.method.setText("Finding out…" if held and measuring.taken is None else "")
        self.method.setVisible(bool(self.method.text()))
        self.unit.setText(measuring.unit_sign)
        for one in (self.keep, self.copy, self.unit, self.drop):
            one.setVisible(held)

    def _show_figures(self) -> None:
        clear(self._figures)
        for number, figure in enumerate(self._measuring.figures[:_MOST]):
            words, how = self._measuring.words(figure)
            row = FigureRow(self._palette, figure.name, words, how)
            row.setObjectName(f"figure_{number + 1}")
            row.setChecked(number == self._measuring.main)
            row.setToolTip(f"Show this figure on the bench: {figure.method}")
            row.clicked.connect(partial(self.fronted.emit, number))
            self._figures.addWidget(row)
