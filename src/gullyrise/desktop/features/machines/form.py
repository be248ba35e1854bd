"""The form of one machine: rows from the table, tables of places and tools; every change is tried at once."""

from __future__ import annotations

import copy
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFormLayout,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QScrollArea,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from gullyrise.core.errors import MeasureError
from gullyrise.core.machines import Machine
from gullyrise.core.machines.drafts import (
    PAGES,
    PLACE_HEADS,
    TOOL_HEADS,
    Draft,
    Field,
    draft_of,
    got,
    machine_from,
    place_from,
    place_row,
    put,
    shown,
    tool_from,
)
from gullyrise.core.measuring.typed import typed
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.widgets.choice import Choice
from gullyrise.desktop.widgets.number_field import accept, refuse
from gullyrise.desktop.widgets.pieces import caption, column_box, named

_TABLES = (
    (
        "keep_out",
        "Keep-outs: clips, a nozzle's park, and such",
        PLACE_HEADS,
        "",
        ["a clip", "box", "0", "0", "0", "10", "10", "5"],
    ),
    ("clamping.jaw", "Vise jaws and clamps", PLACE_HEADS, "mill", ["a jaw", "box", "0", "0", "0", "80", "10", "20"]),
    ("tool", "Tools, mm", TOOL_HEADS, "mill", ["end mill 6", "6", "18", "30", "25"]),
)


