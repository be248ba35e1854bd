"""Our own line icons: one stroke width, tinted by the theme."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from PyQt6.QtCore import QByteArray, QRectF, QSize, Qt
from PyQt6.QtGui import QIcon, QPainter, QPixmap
from PyQt6.QtSvg import QSvgRenderer
from PyQt6.QtWidgets import QAbstractButton, QWidget

from gullyrise.drawing.palette import Palette

FOLDER = Path(__file__).parent / "icons"
SIZE = 16
_DRAWN = "#7B8487"
"""The stroke as the files have it: a grey that is seen on both themes, for style sheets, which cannot tint."""
_NAME = "icon_name"


@lru_cache(maxsize=256)
def picture(name: str, colour: str, size: int, ratio: float) -> QPixmap:
    """An icon in one colour."""
    drawing = (FOLDER / f"{name}.svg").read_text("utf-8").replace(_DRAWN, colour)
    made = QPixmap(round(size * ratio), round(size * ratio))
    made.setDevicePixelRatio(ratio)
    made.fill(Qt.GlobalColor.transparent)
    with QPainter(made) as painter:
        QSvgRenderer(QByteArray(drawing.encode())).render(painter, QRectF(0, 0, size, size))
    return made


def put(button: QAbstractButton, name: str) -> None:
    """Gives a button an icon, which `wear` tints."""
    button.setProperty(_NAME, name)
    button.setIconSize(QSize(SIZE, SIZE))


def wear(root: QWidget, palette: Palette) -> None:
    """Tints the icons of all buttons that a widget holds."""
    for button in root.findChildren(QAbstractButton):
        name = button.property(_NAME)
        if not name:
            continue
        ratio = button.devicePixelRatioF()
        icon = QIcon(picture(name, palette.ink, SIZE, ratio))
        # What is switched on has the accent behind it.
        icon.addPixmap(picture(name, palette.on_accent, SIZE, ratio), QIcon.Mode.Normal, QIcon.State.On)
        for mode in (QIcon.Mode.Active, QIcon.Mode.Selected):
            icon.addPixmap(picture(name, palette.ink, SIZE, ratio), mode)
        icon.addPixmap(picture(name, palette.line, SIZE, ratio), QIcon.Mode.Disabled)
        button.setIcon(icon)
