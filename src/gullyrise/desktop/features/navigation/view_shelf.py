"""The shelf of saved views: little pictures with names; a click goes there."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon, QKeyEvent, QPixmap
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QListWidget, QListWidgetItem, QWidget

from gullyrise.desktop.commands import named_keys
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.widgets.pieces import caption, column_box, named
from gullyrise.drawing.annotated_image import kept_png

PICTURE = (128, 80)
_NAME = Qt.ItemDataRole.UserRole


class ViewShelf(QWidget):
    """Lies over the bench. gone_to, dropped : a view's name;  renamed : (name, fresh name);  save_wanted."""

    gone_to = pyqtSignal(str)
    dropped = pyqtSignal(str)
    renamed = pyqtSignal(str, str)
    save_wanted = pyqtSignal()

    def __init__(self, model: Workbench, parent: QWidget) -> None:
        super().__init__(parent)
        self._model = model
        self._filling = False
        named(self, "view_shelf", "Saved views")
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = column_box(self, (8, 8, 8, 8), 6)
        head = QHBoxLayout()
        title = caption("SAVED VIEWS", "head")
        head.addWidget(title, 1)
        self.save = small("Save this view", "shelf_save", "Save this view", "view.save", do=self.save_wanted)
        self.drop = small("Remove", "shelf_remove", "Remove the selected view (Del)", do=self._drop)
        close = small("Close", "shelf_close", "Close the shelf", do=self.hide)
        for button in (self.save, self.drop, close):
            head.addWidget(button)
        column.addLayout(head)
        self.empty = QLabel()
        named_keys.caption(self.empty, "view.save", "No views yet. Save this view{}; it is kept with the job.", " with {}")
        self.empty.setProperty("role", "quiet")
        self.empty.setWordWrap(True)
        column.addWidget(self.empty)
        self.list = QListWidget()
        named(self.list, "shelf_views", "Saved views")
        self.list.setViewMode(QListWidget.ViewMode.IconMode)
        self.list.setIconSize(QSize(*PICTURE))
        self.list.setGridSize(QSize(PICTURE[0] + 12, PICTURE[1] + 34))
        self.list.setMovement(QListWidget.Movement.Static)
        self.list.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.list.setEditTriggers(QListWidget.EditTrigger.EditKeyPressed | QListWidget.EditTrigger.DoubleClicked)
        self.list.setToolTip("Click or Enter goes there; F2 or a double click renames; Del removes")
        self.list.itemClicked.connect(self._go)
        self.list.itemActivated.connect(self._go)
        self.list.itemChanged.connect(self._name)
        column.addWidget(self.list, 1)
        self.hide()
        model.document.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        views = self._model.job.views
        known = [(item.data(_NAME), item.text()) for row in range(self.list.count()) if (item := self.list.item(row)) is not None]
        self.empty.setVisible(not views)
        self.list.setVisible(bool(views))
        self.drop.setEnabled(bool(views))
        if known == [(view.name, view.name) for view in views]:
            return
        self._filling = True
        self.list.clear()
        for view in views:
            picture = QPixmap.fromImage(kept_png(view.picture))
            icon = QIcon(picture)
            icon.addPixmap(picture, QIcon.Mode.Selected)
            item = QListWidgetItem(icon, view.name)
            item.setData(_NAME, view.name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
            self.list.addItem(item)
        self._filling = False

    def wanted_height(self, width: int) -> int:
        """So high that the views that are there can be seen."""
        across = max((width - 24) // (PICTURE[0] + 12), 1)
        rows = -(-self.list.count() // across)
        return 56 + 40 * (rows == 0) + rows * (PICTURE[1] + 38)

    def _go(self, item: QListWidgetItem) -> None:
        self.gone_to.emit(item.data(_NAME))

    def _drop(self) -> None:
        item = self.list.currentItem()
        if item is not None:
            self.dropped.emit(item.data(_NAME))

    def _name(self, item: QListWidgetItem) -> None:
        if not self._filling and item.text() != item.data(_NAME):
            self.renamed.emit(item.data(_NAME), item.text())
            self.refresh()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Delete:
            self._drop()
        else:
            super().keyPressEvent(event)
