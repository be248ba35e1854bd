"""The bearing dial: the ring is the heading, the arc the elevation; a click on a mark swings there."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from gullyrise.desktop.bench.camera import Camera
from gullyrise.desktop.theme.look import type_of
from gullyrise.desktop.theme.palette import Palette

SIZE = 132
_RING, _ARC = 48.0, 31.0
_QUARTERS = (("Front", 0.0), ("Right", 90.0), ("Back", 180.0), ("Left", 270.0))
_HEIGHTS = (("Top", 90.0), ("Level", 0.0), ("Underside", -90.0))
_NEAR = 12.0


class BearingDial(QWidget):
    """Shows heading and elevation; `swung` asks for a (heading, elevation) in degrees, None where it stays."""

    swung = pyqtSignal(object, object)

    def __init__(self, palette: Palette, parent: QWidget) -> None:
        super().__init__(parent)
        self._palette = palette
        self._camera: Camera | None = None
        self._over = ""
        self.setObjectName("bearing_dial")
        self.setAccessibleName("Bearing dial")
        self.setToolTip("Where the view looks from. Click a mark to swing there (V and a letter).")
        self.setMouseTracking(True)
        self.setFixedSize(self.sizeHint())

    def sizeHint(self) -> QSize:
        return QSize(SIZE, SIZE + 16)

    def show_camera(self, camera: Camera, palette: Palette) -> None:
        self._camera, self._palette = camera, palette
        self.update()

    def marks(self) -> dict[str, QPointF]:
        """Places of the marks that can be clicked, in the widget's own pixels."""
        places = {name: self._on_ring(heading) for name, heading in _QUARTERS}
        places.update({f"{heading:.0f}°": self._on_ring(heading) for heading in (45.0, 135.0, 225.0, 315.0)})
        places.update({name: self._on_arc(elevation) for name, elevation in _HEIGHTS})
        return places

    def _middle(self) -> QPointF:
        return QPointF(SIZE / 2, SIZE / 2)

    def _on_ring(self, heading: float) -> QPointF:
        """Front is at the foot of the ring, where the one who looks stands; Right follows counter-clockwise."""
        turn = math.radians(heading)
        return self._middle() + QPointF(math.sin(turn) * _RING, math.cos(turn) * _RING)

    def _on_arc(self, elevation: float) -> QPointF:
        """The arc stands on the left of the middle: Top above, Underside below."""
        turn = math.radians(elevation * 0.8)
        return self._middle() + QPointF(-math.cos(turn) * _ARC, -math.sin(turn) * _ARC)

    def _mark_at(self, place: QPointF) -> str:
        for name, where in self.marks().items():
            if math.hypot(place.x() - where.x(), place.y() - where.y()) <= _NEAR:
                return name
        return ""

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        name = self._mark_at(event.position())
        headings = dict(_QUARTERS) | {f"{h:.0f}°": h for h in (45.0, 135.0, 225.0, 315.0)}
        if name in headings:
            self.swung.emit(headings[name], None)
        elif name:
            self.swung.emit(None, dict(_HEIGHTS)[name])

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        name = self._mark_at(event.position())
        if name != self._over:
            self._over = name
            self.setCursor(Qt.CursorShape.PointingHandCursor if name else Qt.CursorShape.ArrowCursor)
            self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        camera = self._camera
        if camera is None:
            return
        p = self._palette
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = self._middle()
        face = p.colour("panel")
        face.setAlpha(215)
        painter.setBrush(face)
        painter.setPen(QPen(p.colour("line"), 1))
        painter.drawEllipse(middle, SIZE / 2 - 2, SIZE / 2 - 2)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(p.colour("bed_line"), 1.2))
        painter.drawEllipse(middle, _RING, _RING)
        arc = QRectF(middle.x() - _ARC, middle.y() - _ARC, 2 * _ARC, 2 * _ARC)
        painter.drawArc(arc, (180 - 72) * 16, 144 * 16)
        painter.setFont(type_of(10, strong=True))
        for name, place in self.marks().items():
            hot = name == self._over
            painter.setPen(p.colour("accent" if hot else "ink"))
            if name.endswith("°"):
                painter.setBrush(p.colour("accent" if hot else "quiet"))
                painter.drawEllipse(place, 2.2, 2.2)
            elif name in dict(_QUARTERS):
                plate = QRectF(place.x() - 16, place.y() - 7, 32, 14)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(p.colour("panel"))
                painter.drawRoundedRect(plate, 3, 3)
                painter.setPen(p.colour("accent" if hot else "ink"))
                painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, name)
            else:
                painter.setBrush(p.colour("accent" if hot else "quiet"))
                painter.drawRect(QRectF(place.x() - 2.2, place.y() - 2.2, 4.4, 4.4))
                if hot:
                    painter.drawText(QRectF(place.x() + 6, place.y() - 8, 60, 16), Qt.AlignmentFlag.AlignVCenter, name)
        self._draw_hands(painter, camera)
        self._draw_triad(painter, camera)
        painter.setPen(p.colour("ink"))
        painter.setFont(type_of(11, strong=True))
        heading = round(camera.heading, 1) % 360
        words = f"{heading:.1f}°  {'+' if camera.elevation >= 0 else '−'}{abs(camera.elevation):.1f}°"
        painter.drawText(QRectF(0, SIZE, SIZE, 16), Qt.AlignmentFlag.AlignCenter, words)

    def _draw_hands(self, painter: QPainter, camera: Camera) -> None:
        p = self._palette
        painter.setPen(QPen(p.colour("panel"), 1.5))
        painter.setBrush(p.colour("accent"))
        # A pointer on the rim, outside the words.
        turn = math.radians(camera.heading)
        out, across = QPointF(math.sin(turn), math.cos(turn)), QPointF(math.cos(turn), -math.sin(turn))
        tip, foot = self._middle() + out * (_RING + 5), self._middle() + out * (_RING + 14)
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
