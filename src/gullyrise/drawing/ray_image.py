"""Small pictures of evidence by rays, where the drawing library is busy with the bench."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

import numpy as np
from PyQt6.QtGui import QColor, QImage, QPainter

from gullyrise.core.camera.camera import Camera
from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.evidence.small_picture import Surface, small_picture
from gullyrise.core.evidence.view import EvidenceView
from gullyrise.drawing.canvas import Canvas
from gullyrise.drawing.insets import SIZE, mark_beside, mark_where
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.scene import Item


def ray_image(
    surfaces: Iterable[Surface], camera: Camera, cuts: tuple[Cut, ...], size: tuple[int, int], palette: Palette, ratio: float
) -> QImage:
    """size : points, with so many pixels each; clear where nothing is"""
    width, height = (round(side * ratio) for side in size)
    cut = QColor(palette.cut)
    shade = (cut.red(), cut.green(), cut.blue())
    pixels = np.ascontiguousarray(small_picture(surfaces, camera, cuts, (2 * width, 2 * height), shade))
    # Two rays across and two down are one pixel.
    wide = pixels.reshape(height, 2, width, 2, 4).astype(np.float32).mean(axis=(1, 3)).astype(np.uint8)
    return QImage(wide.tobytes(), width, height, width * 4, QImage.Format.Format_RGBA8888).copy()


def surface_of(item: Item, palette: Palette) -> Surface:
    """A body as the bench shows it."""
    if item.values is not None and item.scale is not None:
        colours = item.scale.colours(item.values)
    else:
        bare = QColor(item.colour or palette.part)
        colours = np.tile(np.array([bare.red(), bare.green(), bare.blue()], dtype=np.uint8), (len(item.mesh.faces), 1))
    made = item.prepared
    return Surface(item.mesh, item.matrix, colours, made.levels[0] if made is not None and made.levels else None)


def insets_of(view: EvidenceView, items: Sequence[Item], palette: Palette, ratio: float) -> tuple[QImage, ...]:
    """The small pictures beside a view on the bench: where on the part it is, and what it cannot show itself."""
    surfaces = [surface_of(item, palette) for item in items]
    out = []
    if view.whole is not None:
        out.append(_inset(surfaces, view.whole, (), palette, ratio, lambda canvas: mark_where(canvas, view)))
    if (beside := view.beside) is not None:
        out.append(_inset(surfaces, beside.camera, beside.cuts, palette, ratio, lambda canvas: mark_beside(canvas, view, beside)))
    return tuple(out)


def _inset(
    surfaces: Sequence[Surface], camera: Camera, cuts: tuple[Cut, ...], palette: Palette, ratio: float,
    mark: Callable[[Canvas], None],
) -> QImage:  # fmt: skip
    seen = ray_image(surfaces, camera, cuts, SIZE, palette, ratio)
    seen.setDevicePixelRatio(ratio)
    image = QImage(seen.size(), QImage.Format.Format_RGB32)
    image.setDevicePixelRatio(ratio)
    image.fill(palette.colour("ground"))
    with QPainter(image) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawImage(0, 0, seen)
        mark(Canvas(painter, camera, SIZE, palette))
    return image
