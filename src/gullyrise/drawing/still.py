"""A picture without a window: for reports, thumbnails and the command line, in whichever process asks for one."""

from __future__ import annotations

import os

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QGuiApplication, QImage, QPainter

from gullyrise.core.camera.camera import Camera
from gullyrise.drawing import captions, evidence, marks
from gullyrise.drawing.arrays import image_over
from gullyrise.drawing.canvas import Canvas
from gullyrise.drawing.evidence import Evidence
from gullyrise.drawing.legend import legend_rows
from gullyrise.drawing.requests import Frame, Request
from gullyrise.drawing.rest_shading import softened
from gullyrise.drawing.scene import Scene
from gullyrise.drawing.stage import Stage
from gullyrise.drawing.typeface import load_typeface

_application: QGuiApplication | None = None


def _ready() -> None:
    """Words can be painted only where Qt has an application; one that shows nothing is enough."""
    global _application
    if QGuiApplication.instance() is None:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        _application = QGuiApplication(["gullyrise"])
    load_typeface()


def still(scene: Scene, camera: Camera, size: tuple[int, int], shown: Evidence | None = None, *, ratio: float = 1.0) -> QImage:
    """The picture that the viewport shows of a scene, without what the hand has on it.

    size : width and height in points
    ratio : pixels for each of them
    shown : what of the checks is marked
    """
    _ready()
    width, height = (max(int(side * ratio), 1) for side in size)
    request = Request(scene, camera, width, height, moving=False, number=0)
    stage = Stage()
    try:
        stage.set_scene(scene)
        owners = stage.owners(request) if any(item.selected for item in scene.items) else None
        pixels, depth, near, far = stage.draw(request, fine=not stage.too_much_to_polish(scene))
    finally:
        stage.close()
    frame = softened(Frame(request, pixels, depth, owners, near, far, final=True))
    picture = QImage(width, height, QImage.Format.Format_RGB32)
    picture.setDevicePixelRatio(ratio)
    with QPainter(picture) as painter:
        painter.drawImage(QRectF(0, 0, *size), image_over(frame.pixels, QImage.Format.Format_RGBX8888))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        canvas = Canvas(painter, camera, size, scene.palette, lambda x, y, mm: frame.hides(x, y, mm, size))
        chosen = {number for number, item in enumerate(scene.items) if item.selected}
        border = marks.outline(frame, chosen, canvas.colour("accent"), max(1, round((1 if scene.display.quiet else 2) * ratio)))
        if border is not None:
            marks.draw_outline(painter, border, ratio)
        captions.on_bed(canvas, scene)
        if shown is not None:
            evidence.paint(canvas, shown)
        captions.on_picture(canvas, scene, legend_rows(scene), QPointF(*size))
    return picture
