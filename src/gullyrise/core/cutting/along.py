"""The cut area along a direction, at many stations in one sweep."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry import Floats, Ints, Mesh, Plane
from gullyrise.core.geometry.arrays import Bools, Faces

_PORTION = 2_000_000
_MOST_JUMPS = 24
_JUMP, _STEEPER = 0.01, 4.0
_BETWEEN = 3
_ASIDE = 1e-7
# Of a face by which of its corners lie above a station (one bit each): the corner alone on its side, and whether it is above.
_LONE = np.array([0, 0, 1, 2, 2, 1, 0, 0], dtype=np.int8)
_NEXT, _AFTER = np.array([1, 2, 0], dtype=np.int8), np.array([2, 0, 1], dtype=np.int8)
_TURNED = np.array([1.0, 1.0, 1.0, -1.0, 1.0, -1.0, -1.0, 1.0])


@dataclass(frozen=True, slots=True, eq=False)
class AreaCurve:
    """Cut area at (s,) `stations` along a unit `direction`, mm from the origin: `area` (s,) mm2; `sure` (s,) where no open edge
    is crossed;

    ends : (b, 2) where the material of each mesh begins and ends
    jumps : (j,) stations where the area leaps.
    """

    direction: Floats
    stations: Floats
    area: Floats
    sure: Bools
    ends: Floats
    jumps: Floats


@dataclass(frozen=True, slots=True, eq=False)
class _Swept:
    """A mesh seen along the direction. places : (n, 3) two coordinates across and the height, from `height` at its middle"""

    places: Floats
    faces: Faces
    height: float
    scale: float


def area_along(meshes: list[Mesh], direction: Floats, count: int = 200) -> AreaCurve:
    """Cut area at `count` evenly spread stations, and at some more beside and between those where it leaps.

    direction : (3,), not zero. Raises ValueError where no mesh has a face.

    Notes: each pair of face and station that it spans gives one segment, whose share of Green's theorem is summed by station. No
    outlines are made, which is what makes it fast: only vertices are sorted into stations, and most faces span none. Where the
    area leaps, faces square to the direction are looked for, and both of their sides get a station.
    """
    plane = Plane(np.zeros(3), direction)
    axes = np.column_stack([*plane.frame(), plane.normal])
    swept = [_swept(mesh, axes) for mesh in meshes if len(mesh.faces)]
    if not swept:
        raise ValueError("nothing to cut")
    ends = np.array([[one.height + one.places[:, 2].min(), one.height + one.places[:, 2].max()] for one in swept])
    low, high = float(ends[:, 0].min()), float(ends[:, 1].max())
    stations = low + (np.arange(count) + 0.5) / count * (high - low)
    area, sure = np.zeros(count), np.ones(count, dtype=bool)
    reached = []
    for one in swept:
        # Evenly spread, so that a division tells the stations below a vertex.
        spread = (high - low) / count or 1.0
        below = np.clip(np.floor((one.places[:, 2] + (one.height - low)) / spread + 0.5), 0, count).astype(np.int64)
        spans = _spans(one, below)
        reached.append((below, spans))
        own, closes = _summed(one, below, spans, stations)
        area += own
        sure &= closes
    wild = _leaps(area)
    if len(wild):
        near = [_near(one, *found, wild) for one, found in zip(swept, reached, strict=True)]
        jumps = _flats(near, stations, wild, high - low)
        more = np.unique(np.concatenate([jumps - _ASIDE * (high - low), jumps + _ASIDE * (high - low), _between(stations, wild)]))
        extra, known = np.zeros(len(more)), np.ones(len(more), dtype=bool)
        for one in near:
            below = np.searchsorted(more, one.places[:, 2] + one.height, side="right").astype(np.int64)
            own, closes = _summed(one, below, _spans(one, below), more)
            extra += own
            known &= closes
        order = np.argsort(np.concatenate([stations, more]), kind="stable")
        stations = np.concatenate([stations, more])[order]
        area, sure = np.concatenate([area, extra])[order], np.concatenate([sure, known])[order]
    else:
        jumps = np.zeros(0)
    return AreaCurve(plane.normal, stations, np.maximum(area, 0.0), sure, ends, jumps)


def _swept(mesh: Mesh, axes: Floats) -> _Swept:
    # From the middle of the mesh, so that a part far out keeps its digits.
    middle = mesh.box.middle
    return _Swept((mesh.vertices - middle) @ axes, mesh.faces, float(middle @ axes[:, 2]), max(mesh.box.diagonal, 1e-9))


def _spans(one: _Swept, below: Ints) -> tuple[Ints, Ints]:
    """Of each face the number of its first station, and of the one after its last."""
    a, b, c = (below[one.faces[:, k]] for k in range(3))
    return np.minimum(np.minimum(a, b), c), np.maximum(np.maximum(a, b), c)


def _summed(one: _Swept, below: Ints, spans: tuple[Ints, Ints], stations: Floats) -> tuple[Floats, Bools]:
    """(area, whether the outlines close) at each station. below : how many stations lie at or under each vertex."""
    first, last = spans
    count = len(stations)
    levels = stations - one.height
    area, drift = np.zeros(count), np.zeros((count, 2))
    busy = np.flatnonzero(last > first)
    ends = np.cumsum((last - first)[busy])
    start = 0
    while start < len(busy):
        # As many faces at a time as keep the pairs within bounds of memory.
        stop = max(int(np.searchsorted(ends, (ends[start - 1] if start else 0) + _PORTION)), start + 1)
        chosen = busy[start:stop]
        n = last[chosen] - first[chosen]
        face = np.repeat(chosen, n)
        station = np.arange(len(face)) - np.repeat(np.cumsum(n) - n - first[chosen], n)
        corners = one.faces[face]
        code = sum((below[corners[:, k]] > station).astype(np.int8) << np.int8(k) for k in range(3))
        lone, rows = _LONE[code], np.arange(len(face))
        top = one.places[corners[rows, lone]]
        level = levels[station]
        a = _between_corners(top, one.places[corners[rows, _NEXT[lone]]], level)
        b = _between_corners(top, one.places[corners[rows, _AFTER[lone]]], level)
        turned = _TURNED[code]
        area += np.bincount(station, turned * (a[0] * b[1] - a[1] * b[0]) / 2, count)
        for side in range(2):
            drift[:, side] += np.bincount(station, turned * (b[side] - a[side]), count)
        start = stop
    # The segments of closed outlines add up to no way at all.
    return area, np.abs(drift).max(axis=1, initial=0.0) <= 1e-6 * one.scale


def _between_corners(lone: Floats, other: Floats, level: Floats) -> tuple[Floats, Floats]:
    """Where edges from the lone corner meet a level: the two coordinates across."""
    share = np.clip((level - lone[:, 2]) / (other[:, 2] - lone[:, 2]), 0.0, 1.0)
    return lone[:, 0] + share * (other[:, 0] - lone[:, 0]), lone[:, 1] + share * (other[:, 1] - lone[:, 1])


def _leaps(area: Floats) -> Ints:
    """Numbers of the stations that end a steep step of the curve, its ends at zero included; the steepest few."""
    rise = np.abs(np.diff(area, prepend=0.0, append=0.0))
    beside = np.minimum(np.append(rise[1:], 0.0), np.append(0.0, rise[:-1]))
    steep = np.flatnonzero((rise > _JUMP * area.max(initial=0.0)) & (rise > _STEEPER * beside))
    return np.sort(steep[np.argsort(-rise[steep], kind="stable")[:_MOST_JUMPS]])


def _near(one: _Swept, below: Ints, spans: tuple[Ints, Ints], wild: Ints) -> _Swept:
    """Only the faces that reach into the steps before some stations."""
    first, last = spans
    counted = np.concatenate([[0], np.cumsum(np.bincount(wild, minlength=int(below.max(initial=0)) + 2))])
    return _Swept(one.places, one.faces[counted[last + 1] > counted[first]], one.height, one.scale)


def _flats(near: list[_Swept], stations: Floats, wild: Ints, length: float) -> Floats:
    """Heights of the faces that lie square to the direction within the steps before some stations."""
    heights = []
    for one in near:
        level = one.places[one.faces, 2]
        flat = np.ptp(level, axis=1) <= _ASIDE / 4 * length
        heights.append(level[flat].mean(axis=1) + one.height)
    found = np.unique(np.concatenate(heights))
    if not len(found):
        return found
    # Those that rounding tells apart are one.
    found = found[np.append(True, np.diff(found) > _ASIDE * length)]
    return np.asarray(found[np.isin(np.searchsorted(stations, found), wild)][: 4 * _MOST_JUMPS])


def _between(stations: Floats, wild: Ints) -> Floats:
    inner = wild[(wild > 0) & (wild < len(stations))]
    shares = np.arange(1, _BETWEEN + 1) / (_BETWEEN + 1)
    return np.asarray((stations[inner - 1][:, None] + shares * (stations[inner] - stations[inner - 1])[:, None]).reshape(-1))
