"""The cut laid flat."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from gullyrise.core.cutting import Section
from gullyrise.core.cutting.section import flat
from gullyrise.desktop.theme.look import type_of
from gullyrise.desktop.theme.palette import Palette


class FlatProfile(QWidget):
    """Outlines of a section, filled by the NonZero rule, to one scale in both directions."""

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self._palette = palette
        self._rings: list[tuple[np.ndarray, bool]] = []
        self.setObjectName("flat_profile")
        self.setAccessibleName("Flat profile of the cut")
        self.setMinimumWidth(150)

    def sizeHint(self) -> QSize:
        return QSize(220, 90)

    def show_section(self, section: Section | None, palette: Palette) -> None:
        self._palette = palette
        self._rings = []
        if section is not None:
            # Upright as seen from the front: of a cut across Y the height goes up.
            turned = abs(float(section.plane.normal[1])) > 0.99
            for loop in section.loops:
                ring = flat(loop.points, section.plane)
                self._rings.append((ring[:, ::-1] if turned else ring, loop.closed))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = self._palette
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(4, 6, -4, -6)
        painter.fillRect(box, p.colour("ground"))
        if not self._rings:
            painter.setFont(type_of(11))
            painter.setPen(p.colour("quiet"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, "The cut lies flat here")
            return
        every = np.concatenate([ring for ring, _ in self._rings])
        low, high = every.min(axis=0), every.max(axis=0)
        scale = float(min((box.width() - 12) / max(high[0] - low[0], 1e-9), (box.height() - 12) / max(high[1] - low[1], 1e-9)))
        middle = (low + high) / 2
        centre = box.center()
        closed, chains = QPainterPath(), QPainterPath()
        closed.setFillRule(Qt.FillRule.WindingFill)
        for ring, is_closed in self._rings:
            path = closed if is_closed else chains
            places = [
                QPointF(centre.x() + (x - middle[0]) * scale, centre.y() - (y - middle[1]) * scale) for x, y in ring.tolist()
            ]
            path.moveTo(places[0])
            for place in places[1:]:
                path.lineTo(place)
            if is_closed:
                path.closeSubpath()
        painter.setPen(QPen(p.colour("ink"), 1))
        painter.setBrush(p.colour("cut"))
        painter.drawPath(closed)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(p.colour("failed"), 1.6))
        painter.drawPath(chains)
