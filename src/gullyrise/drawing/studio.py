"""Pictures without a window, one after another on one stage: for reports, thumbnails and the command line."""

from __future__ import annotations

import os
from collections.abc import Callable

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QGuiApplication, QImage, QPainter

from gullyrise.core.camera.camera import Camera
from gullyrise.drawing import marks
from gullyrise.drawing.arrays import image_over
from gullyrise.drawing.canvas import Canvas
from gullyrise.drawing.requests import Frame, Request
from gullyrise.drawing.rest_shading import softened
from gullyrise.drawing.scene import Scene
from gullyrise.drawing.stage import Stage
from gullyrise.drawing.typeface import load_typeface

_application: QGuiApplication | None = None
Paint = Callable[[Canvas], None]


def ready() -> None:
    """Words can be painted only where Qt has an application; one that shows nothing is enough."""
    global _application
    if QGuiApplication.instance() is None:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        _application = QGuiApplication(["gullyrise"])
    load_typeface()


class Studio:
    """Keeps what it has drawn, so that the next picture of the same part is made quickly. For one thread."""

    def __init__(self) -> None:
        ready()
        self._stage = Stage()

    def close(self) -> None:
        """Lets go of what the drawing library holds."""
        self._stage.close()

    def __enter__(self) -> Studio:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def picture(self, scene: Scene, camera: Camera, size: tuple[int, int], paint: Paint, *, ratio: float = 1.0) -> QImage:
        """A picture at rest.

        size : width and height in points;  ratio : pixels for each of them
        paint : what is painted over it
        """
        width, height = (max(int(side * ratio), 1) for side in size)
        request = Request(scene, camera, width, height, moving=False, number=0)
        stage = self._stage
        stage.set_scene(scene)
        owners = stage.owners(request) if any(item.selected for item in scene.items) else None
        pixels, depth, near, far = stage.draw(request, fine=not stage.too_much_to_polish(scene))
        frame = softened(Frame(request, pixels, depth, owners, near, far, final=True))
        picture = QImage(width, height, QImage.Format.Format_RGB32)
        picture.setDevicePixelRatio(ratio)
        with QPainter(picture) as painter:
            painter.drawImage(QRectF(0, 0, *size), image_over(frame.pixels, QImage.Format.Format_RGBX8888))
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            canvas = Canvas(painter, camera, size, scene.palette, lambda x, y, mm: frame.hides(x, y, mm, size))
            chosen = {number for number, item in enumerate(scene.items) if item.selected}
            width_of = max(1, round((1 if scene.display.quiet else 2) * ratio))
            border = marks.outline(frame, chosen, canvas.colour("accent"), width_of)
            if border is not None:
                marks.draw_outline(painter, border, ratio)
            paint(canvas)
        return picture
