"""The views that one has rested in."""

from __future__ import annotations

from gullyrise.core.camera.camera import Camera

_MOST_BACK = 60


class Trail:
    """Views that were rested in, to go back and forward through."""

    def __init__(self) -> None:
        self._back: list[Camera] = []
        self._forth: list[Camera] = []
        self._here: Camera | None = None

    def rest(self, camera: Camera) -> None:
        """The view came to rest here."""
        if self._here is not None and self._here.same_view(camera):
            return
        if self._here is not None:
            self._back = [*self._back[-_MOST_BACK:], self._here]
            self._forth.clear()
        self._here = camera

    def back(self) -> Camera | None:
        """The view rested in before, None where there is none."""
        return self._step(self._back, self._forth)

    def forward(self) -> Camera | None:
        """The view that was gone back from, None where there is none."""
        return self._step(self._forth, self._back)

    def _step(self, source: list[Camera], target: list[Camera]) -> Camera | None:
        if not source:
            return None
        if self._here is not None:
            target.append(self._here)
        self._here = source.pop()
        return self._here
