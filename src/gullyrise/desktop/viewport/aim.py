"""What is under the pointer, and under any place of the panes."""

from __future__ import annotations

from PyQt6.QtCore import QPointF

from gullyrise.core.geometry import Floats
from gullyrise.core.picking import pointing as picking
from gullyrise.core.picking.feature import Hit
from gullyrise.core.picking.pointing import Finder
from gullyrise.desktop.viewport.pictures import Pictures
from gullyrise.desktop.viewport.pointer.hand import Under
from gullyrise.drawing.scene import Scene


class Aim:
    """pointer : where the pointer is on the viewport, None while it is elsewhere. Places are px of the active pane."""

    def __init__(self, pictures: Pictures) -> None:
        self._pictures = pictures
        self.pointer: QPointF | None = None
        self._asked: tuple[Scene, Finder] | None = None

    def point(self, place: QPointF | None) -> None:
        self.pointer = place

    @property
    def finder(self) -> Finder:
        """Asks the bodies that are seen now."""
        scene = self._pictures.scene
        if self._asked is None or self._asked[0] is not scene:
            self._asked = scene, Finder(scene)
        return self._asked[1]

    @property
    def size(self) -> tuple[int, int]:
        """px of the active pane."""
        return self._pictures.panes.active.size()

    @property
    def place(self) -> tuple[float, float] | None:
        """Where the pointer is in the active pane."""
        return None if self.pointer is None else self._pictures.panes.active.local(self.pointer)

    def ray(self, place: tuple[float, float]) -> tuple[Floats, Floats]:
        """(origin, direction) through a place, each (3,)."""
        camera, scene = self._pictures.panes.active.camera, self._pictures.scene
        return camera.ray(*place, *self.size, reach=2 * camera.drawn_box(scene.box).diagonal + camera.span)

    def hits(self, place: tuple[float, float]) -> list[Hit]:
        """Every surface under a place, nearest first."""
        return self.finder.along(*self.ray(place))

    def hit(self, place: tuple[float, float]) -> Hit | None:
        """The first surface under a place."""
        return self.finder.first(*self.ray(place))

    def hit_under_pointer(self) -> Hit | None:
        """Under the pointer, or under the middle of the view while the pointer is elsewhere."""
        return self.hit(self.place or (self.size[0] / 2, self.size[1] / 2))

    def bed_at(self, place: tuple[float, float]) -> Floats | None:
        """(3,) mm of the bed under a place."""
        found = picking.bed_point(self._pictures.scene, *self.ray(place))
        return None if found is None else found[0]

    def under(self, place: tuple[float, float]) -> Under | None:
        """What a place shows: of the parts exactly, by ray; of the rest by the picture."""
        scene, hit = self._pictures.scene, self.hit(place)
        if hit is not None:
            prepared = scene.items[hit.item].prepared
            box = prepared.blocks.box if prepared is not None else None
            return Under(hit.point, (scene.subject if box is None else box).diagonal)
        if not self.finder.whole:
            found = self._pictures.panes.active.depth_under(*place)
            if found is not None:
                return Under(found[0], scene.subject.diagonal)
        bed = self.bed_at(place) if scene.display.bed else None
        return None if bed is None else Under(bed, scene.machine.envelope.box.diagonal)

    def seen_at(self, on_viewport: QPointF) -> Floats | None:
        """The surface point (3,) mm under a pixel of the newest picture, in whichever pane it lies; None beside all things."""
        pane = self._pictures.panes.at(on_viewport)
        found = pane.depth_under(*pane.local(on_viewport))
        return None if found is None else found[0]
