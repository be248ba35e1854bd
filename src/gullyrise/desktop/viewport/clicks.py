"""What a click and a rectangle take: bodies, faces, edges or corners."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from gullyrise.core.camera.camera import Camera
from gullyrise.core.picking import pointing
from gullyrise.core.picking.feature import Feature, Hit, Kind
from gullyrise.desktop.viewport.aim import Aim
from gullyrise.desktop.viewport.pictures import Pictures
from gullyrise.desktop.viewport.pointer.hand import GESTURE_AFTER

_ONE_OF: dict[Kind, str] = {"body": "a part", "face": "a face", "edge": "an edge", "vertex": "a corner"}
_AT_ONCE = 100_000
Taken = tuple[int, int] | Feature


class Clicks:
    """kind : what they take"""

    def __init__(self, pictures: Pictures, aim: Aim) -> None:
        self._pictures, self._aim = pictures, aim
        self.kind: Kind = "body"
        self._last: tuple[float, float, Camera, list[Taken], int] | None = None

    def take_kind(self, kind: Kind) -> None:
        self.kind = kind

    def next_behind(self, x: float, y: float) -> Taken | None:
        """What a click takes: the foremost thing there is; clicked again at the same place, the one behind it."""
        scene, pane = self._pictures.scene, self._pictures.panes.active
        found: list[Taken] = []
        for hit in self._aim.hits((x, y)):
            one = scene.items[hit.item].key if self.kind == "body" else self.feature(hit)
            if one is not None and one not in found:
                found.append(one)
        if not found and self.kind == "body" and not self._aim.finder.whole:
            # Before a worker has made a body ready for rays, the picture says which it is.
            seen = pane.depth_under(x, y)
            if seen is not None and 0 <= seen[1] < len(scene.items):
                found.append(scene.items[seen[1]].key)
        again, turn = self._last, 0
        if again is not None and found and abs(again[0] - x) + abs(again[1] - y) <= GESTURE_AFTER:
            turn = again[4] + 1 if again[2].same_view(pane.camera) and again[3] == found else 0
        self._last = (x, y, pane.camera, found, turn)
        return found[turn % len(found)] if found else None

    def feature(self, hit: Hit) -> Feature | None:
        """The face, edge or corner at a hit, as its kind says."""
        pane = self._pictures.panes.active
        return pointing.feature_at(self._pictures.scene.items[hit.item], hit, self.kind, pane.camera, pane.size())

    def in_rectangle(
        self, low: tuple[float, float], high: tuple[float, float], *, touching: bool
    ) -> tuple[Callable[[], list[object]], bool]:
        """(what finds all of its kind in a rectangle, whether that takes long)."""
        scene, kind, pane = self._pictures.scene, self.kind, self._pictures.panes.active
        camera, size = pane.camera, pane.size()

        def inside() -> list[object]:
            found: list[object] = []
            for item in scene.items:
                numbers = pointing.in_rectangle(item, kind, camera, size, np.array(low), np.array(high), touching=touching)
                found += [item.key] if kind == "body" and numbers else [Feature(kind, item.key, n) for n in numbers]
            return found

        return inside, sum(len(item.mesh.faces) for item in scene.items) > _AT_ONCE

    def words(self, name: str, feature: Feature | None) -> str:
        """What a left click takes of this under the pointer; empty for nothing."""
        if self.kind == "body":
            return name
        return f"{_ONE_OF[self.kind]} of {name}" if feature is not None else ""
