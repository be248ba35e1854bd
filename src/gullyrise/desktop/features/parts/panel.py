"""The parts: their tree, or the parts list with counts; filter, columns, path and export."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QSizePolicy, QWidget

from gullyrise.core.report.parts_list import ListRow, rows_of
from gullyrise.desktop.commands import named_keys
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.features.parts.path_bar import PathBar
from gullyrise.desktop.features.parts.shape_groups import ShapeGroups
from gullyrise.desktop.features.parts.table import PartsTable
from gullyrise.desktop.features.parts.tree import PartsTree, keys_of
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.widgets.choice import Choice
from gullyrise.desktop.widgets.pieces import caption, column_box, named, row_box
from gullyrise.drawing.palette import Palette

_GROUPINGS = (("each", "Each body"), ("name", "By name"), ("shape", "By shape"))


class PartsPanel(QWidget):
    """Selection is shared with the bench; `selected` gives keys of bodies, `wanted` the id of an action
    columns_changed : (`tree` or `list`, ids of the columns shown);  sight_wanted : as that of the tree
    framing_wanted : the bench shows other bodies now
    """

    selected = pyqtSignal(object)
    wanted = pyqtSignal(str)
    visibility_wanted = pyqtSignal(object, bool)
    columns_changed = pyqtSignal(str, object)
    framing_wanted = pyqtSignal()

    def __init__(self, model: Workbench, palette: Palette, shapes: ShapeGroups) -> None:
        super().__init__()
        self._model, self._palette, self._shapes = model, palette, shapes
        self.setObjectName("parts_panel")
        self.setProperty("panel", True)
        column = column_box(self, (8, 8, 4, 8), 6)
        column.addLayout(self._head())
        self.filter = QLineEdit()
        named(self.filter, "parts_filter", "Filter parts by name")
        self.filter.setPlaceholderText("Filter by name")
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(self._filter)
        self.path = PathBar()
        self.path.wanted.connect(self.go_into)
        self.list_bar = self._list_bar()
        self.tree = PartsTree(model, palette)
        self.tree.itemSelectionChanged.connect(self._chosen)
        self.tree.entered.connect(self.go_into)
        self.tree.visibility_wanted.connect(self.visibility_wanted)
        self.tree.columns.changed.connect(lambda ids: self.columns_changed.emit("tree", ids))
        self.table = PartsTable()
        self.table.chosen.connect(self._lines_chosen)
        self.table.columns.changed.connect(lambda ids: self.columns_changed.emit("list", ids))
        self.empty = QLabel()
        named_keys.caption(self.empty, "job.open", "No parts yet. Open files{}, or drop them anywhere in the window.", " ({})")
        self.empty.setProperty("role", "quiet")
        self.empty.setWordWrap(True)
        for widget in (self.filter, self.path, self.list_bar, self.empty):
            column.addWidget(widget)
        column.addWidget(self.tree, 1)
        column.addWidget(self.table, 1)
        # Takes the room while the tree is hidden, none beside it.
        column.addStretch(0)
        self._known: tuple[tuple[int, str, str], ...] = ()
        self.as_list = False
        model.document.changed.connect(self.refresh)
        model.results.changed.connect(self.tree.show_stamps)
        model.selection.changed.connect(self._show_selection)
        model.shown.changed.connect(self.tree.show_visibility)
        shapes.changed.connect(self._show_lines)
        self.refresh()

    def _head(self) -> QHBoxLayout:
        head = caption("PARTS", "head")
        self.remove = small("Remove", "parts_remove", "Remove the selected parts from the job", "bodies.remove")
        self.remove.setProperty("flat", True)
        self.remove.clicked.connect(lambda: self.wanted.emit("bodies.remove"))
        self.remove.hide()
        self.columns = small(
            "Columns", "parts_columns", "Select the columns", "parts.columns", do=lambda: self.wanted.emit("parts.columns")
        )
        self.swap = small(
            "List", "parts_swap", "Parts list with counts, or the tree", "parts.list", do=lambda: self.wanted.emit("parts.list")
        )
        line = row_box(spacing=4)
        line.addWidget(head, 1)
        for button in (self.remove, self.columns, self.swap):
            line.addWidget(button)
        return line

    def _list_bar(self) -> QWidget:
        bar = QWidget()
        row = row_box(bar, (0, 0, 0, 0), 4)
        self.grouping = Choice()
        self.grouping.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        named(self.grouping, "parts_grouping", "How bodies are counted")
        for value, title in _GROUPINGS:
            self.grouping.addItem(title, value)
        self.grouping.setCurrentIndex(1)
        self.grouping.currentIndexChanged.connect(lambda _: self._show_lines())
        save = small(
            "Save…", "list_save", "Save the list as CSV or JSON", "record.list", do=lambda: self.wanted.emit("record.list")
        )
        copy = small(
            "Copy",
            "list_copy",
            "Copy the list to the clipboard",
            "record.list-copy",
            do=lambda: self.wanted.emit("record.list-copy"),
        )
        row.addWidget(self.grouping, 1)
        row.addWidget(copy)
        row.addWidget(save)
        return bar

    def wear(self, palette: Palette) -> None:
        self._palette = palette
        self.tree.wear(palette)

    # --- keeping in step -------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Rows for parts that are new or other ones now; those that stay are left alone."""
        parts = self._model.job.parts
        some = bool(parts)
        self.empty.setVisible(not some)
        self.filter.setVisible(some)
        self.columns.setVisible(some)
        self.swap.setVisible(some)
        self.tree.setVisible(some and not self.as_list)
        self.table.setVisible(some and self.as_list)
        self.list_bar.setVisible(some and self.as_list)
        if self.tree.trail and not any(placed.name == self.tree.trail[0] for placed in parts):
            self.go_into(())
        material = self._model.job.material_of
        known = tuple((placed.id, placed.digest, material(placed)) for placed in parts)
        if known != self._known:
            before, self._known = self._known, known
            fresh = set(known) - set(before)
            joined = bool(before) and tuple(one for one in known if one not in fresh) == before
            if joined and fresh and self.tree.trail:
                # What was opened just now is to be seen, too.
                self.go_into(())
            elif joined and not self.tree.is_sorted:
                # Files come in any order, and each goes to its place.
                self.tree.blockSignals(True)
                for at in (at for at, one in enumerate(known) if one in fresh):
                    self.tree.add(parts[at], at)
                self.tree.blockSignals(False)
            else:
                self.tree.rebuild()
            self._show_selection()
            self._see_inside()
            self.tree.show_visibility()
            if self.filter.text():
                self._filter(self.filter.text())
            self._show_lines()

    def lines(self) -> list[ListRow]:
        """The lines of the parts list as they are shown."""
        return self.table.lines()

    def show_list(self, wanted: bool) -> None:
        self.as_list = wanted
        self.swap.setText("Tree" if wanted else "List")
        self.refresh()
        self._show_lines()

    def _see_inside(self) -> None:
        """The bench shows what the tree does."""
        trail = self.tree.trail
        inside = frozenset(key for row in self.tree.tops() for key in keys_of(row)) if trail else None
        self._model.shown.look(self._model.shown.visibility.gone_into(inside, trail[-1] if trail else ""))

    def show_all(self) -> None:
        """All files, with all that was hidden."""
        self.go_into(())
        self._model.shown.look(self._model.shown.visibility.everything())

    def go_into(self, trail: tuple[str, ...]) -> None:
        """Shows what is in one file or assembly, in the tree and on the bench; all files for an empty trail."""
        if trail != self.tree.trail:
            self.tree.trail = trail
            self.path.show_trail(trail)
            self.tree.rebuild()
            self._see_inside()
            self.framing_wanted.emit()
            self.tree.show_visibility()
            self.tree.show_stamps()
            self._show_selection()
            self._show_lines()

    def _show_lines(self) -> None:
        if not self.as_list:
            return
        job = self._model.job
        # Shapes are only compared where somebody counts by them or looks at the column.
        wants_shapes = self.grouping.currentData() == "shape" or "shape" in self.table.columns.shown()
        shapes = self._shapes.of(job.parts) if wants_shapes else {}
        usual = job.usual_material
        made = tuple(placed for placed in job.parts if not placed.is_fixture)
        self.table.put(rows_of(made, self.grouping.currentData(), shapes, self.tree.trail, usual))

    def _filter(self, words: str) -> None:
        self.tree.filter(words)
        self.table.filter(words)

    def _show_selection(self) -> None:
        self.remove.setVisible(bool(self._model.selection.bodies))
        self.tree.show_selection(self._model.selection.bodies)

    # --- choosing --------------------------------------------------------------------------------------------------

    def _chosen(self) -> None:
        self.selected.emit({key for row in self.tree.selectedItems() for key in keys_of(row)})

    def _lines_chosen(self, bodies: list[tuple[int, int]]) -> None:
        """All copies of the bodies that the chosen lines count."""
        wanted = set(bodies)
        keys = set()
        for placed in self._model.job.parts:
            first = 0
            for number, body in enumerate(placed.part.bodies):
                if (placed.id, number) in wanted:
                    keys |= {(placed.id, first + copy) for copy in range(body.count)}
                first += body.count
        self.selected.emit(keys)

    def choose_columns(self) -> None:
        """Opens the choice of columns below its button."""
        at = self.columns.mapToGlobal(self.columns.rect().bottomLeft())
        (self.table if self.as_list else self.tree).columns.choose(at)
