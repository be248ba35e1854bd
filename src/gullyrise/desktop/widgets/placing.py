"""Where things stand that float over another widget."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QWidget


def in_the_middle(widget: QWidget, room: QSize) -> None:
    widget.move(max((room.width() - widget.width()) // 2, 0), max((room.height() - widget.height()) // 2, 0))
