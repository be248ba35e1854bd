"""How far two parts stand from each other, as placed in their files."""

from __future__ import annotations

from typing import Any

import numpy as np

from gullyrise.core.gaps.between import Between, between
from gullyrise.core.gaps.pieces import Piece, pieces_of
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress, silent


def distance_between(a: Part, b: Part, progress: Progress = silent) -> dict[str, Any]:
    """The smallest gap of any two bodies, its points, and the volume that all pairs share (null where one is open)."""
    pieces_a, pieces_b = _pieces(a), _pieces(b)
    pairs = sorted(((p.box.gap_to(q.box), i, j) for i, p in enumerate(pieces_a) for j, q in enumerate(pieces_b)))
    best: Between | None = None
    volume: float | None = 0.0
    for done, (least, i, j) in enumerate(pairs):
        if best is not None and least > best.distance:
            break
        progress("measuring gaps", done, len(pairs))
        found = between(pieces_a[i], pieces_b[j])
        volume = None if volume is None or found.volume is None else volume + found.volume
        if best is None or found.distance < best.distance:
            best = found
    if best is None:
        raise ValueError("a part without bodies")
    return {
        "distance": best.distance,
        "point_a": np.asarray(best.point_a).tolist(),
        "point_b": np.asarray(best.point_b).tolist(),
        "interference_volume": volume,
    }


def _pieces(part: Part) -> list[Piece]:
    places = (place for body in part.bodies for place in body.placements)
    return pieces_of((name, body, mesh, place) for (name, body, mesh), place in zip(part.copies(), places, strict=True))
