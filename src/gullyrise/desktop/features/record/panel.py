"""The record of the job: pictures, notes and what was done, in the order of time; renamed, reordered, kept out of the report."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from gullyrise.core.job import Job
from gullyrise.core.job.record import Line
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.features.record import text
from gullyrise.desktop.widgets.pieces import caption, in_lines, named
from gullyrise.drawing.annotated_image import kept_png

PANEL = "record"
_PLACE = Qt.ItemDataRole.UserRole
_ICON = QSize(72, 48)
_WIDTH = 250


class RecordPanel(QWidget):
    """Shows the lines of a job's record.

    changed : (what was done, the lines as they are to be)
    """

    changed = pyqtSignal(str, object)

    def __init__(self, job: Callable[[], Job], do: Callable[[str], None]) -> None:
        super().__init__()
        self.setObjectName("record_panel")
        self._job = job
        self._shown: tuple[Line, ...] | None = None
        column = QVBoxLayout(self)
        column.addWidget(caption("RECORD", "head"))
        self.empty = caption(text.RECORD_EMPTY, "quiet", wrap=True)
        column.addWidget(self.empty)
        self.lines = QListWidget()
        named(self.lines, "record_lines", text.RECORD)
        self.lines.setIconSize(_ICON)
        self.lines.setWordWrap(True)
        self.lines.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.lines.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.lines.setEditTriggers(QAbstractItemView.EditTrigger.DoubleClicked | QAbstractItemView.EditTrigger.EditKeyPressed)
        self.lines.itemChanged.connect(lambda _: self._edited())
        moved = self.lines.model()
        if moved is not None:
            moved.rowsMoved.connect(lambda *_: self._moved())
        column.addWidget(self.lines, 1)
        self.up = small("Up", "record_up", "Earlier in the record and in the report", do=lambda: self._shift(-1))
        self.down = small("Down", "record_down", "Later in the record and in the report", do=lambda: self._shift(1))
        self.remove = small("Remove", "record_remove", "Take the chosen line out of the record", do=self._remove)
        asked = [
            small(words, name, tip, action, do=partial(do, action))
            for words, name, tip, action in (
                ("Note", "record_note", "Write a note", "record.note"),
                ("Picture", "record_picture", "Take a picture of the view", "record.picture"),
                ("Report…", "record_report", "Make the report", "record.report"),
            )
        ]
        column.addLayout(in_lines([*asked, self.up, self.down, self.remove], _WIDTH))

    def refresh(self) -> None:
        """Brings the list in step with the job."""
        job = self._job()
        if self._shown is job.record:
            return
        row = self.lines.currentRow()
        self._shown = job.record
        self.lines.blockSignals(True)
        self.lines.clear()
        pinned = 0
        for place, line in enumerate(job.record):
            pinned += line.at is not None
            item = QListWidgetItem(line.words or text.PICTURE)
            item.setData(_PLACE, place)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable | Qt.ItemFlag.ItemIsUserCheckable)
            item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsDropEnabled)
            item.setCheckState(Qt.CheckState.Unchecked if line.left_out else Qt.CheckState.Checked)
            about = ", ".join(placed.name for placed in job.parts if placed.id in line.of)
            tag = text.PINNED.format(pinned) if line.at is not None else ""
            item.setToolTip(" · ".join(one for one in (tag, about, line.when.replace("T", " ")) if one))
            if line.picture:
                item.setIcon(QIcon(QPixmap.fromImage(kept_png(line.picture))))
            self.lines.addItem(item)
        self.lines.setCurrentRow(min(row, self.lines.count() - 1))
        self.lines.blockSignals(False)
        self.empty.setVisible(not job.record)

    def _items(self) -> list[QListWidgetItem]:
        return [item for row in range(self.lines.count()) if (item := self.lines.item(row)) is not None]

    def _edited(self) -> None:
        """A line has other words, or another tick."""
        record = self._job().record
        lines = []
        for item in self._items():
            line = record[item.data(_PLACE)]
            words = " ".join(item.text().split())[: text.LONGEST] or line.words
            words = line.words if words == text.PICTURE and not line.words else words
            lines.append(replace(line, words=words, left_out=item.checkState() == Qt.CheckState.Unchecked))
        self._tell(text.RECORD_CHANGED, tuple(lines))

    def _moved(self) -> None:
        record = self._job().record
        self._tell(text.RECORD_MOVED, tuple(record[item.data(_PLACE)] for item in self._items()))

    def _shift(self, by: int) -> None:
        row = self.lines.currentRow()
        record = list(self._job().record)
        if 0 <= row < len(record) and 0 <= row + by < len(record):
            record.insert(row + by, record.pop(row))
            self.lines.setCurrentRow(row + by)
            self._tell(text.RECORD_MOVED, tuple(record))

    def _remove(self) -> None:
        row = self.lines.currentRow()
        record = self._job().record
        if 0 <= row < len(record):
            self._tell(text.RECORD_REMOVED, (*record[:row], *record[row + 1 :]))

    def _tell(self, done: str, lines: tuple[Line, ...]) -> None:
        if lines != self._job().record:
            self.changed.emit(done, lines)
