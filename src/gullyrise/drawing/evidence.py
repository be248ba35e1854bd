"""What the checks found, marked in a picture: flags, the ball in a wall, the lines of a finding, what collides."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QImage, QPolygonF

from gullyrise.core.camera import before_eye
from gullyrise.core.checks.protocol import Finding
from gullyrise.core.evidence.view import MIDDLE, EvidenceView
from gullyrise.core.geometry import Box, Floats, Plane, Points
from gullyrise.drawing import marks
from gullyrise.drawing.canvas import Canvas
from gullyrise.drawing.evidence_marks import paint_marks
from gullyrise.drawing.insets import SIZE as INSET
from gullyrise.drawing.insets import paint_insets
from gullyrise.drawing.marks import Flag

_ROUND = 64


@dataclass(frozen=True, slots=True, eq=False)
class Ball:
    """A ball between two contacts, mm on the bench.

    a, b : (3,) where it touches
    words : its diameter
    across : the plane of a cut that goes through it, None where none does; the ball is drawn in it
    """

    centre: Floats
    radius: float
    a: Floats
    b: Floats
    words: str
    across: Plane | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Gap:
    """From one place to another, (3,) mm each, with its length in words."""

    a: Floats
    b: Floats
    words: str


@dataclass(frozen=True, slots=True, eq=False)
class Shown:
    """An evidence view that is looked at.

    finding : in the machine's coordinates;  words : the number at its marks
    insets : small pictures beside it
    """

    view: EvidenceView
    finding: Finding
    words: str
    insets: tuple[QImage, ...] = ()


@dataclass(frozen=True, slots=True, eq=False)
class Evidence:
    """What of the checks is marked in a picture.

    flags : of findings
    ball : in a wall
    lines : (k, 2, 3) mm of the flagged finding
    collisions : boxes of what meets
    gap : to the next part, while one is moved
    shown : the evidence that is looked at, which the flag and the lines of its finding give way to
    """

    flags: tuple[Flag, ...] = ()
    ball: Ball | None = None
    lines: Points | None = None
    collisions: tuple[Box, ...] = ()
    gap: Gap | None = None
    shown: Shown | None = None


def paint(canvas: Canvas, shown: Evidence) -> None:
    """Paints it on a canvas."""
    marks.collisions(canvas, shown.collisions)
    looked_at = shown.shown
    if shown.lines is not None and len(shown.lines) and looked_at is None:
        _lines(canvas, shown.lines, "failed")
    if shown.ball is not None and (looked_at is None or looked_at.finding.ball is None):
        _ball(canvas, shown.ball)
    if shown.gap is not None:
        _gap(canvas, shown.gap)
    # Beside evidence that is looked at nothing may hide it.
    marks.flags(canvas, [flag for flag in shown.flags if looked_at is None or not flag.chosen], pictures=looked_at is None)
    if looked_at is not None:
        paint_marks(canvas, looked_at.view, looked_at.finding, looked_at.words)
        if canvas.size[0] * (1 - MIDDLE) / 2 > INSET[0]:
            paint_insets(canvas, looked_at.insets)


def _gap(canvas: Canvas, gap: Gap) -> None:
    _lines(canvas, np.stack([gap.a, gap.b])[None], "accent")
    middle = canvas.at((gap.a + gap.b) / 2)
    if middle is not None:
        _told(canvas, middle + QPointF(0, 8), gap.words)


def _lines(canvas: Canvas, lines: Points, colour: str) -> None:
    before, _ = before_eye.pieces(canvas.camera, lines)
    ends = np.clip(canvas.seen(before)[:, :2].reshape(-1, 4), -1e5, 1e5)
    for _ in canvas.outlined(colour, 1.5, 3.4):
        for x, y, u, v in ends.tolist():
            canvas.painter.drawLine(QPointF(x, y), QPointF(u, v))


def _ball(canvas: Canvas, ball: Ball) -> None:
    """As a disc in the cut that goes through it, else as the round that it shows to the eye."""
    u, v, _ = canvas.camera.frame()
    centre, radius, painter = ball.centre, ball.radius, canvas.painter
    if ball.across is not None:
        off = float((centre - ball.across.point) @ ball.across.normal)
        if abs(off) < radius:
            centre, radius = centre - off * ball.across.normal, float(np.sqrt(radius**2 - off**2))
            u, v = ball.across.frame()
    turn = np.arange(_ROUND) * (2 * np.pi / _ROUND)
    border = centre + radius * (np.cos(turn)[:, None] * u + np.sin(turn)[:, None] * v)
    seen = canvas.all_at(np.concatenate([border, [ball.a, ball.b, centre]]))
    if seen is None:
        return
    *outline, a, b, middle = seen
    canvas.brush("accent", 70)
    for _ in canvas.outlined("accent", 2.0, 4.0):
        painter.drawPolygon(QPolygonF(outline))
        canvas.brush(None)
    canvas.pen("ink", 1.4)
    painter.drawLine(a, b)
    canvas.brush("ink")
    for place in (a, b):
        painter.drawEllipse(place, 3.0, 3.0)
    _told(canvas, QPointF(middle.x(), max(at.y() for at in outline) + 6), ball.words)


def _told(canvas: Canvas, top: QPointF, words: str) -> None:
    wide = canvas.length_of(words, 12) + 12
    canvas.plate(QRectF(top.x() - wide / 2, top.y(), wide, 20), words, edge="accent")
