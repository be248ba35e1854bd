"""A picture that is painted on: where places of the bench are in it, and words that can be read over any part."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from gullyrise.core.camera.camera import Camera
from gullyrise.core.geometry import Floats, Points
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import type_of

Size = tuple[int, int]
Hides = Callable[[float, float, float], bool]
_FAR = 20_000.0
"""Pixels: farther out nothing is painted."""
SEE_THROUGH = 214
"""Of 255, how much a ground for words covers of what is behind it."""


def _nothing_before(x: float, y: float, depth: float) -> bool:
    return False


@dataclass(frozen=True, slots=True, eq=False)
class Canvas:
    """painter : of the picture
    camera : through which it is seen
    size : width and height in px
    palette : its colours
    hides : whether something in the picture stands before a place of it: (x, y in px, depth in mm)
    """

    painter: QPainter
    camera: Camera
    size: Size
    palette: Palette
    hides: Hides = _nothing_before

    def seen(self, places: Points) -> Floats:
        """(n, 3) x and y in px and the depth in mm of places (n, 3) mm; not finite behind the eye."""
        return self.camera.to_picture(np.asarray(places, dtype=float).reshape(-1, 3), *self.size)

    def at(self, place: object) -> QPointF | None:
        """Where a place (3,) mm is; None behind the eye or out of all bounds."""
        found = self.all_at(np.asarray(place, dtype=float)[None])
        return None if found is None else found[0]

    def all_at(self, places: Points) -> list[QPointF] | None:
        """Where places (n, 3) mm are; None where one is behind the eye or out of all bounds."""
        found = self.seen(places)[:, :2]
        if not np.isfinite(found).all() or np.abs(found).max() > _FAR:
            return None
        return [QPointF(float(x), float(y)) for x, y in found]

    def colour(self, use: str) -> QColor:
        """Of the palette, by its use."""
        return self.palette.colour(use)

    def pen(self, colour: str | QColor, width: float, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> None:
        """Lines to come. colour : one, or the use of one in the palette"""
        self.painter.setPen(QPen(self.colour(colour) if isinstance(colour, str) else colour, width, style))

    def outlined(self, colour: str | QColor, width: float, halo: float) -> Iterator[None]:
        """Twice: first for a pale line of the width of the halo, so that the one over it is seen on any ground."""
        self.pen("panel", halo)
        yield
        self.pen(colour, width)
        yield

    def brush(self, colour: str | QColor | None, cover: int = 255) -> None:
        """Fills to come, None for none. cover : of 255, how much of what is behind is covered"""
        if colour is None:
            self.painter.setBrush(Qt.BrushStyle.NoBrush)
            return
        face = QColor(self.colour(colour) if isinstance(colour, str) else colour)
        face.setAlpha(cover)
        self.painter.setBrush(face)

    def length_of(self, words: str, size: int, *, strong: bool = True) -> int:
        """px of words in a size of type, which those to come are written in."""
        self.painter.setFont(type_of(size, strong=strong))
        return self.painter.fontMetrics().horizontalAdvance(words)

    def plate(
        self, box: QRectF, words: str = "", *, cover: int = 255, edge: str | QColor | None = None, edge_width: float = 1.2,
        ink: str | QColor = "ink", face: str = "panel", radius: float = 4,
    ) -> None:  # fmt: skip
        """A ground in a box with words in its middle, in the type of `length_of`. edge : the colour of its border"""
        if edge is None:
            self.painter.setPen(Qt.PenStyle.NoPen)
        else:
            self.pen(edge, edge_width)
        self.brush(face, cover)
        self.painter.drawRoundedRect(box, radius, radius)
        if words:
            self.write(box, words, ink=ink)

    def write(
        self,
        box: QRectF,
        words: str,
        *,
        ink: str | QColor = "ink",
        flags: Qt.AlignmentFlag | Qt.TextFlag = Qt.AlignmentFlag.AlignCenter,
    ) -> None:
        """Words in a box, in the type that was set last."""
        self.painter.setPen(self.colour(ink) if isinstance(ink, str) else ink)
        self.painter.drawText(box, flags, words)