class MachineForm(QWidget):
    """tried : (the machine that the form describes, or None, and what is wrong with it)."""

    tried = pyqtSignal(object, str)

    def __init__(self) -> None:
        super().__init__()
        self.draft: Draft = {}
        self._filling = False
        self._fields: list[tuple[Field, QWidget, QLabel]] = []
        self._tables: dict[str, tuple[QTableWidget, QWidget, str]] = {}
        self._heads: list[tuple[QLabel, tuple[Field, ...]]] = []
        inside = QWidget()
        inside.setProperty("panel", True)
        column = column_box(inside, spacing=6)
        for title, fields in PAGES:
            head = caption(title.upper(), "head")
            column.addWidget(head)
            self._heads.append((head, fields))
            form = QFormLayout()
            form.setVerticalSpacing(4)
            form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.AllNonFixedFieldsGrow)
            for field in fields:
                label, editor = QLabel(field.title + (f", {field.unit}" if field.unit else "")), self._editor(field)
                label.setToolTip(field.tip)
                label.setMinimumWidth(150)
                form.addRow(label, editor)
                self._fields.append((field, editor, label))
            column.addLayout(form)
        for path, title, heads, process, fresh in _TABLES:
            column.addWidget(self._table(path, title, heads, process, fresh))
        column.addStretch(1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(inside)
        outer = column_box(self, (0, 0, 0, 0))
        outer.addWidget(area)

    # --- making ----------------------------------------------------------------------------------------------------

    def _editor(self, field: Field) -> QWidget:
        name = "machine_" + field.path.replace(".", "_")
        if field.choices:
            box = Choice()
            for value, title in field.choices:
                box.addItem(title, value)
            box.activated.connect(lambda _: self._set(field.path, box.currentData() or None))
            editor: QWidget = box
        else:
            line = QLineEdit()
            if not field.text:
                line.setAlignment(Qt.AlignmentFlag.AlignRight)
            line.textEdited.connect(lambda words: self._typed(field, line, words))
            editor = line
        named(editor, name, field.title, field.tip)
        return editor

    def _table(self, path: str, title: str, heads: tuple[str, ...], process: str, fresh: list[str]) -> QWidget:
        holder = QWidget()
        column = column_box(holder, (0, 6, 0, 0), 4)
        line = QHBoxLayout()
        head = caption(title, "quiet")
        name = path.replace(".", "_")
        add = small("Add", f"{name}_add", f"Add a row: {title.lower()}")
        gone = small("Remove", f"{name}_remove", f"Remove the selected row: {title.lower()}")
        line.addWidget(head, 1)
        line.addWidget(add)
        line.addWidget(gone)
        column.addLayout(line)
        table = QTableWidget(0, len(heads))
        named(table, f"{name}_table", title)
        table.setHorizontalHeaderLabels(heads)
        across, down = table.horizontalHeader(), table.verticalHeader()
        if across is not None and down is not None:
            across.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            across.setStretchLastSection(True)
            down.hide()
        table.setFixedHeight(118)
        table.itemChanged.connect(lambda _: self._read_table(path))
        add.clicked.connect(lambda: self._add_row(path, fresh))
        gone.clicked.connect(lambda: self._remove_row(path))
        column.addWidget(table)
        self._tables[path] = (table, holder, process)
        return holder

    # --- showing ---------------------------------------------------------------------------------------------------

    def show_machine(self, machine: Machine) -> None:
        self.show_draft(draft_of(machine))

    def show_draft(self, draft: Draft) -> None:
        self.draft = copy.deepcopy(draft)
        self._filling = True
        for field, editor, _ in self._fields:
            value = got(self.draft, field.path)
            if isinstance(editor, QComboBox):
                editor.setCurrentIndex(max(editor.findData(value or ""), 0))
            elif isinstance(editor, QLineEdit):
                editor.setText("" if value is None else f"{value:g}" if isinstance(value, (int, float)) else str(value))
        for path in self._tables:
            self._fill_table(path)
        self._filling = False
        self._settle()

    def _fill_table(self, path: str) -> None:
        table = self._tables[path][0]
        rows = got(self.draft, path) or []
        table.setRowCount(0)
        for row in rows:
            if path == "tool":
                cells = [row["name"], row["diameter"], row["flute"], row["reach"], row["holder_diameter"]]
            else:
                cells = place_row(row)
            self._append(table, [f"{cell:g}" if isinstance(cell, (int, float)) else str(cell) for cell in cells])

    @staticmethod
    def _append(table: QTableWidget, cells: list[str]) -> None:
        number = table.rowCount()
        table.insertRow(number)
        for column, words in enumerate(cells):
            table.setItem(number, column, QTableWidgetItem(words))

    def _settle(self) -> None:
        """Shows the rows that are asked for, and tries what they say."""
        for field, editor, label in self._fields:
            for widget in (editor, label):
                widget.setVisible(shown(self.draft, field))
        for head, fields in self._heads:
            head.setVisible(any(shown(self.draft, field) for field in fields))
        for _, holder, process in self._tables.values():
            holder.setVisible(not process or self.draft.get("process") == process)
        machine, trouble = machine_from(self.draft)
        self.tried.emit(machine, trouble)

    # --- filling in ------------------------------------------------------------------------------------------------

    def _set(self, path: str, value: Any) -> None:
        if not self._filling:
            put(self.draft, path, value)
            self._settle()

    def _typed(self, field: Field, line: QLineEdit, words: str) -> None:
        if field.text:
            self._set(field.path, words.strip())
            return
        if not words.strip():
            accept(line)
            self._set(field.path, None)
            return
        try:
            value = typed(words, "length" if field.unit == "mm" else "angle" if field.unit == "°" else "plain")
        except MeasureError as error:
            refuse(line, str(error))
            self.tried.emit(None, f"At {field.title.lower()}: {error}")
            return
        accept(line)
        self._set(field.path, value)

    def _read_table(self, path: str) -> None:
        if self._filling:
            return
        table = self._tables[path][0]
        make: Callable[[list[str]], dict[str, Any]] = tool_from if path == "tool" else place_from
        rows = []
        try:
            for number in range(table.rowCount()):
                cells = [table.item(number, column) for column in range(table.columnCount())]
                rows.append(make([cell.text() if cell is not None else "" for cell in cells]))
        except ValueError as error:
            self.tried.emit(None, str(error))
            return
        self._set(path, rows or None)

    def _add_row(self, path: str, fresh: list[str]) -> None:
        self._filling = True
        self._append(self._tables[path][0], fresh)
        self._filling = False
        self._read_table(path)

    def _remove_row(self, path: str) -> None:
        table = self._tables[path][0]
        row = table.currentRow() if table.currentRow() >= 0 else table.rowCount() - 1
        if row >= 0:
            table.removeRow(row)
            self._read_table(path)
