"""Pegs across a cut: where they stand, so that two halves find one another again."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import manifold3d
import numpy as np

from gullyrise.core.cutting.fill import Fill, in_room, rings_of
from gullyrise.core.cutting.thickness import is_inside, ways_of
from gullyrise.core.errors import SplitError
from gullyrise.core.geometry import Floats, Plane, Points
from gullyrise.core.geometry.pegs import Pegs

_SIDES = 64
_GRID = 48
_WALL = 0.5
_STICKS_OUT = 1e-3


@dataclass(frozen=True, slots=True)
class PegWish:
    """How many pegs of which size."""

    count: int
    diameter: float
    length: float
    clearance: float


def rod(foot: Floats, direction: Floats, start: float, end: float, diameter: float) -> Any:
    """A round rod along a unit direction from `start` to `end` mm past its foot, as a solid of triangles around the circle."""
    u, v = Plane(foot, direction).frame()
    # Of the circle's area: a polygon within it would leave a hole too narrow by its sag.
    radius = diameter / 2 / np.sqrt(np.sinc(2 / _SIDES))
    upright = manifold3d.Manifold.cylinder(end - start, radius, radius, _SIDES)
    base = foot + start * direction
    return upright.transform(np.column_stack([u, v, direction, base]))


def placed_pegs(solids: list[Any], faces: list[Fill], plane: Plane, wish: PegWish) -> Pegs:
    """Pegs of a wanted size, spread over the cut faces as far apart as they will go.

    solids : the bodies in the file's coordinates
    faces : their cut faces in `plane`

    A peg has to stand in material on both sides of the cut, with half its hole's radius round it. Raises SplitError where fewer
    than wanted have room.
    """
    pegs = Pegs(diameter=wish.diameter, length=wish.length, clearance=wish.clearance, feet=())
    around = pegs.hole_diameter / 2 * (1 + _WALL)
    spots = _spots(faces, plane, around)
    feet: list[Floats] = []
    tried = np.zeros(len(spots), dtype=bool)
    away = np.full(len(spots), np.inf)
    if len(spots):
        away = np.linalg.norm(spots - spots.mean(axis=0), axis=1) + 1e-3
    while len(feet) < wish.count and not tried.all():
        best = int(np.argmax(np.where(tried, -np.inf, away)))
        tried[best] = True
        if feet and away[best] < 2 * around:
            break
        if not _has_room(solids, spots[best], plane.normal, pegs, around):
            continue
        away = np.linalg.norm(spots - spots[best], axis=1) if not feet else np.minimum(
            away, np.linalg.norm(spots - spots[best], axis=1)
        )  # fmt: skip
        feet.append(spots[best])
    if len(feet) < wish.count:
        have = "none has" if not feet else f"{len(feet)} {'has' if len(feet) == 1 else 'have'}"
        raise SplitError(
            f"Of {wish.count} pegs of {wish.diameter:g} mm, {wish.length:g} mm long, {have} room in this cut; "
            "take fewer or smaller ones, or move the cut."
        )
    rows = tuple((float(foot[0]), float(foot[1]), float(foot[2])) for foot in feet)
    return pegs.model_copy(update={"feet": rows})


def _spots(faces: list[Fill], plane: Plane, around: float) -> Points:
    """(n, 3) places on cut faces that are `around` mm and more from their outlines, on an even grid of each."""
    out = []
    for face in faces:
        inner = manifold3d.CrossSection(list(face.region)).offset(-around, manifold3d.JoinType.Round, 2.0, 64)
        rings = list(rings_of(inner))
        if not rings:
            continue
        every = np.concatenate(rings)
        low, high = every.min(axis=0), every.max(axis=0)
        ways = ways_of(rings)
        grid = np.stack(np.meshgrid(*(np.linspace(low[k], high[k], _GRID) for k in range(2))), axis=-1).reshape(-1, 2)
        places = np.array([place for place in grid if is_inside(ways.starts, ways.ends, place)]).reshape(-1, 2)
        out.append(places if len(places) else every[:1])
    return in_room(plane, np.concatenate(out)) if out else np.zeros((0, 3))


def _has_room(solids: list[Any], foot: Points, direction: Floats, pegs: Pegs, around: float) -> bool:
    """Whether the hole, with the wall round it, and the foot of the peg lie in one body."""
    wanted = rod(foot, direction, -pegs.root, pegs.depth + around - pegs.hole_diameter / 2, 2 * around)
    return any(float((wanted - solid).volume()) <= _STICKS_OUT * float(wanted.volume()) for solid in solids)
