"""The pointer moved by keys, from one thing that can be picked to the next, for whatever is done with what is under it."""

from __future__ import annotations

from PyQt6.QtCore import QPointF

from gullyrise.core.geometry import Floats
from gullyrise.core.picking import walking
from gullyrise.core.picking.walking import Stations, Way
from gullyrise.desktop.viewport.widget import Viewport


class KeyWalk:
    """Of one viewport, on the faces, edges, corners or bodies that clicks pick."""

    def __init__(self, viewport: Viewport) -> None:
        self._viewport = viewport

    def _seen(self) -> Stations:
        """The places that nothing hides."""
        bench, pane = self._viewport, self._viewport.panes.active
        found = walking.stations(bench.scene.items, bench.clicks.kind, bench.camera, bench.view_size())
        frame = pane.frame
        if frame is None:
            return found
        # The middle of a body lies within it.
        shown = ~frame.hidden(found.places, bench.view_size()) | (bench.clicks.kind == "body")
        return Stations(found.places[shown], found.item[shown])

    @property
    def _here(self) -> tuple[float, float]:
        width, height = self._viewport.view_size()
        return self._viewport.aim.place or (width / 2, height / 2)

    def go(self, way: Way) -> None:
        """To the one that lies next in a direction."""
        places = self._seen().places
        self._stand(places, walking.beside(places, self._here, way))

    def step(self, by: int) -> None:
        """To the next of its kind, or the one before, as one reads."""
        places = self._seen().places
        self._stand(places, walking.following(places, self._here, by))

    def around(self, by: int) -> None:
        """Along the silhouette of the body that is pointed at, or of all where none is."""
        seen, places = self._seen(), self._seen().places
        hit = self._viewport.aim.hit_under_pointer()
        if hit is not None:
            places = places[seen.item == hit.item]
        self._stand(places, walking.around(places, self._here, by))

    def press(self, *, add: bool = False) -> None:
        """A click there. add : to what is selected, or away from it"""
        keys = frozenset({"ctrl"}) if add else frozenset[str]()
        x, y = self._here
        self._viewport.clicked("left", x, y, keys)

    def _stand(self, places: Floats, number: int | None) -> None:
        if number is not None:
            pane = self._viewport.panes.active
            self._viewport.point_at(QPointF(places[number, 0] + pane.rect.x(), places[number, 1] + pane.rect.y()))
