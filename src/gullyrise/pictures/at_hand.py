"""The studio of this process: made while it still may reach the machine's graphics, used after that is taken away."""

from __future__ import annotations

import numpy as np
from PyQt6.QtGui import QImage

from gullyrise.core.camera.camera import Camera
from gullyrise.core.machines.library import default_machine
from gullyrise.drawing.canvas import Canvas
from gullyrise.drawing.palette import LIMESTONE
from gullyrise.drawing.scene import Scene
from gullyrise.drawing.studio import Studio

_made: list[Studio] = []


def studio() -> Studio:
    """The one of this process, warm."""
    if not _made:
        _made.append(Studio())
        # Drivers and typefaces are looked for with the first picture, not with the window.
        first = Scene((), default_machine(), LIMESTONE)
        _made[0].picture(first, Camera(np.zeros(3), parallel=True), (64, 48), _words)
        QImage(2, 2, QImage.Format.Format_RGB32).save("/dev/null", "PNG")
    return _made[0]


def _words(canvas: Canvas) -> None:
    canvas.length_of("Ground", 12)
    canvas.length_of("Ground", 12, strong=False)
