"""Suggested orientations: ways in which the chosen part could stand, with a picture each and what each would cost."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon, QImage, QPixmap
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from gullyrise.core.number_words import number
from gullyrise.core.placing.suggesting import PICTURE, Suggestion
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.commands.floating_form import FloatingForm
from gullyrise.desktop.widgets.pieces import caption, named
from gullyrise.drawing.arrays import image_over
from gullyrise.drawing.palette import Palette

_HEADS = ("Orientation", "Support mm³", "Overhang mm²", "Height mm", "Base mm²", "Fits", "Stands")
_WIDE = (102, 90, 98, 74, 72, 42, 54)
_MARKED = 1.5


class Suggestions(FloatingForm):
    """applied : the number of a way;  compared : whether it is shown as it was before;  closed : no longer wanted."""

    applied = pyqtSignal(int)
    compared = pyqtSignal(bool)

    def __init__(self, palette: Palette, parent: QWidget) -> None:
        super().__init__(parent, "suggestions", "Suggested orientations", ("suggestions_close", "Close the suggestions"))
        self._palette = palette
        self._ways: tuple[Suggestion, ...] = ()
        self._name = ""
        column = self._column
        self.words = caption(
            "Those with a foot first, by support; then what stands by itself, overhang, height, base.", "quiet", wrap=True
        )
        column.addWidget(self.words)
        self.table = QTableWidget(0, len(_HEADS))
        named(self.table, "suggestion_table", "Suggested orientations")
        self.table.setHorizontalHeaderLabels(_HEADS)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setShowGrid(False)
        self.table.setIconSize(QSize(*PICTURE))
        vertical, across = self.table.verticalHeader(), self.table.horizontalHeader()
        if vertical is not None and across is not None:
            vertical.hide()
            vertical.setDefaultSectionSize(56)
            across.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
            for number, width in enumerate(_WIDE):
                across.resizeSection(number, width)
        self.table.itemDoubleClicked.connect(lambda _: self._apply())
        self.table.itemSelectionChanged.connect(self._settle)
        column.addWidget(self.table, 1)
        foot = QHBoxLayout()
        self.apply = small("Apply", "suggestion_apply", "Stand the part so; undo brings it back", do=self._apply)
        self.compare = small("Compare with before", "suggestion_compare", "Hold down to see it as it stood before")
        self.compare.pressed.connect(lambda: self.compared.emit(True))
        self.compare.released.connect(lambda: self.compared.emit(False))
        foot.addWidget(self.apply)
        foot.addWidget(self.compare)
        foot.addStretch(1)
        column.addLayout(foot)
        self.setMinimumWidth(240)
        self.hide()

    @property
    def wanted_width(self) -> int:
        """px, for all columns to be seen."""
        return sum(_WIDE) + 34

    @property
    def ways(self) -> tuple[Suggestion, ...]:
        return self._ways

    def wear(self, palette: Palette) -> None:
        self._palette = palette
        if self._ways:
            self.show_ways(self._name, self._ways, applied=self.compare.isEnabled())

    def show_waiting(self, name: str) -> None:
        self._ways, self._name = (), name
        self.title.setText(f"Orientations of {name}")
        self.table.setRowCount(0)
        self.words.setText("Being measured…")
        self._settle()
        self.show()
        self.raise_()

    def show_ways(self, name: str, ways: tuple[Suggestion, ...], *, applied: bool) -> None:
        """applied : whether one of them has been, so that there is a before to compare with."""
        self._ways, self._name = ways, name
        self.title.setText(f"Orientations of {name}")
        self.words.setText("Those with a foot first, by support; then what stands by itself, overhang, height, base.")
        self.table.setRowCount(len(ways))
        for row, way in enumerate(ways):
            first = QTableWidgetItem()
            first.setIcon(_icon(way.picture, self._palette))
            first.setData(Qt.ItemDataRole.AccessibleTextRole, f"Orientation {row + 1}")
            self.table.setItem(row, 0, first)
            words = tuple(number(one) for one in (way.support, way.overhang, way.height, way.base))
            for column, text in enumerate((*words, "yes" if way.fits else "no", "yes" if way.stands else "no"), 1):
                item = QTableWidgetItem(text)
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                if column == 5 and not way.fits:
                    item.setForeground(self._palette.colour("failed"))
                self.table.setItem(row, column, item)
        if ways:
            self.table.selectRow(0)
        self._settle(applied)

    def _settle(self, applied: bool | None = None) -> None:
        self.apply.setEnabled(bool(self._ways) and self.chosen() is not None)
        if applied is not None:
            self.compare.setEnabled(applied)

    def chosen(self) -> int | None:
        rows = {index.row() for index in self.table.selectedIndexes()}
        return next(iter(rows)) if len(rows) == 1 else None

    def _apply(self) -> None:
        row = self.chosen()
        if row is not None:
            self.applied.emit(row)
            self.compare.setEnabled(True)


def _icon(picture: np.ndarray, palette: Palette) -> QIcon:
    """The picture of a way in the theme's colours; what wants support in that of failing."""
    high, wide = picture.shape
    colours = (palette.colour("part"), palette.colour("failed"))
    part, over = (np.array([colour.red(), colour.green(), colour.blue()]) for colour in colours)
    marked = picture > _MARKED
    bright = np.where(marked, picture - 2.0, picture)
    pixels = np.zeros((high, wide, 4), dtype=np.uint8)
    seen = np.isfinite(picture)
    base = np.where(marked[..., None], over, part)
    pixels[..., :3] = np.clip(np.nan_to_num(base * (0.45 + 0.65 * bright[..., None])), 0, 255)
    pixels[..., 3] = np.where(seen, 255, 0)
    image = image_over(pixels, QImage.Format.Format_RGBA8888).copy()
    return QIcon(QPixmap.fromImage(image))
