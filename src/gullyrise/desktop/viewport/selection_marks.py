"""What is selected and what the pointer is on, marked over the pictures."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from PyQt6.QtGui import QImage, QPainter

from gullyrise.core.geometry import Points
from gullyrise.core.picking.feature import Feature
from gullyrise.core.picking.pointing import FeatureLines
from gullyrise.desktop.viewport.overlay import Overlay
from gullyrise.desktop.viewport.panes import Pane
from gullyrise.desktop.viewport.pictures import Pictures
from gullyrise.drawing import marks
from gullyrise.drawing.requests import Frame

T = TypeVar("T")
Ask = Callable[[Callable[[], T], Callable[[T], None]], None]
MOST_MARKED = 200
"""Chosen faces, edges or corners that are drawn."""


class _Borders:
    """Borders round items in still pictures, each worked out once."""

    def __init__(self) -> None:
        self._kept: dict[str, tuple[object, QImage | None]] = {}

    def paint(self, painter: QPainter, pane: Pane, frame: Frame, items: set[int], colour: str, width: int, ratio: float) -> None:
        """colour : its use in the palette;  width : px of the picture, which has `ratio` of them for each of the pane"""
        shade = frame.request.scene.palette.colour(colour)
        made_of = (frame.request.number, frozenset(items), shade.name(), width)
        if self._kept.get(pane.name, (None, None))[0] != made_of:
            self._kept[pane.name] = (made_of, marks.outline(frame, items, shade, width))
        image = self._kept[pane.name][1]
        if image is not None:
            marks.draw_outline(painter, image, ratio)


def _still(pane: Pane) -> Frame | None:
    """The picture of a pane that stands and shows whose each pixel is."""
    frame = pane.frame
    seen = frame is not None and frame.owners is not None and pane.camera.same_view(frame.request.camera)
    return frame if seen else None


class SelectionMarks(Overlay):
    """A border in the accent round what is selected, and the lines of chosen faces, edges and corners."""

    def __init__(self, pictures: Pictures, ask: Ask[Points], changed: Callable[[], None]) -> None:
        self._pictures = pictures
        self._features: tuple[Feature, ...] = ()
        self._borders = _Borders()
        self.lines = FeatureLines(ask, changed)

    def show(self, features: tuple[Feature, ...]) -> None:
        """The chosen faces, edges or corners."""
        self._features = features

    def paint(self, painter: QPainter, pane: Pane) -> None:
        scene, frame = self._pictures.scene, _still(pane)
        if frame is not None:
            ratio = self._pictures.ratio
            items = {number for number, item in enumerate(frame.request.scene.items) if item.selected}
            self._borders.paint(
                painter, pane, frame, items, "accent", max(1, round((1 if scene.display.quiet else 2) * ratio)), ratio
            )
        canvas = pane.canvas(painter, scene.palette)
        for item in scene.items:
            for chosen in self._features[:MOST_MARKED]:
                if chosen.key == item.key:
                    marks.feature(canvas, self.lines.of(item, chosen), "accent", 3.0)

    def of_face(self, key: tuple[int, int], index: int) -> Points | None:
        """(k, 2, 3) mm the border of a face where it is seen; None for a body that is not."""
        item = next((one for one in self._pictures.scene.items if one.key == key), None)
        return self.lines.of(item, Feature("face", key, index)) if item is not None else None


class HoverMarks(Overlay):
    """A thin border in ink round the body under the pointer, and the lines of the face, edge or corner there."""

    level, passing = 1, True

    def __init__(self, pictures: Pictures, selection: SelectionMarks) -> None:
        self._pictures, self._selection = pictures, selection
        self._item: int | None = None
        self._feature: Feature | None = None
        self._borders = _Borders()

    def show(self, item: int | None, feature: Feature | None) -> bool:
        """item : index in the scene. Whether it is another."""
        changed = (item, feature) != (self._item, self._feature)
        self._item, self._feature = item, feature
        return changed

    @property
    def key(self) -> tuple[int, int] | None:
        """The body under the pointer."""
        items = self._pictures.scene.items
        return items[self._item].key if self._item is not None and self._item < len(items) else None

    def paint(self, painter: QPainter, pane: Pane) -> None:
        if pane is not self._pictures.panes.active:
            return
        scene, frame = self._pictures.scene, _still(pane)
        if self._item is not None and frame is not None and frame.request.scene is scene:
            ratio = self._pictures.ratio
            self._borders.paint(painter, pane, frame, {self._item}, "ink", max(1, round(ratio)), ratio)
        item = next((one for one in scene.items if self._feature is not None and one.key == self._feature.key), None)
        if item is not None and self._feature is not None:
            marks.feature(pane.canvas(painter, scene.palette), self._selection.lines.of(item, self._feature), "ink", 1.6)
