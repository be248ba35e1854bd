"""The hand on the tray: what is chosen, carried, turned and lifted on the bench, by mouse or pen, or by a number typed there."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter
from PyQt6.QtWidgets import QLineEdit

from gullyrise.core.errors import MeasureError
from gullyrise.core.geometry import Floats
from gullyrise.core.placing.gizmo import GRIPS, REACH, Gizmo, Grip, Hold, amount_from, move_of, words_of
from gullyrise.desktop.features.placement import gizmo_painted as tray_painted
from gullyrise.desktop.viewport.overlay import HAND
from gullyrise.desktop.viewport.panes import Pane
from gullyrise.desktop.viewport.pointer.hand import GESTURE_AFTER
from gullyrise.desktop.viewport.tool import Tool, Touch
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.desktop.widgets.number_field import accept, refuse
from gullyrise.desktop.widgets.pieces import named

_APART = 2.2
"""Reaches between two grips at least."""
_LEAST_FRAME = 74.0
"""Pixels that a side of the frame is at least."""


class GizmoTool(Tool):
    """carried : the move so far, while a grip is dragged;  put : at its end (move, grip, whether it replaces the one before)
    lamented : a sentence on what was typed;  held : words for the hint line, or empty
    """

    order, level = 1, HAND + 2
    carried = pyqtSignal(object)
    put = pyqtSignal(object, str, bool)
    lamented = pyqtSignal(str)
    held = pyqtSignal(str)

    def __init__(self, bench: Viewport) -> None:
        super().__init__(bench)
        self._viewport = bench
        self.tray: Gizmo | None = None
        self.slacks: list[tuple[Floats, Floats, float]] = []
        self._step, self._turn_step = 1.0, 15.0
        self.hold: Hold | None = None
        self.pointed: Grip | None = None
        self._amount = np.zeros(2)
        self._pending: tuple[Hold, QPointF] | None = None
        self._last: Hold | None = None
        self.field = QLineEdit(bench)
        named(self.field, "grip_amount", "How far, or by how many degrees")
        self.field.setFixedWidth(124)
        self.field.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.field.returnPressed.connect(self._typed)
        self.field.hide()

    def go_by(self, step: float, turn_step: float) -> None:
        """Steps of a drag, mm and degrees."""
        self._step, self._turn_step = step, turn_step

    @property
    def holds(self) -> bool:
        """Whether something is in the hand."""
        return self.hold is not None

    def show_tray(self, tray: Gizmo | None, slacks: list[tuple[Floats, Floats, float]]) -> None:
        self.tray, self.slacks = tray, slacks
        if tray is None:
            self.drop()
        self._viewport.update()

    def seen(self) -> Gizmo | None:
        """The tray as this view wants it: its frame never so near the thing that the grips would lie on one another."""
        if self.tray is None:
            return None
        camera, size = self._viewport.camera, self._viewport.view_size()
        depth = float(camera.to_picture(self.tray.box.middle[None], *size)[0, 2])
        pixel = camera.span / max(size[1], 1) * (1.0 if camera.parallel else max(depth, 0.0) / camera.distance)
        wide = float(self.tray.box.size[:2].min())
        least = max((_LEAST_FRAME * pixel - wide) / 2, 0.0)
        made = Gizmo(self.tray.box, least if np.isfinite(least) else 0.0)
        # Seen along the posts a grip lies on the one at their foot.
        seen = camera.to_picture(np.array(made.posts()).reshape(-1, 3), *size)[:, :2].reshape(-1, 2, 2)
        shortest = float(np.linalg.norm(seen[:, 1] - seen[:, 0], axis=1).min())
        apart = _APART * REACH * pixel
        return replace(made, aside=apart) if shortest < _APART * REACH and np.isfinite(apart) else made

    # --- the hand --------------------------------------------------------------------------------------------------

    def grip_at(self, local: tuple[float, float]) -> tuple[Grip, Floats] | None:
        """The grip under a place of the active pane, and where it is in the room."""
        tray = self.seen()
        if tray is None:
            return None
        places = tray.places()
        seen = self._viewport.camera.to_picture(np.array([place for _, place in places]), *self._viewport.view_size())
        away = np.hypot(seen[:, 0] - local[0], seen[:, 1] - local[1])
        away[~np.isfinite(away)] = np.inf
        best = int(np.argmin(away))
        return places[best] if away[best] <= REACH else None

    def press(self, touch: Touch) -> bool:
        """Whether the stroke that begins is one of the tray. A drag of the chosen thing itself becomes one once it moves."""
        self._pending = None
        local, keys = touch.local, touch.keys
        if self.tray is None or touch.buttons != {"left"} or self._viewport.hand.next_left is not None:
            return False
        self.close_field()
        found = self.grip_at(local)
        if found is not None:
            grip, at = found
            self._begin(Hold(grip, self.tray.box, at), local, keys)
            return True
        if not keys and self._viewport.hand.left_is_free(touch.motion):
            hit = self._viewport.aim.hit(local)
            if hit is not None and self._viewport.scene.items[hit.item].selected:
                self._pending = (Hold("carry", self.tray.box, hit.point), touch.place)
        return False

    def move(self, touch: Touch) -> bool:
        """Whether the pointer moved something."""
        place = touch.place
        if self._pending is not None:
            hold, start = self._pending
            if abs(place.x() - start.x()) + abs(place.y() - start.y()) <= GESTURE_AFTER:
                return False
            self._pending = None
            self._viewport.hand.abandon()
            self._begin(hold, self._viewport.panes.active.local(start), frozenset())
        hold_now = self.hold
        if hold_now is None:
            return False
        self._amount = self._dragged(hold_now, touch.local, touch.keys)
        self.carried.emit(move_of(hold_now.grip, self._amount, hold_now.box))
        self._viewport.update()
        return True

    def release(self) -> bool:
        """Whether something was let go."""
        self._pending = None
        hold, self.hold = self.hold, None
        if hold is None:
            return False
        self._last = hold
        moved = bool(np.abs(self._amount).any())
        self.put.emit(move_of(hold.grip, self._amount, hold.box) if moved else None, hold.grip, False)
        self._open_field(self._amount)
        self.held.emit("")
        self._viewport.update()
        return True

    def drop(self) -> None:
        """Lets go without having moved anything."""
        self._pending = None
        if self.hold is not None:
            grip, self.hold = self.hold.grip, None
            self.put.emit(None, grip, False)
            self.held.emit("")
        self.close_field()
        self._viewport.update()

    def hover(self, local: tuple[float, float]) -> bool:
        """Whether the pointer is over a grip."""
        found = self.grip_at(local)
        over = found[0] if found is not None else None
        if over != self.pointed:
            self.pointed = over
            if over is None:
                self._viewport.unsetCursor()
                self.held.emit("")
            else:
                self._viewport.setCursor(Qt.CursorShape.SizeAllCursor)
                self.held.emit(f"{GRIPS[over][0]}: drag it, or click it and type how far")
            self._viewport.update()
        return over is not None

    def _begin(self, hold: Hold, local: tuple[float, float], keys: frozenset[str]) -> None:
        self.hold, self._amount = hold, np.zeros(2)
        self._dragged(hold, local, keys)
        self.held.emit("Ctrl moves it finely · Alt snaps to steps · Shift keeps it to one axis · Esc puts it back")

    def _dragged(self, hold: Hold, local: tuple[float, float], keys: frozenset[str]) -> Floats:
        bench = self._viewport
        origin, direction = bench.aim.ray(local)
        return hold.drag(origin, direction, local, keys, self._step, self._turn_step)

    # --- the number at the grip ------------------------------------------------------------------------------------

    def _open_field(self, amount: Floats) -> None:
        """Stands beside the grip; digits typed on the bench go into it, other keys do what they always do."""
        hold = self._last
        if hold is None:
            return
        words = f"{amount[0]:g} {amount[1]:g}" if hold.grip == "carry" else f"{amount[0]:g}"
        self.field.setText(words)
        self.field.setToolTip(f"{GRIPS[hold.grip][0]}, {GRIPS[hold.grip][1]}: type how far, then Enter")
        where = self._viewport.to_widget(self._after(hold, amount))
        if not np.isfinite(where.x()):
            # Turned to behind the eye: its number stands in the middle.
            where = QPointF(self._viewport.width() / 2, self._viewport.height() / 2)
        x = min(max(int(where.x()) + 16, 4), self._viewport.width() - self.field.width() - 4)
        y = min(max(int(where.y()) - 12, 4), self._viewport.height() - 32)
        self.field.move(x, y)
        self.field.show()
        self.field.raise_()

    @staticmethod
    def _after(hold: Hold, amount: Floats) -> Floats:
        return np.asarray(move_of(hold.grip, amount, hold.box).apply(hold.at[None])[0])

    def close_field(self) -> None:
        if self.field.isVisible():
            had = self.field.hasFocus()
            self.field.hide()
            if had:
                self._viewport.setFocus()
        self._last = None

    def type_key(self, event: QKeyEvent) -> bool:
        """Whether a key of the bench begins a number for the grip that was held last."""
        if not self.field.isVisible() or self._last is None or not event.text() or event.text() not in "0123456789.,-":
            return False
        self.field.setFocus()
        self.field.setText(event.text())
        return True

    def _typed(self) -> None:
        hold = self._last
        if hold is None:
            return
        try:
            amount = amount_from(hold.grip, self.field.text())
        except MeasureError as error:
            refuse(self.field, str(error))
            self.lamented.emit(str(error))
            return
        accept(self.field)
        again = bool(np.abs(self._amount).any())
        self._amount = amount
        self.put.emit(move_of(hold.grip, amount, hold.box), hold.grip, again)
        self.field.hide()
        self._viewport.setFocus()

    # --- painting --------------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter, pane: Pane) -> None:
        tray = self.seen()
        if tray is None:
            return
        canvas = pane.canvas(painter, self._viewport.scene.palette)
        tray_painted.slack(canvas, self.slacks)
        grip = self.hold.grip if self.hold is not None else self.pointed
        if self.hold is None or self.hold.grip not in ("spin", "tilt-x", "tilt-y"):
            tray_painted.tray(canvas, tray, grip)
        if self.hold is not None and pane is self._viewport.panes.active:
            tray_painted.amount(canvas, self._after(self.hold, self._amount), words_of(self.hold.grip, self._amount))
