"""The rows of a key card: what each can do, by which keys, and in a word why not now."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from gullyrise.desktop.commands.registry import Action
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import type_of, width_of

ROWS = (26, 22, 19)
"""Heights of a row, px: the first that lets the whole card into its room."""
_EDGE, _GAP, _LEAST_CAP = 8, 10, 20


@dataclass(frozen=True, slots=True)
class CardRow:
    """keys : as they stand on the card;  words : mostly the action's label;  lacks : in a word why it cannot run, if so"""

    keys: str
    action: Action
    words: str
    lacks: str = ""


class CardRows(QAbstractListModel):
    """shown : the rows, as they are to be read"""

    def __init__(self) -> None:
        super().__init__()
        self.shown: list[CardRow] = []

    def put(self, rows: list[CardRow]) -> None:
        self.beginResetModel()
        self.shown = rows
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.shown)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> str | None:
        row = self.shown[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return row.words
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return ", ".join(one for one in (row.words, row.keys, row.lacks) if one)
        if role == Qt.ItemDataRole.ToolTipRole and row.action.keys:
            return f"{row.words}  ({', '.join(row.action.keys)})"
        return None


class CardRowPainter(QStyledItemDelegate):
    """Keys in a cap, words, and at the end what is missing. width, height : of one row, px, so that nothing is cut off"""

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self.palette = palette
        self.width, self.height, self._cap = 0, ROWS[0], _LEAST_CAP

    def measure(self, rows: list[CardRow], palette: Palette) -> None:
        """Takes the widths of what is on the card, and the colours of now."""
        self.palette = palette
        small, plain = type_of(11, strong=True), type_of(13)
        self._cap = max([_LEAST_CAP, *(width_of(row.keys, small) + 10 for row in rows if row.keys)])
        words = max((width_of(row.words, plain) + width_of(row.lacks, type_of(11)) for row in rows), default=160)
        self.width = max(2 * _EDGE + self._cap + _GAP + words + 2 * _GAP, 220)

    def take_height(self, height: int) -> None:
        self.height = height

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(self.width, self.height)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if painter is None:
            return
        row: CardRow = index.model().shown[index.row()]  # type: ignore[union-attr]
        p, place = self.palette, QRectF(option.rect).adjusted(4, 0, -4, 0)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        hot = option.state & (QStyle.StateFlag.State_Selected | QStyle.StateFlag.State_MouseOver)
        if hot:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(p.colour("ground_far"))
            painter.drawRoundedRect(place.adjusted(0, 1, 0, -1), 4, 4)
        able = not row.lacks
        if row.keys:
            painter.setFont(type_of(11, strong=True))
            wide = max(_LEAST_CAP, width_of(row.keys, painter.font()) + 10)
            cap = QRectF(place.x() + 4, place.y() + (place.height() - 18) / 2, wide, 18)
            painter.setPen(QPen(p.colour("line"), 1))
            painter.setBrush(p.colour("field"))
            painter.drawRoundedRect(cap, 3, 3)
            painter.setPen(p.colour("accent" if able else "quiet"))
            painter.drawText(cap, Qt.AlignmentFlag.AlignCenter, row.keys)
        painter.setFont(type_of(13))
        painter.setPen(p.colour("ink" if able else "quiet"))
        words = place.adjusted(4 + self._cap + _GAP, 0, 0, 0)
        painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, row.words)
        if row.lacks:
            painter.setFont(type_of(11))
            painter.setPen(p.colour("quiet"))
            painter.drawText(words.adjusted(0, 0, -6, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, row.lacks)
        painter.restore()
