"""The picture that the viewport shows, without a window, in whichever process asks for one."""

from __future__ import annotations

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QImage

from gullyrise.core.camera.camera import Camera
from gullyrise.drawing import captions, evidence
from gullyrise.drawing.canvas import Canvas
from gullyrise.drawing.evidence import Evidence
from gullyrise.drawing.legend import legend_rows
from gullyrise.drawing.scene import Scene
from gullyrise.drawing.studio import Studio


def still(scene: Scene, camera: Camera, size: tuple[int, int], shown: Evidence | None = None, *, ratio: float = 1.0) -> QImage:
    """The picture that the viewport shows of a scene, without what the hand has on it.

    size : width and height in points
    ratio : pixels for each of them
    shown : what of the checks is marked
    """

    def paint(canvas: Canvas) -> None:
        captions.on_bed(canvas, scene)
        if shown is not None:
            evidence.paint(canvas, shown)
        captions.on_picture(canvas, scene, legend_rows(scene), QPointF(*size))

    with Studio() as studio:
        return studio.picture(scene, camera, size, paint, ratio=ratio)
