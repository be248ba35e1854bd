"""The bench as it is painted: pictures, what marks things in them, words, the magnifier."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from gullyrise.core.geometry import Box, Points
from gullyrise.core.machines import Machine
from gullyrise.desktop.bench import tray_painted
from gullyrise.desktop.bench.aside import Aside
from gullyrise.desktop.bench.drawn_bench import LENS_RADIUS, LENS_TIMES
from gullyrise.desktop.bench.panes import FREE, Pane
from gullyrise.desktop.bench.picking import Feature, FeatureLines
from gullyrise.desktop.bench.viewed_bench import ViewedBench
from gullyrise.drawing import evidence, marks, overlays
from gullyrise.drawing.evidence import NO_MARKS, Way
from gullyrise.drawing.marks import Flag
from gullyrise.drawing.palette import Palette

_STROKES_MS = 3000
MOST_MARKED = 200
"""Chosen faces, edges or corners that are drawn."""


class PaintedBench(ViewedBench):
    """flags, features : what others want marked;  touching, home_key : what a rectangle takes and which
    key brings all back, for their words."""

    def __init__(self, palette: Palette, machine: Machine) -> None:
        super().__init__(palette, machine)
        self.flags: list[Flag] = []
        self.features: tuple[Feature, ...] = ()
        self.touching = True
        self.home_key = ""
        self.aside = Aside(self)
        self._hover_feature: Feature | None = None
        self.meeting: list[Box] = []
        self.check_marks = NO_MARKS
        self.near: Way | None = None
        self._lines = FeatureLines(self.aside.ask, self.update)
        self._outlines: dict[str, tuple[object, QImage | None]] = {}
        self._strokes: list[str] = []
        self._strokes_end = self._timer(_STROKES_MS, self._forget_strokes, once=True)

    @property
    def hovered_key(self) -> tuple[int, int] | None:
        """The body under the pointer."""
        items = self.scene.items
        return items[self._hovered].key if self._hovered is not None and self._hovered < len(items) else None

    def note_stroke(self, words: str) -> None:
        """A stroke to show to those who watch, where that is wanted."""
        if self.scene.display.strokes:
            if not self._strokes or self._strokes[-1] != words:
                self._strokes = [*self._strokes[-3:], words]
            self._strokes_end.start()
            self.update()

    def _forget_strokes(self) -> None:
        self._strokes = []
        self.update()

    def bare_grab(self) -> QImage:
        """What is painted here for the record: without the controls that stand on it but for the dial, and without what only
        helps whoever sits before it."""
        passing = self._strokes, self._hovered, self._hover_feature, self._lens
        self._strokes, self._hovered, self._hover_feature, self._lens = [], None, None, None
        picture = QImage(self.size() * self.devicePixelRatioF(), QImage.Format.Format_RGB32)
        picture.setDevicePixelRatio(self.devicePixelRatioF())
        self.render(picture, flags=QWidget.RenderFlag.DrawWindowBackground)
        self._strokes, self._hovered, self._hover_feature, self._lens = passing
        if self.dial.isVisible():
            self.dial.render(picture, self.dial.pos(), flags=QWidget.RenderFlag(0))
        return picture

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with QPainter(self) as painter:
            if len(self.panes.shown) > 1:
                painter.fillRect(self.rect(), self._palette.colour("line"))
            for pane in self.panes.shown:
                painter.save()
                painter.setClipRect(pane.rect)
                painter.translate(QPointF(pane.rect.topLeft()))
                self._paint_pane(painter, pane)
                painter.restore()
            self._paint_lens(painter)
            marks.strokes(painter, (self.width(), self.height()), self._strokes, self._palette)

    def lines_of_face(self, key: tuple[int, int], index: int) -> Points | None:
        """(k, 2, 3) the rim of a face where it is seen; None for a body that is not."""
        item = next((one for one in self.scene.items if one.key == key), None)
        return self._lines.of(item, Feature("face", key, index)) if item is not None else None

    def paint_tray(self, painter: QPainter, pane: Pane) -> None:
        """What stands under the chosen things, for the bench that has a hand."""

    def _paint_pane(self, painter: QPainter, pane: Pane) -> None:
        camera, size, palette, display = pane.camera, pane.size(), self._palette, self.scene.display
        area = QRectF(0, 0, *size)
        if pane.image is None:
            painter.fillRect(area, palette.colour("ground"))
        else:
            painter.drawImage(area, pane.image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_outlines(painter, pane)
        for item in self.scene.items:
            for chosen in self.features[:MOST_MARKED]:
                if chosen.key == item.key:
                    marks.feature(painter, camera, size, self._lines.of(item, chosen), palette.colour("accent"), 3.0)
            if self._hover_feature is not None and self._hover_feature.key == item.key and pane is self.panes.active:
                lines = self._lines.of(item, self._hover_feature)
                marks.feature(painter, camera, size, lines, palette.colour("ink"), 1.6)
        if display.bed and display.rulers:
            overlays.ruler_numbers(painter, camera, size, self.scene.machine, palette, pane.hides)
        if display.axes:
            overlays.axis_letters(painter, camera, size, self.scene.machine, palette)
        tray_painted.meeting(painter, camera, size, self.meeting, palette)
        self.paint_tray(painter, pane)
        evidence.paint(painter, camera, size, self.check_marks, palette)
        if self.near is not None:
            evidence.way(painter, camera, size, self.near, palette)
        marks.flags(painter, camera, size, self.flags, palette)
        overlays.view_name(painter, camera, display, palette)
        if display.scale_bar and camera.stretch == (1.0, 1.0, 1.0):
            overlays.scale_bar(painter, camera, size, palette)
        if camera.stretch != (1.0, 1.0, 1.0):
            axis = int(np.argmax(camera.stretch))
            overlays.badge(
                painter, size, f"Picture stretched {camera.stretch[axis]:g} × along {'XYZ'[axis]}; numbers stay true", palette
            )
        scale = next((item.scale for item in self.scene.items if item.scale is not None), None)
        if scale is not None and pane.name == FREE:
            overlays.legend(painter, size, scale, palette)
        stroke = self.hand.stroke
        if stroke is not None and stroke.moved and pane is self.panes.active:
            if stroke.gesture in ("turn", "roll"):
                x, y, _ = camera.to_picture(stroke.pivot[None], *size)[0]
                if np.isfinite(x):
                    marks.pivot_ring(painter, QPointF(float(x), float(y)), palette)
            elif stroke.gesture in ("frame", "choose"):
                inside = "touching" if self.touching else "inside"
                words = "Zooms to this" if stroke.gesture == "frame" else f"Selects what is {inside}"
                marks.band(painter, *stroke.rectangle, words, palette)
        overlays.lost(painter, camera, size, self.scene.corners, self.home_key, palette)
        if len(self.panes.shown) > 1 and pane is self.panes.active:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(palette.colour("accent"))
            painter.drawRect(area.adjusted(0.5, 0.5, -1.5, -1.5))

    def _paint_outlines(self, painter: QPainter, pane: Pane) -> None:
        """A rim in the accent round what is selected, a thin one in ink round what the pointer is on; in still pictures."""
        frame = pane.frame
        if frame is None or frame.owners is None or not pane.camera.same_view(frame.request.camera):
            return
        ratio = self.devicePixelRatioF()
        chosen = {number for number, item in enumerate(frame.request.scene.items) if item.selected}
        thin = self.scene.display.quiet
        wanted = [("chosen", chosen, "accent", max(1, round((1 if thin else 2) * ratio)))]
        if self._hovered is not None and pane is self.panes.active and frame.request.scene is self.scene:
            wanted.append(("hover", {self._hovered}, "ink", max(1, round(ratio))))
        for name, items, colour, width in wanted:
            made_of = (frame.request.number, frozenset(items), self._palette.colour(colour).name(), width)
            place = f"{pane.name} {name}"
            if self._outlines.get(place, (None, None))[0] != made_of:
                self._outlines[place] = (made_of, marks.outline(frame, items, self._palette.colour(colour), width))
            image = self._outlines[place][1]
            if image is not None:
                marks.draw_outline(painter, image, ratio)

    def _paint_lens(self, painter: QPainter) -> None:
        if self._lens is not None and self._lens.image is not None and self._pointer is not None:
            marks.lens(painter, self._lens.image, self._pointer, LENS_RADIUS, f"{LENS_TIMES:g} ×", self._palette)
