"""The scene of a job as it stands, for pictures that no window shows."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.geometry import Box
from gullyrise.core.job import Job, PlacedPart
from gullyrise.drawing.display import PLAIN, Display
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.scene import Item, Scene

Key = tuple[int, int]


def title(placed: PlacedPart, body: str) -> str:
    """What a body of a placed part is called: by the part's name alone where the part is that body."""
    return placed.name if body == placed.part.name else f"{placed.name}: {body}"


def _solid(_: Key) -> float:
    return 1.0


def scene_of(
    job: Job, palette: Palette, *, cuts: Sequence[Cut] = (), display: Display = PLAIN,
    opacity: Callable[[Key], float] = _solid, selected: frozenset[Key] = frozenset(),
) -> Scene:  # fmt: skip
    """opacity : of each body by its key (id of its placed part, number of the copy), 0 hides it, 1 is solid"""
    items = []
    for placed in job.parts:
        places = [(body, place) for body in placed.part.bodies for place in body.placements]
        for number, (body, place) in enumerate(places):
            key, matrix = (placed.id, number), placed.placement.matrix @ place.matrix
            share = opacity(key)
            if share > 0:
                box = Box.of(body.mesh.vertices @ matrix[:3, :3].T + matrix[:3, 3])
                name = title(placed, body.name)
                items.append(Item(key, name, body.mesh, matrix, box, key in selected, opacity=share))
    return Scene(tuple(items), job.machine, palette, tuple(cuts), display=display, beds=job.beds)
