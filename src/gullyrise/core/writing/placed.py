"""Several parts as they stand on the machine, as one part to write."""

from __future__ import annotations

from dataclasses import replace

from gullyrise.core.geometry import Transform
from gullyrise.core.part import Body, Part, renamed


def together(stands: tuple[tuple[Part, Transform, str], ...], name: str) -> Part:
    """One part, mm, of the bodies of all at their places. stands : (part, placement, name of the copy)

    Bodies of several files stand in an assembly named for each; a part that stands several times is written once, with its
    copies.
    """
    bodies: dict[tuple[int, int], Body] = {}
    for part, place, called in stands:
        for number, body in enumerate(part.bodies):
            known = bodies.get((id(part), number), replace(body, placements=(), trails=(), exact_boxes=None))
            own = (called,) if len(stands) > 1 and (len(part.bodies) > 1 or body.count > 1) else ()
            trails = tuple((*own, *body.trail(copy)) for copy in range(body.count))
            places = tuple(inner.then(place) for inner in body.placements)
            bodies[id(part), number] = replace(known, placements=(*known.placements, *places), trails=(*known.trails, *trails))
    made = [replace(body, trails=body.trails if any(body.trails) else ()) for body in bodies.values()]
    return Part(name, name, "placed", "mm", "declared", tuple(renamed(made)))
