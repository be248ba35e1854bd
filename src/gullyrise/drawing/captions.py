"""Words and scales on a picture: the view's name, rulers, the machine's axes, the scale bar, the legend of colours."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt

from gullyrise.core.machines import Machine
from gullyrise.core.placing.bed_lines import axis_length, ruler_marks
from gullyrise.drawing.canvas import SEE_THROUGH, Canvas
from gullyrise.drawing.display import SURFACES, Display
from gullyrise.drawing.legend import LegendRows, legend
from gullyrise.drawing.scene import Scene

_LEFT = Qt.AlignmentFlag.AlignLeft
_MIDDLE = Qt.AlignmentFlag.AlignVCenter


def on_bed(canvas: Canvas, scene: Scene) -> None:
    """What belongs to the bed, as far as the display wants it."""
    if scene.display.bed and scene.display.rulers:
        ruler_numbers(canvas, scene.machine)
    if scene.display.axes:
        axis_letters(canvas, scene.machine)


def on_picture(canvas: Canvas, scene: Scene, rows: LegendRows | None, legend_at: QPointF) -> None:
    """What tells of the whole picture, as far as the display wants it. rows, legend_at : of the legend, and its corner"""
    view_name(canvas, scene.display)
    stretch = canvas.camera.stretch
    if stretch != (1.0, 1.0, 1.0):
        axis = int(np.argmax(stretch))
        badge(canvas, f"Picture stretched {stretch[axis]:g} × along {'XYZ'[axis]}; numbers stay true")
    elif scene.display.scale_bar:
        scale_bar(canvas)
    if rows is not None:
        legend(canvas, rows, legend_at)


def view_name(canvas: Canvas, display: Display) -> None:
    """The view, its projection, and how surfaces are drawn where that is not the usual way."""
    camera, painter = canvas.camera, canvas.painter
    kind = "parallel" if camera.parallel else f"perspective {camera.field:.0f}°"
    if display.surface != "shaded":
        kind = f"{kind} · {SURFACES[display.surface].lower()}"
    if display.see_through:
        kind = f"{kind} · see-through"
    length = canvas.length_of(kind, 12, strong=False)
    width = canvas.length_of(camera.name(), 13)
    canvas.plate(QRectF(8, 10, width + length + 20, 23), cover=SEE_THROUGH)
    painter.setPen(canvas.colour("ink"))
    painter.drawText(QPointF(14, 26), camera.name())
    canvas.length_of(kind, 12, strong=False)
    painter.setPen(canvas.colour("quiet"))
    painter.drawText(QPointF(14 + width + 8, 26), kind)


def round_length(most: float) -> float:
    """The largest of 1, 2, 5 times a power of ten that is not over `most`."""
    power = 10.0 ** math.floor(math.log10(most))
    # Just under a power of ten its logarithm rounds up, and half of that is what fits.
    return next(step * power for step in (5.0, 2.0, 1.0, 0.5) if step * power <= most)


def scale_bar(canvas: Canvas) -> None:
    """A bar of a round length at the depth of the target."""
    mm = canvas.camera.span / canvas.size[1]
    length = round_length(160 * mm)
    pixels = length / mm
    x, y = 16.0, canvas.size[1] - 18.0
    canvas.plate(QRectF(x - 8, y - 24, max(pixels, 60) + 16, 34), cover=SEE_THROUGH)
    canvas.pen("ink", 1.6)
    canvas.painter.drawLine(QPointF(x, y), QPointF(x + pixels, y))
    for end in (x, x + pixels):
        canvas.painter.drawLine(QPointF(end, y - 4), QPointF(end, y + 4))
    words = f"{length:g} mm" if length < 1000 else f"{length / 1000:g} m"
    canvas.length_of(words, 11, strong=False)
    canvas.write(QRectF(x, y - 20, max(pixels, 60), 16), words, flags=_LEFT)


def ruler_numbers(canvas: Canvas, machine: Machine) -> None:
    """Numbers along the bed's front and right edges, left out where they would crowd or a part stands before them."""
    marks = ruler_marks(machine)
    places = canvas.seen(np.array([place for place, _ in marks]))
    # Marks behind the eye have no place in the picture.
    steps = np.abs(np.diff(places[:, 0]))
    if not np.isfinite(steps).any() or float(np.nanmax(steps)) < 18:
        return
    canvas.length_of("", 10, strong=False)
    for (_, words), (x, y, depth) in zip(marks, places, strict=True):
        if np.isfinite(x) and not canvas.hides(float(x), float(y), float(depth)):
            canvas.write(QRectF(x - 16, y - 8, 32, 16), words, ink="quiet")


def axis_letters(canvas: Canvas, machine: Machine) -> None:
    """X, Y and Z beyond the ends of the machine's axes."""
    canvas.length_of("", 12)
    for letter, end in zip("XYZ", canvas.seen(1.06 * axis_length(machine) * np.eye(3)), strict=True):
        if np.isfinite(end[0]):
            canvas.write(QRectF(end[0] - 10, end[1] - 9, 20, 18), letter, ink=f"axis_{letter.lower()}")


def badge(canvas: Canvas, words: str) -> None:
    """A word that the picture is not as the part is."""
    length = canvas.length_of(words, 12) + 24
    box = QRectF((canvas.size[0] - length) / 2, 10, length, 24)
    canvas.plate(box, words, edge="review", edge_width=1.5, ink="review")
