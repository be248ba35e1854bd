"""Several parts as they stand on the machine, as one part to write."""

from __future__ import annotations

from dataclasses import replace

from gullyrise.core.geometry import Transform
from gullyrise.core.part import Body, Part, renamed


def together(stands: tuple[tuple[Part, Transform], ...], name: str) -> Part:
    """One part, mm, of the bodies of all at their places. Bodies of several files stand in an assembly named for each file."""
    bodies: list[Body] = []
    for part, place in stands:
        for body in part.bodies:
            own = (part.name,) if len(stands) > 1 and (len(part.bodies) > 1 or body.count > 1) else ()
            trails = tuple((*own, *body.trail(copy)) for copy in range(body.count))
            bodies.append(
                replace(
                    body,
                    placements=tuple(inner.then(place) for inner in body.placements),
                    trails=trails if any(trails) else (),
                    exact_boxes=None,
                )
            )
    return Part(name, name, "placed", "mm", "declared", tuple(renamed(bodies)))
