"""The legend: exactly the colours that are drawn, each with what it says."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage

from gullyrise.core.checks.protocol import Verdict
from gullyrise.core.number_words import given
from gullyrise.drawing.arrays import image_over
from gullyrise.drawing.body_colours import of_verdict
from gullyrise.drawing.canvas import Canvas
from gullyrise.drawing.colour_maps import NOT_JUDGED, Scale
from gullyrise.drawing.scene import Scene
from gullyrise.drawing.typeface import type_of, width_of

LEGEND_WIDTH = 150
_BAR, _ROW, _LINE, _OVER = 156, 22, 16, 8
_VERDICTS: tuple[tuple[Verdict, str], ...] = (("pass", "pass"), ("review", "review"), ("fail", "fail"), ("not-run", "not run"))
_MIDDLE = Qt.AlignmentFlag.AlignVCenter


@dataclass(frozen=True, slots=True)
class Swatch:
    """One colour and its words. colour : red, green and blue"""

    colour: tuple[int, int, int]
    words: str


@dataclass(frozen=True, slots=True)
class LegendRows:
    """scale : that of a bar above the swatches, None for no bar"""

    title: str
    scale: Scale | None
    swatches: tuple[Swatch, ...]

    @property
    def title_height(self) -> int:
        """px: a title is broken into two lines where one is too short."""
        return _OVER + _LINE * (2 if width_of(self.title, type_of(11, strong=True)) > LEGEND_WIDTH - 16 else 1)

    @property
    def height(self) -> int:
        return self.title_height + (_BAR + 14 if self.scale is not None else 0) + _ROW * len(self.swatches) + 6


def legend_rows(scene: Scene) -> LegendRows | None:
    """What the picture's colours mean; None where they mean nothing."""
    scaled = [item for item in scene.items if item.scale is not None and item.opacity > 0]
    if scaled:
        scale = scaled[0].scale
        assert scale is not None
        rest = any(item.values is None or bool(np.isnan(item.values).any()) for item in scene.items if item.opacity > 0)
        unknown = (Swatch(NOT_JUDGED, "not judged"),) if rest else ()
        title = scale.title[:1].upper() + scale.title[1:] + (f", {scale.unit}" if scale.unit else "")
        if not scale.yes_or_no:
            return LegendRows(title, scale, unknown)
        colours = scale.colours(np.array([scale.limit + 1.0, scale.limit - 1.0]))
        yes, no = (Swatch((int(r), int(g), int(b)), words) for (r, g, b), words in zip(colours, ("yes", "no"), strict=True))
        return LegendRows(title, None, (yes, no, *unknown))
    if scene.display.surface == "facing" and scene.items:
        both = ((scene.palette.outside, "outside"), (scene.palette.inside, "inside"))
        return LegendRows("Sides of faces", None, tuple(Swatch(_rgb(colour), words) for colour, words in both))
    if scene.display.bodies == "verdict" and scene.items and scene.display.surface in ("shaded", "facets"):
        said = {item.colour for item in scene.items}
        rows = [(of_verdict(scene.palette, verdict), words) for verdict, words in _VERDICTS]
        return LegendRows("Verdict", None, tuple(Swatch(_rgb(colour), words) for colour, words in rows if colour in said))
    return None


def _rgb(colour: str) -> tuple[int, int, int]:
    shade = QColor(colour)
    return shade.red(), shade.green(), shade.blue()


def legend(canvas: Canvas, rows: LegendRows, at: QPointF) -> None:
    """Paints it with its upper left corner at a place; moved so that the picture holds it."""
    painter, (width, height) = canvas.painter, canvas.size
    box = QRectF(
        min(at.x(), max(width - LEGEND_WIDTH - 8, 0)), min(at.y(), max(height - rows.height - 8, 0)), LEGEND_WIDTH, rows.height
    )
    canvas.plate(box, cover=232, edge="line", edge_width=1, radius=6)
    canvas.length_of(rows.title, 11)
    canvas.write(QRectF(box.left() + 10, box.top() + 6, box.width() - 16, 32), rows.title, flags=Qt.TextFlag.TextWordWrap)
    top = box.top() + rows.title_height
    if rows.scale is not None:
        _bar(canvas, rows.scale, box.left(), top + 6)
        top += _BAR + 14
    canvas.length_of("", 11, strong=False)
    for row, swatch in enumerate(rows.swatches):
        y = top + row * _ROW
        canvas.pen("line", 1)
        canvas.brush(QColor(*swatch.colour))
        painter.drawRect(QRectF(box.left() + 12, y + 2, 17, 16))
        canvas.write(QRectF(box.left() + 38, y, box.width() - 44, 20), swatch.words, flags=_MIDDLE)


def _bar(canvas: Canvas, scale: Scale, left: float, top: float) -> None:
    painter = canvas.painter
    canvas.length_of("", 11, strong=False)
    # As a picture: lines side by side would let the ground shine through where they meet.
    rows = np.ascontiguousarray(scale.colours(np.linspace(scale.high, scale.low, _BAR)), dtype=np.uint8)
    painter.drawImage(QRectF(left + 12, top, 18, _BAR), image_over(rows[:, None], QImage.Format.Format_RGB888))
    limit_at = top + (scale.high - scale.limit) / max(scale.high - scale.low, 1e-12) * _BAR
    for value, y in ((scale.high, top), (scale.low, top + _BAR)):
        if abs(y - limit_at) > 14:
            sign = "≥ " if value == scale.high else ""
            canvas.write(QRectF(left + 38, y - 8, 100, 16), f"{sign}{given(value)}", flags=_MIDDLE)
    canvas.pen("ink", 2)
    painter.drawLine(QPointF(left + 8, limit_at), QPointF(left + 34, limit_at))
    canvas.length_of("", 11)
    canvas.write(QRectF(left + 38, limit_at - 8, 104, 16), f"{given(scale.limit)} limit", flags=_MIDDLE)
