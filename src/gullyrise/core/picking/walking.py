"""From one face, edge, corner or body to the next by keys: the places in a picture at which each can be pointed at, and the way
from one of them to another."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.spatial import ConvexHull, QhullError

from gullyrise.core.camera.camera import Camera
from gullyrise.core.geometry import Bools, Floats, Ints
from gullyrise.core.picking.feature import Kind
from gullyrise.core.picking.seen import Item

Way = Literal["left", "right", "up", "down"]
WAYS: dict[Way, tuple[float, float]] = {"left": (-1, 0), "right": (1, 0), "up": (0, -1), "down": (0, 1)}
_ASIDE = 2.5
"""How much more a step to the side costs than one straight on."""
_SAME = 1.5
_LINE = 24.0
_OUTER = 0.03
"""How far within the border a place still counts as on it, as a share of the whole."""


@dataclass(frozen=True, slots=True, eq=False)
class Stations:
    """places : (n, 3) x and y in px and depth in mm;  item : (n,) number of the body in the picture"""

    places: Floats
    item: Ints


def stations(items: tuple[Item, ...], kind: Kind, camera: Camera, size: tuple[int, int]) -> Stations:
    """A place on everything of a kind that may be pointed at: on what looks away there is none, what hides it is not asked.

    Of a face the middle of its largest triangle, of an edge the middle of its longest piece, of a body the middle of its box.
    """
    found, owner = [], []
    for number, item in enumerate(items):
        places = item.box.middle[None] if kind == "body" else _on(item, kind, camera)
        seen = camera.to_picture(places, *size)
        inside = np.isfinite(seen).all(axis=1)
        inside &= (seen[:, 0] >= 0) & (seen[:, 0] < size[0]) & (seen[:, 1] >= 0) & (seen[:, 1] < size[1])
        found.append(seen[inside])
        owner.append(np.full(int(inside.sum()), number))
    if not found:
        return Stations(np.zeros((0, 3)), np.zeros(0, dtype=np.int64))
    return Stations(np.concatenate(found), np.concatenate(owner))


def _on(item: Item, kind: Kind, camera: Camera) -> Floats:
    """(n, 3) mm on the bench."""
    anatomy = item.prepared.anatomy if item.prepared is not None else None
    if anatomy is None:
        return np.zeros((0, 3))
    turn, shift = item.matrix[:3, :3], item.matrix[:3, 3]
    if kind == "vertex":
        return np.asarray(anatomy.corners @ turn.T + shift)
    if kind == "edge":
        long = np.linalg.norm(anatomy.segments[:, 1] - anatomy.segments[:, 0], axis=1)
        chosen = _largest_of(anatomy.edge_of, long)
        return np.asarray(anatomy.segments[chosen].mean(axis=1) @ turn.T + shift)
    cross = item.mesh.cross()
    size = np.linalg.norm(cross, axis=1)
    normals = cross @ turn.T * np.sign(np.linalg.det(turn))
    middles = item.mesh.vertices[item.mesh.faces].mean(axis=1) @ turn.T + shift
    toward = camera.frame()[2] if camera.parallel else camera.eye - middles
    looks = (normals * toward).sum(axis=1) > 0
    size[~looks] = -1.0
    chosen = _largest_of(anatomy.face_of, size)
    return np.asarray(middles[chosen[looks[chosen]]])


def _largest_of(group: np.ndarray, size: Floats) -> Ints:
    """The number of the largest of each group."""
    if not len(group):
        return np.zeros(0, dtype=np.int64)
    order = np.lexsort((size, group))
    last = np.flatnonzero(np.append(group[order][1:] != group[order][:-1], True))
    return np.asarray(order[last])


def beside(places: Floats, here: tuple[float, float], way: Way) -> int | None:
    """The number of the one that lies next in a direction; None where none does."""
    along = np.array(WAYS[way])
    off = places[:, :2] - np.array(here)
    ahead = off @ along
    across = np.abs(off @ np.array([-along[1], along[0]]))
    cost = np.where(ahead > _SAME, ahead + _ASIDE * across, np.inf)
    best = int(np.argmin(cost)) if len(cost) else 0
    return best if len(cost) and np.isfinite(cost[best]) else None


def following(places: Floats, here: tuple[float, float], step: int) -> int | None:
    """The next, or the one before, as one reads: line by line from the left; from the last to the first."""
    if not len(places):
        return None
    order = np.lexsort((places[:, 0], np.floor(places[:, 1] / _LINE)))
    return int(order[_step(places[order], here, step)])


def around(places: Floats, here: tuple[float, float], step: int) -> int | None:
    """The next, or the one before, along the silhouette of a body: of its outermost places, clockwise round their middle."""
    if not len(places):
        return None
    flat = places[:, :2]
    middle = (flat.min(axis=0) + flat.max(axis=0)) / 2
    angle = np.arctan2(*(flat - middle).T[::-1])
    outer = np.flatnonzero(_outermost(flat))
    order = outer[np.argsort(angle[outer], kind="stable")]
    return int(order[_step(places[order], here, step)])


def _outermost(flat: Floats) -> Bools:
    """(n,) which of some places lie on their border, or hardly within it."""
    try:
        hull = ConvexHull(flat)
    except (QhullError, ValueError):
        # Too few, or all in one line: that is its border.
        return np.ones(len(flat), dtype=bool)
    within = -(flat @ hull.equations[:, :2].T + hull.equations[:, 2]).max(axis=1)
    return np.asarray(within <= _OUTER * float(np.ptp(flat, axis=0).max()))


def _step(places: Floats, here: tuple[float, float], step: int) -> int:
    """From the one that is here to the next in an order; the nearest where none is here."""
    away = np.linalg.norm(places[:, :2] - np.array(here), axis=1)
    nearest = int(np.argmin(away))
    return nearest if away[nearest] > _SAME else (nearest + step) % len(places)
