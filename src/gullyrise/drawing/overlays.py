"""What is painted over the picture: names, scale, legend, the way back to what is out of view."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF

from gullyrise.core.geometry import Points
from gullyrise.core.machines import Machine
from gullyrise.drawing import before_eye
from gullyrise.drawing.arrays import image_over
from gullyrise.drawing.camera import Camera
from gullyrise.drawing.colour_maps import Scale
from gullyrise.drawing.display import SURFACES, Display
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.ruler import axis_length, ruler_marks
from gullyrise.drawing.typeface import type_of

Size = tuple[int, int]
Hides = Callable[[float, float, float], bool]
_SPECK = 8
"""Pixels: what is no larger is a speck that nobody finds."""
_SIDES = np.array([(corner, corner | bit) for bit in (1, 2, 4) for corner in range(8) if not corner & bit])
"""(12, 2) corners of a box, as it numbers them, at the ends of its sides."""


def plate(painter: QPainter, box: QRectF, palette: Palette) -> None:
    """A ground for words, so that they can be read over any part."""
    face = palette.colour("panel")
    face.setAlpha(214)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(face)
    painter.drawRoundedRect(box, 4, 4)


def view_name(painter: QPainter, camera: Camera, display: Display, palette: Palette) -> None:
    """The view, its projection, and how surfaces are drawn where that is not the usual way."""
    kind = "parallel" if camera.parallel else f"perspective {camera.field:.0f}°"
    if display.surface != "shaded":
        kind = f"{kind} · {SURFACES[display.surface].lower()}"
    if display.see_through:
        kind = f"{kind} · see-through"
    painter.setFont(type_of(12))
    length = painter.fontMetrics().horizontalAdvance(kind)
    painter.setFont(type_of(13, strong=True))
    plate(painter, QRectF(8, 10, painter.fontMetrics().horizontalAdvance(camera.name()) + length + 20, 23), palette)
    painter.setPen(palette.colour("ink"))
    painter.drawText(QPointF(14, 26), camera.name())
    width = painter.fontMetrics().horizontalAdvance(camera.name())
    painter.setFont(type_of(12))
    painter.setPen(palette.colour("quiet"))
    painter.drawText(QPointF(14 + width + 8, 26), kind)


def round_length(most: float) -> float:
    """The largest of 1, 2, 5 times a power of ten that is not over `most`."""
    power = 10.0 ** math.floor(math.log10(most))
    # Just under a power of ten its logarithm rounds up, and half of that is what fits.
    return next(step * power for step in (5.0, 2.0, 1.0, 0.5) if step * power <= most)


def scale_bar(painter: QPainter, camera: Camera, size: Size, palette: Palette) -> None:
    """A bar of a round length at the depth of the target."""
    mm = camera.span / size[1]
    length = round_length(160 * mm)
    pixels = length / mm
    x, y = 16.0, size[1] - 18.0
    plate(painter, QRectF(x - 8, y - 24, max(pixels, 60) + 16, 34), palette)
    painter.setPen(QPen(palette.colour("ink"), 1.6))
    painter.drawLine(QPointF(x, y), QPointF(x + pixels, y))
    for end in (x, x + pixels):
        painter.drawLine(QPointF(end, y - 4), QPointF(end, y + 4))
    painter.setFont(type_of(11))
    words = f"{length:g} mm" if length < 1000 else f"{length / 1000:g} m"
    painter.drawText(QRectF(x, y - 20, max(pixels, 60), 16), Qt.AlignmentFlag.AlignLeft, words)


def ruler_numbers(painter: QPainter, camera: Camera, size: Size, machine: Machine, palette: Palette, hides: Hides) -> None:
    """Numbers along the bed's front and right edges, left out where they would crowd or a part stands before them."""
    painter.setFont(type_of(10))
    painter.setPen(palette.colour("quiet"))
    marks = ruler_marks(machine)
    places = camera.to_picture(np.array([place for place, _ in marks]), *size)
    # Marks behind the eye have no place in the picture.
    steps = np.abs(np.diff(places[:, 0]))
    if not np.isfinite(steps).any() or float(np.nanmax(steps)) < 18:
        return
    for (_, words), (x, y, depth) in zip(marks, places, strict=True):
        if np.isfinite(x) and not hides(float(x), float(y), float(depth)):
            painter.drawText(QRectF(x - 16, y - 8, 32, 16), Qt.AlignmentFlag.AlignCenter, words)


