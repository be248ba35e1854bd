"""What is painted over the pictures of the panes: the viewport knows none by name."""

from __future__ import annotations

from PyQt6.QtGui import QPainter

from gullyrise.desktop.viewport.panes import Pane

UNDER, HAND, EVIDENCE, CAPTIONS, STROKE = 0, 100, 200, 300, 400
"""Levels of painting, the least first."""


class Overlay:
    """level : of painting;  passing : whether it only helps whoever sits before it, and is on no picture for the record"""

    level = UNDER
    passing = False

    def paint(self, painter: QPainter, pane: Pane) -> None:
        """Over a pane's picture; the painter's origin is the pane's left upper corner."""
