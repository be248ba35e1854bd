"""Work on gaps: between bodies of several parts as they stand on the machine."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from gullyrise.core.geometry import Transform
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.workers.fencing.task import Task

if TYPE_CHECKING:
    from gullyrise.core.checks.clearances import Pair

MOST_BODIES = 60
MOST_PAIRS = 300
"""Of bodies of two parts that are measured; of more the rest is counted."""

Stood = tuple[str, Part, Transform]
"""(name, part, placement)"""


def _pieces(parts: tuple[Stood, ...]) -> list[Any]:
    """All bodies as they stand, named `part: body`."""
    from gullyrise.core.gaps.pieces import pieces_of

    copies = []
    for name, part, placement in parts:
        places = (place for body in part.bodies for place in body.placements)
        for (body_name, body, mesh), place in zip(part.copies(), places, strict=True):
            full = name if body_name == part.name else f"{name}: {body_name}"
            copies.append((full, body, mesh.placed(placement), place.then(placement)))
    return pieces_of(copies)


@dataclass(frozen=True, slots=True, eq=False)
class PairsOf(Task):
    """What lies between all bodies of parts: (the names of the bodies of each part, the pairs of each two parts that were asked
    for), as the evidence of clearances has them, places in the coordinates of the machine.

    asked : two places in `parts` each; twice the same are the bodies of one part among themselves
    """

    parts: tuple[Stood, ...]
    asked: tuple[tuple[int, int], ...]
    title: str = "matrix of clearances"

    def run(self, progress: Progress) -> tuple[tuple[tuple[str, ...], ...], tuple[tuple[Pair, ...], ...]]:
        from gullyrise.core.checks.clearances import Pair
        from gullyrise.core.gaps.between import between

        pieces = [_pieces((stood,))[:MOST_BODIES] for stood in self.parts]
        out = []
        for done, (one, other) in enumerate(self.asked):
            progress("measuring gaps", done, len(self.asked))
            if one == other:
                wanted = [(a, b) for at, a in enumerate(pieces[one]) for b in pieces[one][at + 1 :]]
            else:
                wanted = [(a, b) for a in pieces[one] for b in pieces[other]]
            out.append(tuple(Pair(a.name, b.name, between(a, b), a.closed and b.closed, ()) for a, b in wanted))
        return tuple(tuple(piece.name for piece in own) for own in pieces), tuple(out)


@dataclass(frozen=True, slots=True, eq=False)
class PairsAcross(Task):
    """What lies between the bodies of each two parts where their boxes come within `reach` mm: of each two the pairs, and how
    many were too many to measure. parts : two by two"""

    parts: tuple[tuple[Stood, Stood], ...]
    reach: float
    title: str = "clearances between parts"

    def run(self, progress: Progress) -> tuple[tuple[tuple[Pair, ...], int], ...]:
        from gullyrise.core.checks.clearances import Pair
        from gullyrise.core.gaps.between import between

        out = []
        for done, two in enumerate(self.parts):
            progress("measuring gaps between parts", done, len(self.parts))
            one, other = (_pieces((stood,)) for stood in two)
            near = [(a, b, float(a.box.gap_to(b.box))) for a in one for b in other]
            near = sorted((pair for pair in near if pair[2] <= self.reach), key=lambda pair: pair[2])
            pairs = tuple(Pair(a.name, b.name, between(a, b), a.closed and b.closed, ()) for a, b, _ in near[:MOST_PAIRS])
            out.append((pairs, max(len(near) - MOST_PAIRS, 0)))
        return tuple(out)