def axis_letters(painter: QPainter, camera: Camera, size: Size, machine: Machine, palette: Palette) -> None:
    """X, Y and Z beyond the ends of the machine's axes."""
    painter.setFont(type_of(12, strong=True))
    for axis, letter in enumerate("XYZ"):
        end = np.zeros((1, 3))
        end[0, axis] = 1.06 * axis_length(machine)
        x, y, _ = camera.to_picture(end, *size)[0]
        if np.isfinite(x):
            painter.setPen(palette.colour(f"axis_{letter.lower()}"))
            painter.drawText(QRectF(x - 10, y - 9, 20, 18), Qt.AlignmentFlag.AlignCenter, letter)


def legend(painter: QPainter, size: Size, scale: Scale, palette: Palette) -> None:
    """The colours of the measure, its limit as a gap in the bar."""
    width, height, bar = 148, 104 if scale.yes_or_no else 214, 156
    box = QRectF(size[0] - width - 12, max(170, size[1] - height - 16), width, height)
    face = palette.colour("panel")
    face.setAlpha(232)
    painter.setPen(QPen(palette.colour("line"), 1))
    painter.setBrush(face)
    painter.drawRoundedRect(box, 6, 6)
    painter.setFont(type_of(11, strong=True))
    painter.setPen(palette.colour("ink"))
    unit = f", {scale.unit}" if scale.unit else ""
    title = QRectF(box.left() + 10, box.top() + 6, width - 16, 32)
    painter.drawText(title, Qt.TextFlag.TextWordWrap, scale.title[:1].upper() + scale.title[1:] + unit)
    top = box.top() + 44
    painter.setFont(type_of(11))
    if scale.yes_or_no:
        for row, (value, words) in enumerate(((1.0, "yes"), (0.0, "no"))):
            colour = scale.colours(np.array([value]))[0]
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(*(int(c) for c in colour)))
            painter.drawRect(QRectF(box.left() + 12, top + row * 26, 18, 18))
            painter.setPen(palette.colour("ink"))
            painter.drawText(QRectF(box.left() + 38, top + row * 26, 90, 18), Qt.AlignmentFlag.AlignVCenter, words)
        return
    # As a picture: lines side by side would let the ground shine through where they meet.
    rows = np.ascontiguousarray(scale.colours(np.linspace(scale.high, scale.low, bar)), dtype=np.uint8)
    painter.drawImage(QRectF(box.left() + 12, top, 18, bar), image_over(rows[:, None], QImage.Format.Format_RGB888))
    limit_at = top + (scale.high - scale.limit) / max(scale.high - scale.low, 1e-12) * bar
    painter.setPen(palette.colour("ink"))
    for value, y in ((scale.high, top), (scale.low, top + bar)):
        if abs(y - limit_at) > 14:
            sign = "≥ " if value == scale.high else ""
            painter.drawText(QRectF(box.left() + 38, y - 8, 100, 16), Qt.AlignmentFlag.AlignVCenter, f"{sign}{value:g}")
    painter.setPen(QPen(palette.colour("ink"), 2))
    painter.drawLine(QPointF(box.left() + 8, limit_at), QPointF(box.left() + 34, limit_at))
    painter.setFont(type_of(11, strong=True))
    painter.drawText(QRectF(box.left() + 38, limit_at - 8, 104, 16), Qt.AlignmentFlag.AlignVCenter, f"{scale.limit:g} limit")


def _overlaps(places: np.ndarray, size: Size) -> np.ndarray:
    """(n,) whether the extent of places (n, k, 2), all of which are known, reaches into the picture."""
    return np.asarray(((places.min(axis=1) < size) & (places.max(axis=1) > 0)).all(axis=1))


