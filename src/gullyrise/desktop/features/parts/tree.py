"""The tree of parts: files › assemblies › bodies › copies, with columns that are chosen, moved, resized and sorted by."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QItemSelectionModel, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QIcon, QKeyEvent, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTreeWidget, QTreeWidgetItem

from gullyrise.core.intake.materials import mass, material_named
from gullyrise.core.job import PlacedPart
from gullyrise.core.job.assemblies import Node, tree_of
from gullyrise.core.job.visibility import Key
from gullyrise.core.number_words import number
from gullyrise.core.part import Body
from gullyrise.desktop.features.parts.column_choice import ColumnChoice
from gullyrise.desktop.features.parts.marks import chip, eye, size_words, words_of
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.widgets.pieces import named
from gullyrise.desktop.widgets.stamp import WORDS, stamp_picture
from gullyrise.desktop.widgets.timers import once
from gullyrise.drawing.palette import Palette

ID = Qt.ItemDataRole.UserRole
KEYS = Qt.ItemDataRole.UserRole + 1
TRAIL = Qt.ItemDataRole.UserRole + 2
ORDER = Qt.ItemDataRole.UserRole + 3
STAMP = Qt.ItemDataRole.UserRole + 4

COLUMNS: tuple[tuple[str, str], ...] = (
    ("name", "Name"), ("count", "Qty"), ("size", "Size, mm"), ("seen", ""), ("colour", ""), ("volume", "Volume, mm³"),
    ("area", "Area, mm²"), ("grams", "Mass, g"), ("triangles", "Triangles"), ("shells", "Shells"), ("kind", "Kind"),
)  # fmt: skip
TITLES = {id: title or {"seen": "Seen", "colour": "Colour in the file"}[id] for id, title in COLUMNS}
_AT = {id: place for place, (id, _) in enumerate(COLUMNS)}
_GIVING = ("size", "count")
_NUMBERS = ("count", "size", "volume", "area", "grams", "triangles", "shells")
_FIGURES = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
_MOST_ROWS, _EAGER, _MOST_COPIES = 2_000, 60, 200
Trail = tuple[str, ...]


class Row(QTreeWidgetItem):
    """A row that sorts by the values behind its words; rows without a value come last either way."""

    def __lt__(self, other: QTreeWidgetItem) -> bool:
        tree = self.treeWidget()
        column = tree.sortColumn() if tree is not None else 0
        mine, theirs = self.data(column, ORDER), other.data(column, ORDER)
        if mine is None or theirs is None:
            return theirs is None and mine is not None
        return bool(mine < theirs)


def keys_of(row: QTreeWidgetItem) -> list[Key]:
    return [tuple(key) for key in row.data(0, KEYS) or ()]


def rows_below(row: QTreeWidgetItem) -> list[QTreeWidgetItem]:
    """All rows under one, themselves included."""
    out = [row]
    for index in range(row.childCount()):
        child = row.child(index)
        if child is not None:
            out += rows_below(child)
    return out


class PartsTree(QTreeWidget):
    """entered : a file or an assembly is gone into, by its trail;  sight_wanted : keys to be hidden or shown, and which"""

    entered = pyqtSignal(object)
    visibility_wanted = pyqtSignal(object, bool)

    def __init__(self, model: Workbench, palette: Palette) -> None:
        super().__init__()
        self._model, self._palette = model, palette
        self.trail: Trail = ()
        named(self, "parts_tree", "Parts")
        self.setHeaderLabels([title for _, title in COLUMNS])
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setUniformRowHeights(True)
        self.setIndentation(12)
        self.setExpandsOnDoubleClick(False)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.itemExpanded.connect(self._fill)
        self.itemClicked.connect(self._clicked)
        self.itemDoubleClicked.connect(self._enter)
        header = self.header()
        assert header is not None
        header.setStretchLastSection(False)
        header.setMinimumSectionSize(20)
        for place, (id, _) in enumerate(COLUMNS):
            mode = QHeaderView.ResizeMode.Fixed if id == "name" else QHeaderView.ResizeMode.Interactive
            header.setSectionResizeMode(place, mode)
            header.resizeSection(place, {"count": 36, "seen": 22, "colour": 22, "size": 92}.get(id, 78))
        self.columns = ColumnChoice(header, TITLES)
        header.setSectionsClickable(True)
        header.setSortIndicatorShown(False)
        header.sectionClicked.connect(self._sort)
        self._sorted: tuple[int, bool] | None = None
        # Rows come by the hundred, and their widths are taken once they are there.
        self._fit = once(self, 0, self._make_room)
        for signal in (header.sectionResized, self.itemExpanded, self.itemCollapsed):
            signal.connect(self._fit.start)
        rows = self.model()
        assert rows is not None
        for signal in (rows.rowsInserted, rows.rowsRemoved, rows.modelReset):
            signal.connect(self._fit.start)

    # --- the room of names -------------------------------------------------------------------------------------------

    def _make_room(self) -> None:
        """Names are whole; sizes and quantities, which the details have as well, give way."""
        pane = self.viewport()
        if pane is not None and self.isVisible():
            self.columns.make_room(pane.width(), self.sizeHintForColumn(0) + 6, _GIVING)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._make_room()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._fit.start()

    # --- sorting -----------------------------------------------------------------------------------------------------

    def _sort(self, column: int) -> None:
        """Up, down, and as they came."""
        if self._sorted is None or self._sorted[0] != column:
            self._sorted = (column, True)
        else:
            self._sorted = (column, False) if self._sorted[1] else None
        header = self.header()
        assert header is not None
        header.setSortIndicatorShown(self._sorted is not None)
        if self._sorted is None:
            self.rebuild()
            return
        order = Qt.SortOrder.AscendingOrder if self._sorted[1] else Qt.SortOrder.DescendingOrder
        header.setSortIndicator(column, order)
        self.sortItems(column, order)

    @property
    def is_sorted(self) -> bool:
        """Whether the rows stand by a column, and not as they came."""
        return self._sorted is not None

    # --- rows ------------------------------------------------------------------------------------------------------

    def tops(self) -> list[QTreeWidgetItem]:
        found = (self.topLevelItem(index) for index in range(self.topLevelItemCount()))
        return [top for top in found if top is not None]

    def rows(self) -> list[QTreeWidgetItem]:
        return [row for top in self.tops() for row in rows_below(top)]

    def rebuild(self) -> None:
        """All rows anew, as they came."""
        self.blockSignals(True)
        self.clear()
        for at, placed in enumerate(self._model.job.parts):
            self.add(placed, at)
        self.blockSignals(False)
        if self._sorted is not None:
            column, up = self._sorted
            self.sortItems(column, Qt.SortOrder.AscendingOrder if up else Qt.SortOrder.DescendingOrder)

    def add(self, placed: PlacedPart, at: int) -> None:
        """The row of a part; or those inside the assembly that is gone into.  at : which row it shall be"""
        if not self.trail:
            self.insertTopLevelItem(at, self._part_row(placed))
        elif placed.name == self.trail[0]:
            node = tree_of(placed)
            for name in self.trail[1:]:
                node = node.inside.get(name, Node())
            for row in self._node_rows(placed, node, self.trail):
                self.addTopLevelItem(row)

    def _part_row(self, placed: PlacedPart) -> QTreeWidgetItem:
        figures = placed.figures
        count = sum(body["count"] for body in figures["bodies"])
        material = material_named(self._model.job.material_of(placed))
        volume = figures["volume"]
        top = self._row(
            placed, placed.name, count, list(range(count)), (placed.name,), figures,
            None if volume is None or material is None else mass(volume, material),
        )  # fmt: skip
        closed = f"{number(volume)} mm³" if volume is not None else "encloses nothing"
        unit = f"{figures['unit']} ({figures['unit_source']})"
        top.setToolTip(0, f"{placed.part.file}\n{figures['format'].upper()}, {unit}, {closed}")
        top.setData(0, STAMP, True)
        if len(figures["bodies"]) > 1 or count > 1:
            top.setChildIndicatorPolicy(QTreeWidgetItem.ChildIndicatorPolicy.ShowIndicator)
            if count + len(figures["bodies"]) <= _EAGER:
                self._fill(top)
        return top

    def _fill(self, row: QTreeWidgetItem) -> None:
        """The rows below a part or an assembly, once they are wanted."""
        trail = row.data(0, TRAIL)
        placed = self._model.job.part(row.data(0, ID))
        lazy = row.childIndicatorPolicy() == QTreeWidgetItem.ChildIndicatorPolicy.ShowIndicator
        if trail is None or placed is None or row.childCount() or not lazy:
            return
        node = tree_of(placed)
        # A file with one outermost assembly is that assembly.
        if len(trail) == 1 and not node.bodies and len(node.inside) == 1:
            ((name, node),) = node.inside.items()
            trail = (*trail, name)
        else:
            for name in trail[1:]:
                node = node.inside.get(name, Node())
        row.addChildren(self._node_rows(placed, node, tuple(trail)))

    def _node_rows(self, placed: PlacedPart, node: Node, trail: Trail) -> list[QTreeWidgetItem]:
        out: list[QTreeWidgetItem] = []
        for name, inner in node.inside.items():
            copies = inner.copies()
            row = self._row(placed, name, len(copies), copies, (*trail, name), {}, None)
            row.setChildIndicatorPolicy(QTreeWidgetItem.ChildIndicatorPolicy.ShowIndicator)
            if len(copies) <= _EAGER:
                self._fill(row)
            out.append(row)
        material = material_named(self._model.job.material_of(placed))
        for which, copies in node.bodies.items():
            if len(out) >= _MOST_ROWS:
                rest = len(node.bodies) + len(node.inside) - len(out)
                out.append(Row([f"and {rest:,} more; the list shows them all"]))
                break
            body, figures = placed.part.bodies[which], placed.figures["bodies"][which]
            volume = figures["volume"]
            grams = None if volume is None or material is None else mass(volume * len(copies), material)
            row = self._row(placed, body.name, len(copies), copies, None, figures, grams, body)
            row.setToolTip(0, f"{body.kind}, {figures['triangles']:,} triangles, {figures['shells']} shells")
            if 1 < len(copies) <= _MOST_COPIES:
                for place, copy in enumerate(copies, 1):
                    row.addChild(self._row(placed, f"copy {place}", 1, [copy], None, {}, None))
            out.append(row)
        return out

    def _row(
        self,
        placed: PlacedPart,
        name: str,
        count: int,
        copies: list[int],
        trail: Trail | None,
        figures: dict[str, Any],
        grams: float | None,
        body: Body | None = None,
    ) -> Row:
        size = figures.get("size")
        values: dict[str, Any] = {
            "name": name, "count": count, "volume": figures.get("volume"), "area": figures.get("area"), "grams": grams,
            "triangles": figures.get("triangles"), "shells": figures.get("shells"), "kind": None if body is None else body.kind,
        }  # fmt: skip
        row = Row()
        for id, value in values.items():
            row.setText(_AT[id], words_of(id, value))
            row.setData(_AT[id], ORDER, value.casefold() if isinstance(value, str) else value)
        if size is not None:
            row.setText(_AT["size"], size_words(size))
            row.setData(_AT["size"], ORDER, max(size))
        for id in _NUMBERS:
            row.setTextAlignment(_AT[id], _FIGURES)
        row.setData(0, ID, placed.id)
        row.setData(0, KEYS, [(placed.id, copy) for copy in copies])
        row.setData(0, TRAIL, trail)
        if body is not None and body.colour is not None:
            row.setIcon(_AT["colour"], chip(body.colour, self.devicePixelRatioF()))
        return row

    # --- selection and sight ---------------------------------------------------------------------------------------

    def show_selection(self, bodies: frozenset[Key]) -> None:
        """Marks the rows of what is chosen: as few as say it, unfolded so that they are seen."""
        if {key for row in self.selectedItems() for key in keys_of(row)} == set(bodies):
            return
        self.blockSignals(True)
        self.clearSelection()
        for top in self.tops():
            self._mark(top, bodies)
        self.blockSignals(False)

    def _mark(self, row: QTreeWidgetItem, bodies: frozenset[Key]) -> None:
        keys = keys_of(row)
        if not any(key in bodies for key in keys):
            return
        self._fill(row)
        if all(key in bodies for key in keys) or not row.childCount():
            row.setSelected(True)
            self.scrollToItem(row)
            self.setCurrentItem(row, 0, QItemSelectionModel.SelectionFlag.NoUpdate)
            return
        for index in range(row.childCount()):
            child = row.child(index)
            if child is not None:
                self._mark(child, bodies)

    def show_visibility(self) -> None:
        """Rows of bodies that are hidden are quiet, struck out, and have a closed eye."""
        sight = self._model.shown.visibility
        seen, gone_icon = eye(self._palette, True, self.devicePixelRatioF()), eye(self._palette, False, self.devicePixelRatioF())
        for row in self.rows():
            keys = keys_of(row)
            gone = bool(keys) and all(sight.opacity(key) == 0 for key in keys)
            # Telling Qt what it knows already would lay out the whole tree again.
            if gone != row.font(0).strikeOut() or row.icon(_AT["seen"]).isNull():
                font = row.font(0)
                font.setStrikeOut(gone)
                row.setFont(0, font)
                row.setForeground(0, self._palette.colour("quiet" if gone else "ink"))
                row.setIcon(_AT["seen"], gone_icon if gone else seen)
                row.setToolTip(_AT["seen"], "Hidden: click to show" if gone else "Seen: click to hide")

    def show_stamps(self) -> None:
        # Thousands of rows wear some dozen stamps.
        ratio, icons = self.devicePixelRatioF(), dict[tuple[str, bool], QIcon]()
        parts = {placed.id: placed for placed in self._model.job.parts}
        for row in self.tops():
            if not row.data(0, STAMP):
                continue
            placed = parts.get(row.data(0, ID))
            if placed is None:
                continue
            verdict, stale = self._model.results.verdict_of(placed)
            if row.data(0, STAMP) == [verdict, stale]:
                continue
            row.setData(0, STAMP, [verdict, stale])
            icon = icons.get((verdict, stale))
            if icon is None:
                picture = stamp_picture(verdict, self._palette, 16, ratio, stale=stale)
                icon = icons[verdict, stale] = QIcon(picture)
                icon.addPixmap(picture, QIcon.Mode.Selected)
            row.setIcon(0, icon)
            row.setData(0, Qt.ItemDataRole.AccessibleTextRole, f"{placed.name}, {WORDS[verdict]}")

    def wear(self, palette: Palette) -> None:
        self._palette = palette
        for row in self.rows():
            row.setForeground(0, QBrush(palette.colour("quiet" if row.font(0).strikeOut() else "ink")))
            row.setIcon(_AT["seen"], QIcon())
            if row.data(0, STAMP):
                row.setData(0, STAMP, True)
        self.show_stamps()
        self.show_visibility()

    def filter(self, words: str) -> None:
        """Shows the rows that hold the words, those above them and those below."""
        wanted = words.casefold().strip()
        for top in self.tops():
            if wanted and not top.childCount():
                self._fill(top)
            self._sift(top, wanted, False)

    def _sift(self, row: QTreeWidgetItem, wanted: str, above: bool) -> bool:
        own = above or wanted in row.text(0).casefold()
        below = [self._sift(child, wanted, own) for i in range(row.childCount()) if (child := row.child(i)) is not None]
        shown = not wanted or own or any(below)
        row.setHidden(not shown)
        if wanted and any(below) and not own:
            row.setExpanded(True)
        return shown

    def _clicked(self, row: QTreeWidgetItem, column: int) -> None:
        if column == _AT["seen"]:
            self.visibility_wanted.emit(keys_of(row), row.font(0).strikeOut())

    def _enter(self, row: QTreeWidgetItem) -> None:
        trail = row.data(0, TRAIL)
        if trail is not None and row.childIndicatorPolicy() == QTreeWidgetItem.ChildIndicatorPolicy.ShowIndicator:
            self.entered.emit(tuple(trail))

    def enter_chosen(self) -> bool:
        """Goes into the file or assembly of a chosen row, or that of the row's body; False where there is none."""
        for chosen in self.selectedItems():
            row: QTreeWidgetItem | None = chosen
            while row is not None:
                trail = row.data(0, TRAIL)
                if trail is not None and tuple(trail) != self.trail and row.childCount():
                    self.entered.emit(tuple(trail))
                    return True
                row = row.parent()
        return False

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.enter_chosen():
            return
        super().keyPressEvent(event)
