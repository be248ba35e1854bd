"""The editor of the user's own pointer scheme: every gesture, the motions that make it, and a pad to make a new one."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QTreeWidget, QTreeWidgetItem, QWidget

from gullyrise.desktop.features.preferences.recorders import MotionPad
from gullyrise.desktop.pointer.schemes import GESTURE_NAMES, OWN, READY
from gullyrise.desktop.pointer.triggers import Trigger
from gullyrise.desktop.preferences.store import Settings
from gullyrise.desktop.widgets.choice import Choice
from gullyrise.desktop.widgets.pieces import caption, column_box, fill, named

_ROW = Qt.ItemDataRole.UserRole


class OwnSchemeEditor(QWidget):
    """Changes `pointer.own`; what would clash is refused with a sentence and nothing changes."""

    def __init__(self, settings: Settings) -> None:
        super().__init__()
        self._settings = settings
        column = column_box(self, (0, 8, 0, 0))
        head = caption("OWN SCHEME", "head")
        self.table = QTreeWidget()
        named(self.table, "own_rows", "Gestures of the own scheme")
        self.table.setHeaderLabels(["Gesture", "Motion"])
        self.table.setRootIsDecorated(False)
        self.table.setMinimumHeight(180)
        self.table.setColumnWidth(0, 200)
        self.pad = MotionPad()
        self.pad.made.connect(self.add)
        self.trouble = caption(name="own_trouble", wrap=True)
        self.gesture = Choice()
        named(self.gesture, "own_gesture", "Gesture for the new motion")
        for name, words in GESTURE_NAMES.items():
            self.gesture.addItem(words, name)
        drop = QPushButton("Remove the motion")
        drop.setObjectName("own_drop")
        drop.clicked.connect(self.drop)
        self.start = Choice()
        named(self.start, "own_start", "Begin from a ready scheme")
        self.start.addItem("Begin from…", "")
        for scheme in READY.values():
            self.start.addItem(scheme.title, scheme.id)
        self.start.activated.connect(self._begin_from)
        row = fill(QHBoxLayout(), QLabel("A new motion for"), self.gesture, end=True)
        under = fill(QHBoxLayout(), drop, self.start, end=True)
        column.addWidget(head)
        column.addWidget(self.table)
        column.addLayout(under)
        column.addLayout(row)
        column.addWidget(self.pad)
        column.addWidget(self.trouble)
        self.refresh()

    def refresh(self) -> None:
        self.table.clear()
        for gesture, words in self._settings["pointer.own"]:
            item = QTreeWidgetItem([GESTURE_NAMES[gesture], words])
            item.setData(0, _ROW, [gesture, words])
            self.table.addTopLevelItem(item)

    def add(self, made: Trigger) -> None:
        """The motion made on the pad, for the gesture that is chosen."""
        rows = self._settings["pointer.own"]
        self._keep([*rows, [self.gesture.currentData(), made.words()]])

    def drop(self) -> None:
        item = self.table.currentItem()
        if item is not None:
            self._keep([row for row in self._settings["pointer.own"] if row != item.data(0, _ROW)])

    def _begin_from(self, index: int) -> None:
        id = self.start.itemData(index)
        if id:
            self._keep([[gesture, wanted.words()] for gesture, wanted in READY[id].bindings])
        self.start.setCurrentIndex(0)

    def _keep(self, rows: list[list[str]]) -> None:
        try:
            self._settings.set("pointer.own", rows)
            self._settings.set("pointer.scheme", OWN)
        except ValueError as error:
            self.trouble.setText(str(error))
            return
        self.trouble.setText("")
