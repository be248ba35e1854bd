"""The parts list as a table: counted each by itself, by name or by shape; chosen columns, sorted and filtered."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QSortFilterProxyModel, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QAbstractItemView, QApplication, QHeaderView, QTableView

from gullyrise.core.job.visibility import Key
from gullyrise.core.number_words import number
from gullyrise.core.report.parts_list import COLUMNS, ListRow
from gullyrise.desktop.features.parts.column_choice import ColumnChoice
from gullyrise.desktop.features.parts.marks import size_words
from gullyrise.desktop.widgets.pieces import named
from gullyrise.desktop.widgets.timers import once

_TEXT = ("name", "parts", "assemblies", "kind", "material", "watertight", "shape")
_GIVING = ("size",)
_FIELDS = [field for field, _ in COLUMNS]


class _Rows(QAbstractTableModel):
    def __init__(self) -> None:
        super().__init__()
        self.rows: list[ListRow] = []

    def put(self, rows: list[ListRow]) -> None:
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return COLUMNS[section][1]
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        field = _FIELDS[index.column()]
        value = getattr(self.rows[index.row()], field)
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            return _shown(field, value)
        if role == Qt.ItemDataRole.UserRole:
            if field == "size":
                return max(value)
            return ", ".join(value) if isinstance(value, tuple) else float("-inf") if value is None else value
        if role == Qt.ItemDataRole.TextAlignmentRole and field not in _TEXT:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        return None


def _shown(field: str, value: Any) -> str:
    if value is None:
        return "" if field != "shape" else "…"
    if field == "size":
        return size_words(value)
    if field == "shape":
        return f"shape {value + 1}"
    if field in ("volume", "area", "grams"):
        return number(value)
    if isinstance(value, tuple):
        return ", ".join(value)
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:,}" if isinstance(value, int) else str(value)


class PartsTable(QTableView):
    """chosen : the bodies of the lines that are chosen, as (placed part, body) pairs."""

    chosen = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        named(self, "parts_list", "Parts list")
        self._rows = _Rows()
        self.sorted = QSortFilterProxyModel(self)
        self.sorted.setSourceModel(self._rows)
        self.sorted.setSortRole(Qt.ItemDataRole.UserRole)
        self.sorted.setFilterCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.setModel(self.sorted)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setShowGrid(False)
        self.setSortingEnabled(True)
        self.sorted.sort(-1)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        down, across = self.verticalHeader(), self.horizontalHeader()
        assert down is not None and across is not None
        across.setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
        down.hide()
        down.setDefaultSectionSize(24)
        across.setHighlightSections(False)
        across.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        across.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        for place, field in enumerate(_FIELDS):
            across.resizeSection(place, {"name": 87, "count": 35, "size": 92, "grams": 66}.get(field, 78))
        self.columns = ColumnChoice(across, dict(COLUMNS))
        self._fit = once(self, 0, self._make_room)
        self._by_hand = self._fitting = False
        across.sectionResized.connect(self._resized)
        selection = self.selectionModel()
        assert selection is not None
        selection.selectionChanged.connect(lambda *_: self.chosen.emit(self._chosen()))

    def put(self, rows: list[ListRow]) -> None:
        """Shows these lines, sorted and filtered as before."""
        if rows != self._rows.rows:
            self._rows.put(rows)
            self._fit.start()

    def _make_room(self) -> None:
        """Every column as wide as what stands in it, and what is left over for the names."""
        pane = self.viewport()
        if pane is None or not self.isVisible():
            return
        if not self._by_hand:
            self._fitting = True
            self.resizeColumnsToContents()
            self._fitting = False
        self.columns.make_room(pane.width(), self.sizeHintForColumn(0) + 4, _GIVING)

    def _resized(self, column: int, before: int, after: int) -> None:
        if not self._fitting and column and before and after and QApplication.mouseButtons():
            self._by_hand = True

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit.start()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._fit.start()

    def filter(self, words: str) -> None:
        self.sorted.setFilterFixedString(words.strip())

    def lines(self) -> list[ListRow]:
        """The lines as they are shown, sorted and filtered."""
        order = (self.sorted.mapToSource(self.sorted.index(row, 0)).row() for row in range(self.sorted.rowCount()))
        return [self._rows.rows[row] for row in order]

    def _chosen(self) -> list[Key]:
        selection = self.selectionModel()
        rows = selection.selectedRows() if selection is not None else []
        return [key for index in rows for key in self._rows.rows[self.sorted.mapToSource(index).row()].bodies]
