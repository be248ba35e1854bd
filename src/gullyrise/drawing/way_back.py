"""Where the parts are when none is in the picture, or all that is there is a speck."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPolygonF

from gullyrise.core.camera import before_eye
from gullyrise.core.camera.camera import Camera
from gullyrise.core.geometry import Points
from gullyrise.drawing.canvas import SEE_THROUGH, Canvas, Size

_SPECK = 8
"""Pixels: what is no larger is a speck that nobody finds."""
_SIDES = np.array([(corner, corner | bit) for bit in (1, 2, 4) for corner in range(8) if not corner & bit])
"""(12, 2) corners of a box, as it numbers them, at the ends of its sides."""


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


def lost(canvas: Canvas, corners: Points, home: str) -> None:
    """Where none of some boxes (n, 8, 3) mm is in the picture, an arrow to the nearest; where all that is there is a speck, a
    ring round it. home : the key that brings all back"""
    size, painter = canvas.size, canvas.painter
    at = speck(canvas.camera, size, corners)
    if at is not None:
        canvas.brush(None)
        canvas.pen("accent", 2)
        painter.drawEllipse(QPointF(*at), 3.0 * _SPECK, 3.0 * _SPECK)
        low = at[1] + 3 * _SPECK + 18 < size[1] - 14
        middle = QPointF(min(max(at[0], 150.0), size[0] - 150.0), at[1] + (1 if low else -1) * (3 * _SPECK + 18))
        _told(canvas, middle, "All that is in view is this speck.", home)
        return
    away = out_of_view(canvas.camera, size, corners)
    if away is None:
        return
    middle, ahead = QPointF(size[0] / 2, size[1] / 2), QPointF(*away)
    half = _told(canvas, middle, "No part is in view.", home)
    # The arrow begins where its direction leaves the ground of the words.
    reach = min(half.x() / max(abs(ahead.x()), 1e-9), half.y() / max(abs(ahead.y()), 1e-9)) + 16
    tip = middle + ahead * (reach + 24)
    side, back = QPointF(-ahead.y(), ahead.x()), middle + ahead * reach
    painter.setPen(Qt.PenStyle.NoPen)
    canvas.brush("accent")
    painter.drawPolygon(QPolygonF([tip, back + side * 13, back - side * 13]))


def _told(canvas: Canvas, middle: QPointF, what: str, home: str) -> QPointF:
    """Words on a ground, and the key that brings all back; half the size of that ground."""
    words = f"{what} {home} brings all back." if home else what
    half = QPointF(canvas.length_of(words, 13) / 2 + 12, 14)
    canvas.plate(QRectF(middle - half, middle + half), words, cover=SEE_THROUGH)
    return half
