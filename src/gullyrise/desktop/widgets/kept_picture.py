"""A picture of an instrument that is drawn anew only when what it shows has changed: others repaint it with every frame."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPainter, QPixmap
from PyQt6.QtWidgets import QWidget


class KeptPicture:
    """The last picture, with what it was made of."""

    def __init__(self) -> None:
        self._made_of: tuple[object, ...] = ()
        self._picture = QPixmap()

    def of(self, widget: QWidget, made_of: tuple[object, ...], draw: Callable[[QPainter], None]) -> QPixmap:
        """The picture of a widget. made_of : what it hangs on, compared by identity and then by value"""
        ratio = widget.devicePixelRatioF()
        state = (*made_of, widget.width(), widget.height(), ratio)
        same = len(state) == len(self._made_of)
        if not same or not all(a is b or a == b for a, b in zip(state, self._made_of, strict=True)):
            picture = QPixmap(widget.size() * ratio)
            picture.setDevicePixelRatio(ratio)
            picture.fill(Qt.GlobalColor.transparent)
            with QPainter(picture) as painter:
                draw(painter)
            self._made_of, self._picture = state, picture
        return self._picture
