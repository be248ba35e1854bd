"""Work on gaps: every pair of bodies of several parts as they stand on the machine."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from gullyrise.core.geometry import Transform
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress

MOST_BODIES = 60


@dataclass(frozen=True, slots=True, eq=False)
class PairsOf:
    """What lies between all bodies of several parts: (names, pairs) as the evidence of clearances has them, places in the
    coordinates of the machine. parts : (name, part, placement) each; bodies are named `part: body`"""

    parts: tuple[tuple[str, Part, Transform], ...]
    title: str = "matrix of clearances"

    def run(self, progress: Progress) -> Any:
        from gullyrise.core.checks.clearance_between import between
        from gullyrise.core.checks.clearance_pieces import pieces_of
        from gullyrise.core.checks.clearances import Pair

        copies = []
        for name, part, placement in self.parts:
            places = (place for body in part.bodies for place in body.placements)
            for (body_name, body, mesh), place in zip(part.copies(), places, strict=True):
                full = name if body_name == name else f"{name}: {body_name}"
                copies.append((full, body, mesh.placed(placement), place.then(placement)))
        pieces = pieces_of(copies)[:MOST_BODIES]
        wanted = [(a, b) for at, a in enumerate(pieces) for b in pieces[at + 1 :]]
        pairs = []
        for done, (a, b) in enumerate(wanted):
            progress("measuring gaps", done, len(wanted))
            pairs.append(Pair(a.name, b.name, between(a, b), a.closed and b.closed, ()))
        return tuple(piece.name for piece in pieces), tuple(pairs)
