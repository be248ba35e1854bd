"""The cut laid flat: over a grid, panned and zoomed, with the thickness under the pointer and dimensions between what is
clicked."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import (
    QBrush,
    QColor,
    QImage,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
    QTransform,
)
from PyQt6.QtWidgets import QWidget

from gullyrise.core.cutting.thickness import Disc, ways_of
from gullyrise.core.geometry import Floats, Plane
from gullyrise.core.geometry.outline import Outline
from gullyrise.core.geometry.plane import flat
from gullyrise.core.measuring.figures import Figure
from gullyrise.core.measuring.flat_snaps import Snapped
from gullyrise.core.measuring.things import Thing
from gullyrise.core.measuring.words import Wording, said
from gullyrise.desktop.widgets.pieces import named
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import type_of

if TYPE_CHECKING:
    from gullyrise.desktop.features.sections.controller import SectionsController


_LARGE = 320
_SAG_PIXELS = 0.2
_GRID_PIXELS = 24.0
_HATCHES = (Qt.BrushStyle.BDiagPattern, Qt.BrushStyle.FDiagPattern, Qt.BrushStyle.HorPattern, Qt.BrushStyle.VerPattern)


class PaintedProfile(QWidget):
    """dimensions : (things, the figure shown) that were taken by clicks, until the cut moves;  disc, near, picked : what the
    pointer is over, snaps to, and has picked first"""

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self._palette = palette
        self._plane: Plane | None = None
        self._outlines: tuple[Outline, ...] = ()
        self._exact = False
        self._wording = Wording()
        self._turn = np.eye(2)
        self._bodies: dict[int, QPainterPath] = {}
        self._chains = QPainterPath()
        self._on_screen: tuple[object, list[QPainterPath], QPainterPath] | None = None
        self._ways = ways_of([])
        self._centre, self._scale = np.zeros(2), 1.0
        self._fitted = True
        self.disc: Disc | None = None
        self.near: Snapped | None = None
        self.picked: tuple[Snapped, Thing] | None = None
        self.dimensions: list[tuple[tuple[Thing, ...], Figure]] = []
        named(self, "flat_profile", "Flat profile of the cut")
        self.setMinimumWidth(150)

    def sizeHint(self) -> QSize:
        return QSize(230, 84)

    def word(self, wording: Wording) -> None:
        self._wording = wording
        self.update()

    # --- what is shown ---------------------------------------------------------------------------------------------

    def show_cut(self, cutting: SectionsController, palette: Palette) -> None:
        """The outlines of the cut in hand, up as seen from the side that is taken away."""
        before, self._palette = self._palette, palette
        plane = cutting.section.plane if cutting.section is not None and cutting.cut is not None else None
        outlines = cutting.outlines if plane is not None else ()
        if outlines is not self._outlines or plane is not self._plane:
            same_way = plane is not None and self._plane is not None and bool((plane.normal == self._plane.normal).all())
            self._plane, self._outlines, self._exact = plane, outlines, cutting.exact is not None
            self._turn = _upright(plane) if plane is not None else np.eye(2)
            self.picked, self.near, self.disc = None, None, None
            self.dimensions.clear()
            self._fitted = self._fitted or not same_way
            self.draw_anew()
            self.update()
        elif palette is not before:
            self.update()

    def draw_anew(self) -> None:
        if self._fitted:
            self._fit()
        sag = _SAG_PIXELS / max(self._scale, 1e-9)
        drawn = [(one.drawn(sag), one.closed, one.body) for one in self._outlines]
        self._ways = ways_of([ring for ring, closed, _ in drawn if closed])
        self._bodies, self._chains, self._on_screen = {}, QPainterPath(), None
        for ring, is_closed, body in drawn:
            path = self._bodies.setdefault(body, QPainterPath()) if is_closed else self._chains
            path.addPolygon(QPolygonF([QPointF(x, y) for x, y in self._seen(ring).tolist()]))
            if is_closed:
                path.closeSubpath()

    def _fit(self) -> None:
        places = [self._seen(one.drawn(1e-2)) for one in self._outlines if len(one.points)]
        if not places:
            return
        every = np.concatenate(places)
        low, high = every.min(axis=0), every.max(axis=0)
        room = np.array([max(self.width() - 28, 20), max(self.height() - 20, 20)])
        self._scale = float((room / np.maximum(high - low, 1e-9)).min())
        self._centre = (low + high) / 2

    def _seen(self, places: np.ndarray) -> np.ndarray:
        """(n, 2) of the plane's frame turned upright."""
        return np.asarray(places @ self._turn.T)

    def to_widget(self, places: np.ndarray) -> np.ndarray:
        """(n, 2) pixels of (n, 2) places in the plane's frame."""
        away = (self._seen(places) - self._centre) * self._scale
        return np.column_stack([self.width() / 2 + away[:, 0], self.height() / 2 - away[:, 1]])

    def from_widget(self, place: QPointF) -> np.ndarray:
        """(2,) in the plane's frame of a place of the widget."""
        away = np.array([place.x() - self.width() / 2, self.height() / 2 - place.y()]) / self._scale
        return np.asarray((self._centre + away) @ self._turn)

    def show_all(self) -> None:
        self._fitted = True
        self.draw_anew()
        self.update()

    def _length(self, value: float) -> str:
        return said(Figure("", value, "length", 0.0, ""), self._wording)

    # --- painting --------------------------------------------------------------------------------------------------

    def picture(self, pixels_per_mm: float) -> QImage:
        """The whole cut to scale, with its dimensions: the picture says how many dots it has to the metre."""
        kept = self._centre, self._scale, self._fitted
        places = [self._seen(one.drawn(1e-2)) for one in self._outlines if len(one.points)]
        every = np.concatenate(places) if places else np.array([[0.0, 0.0], [1.0, 1.0]])
        low, high = every.min(axis=0), every.max(axis=0)
        margin = 48
        size = np.ceil((high - low) * pixels_per_mm).astype(int) + 2 * margin
        image = QImage(int(size[0]), int(size[1]), QImage.Format.Format_RGB32)
        image.fill(self._palette.colour("ground"))
        image.setDotsPerMeterX(round(pixels_per_mm * 1000))
        image.setDotsPerMeterY(round(pixels_per_mm * 1000))
        with QPainter(image) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            offset = np.array([size[0] / 2 - self.width() / 2, size[1] / 2 - self.height() / 2])
            painter.translate(float(offset[0]), float(offset[1]))
            self._centre, self._scale = (low + high) / 2, pixels_per_mm
            self._paint_grid(painter, QRectF(-offset[0], -offset[1], float(size[0]), float(size[1])))
            self._paint_outlines(painter)
            self._paint_dimensions(painter)
        self._centre, self._scale, self._fitted = kept
        return image

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = self._palette
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            box = QRectF(self.rect())
            painter.fillRect(box, p.colour("ground"))
            if not self._outlines:
                painter.setFont(type_of(11))
                painter.setPen(p.colour("quiet"))
                words = "The plane meets nothing here" if self._plane is not None else "The cut lies flat here"
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)
                return
            self._paint_grid(painter, box)
            self._paint_outlines(painter)
            self._paint_hover(painter)
            self._paint_dimensions(painter)

    def _paint_grid(self, painter: QPainter, box: QRectF) -> None:
        step = _round_step(_GRID_PIXELS / self._scale)
        corners = np.array([[box.left(), box.bottom()], [box.right(), box.top()]])
        away = (corners - [self.width() / 2, self.height() / 2]) / self._scale * [1, -1] + self._centre
        thin, strong = QColor(self._palette.colour("line")), QColor(self._palette.colour("quiet"))
        thin.setAlpha(120)
        strong.setAlpha(110)
        for axis in range(2):
            for number in range(int(np.ceil(away[0, axis] / step)), int(np.floor(away[1, axis] / step)) + 1):
                at = (number * step - self._centre[axis]) * self._scale
                painter.setPen(QPen(strong if number % 5 == 0 else thin, 1))
                if axis == 0:
                    x = self.width() / 2 + at
                    painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
                else:
                    y = self.height() / 2 - at
                    painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
        if box.width() > _LARGE:
            painter.setFont(type_of(11))
            painter.setPen(self._palette.colour("quiet"))
            foot = QRectF(box.left() + 8, box.bottom() - 22, 240, 16)
            painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, f"grid {self._length(step)}")

    def _paint_outlines(self, painter: QPainter) -> None:
        p = self._palette
        onto = QTransform.fromTranslate(self.width() / 2, self.height() / 2)
        onto.scale(self._scale, -self._scale)
        onto.translate(-float(self._centre[0]), -float(self._centre[1]))
        if self._on_screen is None or self._on_screen[0] != onto:
            self._on_screen = (onto, [onto.map(path) for path in self._bodies.values()], onto.map(self._chains))
        _, bodies, chains = self._on_screen
        fill, line = QColor(p.colour("cut")), QColor(p.colour("ink"))
        fill.setAlpha(190)
        line.setAlpha(110)
        painter.setPen(QPen(p.colour("ink"), 1.2))
        for number, path in enumerate(bodies):
            path.setFillRule(Qt.FillRule.WindingFill)
            painter.setBrush(fill)
            painter.drawPath(path)
            if len(bodies) > 1:
                # Hatched by body, as on the bench.
                painter.setBrush(QBrush(line, _HATCHES[number % len(_HATCHES)]))
                painter.drawPath(path)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(p.colour("failed"), 1.8))
        painter.drawPath(chains)

    def _paint_hover(self, painter: QPainter) -> None:
        p = self._palette
        if self.disc is not None:
            centre = self.to_widget(np.array([self.disc.centre, self.disc.contact, self.disc.other]))
            radius = self.disc.radius * self._scale
            painter.setPen(QPen(p.colour("accent"), 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(*centre[0]), radius, radius)
            for at in centre[1:]:
                painter.setBrush(p.colour("accent"))
                painter.drawEllipse(QPointF(*at), 3, 3)
            self._plate(painter, QPointF(*centre[0]), self._length(self.disc.thickness))
        for found, strong in ((self.picked[0] if self.picked is not None else None, True), (self.near, False)):
            if found is not None:
                self._paint_snap(painter, found, strong=strong)

    def _paint_snap(self, painter: QPainter, found: Snapped, *, strong: bool) -> None:
        pen = QPen(self._palette.colour("accent"), 3.0 if strong else 2.2)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        at = QPointF(*self.to_widget(found.place[None])[0])
        if found.kind == "corner":
            painter.drawRect(QRectF(at.x() - 4, at.y() - 4, 8, 8))
        elif found.kind == "centre":
            painter.drawEllipse(at, 5, 5)
            painter.drawLine(at + QPointF(-8, 0), at + QPointF(8, 0))
            painter.drawLine(at + QPointF(0, -8), at + QPointF(0, 8))
        else:
            starts, ends, bulges = self._outlines[found.outline].ways()
            piece = Outline(np.array([starts[found.way], ends[found.way]]), np.array([bulges[found.way], 0.0]), False)
            places = [QPointF(x, y) for x, y in self.to_widget(piece.drawn(_SAG_PIXELS / self._scale)).tolist()]
            for a, b in pairwise(places):
                painter.drawLine(a, b)

    def _paint_dimensions(self, painter: QPainter) -> None:
        p = self._palette
        for things, figure in self.dimensions:
            words = said(figure, self._wording)
            if figure.a is not None and figure.b is not None and self._plane is not None:
                ends = self.to_widget(flat(np.array([figure.a, figure.b]), self._plane))
                a, b = QPointF(*ends[0]), QPointF(*ends[1])
                self._paint_measured(painter, things)
                painter.setPen(QPen(p.colour("accent"), 1.8))
                painter.drawLine(a, b)
                for at in (a, b):
                    painter.setBrush(p.colour("accent"))
                    painter.drawEllipse(at, 3, 3)
                # Beside the line, so that a short one is not hidden by its number.
                along = b - a
                length = float(np.hypot(along.x(), along.y()))
                beside = QPointF(0, -14)
                if length > 1:
                    beside = QPointF(-along.y(), along.x()) / length * (26 if abs(along.y()) > abs(along.x()) else 14)
                self._plate(painter, (a + b) / 2 + (beside if beside.y() <= 0 else -beside), words)
            elif self._plane is not None:
                self._paint_measured(painter, things)
                known = [_place_of(thing) for thing in things]
                at = self.to_widget(flat(np.array(known), self._plane)).mean(axis=0)
                self._plate(painter, QPointF(*at), f"⌀ {words}" if figure.code == "diameter" else words)

    def _paint_measured(self, painter: QPainter, things: tuple[Thing, ...]) -> None:
        """The edges that a dimension is of."""
        painter.setPen(QPen(self._palette.colour("accent"), 2.4))
        for thing in things:
            if thing.segments is not None and self._plane is not None:
                ends = self.to_widget(flat(thing.segments.reshape(-1, 3), self._plane)).reshape(-1, 4)
                painter.drawLines(*(QLineF(*row) for row in ends.tolist()))

    def _plate(self, painter: QPainter, at: QPointF, words: str) -> None:
        painter.setFont(type_of(11, strong=True))
        width = painter.fontMetrics().horizontalAdvance(words) + 12.0
        plate = QRectF(at.x() - width / 2, at.y() - 9, width, 18)
        painter.setPen(QPen(self._palette.colour("line"), 1))
        painter.setBrush(self._palette.colour("panel"))
        painter.drawRoundedRect(plate, 3, 3)
        painter.setPen(self._palette.colour("ink"))
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, words)


def _place_of(thing: Thing) -> Floats:
    """Where words about a thing are put."""
    if thing.point is not None:
        return thing.point.place
    return thing.line.origin if thing.line is not None else np.zeros(3)


def _upright(plane: Plane) -> Floats:
    """(2, 2) from the plane's frame to right and up, as seen against its normal: up is up, of a level plane away from the
    front."""
    u, v = plane.frame()
    level = abs(float(plane.normal[2])) > 1 - 1e-9
    up = np.array([0.0, 1.0, 0.0]) if level else np.array([0.0, 0.0, 1.0])
    up = up - plane.normal * float(up @ plane.normal)
    up /= np.linalg.norm(up)
    right = np.cross(up, plane.normal)
    return np.array([[right @ u, right @ v], [up @ u, up @ v]])


def _round_step(least: float) -> float:
    """The least of 1, 2 and 5 times a power of ten that is no less."""
    power = float(10 ** np.floor(np.log10(least)))
    return next(step * power for step in (1, 2, 5, 10) if step * power >= least * (1 - 1e-9))
