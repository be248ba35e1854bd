"""The key sheet: every action with its keys, made from the table that keys are read from; keys are changed here."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gullyrise.desktop.commands.keymap import KeyMap
from gullyrise.desktop.commands.registry import Action
from gullyrise.desktop.features.preferences.recorders import KeyField
from gullyrise.desktop.preferences.store import Settings
from gullyrise.desktop.widgets.pieces import caption, named

_ID = Qt.ItemDataRole.UserRole
GROUPS = {
    "view": "View",
    "display": "Display",
    "bodies": "Bodies",
    "parts": "Parts",
    "cut": "Cut",
    "measure": "Measure",
    "place": "Place",
    "check": "Check",
    "record": "Record",
    "panels": "Panels",
    "job": "Job",
    "work": "Background work",
    "help": "Help",
}


class KeySheet(QDialog):
    """Stands beside the window, which stays live."""

    def __init__(self, actions: dict[str, Action], keymap: Callable[[], KeyMap], settings: Settings, parent: QWidget) -> None:
        super().__init__(parent)
        self._actions, self._keymap, self._settings = actions, keymap, settings
        self.setObjectName("key_sheet")
        self.setWindowTitle("Key sheet")
        self.setModal(False)
        self.resize(560, 620)
        column = QVBoxLayout(self)
        self.filter = QLineEdit()
        named(self.filter, "key_filter", "Filter by words or keys")
        self.filter.setPlaceholderText("Filter by words or keys")
        self.filter.textChanged.connect(self._filter)
        self.table = QTreeWidget()
        named(self.table, "key_table", "Actions and their keys")
        self.table.setHeaderLabels(["Action", "Keys"])
        self.table.setColumnWidth(0, 360)
        self.field = KeyField()
        self.field.pressed.connect(self.change)
        again = QPushButton("Reset")
        named(again, "keys_again", tip="The keys that this action came with")
        again.clicked.connect(self.give_back)
        none = QPushButton("No keys")
        none.setObjectName("keys_none")
        none.clicked.connect(lambda: self._keep([]))
        self.trouble = caption("Select an action, then press its new keys in the field.", name="key_trouble", wrap=True)
        row = QHBoxLayout()
        for widget in (self.field, again, none):
            row.addWidget(widget)
        column.addWidget(self.filter)
        column.addWidget(self.table)
        column.addLayout(row)
        column.addWidget(self.trouble)
        self.refresh()
        settings.changed.connect(lambda id: self.refresh() if id == "keys.changed" else None)

    def refresh(self) -> None:
        chosen = self._chosen()
        self.table.clear()
        keymap = self._keymap()
        for group, title in GROUPS.items():
            top = QTreeWidgetItem([title, ""])
            self.table.addTopLevelItem(top)
            for id, entry in self._actions.items():
                if entry.group == group:
                    mark = " (changed)" if id in keymap.changed else ""
                    child = QTreeWidgetItem([entry.label, keymap.words_of(id) + mark])
                    child.setData(0, _ID, id)
                    top.addChild(child)
                    if id == chosen:
                        self.table.setCurrentItem(child)
        self.table.expandAll()
        self._filter(self.filter.text())

    def rows(self) -> dict[str, str]:
        """What the sheet says: keys by action."""
        out = {}
        for top in self._tops():
            for index in range(top.childCount()):
                child = top.child(index)
                if child is not None:
                    out[child.data(0, _ID)] = child.text(1)
        return out

    def _tops(self) -> list[QTreeWidgetItem]:
        found = [self.table.topLevelItem(index) for index in range(self.table.topLevelItemCount())]
        return [top for top in found if top is not None]

    def choose(self, id: str) -> None:
        for top in self._tops():
            for index in range(top.childCount()):
                child = top.child(index)
                if child is not None and child.data(0, _ID) == id:
                    self.table.setCurrentItem(child)

    def _chosen(self) -> str | None:
        item = self.table.currentItem()
        return None if item is None else item.data(0, _ID)

    def change(self, keys: str) -> None:
        """Gives the chosen action these keys, unless another has them."""
        self._keep([keys])

    def give_back(self) -> None:
        id = self._chosen()
        if id is not None:
            self._try(lambda: self._keymap().without_change(id))

    def _keep(self, keys: list[str]) -> None:
        id = self._chosen()
        if id is None:
            self.trouble.setText("Select an action first.")
            return
        self._try(lambda: self._keymap().with_keys(id, keys))

    def _try(self, make: Callable[[], KeyMap]) -> None:
        try:
            self._settings.set("keys.changed", make().changed)
        except ValueError as error:
            self.trouble.setText(f"{error} Choose other keys, or change that action first.")
            return
        self.trouble.setText("")

    def _filter(self, words: str) -> None:
        wanted = words.casefold().split()
        for top in self._tops():
            shown = 0
            for index in range(top.childCount()):
                child = top.child(index)
                if child is not None:
                    text = f"{child.text(0)} {child.text(1)} {top.text(0)}".casefold()
                    child.setHidden(not all(word in text for word in wanted))
                    shown += not child.isHidden()
            top.setHidden(not shown)
