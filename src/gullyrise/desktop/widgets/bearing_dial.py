"""The bearing dial: the ring is the heading, the arc the elevation. Dragged, clicked, typed into or moved by keys."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from PyQt6.QtCore import QEvent, QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QEnterEvent, QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QLineEdit, QWidget

from gullyrise.core.camera.camera import Camera
from gullyrise.core.errors import MeasureError
from gullyrise.core.measuring.typed import several, typed
from gullyrise.desktop.widgets.kept_picture import KeptPicture
from gullyrise.desktop.widgets.number_field import accept, refuse
from gullyrise.desktop.widgets.pieces import named
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import type_of

SIZE = 132
Corner = Literal["top right", "top left", "bottom right", "bottom left"]
_RING, _ARC, _ARC_SPREAD = 48.0, 31.0, 0.8
_BESIDE = 13.0
"""° within which the pointer would cover the word of a quarter."""
_QUARTERS = (("Front", 0.0), ("Right", 90.0), ("Back", 180.0), ("Left", 270.0))
_BETWEEN = (45.0, 135.0, 225.0, 315.0)
_HEIGHTS = (("Top", 90.0), ("Level", 0.0), ("Underside", -90.0))
_NEAR = 12.0
_BETWEEN_BANDS = 40.0
_CLICK = 3.0
_STEPS = {
    Qt.Key.Key_Left: (-1.0, 0.0),
    Qt.Key.Key_Right: (1.0, 0.0),
    Qt.Key.Key_Up: (0.0, 1.0),
    Qt.Key.Key_Down: (0.0, -1.0),
}


@dataclass(frozen=True, slots=True)
class DialLook:
    """What the settings say. size : a factor;  faded : opacity while the pointer is elsewhere."""

    shown: bool = True
    corner: Corner = "top right"
    size: float = 1.0
    faded: float = 1.0


class _AngleField(QLineEdit):
    """Takes two angles; Enter and Escape end with it, and do not reach the dial below."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        super().keyPressEvent(event)
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape):
            # After Enter it stays open where what was typed is refused.
            if event.key() == Qt.Key.Key_Escape:
                self.hide()
            event.accept()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        accept(self)
        self.hide()