def out_of_view(camera: Camera, size: Size, corners: Points) -> tuple[float, float] | None:
    """Where none of some boxes (n, 8, 3) is in the picture: its direction of length one towards the nearest; else None."""
    if not len(corners):
        return None
    seen = camera.to_picture(corners.reshape(-1, 3), *size)[:, :2].reshape(len(corners), 8, 2)
    if _overlaps(seen, size).any():
        return None
    # Of a box that reaches behind the eye, what lies before it has other corners.
    partly = np.flatnonzero(~np.isfinite(seen[..., 0]).all(axis=1))
    ends, of = before_eye.pieces(camera, corners[partly][:, _SIDES].reshape(-1, 2, 3))
    for box in range(len(partly)):
        own = camera.to_picture(ends[of // len(_SIDES) == box].reshape(-1, 3), *size)[None, :, :2]
        if own.size and _overlaps(own, size).any():
            return None
    middles = corners.mean(axis=1)
    right, up, back = camera.frame()
    away = middles * np.array(camera.stretch) - camera.drawn_target
    # Behind the eye there is no place in the picture, but left and right still are what they are.
    aside = np.column_stack([away @ right, -(away @ up)])
    ahead = camera.distance - away @ back
    far = np.hypot(aside[:, 0], aside[:, 1]) + np.where(ahead < 0, -ahead, 0)
    towards = aside[int(np.argmin(far))]
    length = float(np.hypot(*towards))
    if length < 1e-9 * max(size):
        return 0.0, 1.0
    return float(towards[0]) / length, float(towards[1]) / length


def speck(camera: Camera, size: Size, corners: Points) -> tuple[float, float] | None:
    """Where all that is in the picture of some boxes (n, 8, 3) is a speck of a few pixels: its place; else None."""
    if not len(corners):
        return None
    seen = camera.to_picture(corners.reshape(-1, 3), *size)[:, :2].reshape(len(corners), 8, 2)
    if not np.isfinite(seen).all():
        return None
    within = seen[((seen.min(axis=1) < size) & (seen.max(axis=1) > 0)).all(axis=1)]
    if not len(within) or float((within.max(axis=(0, 1)) - within.min(axis=(0, 1))).max()) > _SPECK:
        return None
    x, y = within.mean(axis=(0, 1))
    return float(x), float(y)


def lost(painter: QPainter, camera: Camera, size: Size, corners: Points, home: str, palette: Palette) -> None:
    """Where no part is in the picture, an arrow to the nearest; where all that is there is a speck, a ring round it. `home` is
    the key that brings all back."""
    at = speck(camera, size, corners)
    if at is not None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(palette.colour("accent"), 2))
        painter.drawEllipse(QPointF(*at), 3.0 * _SPECK, 3.0 * _SPECK)
        low = at[1] + 3 * _SPECK + 18 < size[1] - 14
        middle = QPointF(min(max(at[0], 150.0), size[0] - 150.0), at[1] + (1 if low else -1) * (3 * _SPECK + 18))
        _told(painter, middle, "All that is in view is this speck.", home, palette)
        return
    away = out_of_view(camera, size, corners)
    if away is None:
        return
    middle, ahead = QPointF(size[0] / 2, size[1] / 2), QPointF(*away)
    half = _told(painter, middle, "No part is in view.", home, palette)
    # The arrow begins where its direction leaves the ground of the words.
    reach = min(half.x() / max(abs(ahead.x()), 1e-9), half.y() / max(abs(ahead.y()), 1e-9)) + 16
    tip = middle + ahead * (reach + 24)
    side, back = QPointF(-ahead.y(), ahead.x()), middle + ahead * reach
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(palette.colour("accent"))
    painter.drawPolygon(QPolygonF([tip, back + side * 13, back - side * 13]))


def _told(painter: QPainter, middle: QPointF, what: str, home: str, palette: Palette) -> QPointF:
    """Words on a ground, and the key that brings all back; half the size of that ground."""
    painter.setFont(type_of(13, strong=True))
    words = f"{what} {home} brings all back." if home else what
    half = QPointF(painter.fontMetrics().horizontalAdvance(words) / 2 + 12, 14)
    box = QRectF(middle - half, middle + half)
    plate(painter, box, palette)
    painter.setPen(palette.colour("ink"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
    return half


def badge(painter: QPainter, size: Size, words: str, palette: Palette) -> None:
    """A word that the picture is not as the part is."""
    painter.setFont(type_of(12, strong=True))
    length = painter.fontMetrics().horizontalAdvance(words) + 24
    box = QRectF((size[0] - length) / 2, 10, length, 24)
    painter.setPen(QPen(palette.colour("review"), 1.5))
    painter.setBrush(palette.colour("panel"))
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(palette.colour("review"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
