"""The typeface that ships with the application, on screen and in pictures alike."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from PyQt6.QtGui import QFont, QFontDatabase, QFontMetrics

_FONTS = Path(__file__).parent / "fonts"
FAMILY = "Public Sans"
SMALL, BODY, HEAD = 11, 13, 15
"""Pixel sizes of the type scale."""


@cache
def load_typeface() -> None:
    """Makes the bundled typeface known to Qt, once; there has to be an application."""
    for name in ("PublicSans-Regular.ttf", "PublicSans-SemiBold.ttf"):
        QFontDatabase.addApplicationFont(str(_FONTS / name))


def type_of(size: int = BODY, *, strong: bool = False) -> QFont:
    """The typeface at a size in px, with figures of one width."""
    font = QFont(FAMILY)
    font.setPixelSize(size)
    font.setWeight(QFont.Weight.DemiBold if strong else QFont.Weight.Normal)
    font.setFeature(QFont.Tag("tnum"), 1)
    return font


def width_of(words: str, font: QFont) -> int:
    """Of a line of words, px."""
    return QFontMetrics(font).horizontalAdvance(words)
