"""Small pictures beside one of evidence: where on the part it is, and what the large picture cannot show."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPolygonF

from gullyrise.core.evidence.view import Beside, EvidenceView
from gullyrise.core.geometry import Floats
from gullyrise.drawing.canvas import Canvas

SIZE = (124, 93)
"""Points: no wider than what is left beside the middle of a picture of evidence, in which nothing may lie over it."""
_EDGE = 5
_LEAST, _MOST = 6.0, 0.3
_ASPECT = 4 / 3


def mark_where(canvas: Canvas, view: EvidenceView) -> None:
    """The frame round the place in a picture of the whole part."""
    at = canvas.at(view.marks.mean(axis=0))
    if at is None:
        return
    half = min(max(view.camera.span / canvas.camera.span * canvas.size[1] / 2, _LEAST), canvas.size[1] * _MOST)
    canvas.brush(None)
    for _ in canvas.outlined("failed", 2.0, 3.8):
        canvas.painter.drawRect(QRectF(at.x() - half * _ASPECT, at.y() - half, 2 * half * _ASPECT, 2 * half))


def mark_beside(canvas: Canvas, view: EvidenceView, beside: Beside) -> None:
    """The angle of the face that is cut, or a ring round the place."""
    if beside.leaning is not None:
        _angle(canvas, view.marks[0], beside.leaning)
        return
    at = canvas.at(view.marks[0])
    if at is not None:
        canvas.brush(None)
        for _ in canvas.outlined("failed", 1.6, 3.4):
            canvas.painter.drawEllipse(at, 5.0, 5.0)


def paint_insets(canvas: Canvas, images: Sequence[QImage]) -> None:
    """From the lower right corner up."""
    width, height = canvas.size
    for number, image in enumerate(images, 1):
        box = QRectF(width - SIZE[0] - _EDGE, height - number * (SIZE[1] + _EDGE), *SIZE)
        canvas.painter.drawImage(box.topLeft(), image)
        canvas.brush(None)
        canvas.pen("line", 1.5)
        canvas.painter.drawRect(box)


def _angle(canvas: Canvas, at: Floats, leaning: Floats) -> None:
    """The vertical dashed, the face as a line, the angle between them as a small round."""
    reach = 0.3 * canvas.camera.span
    upright = np.array([0.0, 0.0, 1.0])
    turn = np.linspace(0.0, 1.0, 17)[:, None]
    between = upright + (leaning - upright) * turn
    arc = at + 0.72 * reach * between / np.linalg.norm(between, axis=1)[:, None]
    found = canvas.all_at(np.concatenate([[at, at + upright * reach, at + leaning * reach], arc]))
    if found is None:
        return
    foot, top, end, *round_ = found
    for _ in canvas.outlined("quiet", 1.4, 3.2):
        canvas.painter.drawLine(foot, top)
    for _ in canvas.outlined("failed", 1.8, 3.6):
        canvas.painter.drawLine(foot, end)
    for _ in canvas.outlined("failed", 1.2, 2.8):
        canvas.painter.drawPolyline(QPolygonF(round_))
