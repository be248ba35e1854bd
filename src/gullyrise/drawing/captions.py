"""Words and scales on a picture: the view's name, rulers, the machine's axes, the scale bar, the legend of colours."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage

from gullyrise.core.machines import Machine
from gullyrise.core.placing.bed_lines import axis_length, ruler_marks
from gullyrise.drawing.arrays import image_over
from gullyrise.drawing.canvas import SEE_THROUGH, Canvas
from gullyrise.drawing.colour_maps import Scale
from gullyrise.drawing.display import SURFACES, Display
from gullyrise.drawing.scene import Scene

_LEFT = Qt.AlignmentFlag.AlignLeft
_MIDDLE = Qt.AlignmentFlag.AlignVCenter


def on_bed(canvas: Canvas, scene: Scene) -> None:
    """What belongs to the bed, as far as the display wants it."""
    if scene.display.bed and scene.display.rulers:
        ruler_numbers(canvas, scene.machine)
    if scene.display.axes:
        axis_letters(canvas, scene.machine)


def on_picture(canvas: Canvas, scene: Scene, *, legend_shown: bool) -> None:
    """What tells of the whole picture, as far as the display wants it."""
    view_name(canvas, scene.display)
    stretch = canvas.camera.stretch
    if stretch != (1.0, 1.0, 1.0):
        axis = int(np.argmax(stretch))
        badge(canvas, f"Picture stretched {stretch[axis]:g} × along {'XYZ'[axis]}; numbers stay true")
    elif scene.display.scale_bar:
        scale_bar(canvas)
    scale = next((item.scale for item in scene.items if item.scale is not None), None)
    if scale is not None and legend_shown:
        legend(canvas, scale)


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


def legend(canvas: Canvas, scale: Scale) -> None:
    """The colours of the measure, its limit as a gap in the bar."""
    painter, size = canvas.painter, canvas.size
    width, height, bar = 148, 104 if scale.yes_or_no else 214, 156
    box = QRectF(size[0] - width - 12, max(170, size[1] - height - 16), width, height)
    canvas.plate(box, cover=232, edge="line", edge_width=1, radius=6)
    unit = f", {scale.unit}" if scale.unit else ""
    title = scale.title[:1].upper() + scale.title[1:] + unit
    canvas.length_of(title, 11)
    canvas.write(QRectF(box.left() + 10, box.top() + 6, width - 16, 32), title, flags=Qt.TextFlag.TextWordWrap)
    top = box.top() + 44
    canvas.length_of("", 11, strong=False)
    if scale.yes_or_no:
        for row, (value, words) in enumerate(((1.0, "yes"), (0.0, "no"))):
            painter.setPen(Qt.PenStyle.NoPen)
            canvas.brush(QColor(*(int(c) for c in scale.colours(np.array([value]))[0])))
            painter.drawRect(QRectF(box.left() + 12, top + row * 26, 18, 18))
            canvas.write(QRectF(box.left() + 38, top + row * 26, 90, 18), words, flags=_MIDDLE)
        return
    # As a picture: lines side by side would let the ground shine through where they meet.
    rows = np.ascontiguousarray(scale.colours(np.linspace(scale.high, scale.low, bar)), dtype=np.uint8)
    painter.drawImage(QRectF(box.left() + 12, top, 18, bar), image_over(rows[:, None], QImage.Format.Format_RGB888))
    limit_at = top + (scale.high - scale.limit) / max(scale.high - scale.low, 1e-12) * bar
    for value, y in ((scale.high, top), (scale.low, top + bar)):
        if abs(y - limit_at) > 14:
            sign = "≥ " if value == scale.high else ""
            canvas.write(QRectF(box.left() + 38, y - 8, 100, 16), f"{sign}{value:g}", flags=_MIDDLE)
    canvas.pen("ink", 2)
    painter.drawLine(QPointF(box.left() + 8, limit_at), QPointF(box.left() + 34, limit_at))
    canvas.length_of("", 11)
    canvas.write(QRectF(box.left() + 38, limit_at - 8, 104, 16), f"{scale.limit:g} limit", flags=_MIDDLE)


def badge(canvas: Canvas, words: str) -> None:
    """A word that the picture is not as the part is."""
    length = canvas.length_of(words, 12) + 24
    box = QRectF((canvas.size[0] - length) / 2, 10, length, 24)
    canvas.plate(box, words, edge="review", edge_width=1.5, ink="review")
