"""Files, their bodies and copies: name, count, size, stamp."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QItemSelectionModel, Qt, pyqtSignal
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gullyrise.core.job import Standing
from gullyrise.desktop.actions import named_keys
from gullyrise.desktop.bench_job import BenchJob
from gullyrise.desktop.instruments.stamp import WORDS, stamp_picture
from gullyrise.desktop.theme.palette import Palette

_ID = Qt.ItemDataRole.UserRole
_KEYS = Qt.ItemDataRole.UserRole + 1


class PartsPanel(QWidget):
    """Selection is shared with the bench; `selected` gives keys of bodies, `remove_wanted` asks to remove their parts."""

    selected = pyqtSignal(object)
    remove_wanted = pyqtSignal()

    def __init__(self, model: BenchJob, palette: Palette) -> None:
        super().__init__()
        self._model, self._palette = model, palette
        self.setObjectName("parts_panel")
        self.setProperty("panel", True)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 8, 4, 8)
        column.setSpacing(6)
        head = QLabel("PARTS")
        head.setProperty("role", "head")
        self.remove = QPushButton("Remove")
        self.remove.setObjectName("parts_remove")
        named_keys.tip(self.remove, "bodies.remove", "Remove the selected parts from the job")
        self.remove.setProperty("flat", True)
        self.remove.clicked.connect(self.remove_wanted)
        self.remove.hide()
        line = QHBoxLayout()
        line.addWidget(head, 1)
        line.addWidget(self.remove)
        column.addLayout(line)
        self.filter = QLineEdit()
        self.filter.setObjectName("parts_filter")
        self.filter.setAccessibleName("Filter parts by name")
        self.filter.setPlaceholderText("Filter by name")
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(self._filter)
        self.tree = QTreeWidget()
        self.tree.setObjectName("parts_tree")
        self.tree.setAccessibleName("Parts")
        self.tree.setHeaderLabels(["Name", "n", "Size, mm"])
        self.tree.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.tree.setUniformRowHeights(True)
        self.tree.setIndentation(12)
        header = self.tree.header()
        if header is not None:
            header.setStretchLastSection(False)
            header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
            header.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
            header.setSectionResizeMode(2, QHeaderView.ResizeMode.ResizeToContents)
        self.tree.itemSelectionChanged.connect(self._chosen)
        self.empty = QLabel()
        named_keys.caption(self.empty, "job.open", "No parts yet. Open files{}, or drop them anywhere in the window.", " ({})")
        self.empty.setProperty("role", "quiet")
        self.empty.setWordWrap(True)
        column.addWidget(self.filter)
        column.addWidget(self.empty)
        column.addWidget(self.tree, 1)
        # Takes the room while the tree is hidden, none beside it.
        column.addStretch(0)
        self._known: tuple[int, ...] = ()
        model.job_changed.connect(self.refresh)
        model.outcomes_changed.connect(self._stamps)
        model.selection_changed.connect(self._show_selection)
        model.shown_changed.connect(self._show_sight)
        self.refresh()

    def wear(self, palette: Palette) -> None:
        self._palette = palette
        self._stamps()
        for top in self._rows():
            for row in (top, *_children(top)):
                row.setForeground(0, palette.colour("quiet" if row.font(0).strikeOut() else "ink"))

    def refresh(self) -> None:
        standings = self._model.job.standings
        ids = tuple(standing.id for standing in standings)
        self.empty.setVisible(not standings)
        self.tree.setVisible(bool(standings))
        self.filter.setVisible(bool(standings))
        if ids != self._known:
            self._known = ids
            self.tree.blockSignals(True)
            self.tree.clear()
            for standing in standings:
                self.tree.addTopLevelItem(self._row(standing))
            self.tree.blockSignals(False)
            self._show_selection()
            self._show_sight()
            self._filter(self.filter.text())
        self._stamps()

    def _row(self, standing: Standing) -> QTreeWidgetItem:
        figures = standing.figures
        count = sum(body["count"] for body in figures["bodies"])
        top = QTreeWidgetItem([standing.part.name, str(count), _size(figures["size"])])
        top.setData(0, _ID, standing.id)
        top.setData(0, _KEYS, [(standing.id, copy) for copy in range(count)])
        volume = figures["volume"]
        closed = f"{volume:,.1f} mm³" if volume is not None else "encloses nothing"
        top.setToolTip(0, f"{standing.part.file}\n{figures['format'].upper()}, {_unit(figures)}, {closed}")
        bodies = figures["bodies"]
        if len(bodies) > 1 or count > 1:
            first = 0
            for body in bodies[:500]:
                child = QTreeWidgetItem([body["name"], str(body["count"]), _size(body["size"])])
                child.setData(0, _ID, standing.id)
                child.setData(0, _KEYS, [(standing.id, first + copy) for copy in range(body["count"])])
                first += body["count"]
                child.setToolTip(0, f"{body['kind']}, {body['triangles']:,} triangles, {body['shells']} shells")
                top.addChild(child)
        for row in (top, *(top.child(i) for i in range(top.childCount()))):
            if row is not None:
                row.setTextAlignment(1, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                row.setTextAlignment(2, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        return top

    def _stamps(self) -> None:
        ratio = self.devicePixelRatioF()
        for index in range(self.tree.topLevelItemCount()):
            row = self.tree.topLevelItem(index)
            if row is None:
                continue
            standing = self._model.job.standing(row.data(0, _ID))
            if standing is None:
                continue
            verdict, stale = self._model.verdict_of(standing)
            picture = stamp_picture(verdict, self._palette, 16, ratio, stale=stale)
            icon = QIcon(picture)
            icon.addPixmap(picture, QIcon.Mode.Selected)
            row.setIcon(0, icon)
            row.setData(0, Qt.ItemDataRole.AccessibleTextRole, f"{standing.part.name}, {WORDS[verdict]}")

    def _chosen(self) -> None:
        self.selected.emit({key for row in self.tree.selectedItems() for key in _keys_of(row)})

    def _rows(self) -> list[QTreeWidgetItem]:
        tops = [self.tree.topLevelItem(index) for index in range(self.tree.topLevelItemCount())]
        return [top for top in tops if top is not None]

    def _show_selection(self) -> None:
        """Marks the rows of what is chosen: a whole part by its own row, else its bodies, unfolded so that they are seen."""
        bodies = self._model.bodies
        self.remove.setVisible(bool(bodies))
        self.tree.blockSignals(True)
        if {key for row in self.tree.selectedItems() for key in _keys_of(row)} != set(bodies):
            self.tree.clearSelection()
            for top in self._rows():
                rows = [top] if set(_keys_of(top)) <= bodies else [row for row in _children(top) if set(_keys_of(row)) & bodies]
                for row in rows:
                    row.setSelected(True)
                    self.tree.scrollToItem(row)
                    self.tree.setCurrentItem(row, 0, QItemSelectionModel.SelectionFlag.NoUpdate)
        self.tree.blockSignals(False)

    def _show_sight(self) -> None:
        """Rows of bodies that are hidden are quiet, and say so."""
        sight = self._model.sight
        for top in self._rows():
            for row in (top, *_children(top)):
                keys = _keys_of(row)
                gone = bool(keys) and all(sight.opacity(key) == 0 for key in keys)
                # Telling Qt what it knows already would lay out the whole tree again.
                if gone != row.font(0).strikeOut():
                    font = row.font(0)
                    font.setStrikeOut(gone)
                    row.setFont(0, font)
                    row.setForeground(0, self._palette.colour("quiet" if gone else "ink"))

    def _filter(self, words: str) -> None:
        wanted = words.casefold().strip()
        for index in range(self.tree.topLevelItemCount()):
            row = self.tree.topLevelItem(index)
            if row is not None:
                names = [row.text(0), *(child.text(0) for i in range(row.childCount()) if (child := row.child(i)) is not None)]
                row.setHidden(bool(wanted) and not any(wanted in name.casefold() for name in names))


def _keys_of(row: QTreeWidgetItem) -> list[tuple[int, int]]:
    return [tuple(key) for key in row.data(0, _KEYS) or ()]


def _children(top: QTreeWidgetItem) -> list[QTreeWidgetItem]:
    return [child for index in range(top.childCount()) if (child := top.child(index)) is not None]


def _unit(figures: dict[str, Any]) -> str:
    return f"{figures['unit']} ({figures['unit_source']})"


def _size(values: list[float]) -> str:
    return "×".join(f"{round(value, 1):g}" if 20 <= value < 1e5 else f"{value:.3g}" for value in values)
