"""The edges round a region that hangs over air: what holds it there, and how it is drawn."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gullyrise.core.geometry import Floats, Ints, Mesh, Points
from gullyrise.core.geometry.topology import Edges
from gullyrise.core.number_words import number

Kind = Literal["overhang", "bridge", "island", "loose"]
RESTS_WITHIN = 0.2
"""mm above the bed that count as resting on it: one common layer."""
_MOST_HELD = 600
_MOST_BORDER, _UPRIGHTS = 300, 16
_CEILING = 80.0


@dataclass(frozen=True, slots=True, eq=False)
class Border:
    """The edges round a region, k of them.

    ends : (k, 2, 3)
    within, beyond : (k,) face on either side
    """

    ends: Points
    within: Ints
    beyond: Ints


def borders_of(mesh: Mesh, edges: Edges, label: NDArray[np.int32]) -> Callable[[int], Border]:
    """The border of any region by its number."""
    sides = label[edges.pairs]
    pairs = np.flatnonzero(sides[:, 0] != sides[:, 1])
    sides = sides[pairs]

    def border(which: int) -> Border:
        here = np.flatnonzero((sides == which).any(axis=1))
        first = sides[here, 0] == which
        both = edges.pairs[pairs[here]]
        within, beyond = np.where(first, both[:, 0], both[:, 1]), np.where(first, both[:, 1], both[:, 0])
        return Border(mesh.vertices[edges.ends[edges.pair_edge[pairs[here]]]], within, beyond)

    return border


def middles(mesh: Mesh, faces: Ints) -> Points:
    """(k, 3) middles of some faces: of all, a mesh that came from another process would have to work them out first."""
    return np.asarray(mesh.vertices[mesh.faces[faces]].sum(axis=1) / 3)


def kind_of(mesh: Mesh, border: Border, least_angle: float) -> tuple[Kind, str]:
    """bridge, island or overhang, and the same in words.

    A bridge is a flat region with faces that go down from two opposite sides of its border; an island is one whose whole
    border goes up, so that it starts in the air.
    """
    if not len(border.within):
        return "loose", "hangs in the air"
    middle = border.ends.mean(axis=1)
    lowest = mesh.vertices[mesh.faces[border.beyond]][:, :, 2].min(axis=1)
    rise = middles(mesh, border.beyond)[:, 2] - middle[:, 2]
    on_bed = middle[:, 2] <= RESTS_WITHIN
    held = on_bed | ((lowest < middle[:, 2] - 1e-6) & (rise < 0))
    if not held.any():
        return "island", "island: starts in the air"
    if least_angle > _CEILING and held.sum() > 1:
        out = middle - middles(mesh, border.within)
        along = border.ends[:, 1] - border.ends[:, 0]
        side = np.column_stack([along[:, 1], -along[:, 0]])
        side /= np.maximum(np.linalg.norm(side, axis=1), 1e-300)[:, None]
        side *= np.sign(np.einsum("ij,ij->i", side, out[:, :2]))[:, None]
        span = _span(side[held], middle[held][:, :2])
        if span is not None:
            return "bridge", f"bridge of {number(span)} mm"
    return "overhang", "overhang"


def _span(out: Points, places: Points) -> float | None:
    """The widest way across a region between held edges that face each other, mm, or None.

    out, places : (k, 2) direction out of the region and middle of each held edge. A region round a stem is held from within
    and spans nothing: there the edge that an edge faces lies behind it.
    """
    if len(out) > _MOST_HELD:
        some = np.linspace(0, len(out) - 1, _MOST_HELD).astype(int)
        out, places = out[some], places[some]
    across = np.einsum("ik,ijk->ij", out, places[:, None] - places[None, :])
    opposite = (out @ out.T < -0.9) & (across > 0)
    return float(across[opposite].max()) if opposite.any() else None


def lines_of(border: Border, drop: Floats) -> Points:
    """(k, 2, 3) the border, its foot below, and uprights between; of a long border every so-manyth edge."""
    if not len(border.within):
        return np.zeros((0, 2, 3))
    every = max(1, len(border.within) // _MOST_BORDER)
    top, down = border.ends[::every], drop[::every]
    foot = top.copy()
    foot[:, :, 2] = np.maximum(top[:, :, 2] - down[:, None], 0.0)
    step = max(1, len(top) // _UPRIGHTS)
    uprights = np.stack([top[::step, 0], foot[::step, 0]], axis=1)
    return np.concatenate([top, foot, uprights])
