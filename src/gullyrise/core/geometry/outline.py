"""Outlines as straight lines and arcs of circles, laid flat."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from gullyrise.core.geometry import Floats, Ints
from gullyrise.core.geometry.arrays import Bools, frozen

_STRAIGHT = 1e-9
_LIKE = 0.02
_BEND = np.radians(32.0)
_LEAST = 4
_EVEN = 2.5
_LARGEST = 1e6


@dataclass(frozen=True, slots=True, eq=False)
class Outline:
    """A chain of lines and arcs in a plane, mm.

    points : (k, 2), the first not repeated where it is closed
    bulge  : (k,) of the way from each point to the next, a quarter of the arc's angle as a tangent: 0 is straight, positive turns
             left, 1 is half a circle (DXF reference, LWPOLYLINE group 42)
    off    : mm by which the vertices that an arc was drawn through lie off it, at most
    step   : radians between those vertices, at most; 0 where arcs were known as such
    body   : the number of the body that it belongs to
    """

    points: Floats
    bulge: Floats
    closed: bool
    off: float = 0.0
    step: float = 0.0
    body: int = 0

    def __post_init__(self) -> None:
        object.__setattr__(self, "points", frozen(self.points, np.float64))
        object.__setattr__(self, "bulge", frozen(self.bulge, np.float64))

    def ways(self) -> tuple[Floats, Floats, Floats]:
        """(starts (w, 2), ends (w, 2), bulges (w,)) of its lines and arcs."""
        if self.closed:
            return self.points, np.roll(self.points, -1, axis=0), self.bulge
        return self.points[:-1], self.points[1:], self.bulge[:-1]

    @property
    def area(self) -> float:
        """mm2, positive where it runs counter-clockwise; 0 where it is open."""
        if not self.closed:
            return 0.0
        here = self.points - self.points.mean(axis=0)
        ahead = np.roll(here, -1, axis=0)
        within = float((here[:, 0] * ahead[:, 1] - here[:, 1] * ahead[:, 0]).sum()) / 2
        return within + float(self._beyond_chords().sum())

    def _beyond_chords(self) -> Floats:
        """(w,) mm2 between arcs and their chords, positive where they turn left."""
        start, end, bulge = self.ways()
        chord = np.linalg.norm(end - start, axis=1)
        sweep = 4 * np.arctan(bulge)
        with np.errstate(divide="ignore", invalid="ignore"):
            radius = chord / (2 * np.sin(np.abs(sweep) / 2))
            return np.where(bulge == 0, 0.0, np.sign(bulge) * radius**2 / 2 * (np.abs(sweep) - np.sin(np.abs(sweep))))

    @property
    def length(self) -> float:
        """mm"""
        start, end, bulge = self.ways()
        chord = np.linalg.norm(end - start, axis=1)
        half = 2 * np.arctan(np.abs(bulge))
        with np.errstate(divide="ignore", invalid="ignore"):
            return float(np.where(bulge == 0, chord, chord * half / np.sin(half)).sum())

    def circles(self) -> list[tuple[Floats, float]]:
        """(centre (2,), radius) of each arc."""
        start, end, bulge = self.ways()
        return [circle_of(start[k], end[k], float(bulge[k])) for k in np.flatnonzero(bulge)]

    def drawn(self, sag: float) -> Floats:
        """(n, 2) places along it, within `sag` mm of its arcs; the first not repeated."""
        start, end, bulge = self.ways()
        out = []
        for a, b, bent in zip(start, end, bulge, strict=True):
            out.append(a[None])
            if bent:
                centre, radius = circle_of(a, b, float(bent))
                sweep = 4 * float(np.arctan(bent))
                step = 2 * float(np.arccos(np.clip(1 - sag / radius, -1, 1))) or 0.1
                count = int(np.clip(np.ceil(abs(sweep) / max(step, 1e-3)), 1, 720))
                turn = np.arctan2(*(a - centre)[::-1]) + sweep * np.arange(1, count) / count
                out.append(centre + radius * np.column_stack([np.cos(turn), np.sin(turn)]))
        if not self.closed and len(end):
            out.append(end[-1:])
        return np.concatenate(out) if out else np.zeros((0, 2))


def circle_of(start: Floats, end: Floats, bulge: float) -> tuple[Floats, float]:
    """(centre, radius) of an arc that is not straight."""
    chord = end - start
    left = np.array([-chord[1], chord[0]])
    centre = (start + end) / 2 + left * (1 - bulge**2) / (4 * bulge)
    return centre, float(np.linalg.norm(start - centre))


def straight(ring: Floats, *, closed: bool) -> Outline:
    """An outline as it is, without places that lie in the middle of a straight way."""
    kept = ring[_corners(ring, closed=closed)] if len(ring) > 2 else ring
    return Outline(kept, np.zeros(len(kept)), closed)


def _corners(ring: Floats, *, closed: bool) -> Bools:
    """(k,) which places are no middle of a straight way."""
    before, after = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
    turned = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    longest = np.maximum((before**2).sum(axis=1), (after**2).sum(axis=1))
    bent = (np.abs(turned) > _STRAIGHT * longest) | ((before * after).sum(axis=1) <= 0)
    if not closed:
        bent[[0, -1]] = True
    return np.asarray(bent if bent.sum() >= 3 or not closed else np.ones(len(ring), dtype=bool))


def rounded(ring: Floats, *, closed: bool, within: float) -> Outline:
    """An outline with arcs where four and more of its corners in a row lie on a circle within `within` mm, turning one way.

    Notes: corners whose circles through their two neighbours are alike are gathered, and a circle of least squares (Kasa 1976) is
    laid through them. An arc begins and ends at corners of the outline, so what is not round stays as it was.
    """
    plain = straight(ring, closed=closed)
    points = plain.points
    k = len(points)
    if k < _LEAST:
        return plain
    bend = _bends(points)
    if not closed:
        bend[[0, -1]] = np.nan
    runs = _like_runs(bend, closed=closed)
    bulge = np.zeros(k)
    gone = np.zeros(k, dtype=bool)
    off, widest = 0.0, 0.0
    for first, count in runs:
        # With the corners before and after: the circle goes through them too.
        members = (np.arange(first - 1, first + count + 1) % k) if count < k - 1 else np.arange(k)
        count = len(members) if len(members) == k else count
        if len(members) < _LEAST or gone[members].any():
            continue
        centre, radius, worst = fitted_circle(points[members])
        if not worst <= within or radius > _LARGEST:
            continue
        members = _longer(members, points, centre, radius, within, closed=closed)
        sign = float(np.sign(bend[first % k]))
        if count >= k:
            # A whole circle is two halves.
            opposite = 2 * centre - points[0]
            return Outline(np.array([points[0], opposite]), np.full(2, sign), True, worst, _widest(points, centre, closed=True))
        stops = [members[0], *(() if _sweep(points[members], centre) < np.pi else (members[len(members) // 2],)), members[-1]]
        for a, b in pairwise(stops):
            inner = (np.arange(a + 1, a + 1 + (b - a - 1) % k)) % k
            sweep = _sweep(points[np.concatenate([[a], inner, [b]])], centre)
            bulge[a] = sign * np.tan(sweep / 4)
            gone[inner] = True
        off, widest = max(off, worst), max(widest, _widest(points[members], centre, closed=False))
    return Outline(points[~gone], bulge[~gone], closed, off, widest)


def _longer(members: Ints, points: Floats, centre: Floats, radius: float, within: float, *, closed: bool) -> Ints:
    """Members of an arc and the corners after and before them that go on along it, such as the short step where it was
    trimmed."""
    k = len(points)
    for ahead in (1, -1):
        while len(members) < k:
            here, there = members[-1 if ahead > 0 else 0], (members[-1 if ahead > 0 else 0] + ahead) % k
            if not closed and there == (0 if ahead > 0 else k - 1):
                break
            step = float(np.linalg.norm(points[there] - points[here]))
            off = abs(float(np.linalg.norm(points[there] - centre)) - radius)
            if there in members or off > within or step > 2 * radius * np.sin(_BEND / 2):
                break
            members = np.append(members, there) if ahead > 0 else np.append(there, members)
    return members


def _bends(points: Floats) -> Floats:
    """(k,) one over the radius of the circle through each corner and its neighbours, positive where it turns left; NaN where the
    outline turns sharply or its steps are uneven."""
    before, after = points - np.roll(points, 1, axis=0), np.roll(points, -1, axis=0) - points
    turned = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    a, b = np.linalg.norm(before, axis=1), np.linalg.norm(after, axis=1)
    c = np.linalg.norm(before + after, axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        out = 2 * turned / (a * b * c)
        sharp = np.abs(np.arctan2(turned, (before * after).sum(axis=1))) > _BEND
        # A chamfered square has all its corners on one circle too, but no even steps.
        sharp |= np.maximum(a, b) > _EVEN * np.minimum(a, b)
    return np.where(sharp | ~np.isfinite(out) | (out == 0), np.nan, out)


def _like_runs(bend: Floats, *, closed: bool) -> list[tuple[int, int]]:
    """(first, how many) of the runs of corners on one circle, two and more each."""
    k = len(bend)
    following = np.roll(bend, -1)
    with np.errstate(invalid="ignore"):
        like = np.abs(following - bend) <= _LIKE * np.maximum(np.abs(bend), np.abs(following))
    if not closed:
        like[-1] = False
    if like.all():
        return [(0, k)]
    out = []
    start = int(np.flatnonzero(~like)[0]) + 1
    here = start
    while here < start + k:
        if not like[here % k]:
            here += 1
            continue
        first = here
        while like[here % k]:
            here += 1
        out.append((first % k, here - first + 1))
    return out


def _sweep(points: Floats, centre: Floats) -> float:
    """Radians from the first of some places round a centre to the last, by way of those between."""
    return float(_steps(points, centre).sum())


def _widest(points: Floats, centre: Floats, *, closed: bool) -> float:
    """Radians of the widest step between places in a row round a centre."""
    return float(_steps(np.append(points, points[:1], axis=0) if closed else points, centre).max(initial=0.0))


def _steps(points: Floats, centre: Floats) -> Floats:
    away = points - centre
    a, b = away[:-1], away[1:]
    return np.asarray(np.abs(np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1))))


def fitted_circle(places: Floats) -> tuple[Floats, float, float]:
    """(centre, radius, mm by which a place lies off it at most) of the circle of least squares (I. Kasa, IEEE Transactions on
    Instrumentation and Measurement 25, 1976). Fewer than three places or a straight line give an infinite radius."""
    base = places.mean(axis=0)
    x, y = (places - base).T
    if len(places) < 3:
        return base, float("inf"), float("inf")
    found, _, rank, _ = np.linalg.lstsq(np.column_stack([2 * x, 2 * y, np.ones(len(x))]), x**2 + y**2, rcond=None)
    radius = float(np.sqrt(max(found[2] + found[0] ** 2 + found[1] ** 2, 0.0)))
    if rank < 3 or not radius > 0:
        return base, float("inf"), float("inf")
    return base + found[:2], radius, float(np.abs(np.hypot(x - found[0], y - found[1]) - radius).max())
