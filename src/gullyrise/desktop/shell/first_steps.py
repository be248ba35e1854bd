"""Pointing once at what matters most, when a demo job is opened for the first time: any key or click puts it away for good."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QObject, QPoint, QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QApplication, QWidget

from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import type_of, width_of

_TALL, _POINT, _PAD = 34, 12, 12
_ENDS = (QEvent.Type.KeyPress, QEvent.Type.MouseButtonPress, QEvent.Type.Wheel, QEvent.Type.TabletPress)


@dataclass(frozen=True, slots=True)
class Step:
    """number and words : what is said;  at : the place that it points at, in the window;  below : whether it lies above that"""

    number: int
    words: str
    at: QPoint
    below: bool


class _Pointer(QWidget):
    """One of them: a plate with a point."""

    def __init__(self, step: Step, palette: Palette, parent: QWidget) -> None:
        super().__init__(parent)
        self.step, self._palette, self._room = step, palette, parent
        self.setObjectName(f"first_step_{step.number}")
        self.setAccessibleName(step.words)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.point_at(step)

    def point_at(self, step: Step) -> None:
        self.step = step
        wide = width_of(step.words, type_of(13)) + 2 * _PAD + 26
        left = min(max(step.at.x() - wide // 2, 8), max(self._room.width() - wide - 8, 8))
        top = step.at.y() - _TALL - _POINT if step.below else step.at.y()
        self.setGeometry(QRect(left, top, wide, _TALL + _POINT))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p, step = self._palette, self.step
        top = 0.0 if step.below else float(_POINT)
        box = QRectF(1, top + 1, self.width() - 2, _TALL - 2)
        x = float(min(max(step.at.x() - self.x(), 20), self.width() - 20))
        root, tip = (box.bottom(), float(self.height())) if step.below else (box.top(), 0.0)
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(p.colour("accent"), 1))
            painter.setBrush(p.colour("accent"))
            painter.drawPolygon(QPolygonF([QPointF(x - 8, root), QPointF(x + 8, root), QPointF(x, tip)]))
            painter.drawRoundedRect(box, 6, 6)
            painter.setPen(p.colour("on_accent"))
            painter.setFont(type_of(13, strong=True))
            painter.drawText(QRectF(_PAD, box.top(), 20, box.height()), Qt.AlignmentFlag.AlignVCenter, str(step.number))
            painter.setFont(type_of(13))
            words = QRectF(_PAD + 20, box.top(), box.width(), box.height())
            painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, step.words)


class FirstSteps(QObject):
    """put_away : is called once, when they are"""

    def __init__(self, window: QWidget, put_away: Callable[[], object]) -> None:
        super().__init__(window)
        self._window, self._put_away = window, put_away
        self.pointers: list[_Pointer] = []
        self._steps: Callable[[], list[Step]] = list

    def settle(self) -> None:
        """What they point at stands elsewhere."""
        for pointer, step in zip(self.pointers, self._steps() if self.pointers else [], strict=True):
            pointer.point_at(step)

    def show(self, steps: Callable[[], list[Step]], palette: Palette) -> None:
        """steps : what is pointed at, and where it is now"""
        self._steps = steps
        self.pointers = [_Pointer(step, palette, self._window) for step in steps()]
        for pointer in self.pointers:
            pointer.show()
            pointer.raise_()
        application = QApplication.instance()
        if application is not None:
            application.installEventFilter(self)

    def end(self) -> None:
        """Away with them, whether or not anybody looked."""
        application = QApplication.instance()
        if application is not None:
            application.removeEventFilter(self)
        for pointer in self.pointers:
            pointer.hide()
            pointer.deleteLater()
        self.pointers = []

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() in _ENDS and self.pointers:
            self.end()
            self._put_away()
        return False
