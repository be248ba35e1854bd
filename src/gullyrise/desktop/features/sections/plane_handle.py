"""The hand on a cut: a frame round the plane in hand, with a grip that slides it and two knobs that tilt it."""

from __future__ import annotations

from typing import Literal

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPolygonF

from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.geometry import Box, Floats, Points, by_ray
from gullyrise.desktop.features.sections import text
from gullyrise.desktop.viewport.overlay import HAND
from gullyrise.desktop.viewport.panes import Pane
from gullyrise.desktop.viewport.tool import Tool, Touch
from gullyrise.desktop.viewport.widget import Viewport

Grip = Literal["slide", "tilt-sideways", "tilt-over"]
WORDS: dict[Grip, str] = {
    "slide": text.SLIDES,
    "tilt-sideways": text.TILTS_SIDEWAYS,
    "tilt-over": text.TILTS_OVER,
}
_REACH = 11.0
_OUT = 0.06
_STALK_PIXELS = 44.0
_DEGREES_PER_PIXEL = 0.4
_FINE = 0.1


class PlaneHandle(Tool):
    """dragged : the cut as it has come;  held : words for the hint line, or empty."""

    order, level = 0, HAND
    dragged = pyqtSignal(object)
    held = pyqtSignal(str)

    def __init__(self, bench: Viewport) -> None:
        super().__init__(bench)
        self._viewport = bench
        self.cut: Cut | None = None
        self.box: Box | None = None
        self.pointed: Grip | None = None
        self._frame: Points | None = None
        self._hold: tuple[Grip, Cut, Floats, tuple[float, float]] | None = None
        self._last = 0.0

    @property
    def holds(self) -> bool:
        return self._hold is not None

    def show_cut(self, cut: Cut | None, box: Box | None) -> None:
        """The cut in hand and the box of what it cuts; None puts the frame away."""
        self.cut, self.box = cut, box
        self._frame = _frame_of(cut, box) if cut is not None and box is not None else None
        if cut is None:
            self._hold, self.pointed = None, None
        if not self._viewport.pictures.moving:
            # Else it is painted with the picture that is on its way.
            self._viewport.update()

    def frame(self) -> Points | None:
        """(4, 3) corners of the frame in the plane, round the shadow of the box."""
        return self._frame

    def places(self) -> list[tuple[Grip, Floats]]:
        """Where each grip is in the room."""
        frame = self.frame()
        if frame is None or self.cut is None:
            return []
        middle = frame.mean(axis=0)
        return [
            ("slide", middle + self.cut.plane.normal * self._stalk(middle)),
            ("tilt-sideways", (frame[1] + frame[2]) / 2),
            ("tilt-over", (frame[2] + frame[3]) / 2),
        ]

    def _stalk(self, middle: Floats) -> float:
        """mm from the plane to its grip, about the same on the screen at any zoom."""
        bench = self._viewport
        camera, height = bench.camera, max(bench.view_size()[1], 1)
        depth = float(camera.to_picture(middle[None], *bench.view_size())[0, 2])
        near = 1.0 if camera.parallel or not np.isfinite(depth) else max(depth, 1e-6) / camera.distance
        return _STALK_PIXELS * camera.span / height * near

    def grip_at(self, local: tuple[float, float]) -> Grip | None:
        places = self.places()
        if not places:
            return None
        seen = self._viewport.camera.to_picture(np.array([place for _, place in places]), *self._viewport.view_size())
        away = np.hypot(seen[:, 0] - local[0], seen[:, 1] - local[1])
        away[~np.isfinite(away)] = np.inf
        best = int(np.argmin(away))
        return places[best][0] if away[best] <= _REACH else None

    def press(self, touch: Touch) -> bool:
        """Whether the stroke that begins is one of the frame."""
        local = touch.local
        if self.cut is None or touch.buttons != {"left"} or self._viewport.hand.next_left is not None:
            return False
        grip = self.grip_at(local)
        if grip is None:
            return False
        self._hold, self._last = (grip, self.cut, dict(self.places())[grip], local), 0.0
        self.held.emit(text.FINELY)
        return True

    def move(self, touch: Touch) -> bool:
        """Whether the pointer moved the cut."""
        if self._hold is None:
            return False
        local, keys = touch.local, touch.keys
        grip, cut, at, start = self._hold
        fine = _FINE if "ctrl" in keys else 1.0
        if grip == "slide":
            along = np.array(cut.along)
            self.dragged.emit(cut.moved_to(cut.position + self._slid(at, along, start, local) * fine))
        elif self.box is not None:
            # The longer way of the pointer counts, whichever way the knob hangs.
            over = local[0] - start[0], start[1] - local[1]
            degrees = (over[0] if abs(over[0]) >= abs(over[1]) else over[1]) * _DEGREES_PER_PIXEL * fine
            plane = cut.plane
            middle = self.box.middle - float((self.box.middle - plane.point) @ plane.normal) * plane.normal
            u, v = plane.frame()
            self.dragged.emit(cut.tilted(middle, v if grip == "tilt-sideways" else u, degrees))
        return True

    def _slid(self, at: Floats, along: Floats, start: tuple[float, float], local: tuple[float, float]) -> float:
        """mm by which the pointer has brought the grip along; where it points behind the eye, what it was last."""
        sight = self._viewport.aim.ray(start)[1]
        if by_ray.is_end_on(sight, along):
            # Seen end on, only the pointer's way up and down says anything: up goes away from the eye.
            camera, height = self._viewport.camera, max(self._viewport.view_size()[1], 1)
            return (start[1] - local[1]) * camera.span / height * float(np.sign(sight @ along))
        now, then = (by_ray.along(*self._viewport.aim.ray(place), at, along, sight) for place in (local, start))
        if now is not None and then is not None:
            self._last = now - then
        return self._last

    def release(self) -> bool:
        hold, self._hold = self._hold, None
        if hold is None:
            return False
        self.held.emit("")
        self._viewport.update()
        return True

    def drop(self) -> None:
        """Puts the plane back where it was taken."""
        hold, self._hold = self._hold, None
        if hold is not None:
            self.dragged.emit(hold[1])
            self.held.emit("")

    def hover(self, local: tuple[float, float]) -> bool:
        """Whether the pointer is over a grip."""
        over = self.grip_at(local)
        if over != self.pointed:
            self.pointed = over
            if over is None:
                self._viewport.unsetCursor()
            else:
                self._viewport.setCursor(Qt.CursorShape.SizeAllCursor)
            self.held.emit(WORDS[over] if over is not None else "")
            self._viewport.update()
        return over is not None

    def paint(self, painter: QPainter, pane: Pane) -> None:
        frame, cut = self.frame(), self.cut
        if frame is None or cut is None:
            return
        canvas = pane.canvas(painter, self._viewport.scene.palette)
        places = dict(self.places())
        ends = canvas.seen(np.array([*frame, frame.mean(axis=0), *places.values()]))[:, :2]
        if not np.isfinite(ends).all():
            return
        border, middle, *grips = (
            QPolygonF([QPointF(x, y) for x, y in ends[:4].tolist()]),
            *(QPointF(*at) for at in ends[4:].tolist()),
        )
        canvas.brush(None)
        canvas.pen("accent", 1.2, Qt.PenStyle.DashLine)
        painter.drawPolygon(border)
        canvas.pen("accent", 2)
        painter.drawLine(middle, grips[0])
        held = self._hold[0] if self._hold is not None else self.pointed
        for grip, at in zip(places, grips, strict=True):
            canvas.pen("panel", 1.5)
            canvas.brush("accent" if grip == held else "cut")
            if grip == "slide":
                painter.drawRoundedRect(QRectF(at.x() - 9, at.y() - 9, 18, 18), 5, 5)
                canvas.pen("panel", 1.6)
                for lift in (-2.5, 2.5):
                    painter.drawLine(at + QPointF(-4, lift), at + QPointF(4, lift))
            else:
                painter.drawEllipse(at, 6, 6)
        if self._hold is not None:
            canvas.length_of(cut.words, 11)
            painter.setPen(canvas.colour("ink"))
            painter.drawText(grips[0] + QPointF(14, 4), cut.words)


def _frame_of(cut: Cut, box: Box) -> Points:
    plane = cut.plane
    u, v = plane.frame()
    away = box.corners() - plane.point
    flat = np.column_stack([away @ u, away @ v])
    out = _OUT * box.diagonal
    low, high = flat.min(axis=0) - out, flat.max(axis=0) + out
    border = ((low[0], low[1]), (high[0], low[1]), (high[0], high[1]), (low[0], high[1]))
    return np.array([plane.point + x * u + y * v for x, y in border])