class BearingDial(QWidget):
    """Shows heading and elevation; `swung` asks for a (heading, elevation) in degrees, None where it stays; `dragged` asks for
    the same at once, without gliding there."""

    swung = pyqtSignal(object, object)
    dragged = pyqtSignal(object, object)
    takes_keys = frozenset({*_STEPS, Qt.Key.Key_Return, Qt.Key.Key_Enter})

    def __init__(self, palette: Palette, parent: QWidget) -> None:
        super().__init__(parent)
        self._palette = palette
        self._camera: Camera | None = None
        self._over = ""
        self._inside = False
        self._picture = KeptPicture()
        self._held: tuple[str, QPointF] | None = None
        self._aside = False
        self._look = DialLook()
        named(
            self,
            "bearing_dial",
            "Bearing dial",
            "Where the view looks from. Drag the ring or the arc, click a mark, or double-click to type both angles.",
        )
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.field = _AngleField(self)
        named(self.field, "bearing_field", "Heading and elevation in degrees")
        self.field.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.field.hide()
        self.field.returnPressed.connect(self._typed)
        self.wear_look(self._look)

    # --- place and size --------------------------------------------------------------------------------------------

    def sizeHint(self) -> QSize:
        return QSize(int(SIZE * self._look.size), int((SIZE + 16) * self._look.size))

    def wear_look(self, look: DialLook) -> None:
        self._look = look
        self.setFixedSize(self.sizeHint())
        self._settle_sight()
        self.update()

    def stand_aside(self, aside: bool) -> None:
        """Out of sight while something else needs its place."""
        if aside != self._aside:
            self._aside = aside
            self._settle_sight()

    def _settle_sight(self) -> None:
        self.setVisible(self._look.shown and not self._aside)

    def settle(self, room: QSize, pane: QRect) -> None:
        """Takes its corner of a pane."""
        right, foot = "right" in self._look.corner, "bottom" in self._look.corner
        x = pane.right() - self.width() - 11 if right else pane.left() + 12
        # The view's name stands in the upper left, the scale bar in the lower left corner.
        y = pane.bottom() - self.height() - (11 if right else 52) if foot else pane.top() + (12 if right else 44)
        self.move(max(min(x, room.width() - self.width()), 0), max(min(y, room.height() - self.height()), 0))

    def show_camera(self, camera: Camera, palette: Palette) -> None:
        self._camera, self._palette = camera, palette
        self.setAccessibleDescription(self.words())
        self.update()

    def words(self) -> str:
        """What it reads."""
        if self._camera is None:
            return ""
        elevation = self._camera.elevation
        return f"{round(self._camera.heading, 1) % 360:.1f}°  {'+' if elevation >= 0 else '−'}{abs(elevation):.1f}°"

    # --- geometry --------------------------------------------------------------------------------------------------

    def marks(self) -> dict[str, QPointF]:
        """Places of the marks that can be clicked, in the widget's own pixels."""
        places = {name: self._on_ring(heading) for name, heading in _QUARTERS}
        places.update({f"{heading:.0f}°": self._on_ring(heading) for heading in _BETWEEN})
        places.update({name: self._on_arc(elevation) for name, elevation in _HEIGHTS})
        return {name: place * self._look.size for name, place in places.items()}

    def _middle(self) -> QPointF:
        return QPointF(SIZE / 2, SIZE / 2)

    def _on_ring(self, heading: float) -> QPointF:
        """Front is at the foot of the ring, where the one who looks stands; Right follows counter-clockwise."""
        turn = math.radians(heading)
        return self._middle() + QPointF(math.sin(turn) * _RING, math.cos(turn) * _RING)

    def _on_arc(self, elevation: float) -> QPointF:
        """The arc stands on the left of the middle: Top above, Underside below."""
        turn = math.radians(elevation * _ARC_SPREAD)
        return self._middle() + QPointF(-math.cos(turn) * _ARC, -math.sin(turn) * _ARC)

    def _unscaled(self, place: QPointF) -> QPointF:
        return place / self._look.size

    def _mark_at(self, place: QPointF) -> str:
        for name, where in self.marks().items():
            if math.hypot(place.x() - where.x(), place.y() - where.y()) <= _NEAR * self._look.size:
                return name
        return ""

    def _band_at(self, place: QPointF) -> str:
        """`ring`, `arc` or nothing."""
        away = self._unscaled(place) - self._middle()
        reach = math.hypot(away.x(), away.y())
        if reach > SIZE / 2 or reach < 10:
            return ""
        if reach > _BETWEEN_BANDS:
            return "ring"
        return "arc" if away.x() < 6 else ""

    def _bearing_at(self, band: str, place: QPointF) -> tuple[float | None, float | None]:
        away = self._unscaled(place) - self._middle()
        if band == "ring":
            return math.degrees(math.atan2(away.x(), away.y())) % 360, None
        elevation = math.degrees(math.atan2(-away.y(), max(-away.x(), 1e-6))) / _ARC_SPREAD
        return None, max(-90.0, min(90.0, elevation))

    # --- hands on it -----------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            band = self._band_at(event.position())
            self._held = (band, event.position()) if band or self._mark_at(event.position()) else None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._held is not None and event.buttons() & Qt.MouseButton.LeftButton:
            band, start = self._held
            step = event.position() - start
            if band and (math.hypot(step.x(), step.y()) > _CLICK or self._over == "held"):
                self._over = "held"
                self.dragged.emit(*self._bearing_at(band, event.position()))
            return
        name = self._mark_at(event.position())
        if name != self._over:
            self._over = name
            band = self._band_at(event.position())
            self.setCursor(Qt.CursorShape.PointingHandCursor if name or band else Qt.CursorShape.ArrowCursor)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        held, self._held = self._held, None
        if event is None or held is None or event.button() != Qt.MouseButton.LeftButton:
            return
        if self._over == "held":
            self._over = ""
            return
        name = self._mark_at(event.position())
        headings = dict(_QUARTERS) | {f"{h:.0f}°": h for h in _BETWEEN}
        if name in headings:
            self.swung.emit(headings[name], None)
        elif name:
            self.swung.emit(None, dict(_HEIGHTS)[name])
        elif held[0]:
            self.swung.emit(*self._bearing_at(held[0], event.position()))

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._held = None
            self.type_bearing()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows turn by one degree (ten with Shift); Enter types."""
        if event is None:
            return
        step = _STEPS.get(Qt.Key(event.key()))
        if step is not None and self._camera is not None:
            size = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
            heading = (self._camera.heading + step[0] * size) % 360 if step[0] else None
            elevation = max(-90.0, min(90.0, self._camera.elevation + step[1] * size)) if step[1] else None
            self.dragged.emit(heading, elevation)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.type_bearing()
        else:
            super().keyPressEvent(event)

    def type_bearing(self) -> None:
        """Opens the field that takes both angles."""
        if self._camera is None:
            return
        if self.isHidden():
            self.setVisible(True)
        self.field.setText(f"{self._camera.heading:.1f} {self._camera.elevation:.1f}")
        self.field.setGeometry(2, self.height() // 2 - 13, self.width() - 4, 26)
        self.field.show()
        self.field.setFocus()
        self.field.selectAll()

    def _typed(self) -> None:
        try:
            angles = [typed(one, "angle") for one in several(self.field.text())]
            if len(angles) > 2:
                raise MeasureError("A bearing is one angle, or two with the height of the eye; type 45 or 45 30.")
        except MeasureError as error:
            refuse(self.field, str(error))
            return
        accept(self.field)
        if angles:
            elevation = max(-90.0, min(90.0, angles[1])) if len(angles) > 1 else None
            self.swung.emit(angles[0] % 360, elevation)
        self.field.hide()
        self._settle_sight()

    def enterEvent(self, event: QEnterEvent | None) -> None:
        self._inside = True
        self.update()

    def leaveEvent(self, event: QEvent | None) -> None:
        self._inside, self._over = False, ""
        self.update()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    # --- drawing ---------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._camera is None:
            return
        camera = self._camera
        made_of = (camera, self._palette, self._look, self.hasFocus(), self._over)
        picture = self._picture.of(self, made_of, lambda painter: self._draw(painter, camera))
        with QPainter(self) as painter:
            # Faded as one picture, so that what overlaps within it does not show through.
            painter.setOpacity(1.0 if self._inside or self.hasFocus() else self._look.faded)
            painter.drawPixmap(0, 0, picture)

    def _draw(self, painter: QPainter, camera: Camera) -> None:
        p = self._palette
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.scale(self._look.size, self._look.size)
        middle = self._middle()
        face = p.colour("panel")
        face.setAlpha(215)
        painter.setBrush(face)
        painter.setPen(QPen(p.colour("accent" if self.hasFocus() else "line"), 2 if self.hasFocus() else 1))
        painter.drawEllipse(middle, SIZE / 2 - 2, SIZE / 2 - 2)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(p.colour("bed_line"), 1.2))
        painter.drawEllipse(middle, _RING, _RING)
        arc = QRectF(middle.x() - _ARC, middle.y() - _ARC, 2 * _ARC, 2 * _ARC)
        painter.drawArc(arc, (180 - 72) * 16, 144 * 16)
        self._draw_marks(painter, camera.heading)
        self._draw_hands(painter, camera)
        self._draw_triad(painter, camera)
        painter.setPen(p.colour("ink"))
        painter.setFont(type_of(11, strong=True))
        painter.drawText(QRectF(0, SIZE, SIZE, 16), Qt.AlignmentFlag.AlignCenter, self.words())

    @staticmethod
    def _quarter_at(heading: float) -> str:
        """The word beside which the pointer would lie on it, which is then lit in its stead; empty elsewhere."""
        return next((name for name, at in _QUARTERS if abs((heading - at + 180) % 360 - 180) < _BESIDE), "")

    def _draw_marks(self, painter: QPainter, heading: float) -> None:
        p = self._palette
        painter.setFont(type_of(10, strong=True))
        places = {name: self._unscaled(place) for name, place in self.marks().items()}
        for name, place in places.items():
            hot = name == self._over
            painter.setPen(p.colour("accent" if hot else "ink"))
            if name.endswith("°"):
                painter.setBrush(p.colour("accent" if hot else "quiet"))
                painter.drawEllipse(place, 2.2, 2.2)
            elif name in dict(_QUARTERS):
                plate = QRectF(place.x() - 16, place.y() - 7, 32, 14)
                here = name == self._quarter_at(heading)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(p.colour("accent" if here else "panel"))
                painter.drawRoundedRect(plate, 3, 3)
                painter.setPen(p.colour("on_accent" if here else "accent" if hot else "ink"))
                painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, name)
            else:
                painter.setBrush(p.colour("accent" if hot else "quiet"))
                painter.drawRect(QRectF(place.x() - 2.2, place.y() - 2.2, 4.4, 4.4))
        if self._over in dict(_HEIGHTS):
            place = places[self._over]
            plate = QRectF(place.x() + 7, place.y() - 8, 58, 16)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(p.colour("panel"))
            painter.drawRoundedRect(plate, 3, 3)
            painter.setPen(p.colour("accent"))
            painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, self._over)

    def _draw_hands(self, painter: QPainter, camera: Camera) -> None:
        p = self._palette
        painter.setPen(QPen(p.colour("panel"), 1.5))
        painter.setBrush(p.colour("accent"))
        # A pointer on the border, outside the words.
        turn = math.radians(camera.heading)
        out, across = QPointF(math.sin(turn), math.cos(turn)), QPointF(math.cos(turn), -math.sin(turn))
        tip, foot = self._middle() + out * (_RING + 5), self._middle() + out * (_RING + 14)
        if not self._quarter_at(camera.heading):
            painter.drawPolygon(QPolygonF([tip, foot + across * 6, foot - across * 6]))
        painter.drawEllipse(self._on_arc(camera.elevation), 4.5, 4.5)

    def _draw_triad(self, painter: QPainter, camera: Camera) -> None:
        right, up, back = camera.frame()
        middle = self._middle()
        axes = sorted(range(3), key=lambda axis: float(back[axis]))
        painter.setFont(type_of(10, strong=True))
        for axis in axes:
            colour = self._palette.colour(("axis_x", "axis_y", "axis_z")[axis])
            end = middle + QPointF(float(right[axis]) * 17, -float(up[axis]) * 17)
            painter.setPen(QPen(colour, 2))
            painter.drawLine(middle, end)
            if abs(float(back[axis])) < 0.97:
                beyond = middle + QPointF(float(right[axis]) * 23, -float(up[axis]) * 23)
                painter.drawText(QRectF(beyond.x() - 6, beyond.y() - 7, 12, 14), Qt.AlignmentFlag.AlignCenter, "XYZ"[axis])
