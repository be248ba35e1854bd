"""The cut laid flat under the hand: panned and zoomed, with the thickness under the pointer and dimensions between what is
clicked."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QWheelEvent

from gullyrise.core.cutting.thickness import disc_at
from gullyrise.core.measuring.between import between
from gullyrise.core.measuring.flat_snaps import WORDS, snapped, thing_of
from gullyrise.core.measuring.words import said
from gullyrise.desktop.features.sections import text
from gullyrise.desktop.features.sections.flat_painted import PaintedProfile
from gullyrise.drawing.palette import Palette

_REACH = 8.0
_MOVED = 4.0
_STEP = 1.2


class FlatProfile(PaintedProfile):
    """said : words on what the pointer is over, for the hint line;  put_back : the large one is no longer wanted."""

    said = pyqtSignal(str)
    put_back = pyqtSignal()
    takes_keys = frozenset({Qt.Key.Key_Delete, Qt.Key.Key_Backspace, Qt.Key.Key_Home, Qt.Key.Key_Escape})

    def __init__(self, palette: Palette) -> None:
        super().__init__(palette)
        self._press: tuple[QPointF, np.ndarray, bool] | None = None
        self.setToolTip(text.TIP)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.setFocus(Qt.FocusReason.MouseFocusReason)
            self._press = (event.position(), self._centre.copy(), event.button() == Qt.MouseButton.LeftButton)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._press is not None and event.buttons():
            start, centre, _ = self._press
            moved = event.position() - start
            if abs(moved.x()) + abs(moved.y()) > _MOVED:
                self._fitted = False
                self._centre = centre - np.array([moved.x(), -moved.y()]) / self._scale
                self.update()
            return
        self._hover(event.position())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        press, self._press = self._press, None
        if event is None or press is None:
            return
        moved = event.position() - press[0]
        if press[2] and abs(moved.x()) + abs(moved.y()) <= _MOVED:
            self._click(event.position())

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if self.near is None:
            self.show_all()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        here = self._seen(self.from_widget(event.position())[None])[0]
        factor = _STEP ** ((event.angleDelta().y() or event.angleDelta().x()) / 120)
        self._scale = float(np.clip(self._scale * factor, 1e-4, 1e6))
        self._fitted = False
        # What is under the pointer stays there.
        away = np.array([event.position().x() - self.width() / 2, self.height() / 2 - event.position().y()]) / self._scale
        self._centre = here - away
        self.draw_anew()
        self._hover(event.position())
        event.accept()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.take_back()
        elif event.key() == Qt.Key.Key_Home:
            self.show_all()
        elif event.key() == Qt.Key.Key_Escape and self.picked is not None:
            self.picked = None
            self.update()
        elif event.key() == Qt.Key.Key_Escape:
            self.put_back.emit()
        else:
            super().keyPressEvent(event)

    def leaveEvent(self, event: QEvent | None) -> None:
        self.disc, self.near = None, None
        self.said.emit("")
        self.update()

    def resizeEvent(self, event: object) -> None:
        self.draw_anew()

    def take_back(self) -> None:
        """Drops what was picked first, else the newest dimension."""
        if self.picked is not None:
            self.picked = None
        elif self.dimensions:
            self.dimensions.pop()
        self.update()

    def _hover(self, place: QPointF) -> None:
        at = self.from_widget(place)
        self.near = snapped(self._outlines, at, _REACH / self._scale)
        self.disc = None if self.near is not None or not len(self._ways.starts) else disc_at(self._ways, at)
        self.said.emit(self._words())
        self.update()

    def _words(self) -> str:
        if self.near is not None and self._plane is not None:
            thing = thing_of(self._outlines, self.near, self._plane, exact=self._exact)
            own = "  ".join(f"{figure.name} {said(figure, self._wording)}" for figure in thing.own[:2])
            following = text.CLICK_FOR_BETWEEN if self.picked is not None else text.CLICK_TO_MEASURE
            return f"{WORDS[self.near.kind]}  {own}  ·  {following}"
        if self.disc is not None:
            return text.THICKNESS_HERE.format(self._length(self.disc.thickness)) + (
                text.STRAIGHT_ACROSS.format(self._length(self.disc.across)) if self.disc.across is not None else ""
            )
        last = text.DEL_TAKES_BACK if self.dimensions else ""
        return text.HINT.format(last)

    def _click(self, place: QPointF) -> None:
        self._hover(place)
        found, plane = self.near, self._plane
        if found is None or plane is None:
            self.picked = None
            self.update()
            return
        thing = thing_of(self._outlines, found, plane, exact=self._exact)
        if self.picked is None:
            self.picked = (found, thing)
        elif self.picked[0].name == found.name:
            # The same again: its own figure stays.
            if thing.own:
                self.dimensions.append(((thing,), thing.own[0]))
            self.picked = None
        else:
            lies = [figure for figure in between(self.picked[1], thing) if figure.a is not None or figure.quantity == "angle"]
            if lies:
                self.dimensions.append(((self.picked[1], thing), lies[0]))
            self.picked = None
        self.update()
