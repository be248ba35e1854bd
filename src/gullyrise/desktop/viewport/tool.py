"""A hand of its own on the viewport, such as a frame that is dragged: the viewport asks each in turn, and knows none by name."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QObject, QPointF
from PyQt6.QtGui import QKeyEvent, QPainter

from gullyrise.desktop.viewport.overlay import HAND
from gullyrise.desktop.viewport.panes import Pane


@dataclass(frozen=True, slots=True)
class Touch:
    """Where the hand is. motion : drag or stroke;  place : on the widget;  local : in its pane;  buttons, keys : held down"""

    motion: str
    place: QPointF
    local: tuple[float, float]
    buttons: frozenset[str] = frozenset()
    keys: frozenset[str] = frozenset()


class Tool(QObject):
    """What answers nothing here is not its affair. order : of being asked, the least first;  level, passing : as of an overlay"""

    order, level = 0, HAND
    passing = False

    @property
    def holds(self) -> bool:
        """Whether something is in the hand, so that the stroke goes to it alone."""
        return False

    def press(self, touch: Touch) -> bool:
        """Whether the stroke that begins is its own."""
        return False

    def move(self, touch: Touch) -> bool:
        """Whether the pointer moved something."""
        return False

    def release(self) -> bool:
        """Whether something was let go."""
        return False

    def hover(self, local: tuple[float, float]) -> bool:
        """Whether the pointer is over something of its own, while nothing is held."""
        return False

    @property
    def takes_clicks(self) -> bool:
        """Whether clicks, and what the pointer names, are its affair now."""
        return False

    def click(self, local: tuple[float, float], *, add: bool) -> None:
        """A click that it takes. add : to what it has taken before"""

    def point(self, local: tuple[float, float]) -> None:
        """The pointer stands where a click would be taken."""

    def leave(self) -> None:
        """The pointer has left the viewport."""

    def drop(self) -> None:
        """Puts back what is in the hand."""

    def type_key(self, event: QKeyEvent) -> bool:
        """Whether it takes a key of the viewport."""
        return False

    def paint(self, painter: QPainter, pane: Pane) -> None:
        """Over a pane's picture."""
