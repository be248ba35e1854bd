"""Would it fit turned? Exactly about the vertical, and in any attitude by search; with a proof where no attitude fits."""

from __future__ import annotations

import itertools
import time
from dataclasses import dataclass

import numpy as np
from scipy.optimize import minimize
from scipy.spatial import ConvexHull, QhullError
from scipy.spatial.transform import Rotation

from gullyrise.core.geometry import Floats, Points
from gullyrise.core.machines import Machine
from gullyrise.core.placing.circle import least_circle

_DIRECTIONS = 1500
_REFINED = 12
_WITNESSES = 48
_MOST_ASKED = 3_000_000
_PATIENCE = 8.0
_PORTION = 8_000
_FEW, _ROUND_ABOUT, _SEARCHED, _MOST_HULL = 2_000, 60, 3_000, 40_000
SAME = 1e-7
"""mm that rounding may add: as much as this over the room is still in it."""


@dataclass(frozen=True, slots=True, eq=False)
class Turned:
    """The best turn found: `matrix` (3, 3), and by how much the worst side sticks out, mm (0 or less: it fits).

    proved : where it sticks out, that every other turn does too
    """

    matrix: Floats
    excess: float
    proved: bool = False


@dataclass(frozen=True, slots=True)
class Room:
    """The room inside the margins, mm: a box of sides x, y, z, or a cylinder of diameter x and height z."""

    x: float
    y: float
    z: float
    round: bool

    @classmethod
    def of(cls, machine: Machine, edge: float, top: float) -> Room:
        """That of a machine."""
        x, y, z = (machine.envelope.box.size - np.array([2 * edge, 2 * edge, top])).tolist()
        return cls(x, y, z, machine.envelope.shape == "cylinder")


def hull_points(points: Points) -> Points:
    """The corners of the convex hull of (n, 2) or (n, 3) points; flat or tiny sets come back as they are.

    Notes: of many points those inside a hull of few are left out first (after Akl and Toussaint, "A fast convex hull algorithm",
    IPL 7, 1978). Where tens of thousands still stand outside, as on a fine ball, they come back as they are: that they hold all
    corners is enough, and sorting them would take longer than all else.
    """
    if len(points) > _FEW:
        points = _outer(points)
    if len(points) > _MOST_HULL:
        return points
    try:
        return np.asarray(points[ConvexHull(points).vertices])
    except (QhullError, ValueError):
        return points


def _outer(points: Points) -> Points:
    """Points less those that surely lie inside their hull."""
    try:
        sides = ConvexHull(thinned(points, _ROUND_ABOUT)).equations
    except (QhullError, ValueError):
        return points
    room = 1e-9 * float(np.ptp(points, axis=0).max(initial=0.0))
    outside = np.zeros(len(points), dtype=bool)
    for side in sides:
        inner = np.flatnonzero(~outside)
        outside[inner[points[inner] @ side[:-1] + side[-1] > -room]] = True
    return np.asarray(points[outside])


def thinned(points: Points, count: int) -> Points:
    """About so many of the points, the farthest out in each direction from their middle."""
    if len(points) <= count:
        return points
    away = points - (points.min(axis=0) + points.max(axis=0)) / 2
    far = np.sqrt(np.einsum("ij,ij->i", away, away))
    if points.shape[1] == 2:
        cell = ((np.arctan2(away[:, 1], away[:, 0]) / (2 * np.pi) + 0.5) * count).astype(np.int64)
    else:
        rows = max(int(np.sqrt(count / 2)), 1)
        upright = np.clip((away[:, 2] / np.maximum(far, 1e-300) + 1) / 2, 0, 1 - 1e-12)
        around = np.clip(np.arctan2(away[:, 1], away[:, 0]) / (2 * np.pi) + 0.5, 0, 1 - 1e-12)
        cell = (upright * rows).astype(np.int64) * 2 * rows + (around * 2 * rows).astype(np.int64)
    order = np.lexsort((-far, cell))
    first = np.concatenate([[True], np.diff(cell[order]) != 0])
    chosen = np.unique(np.concatenate([order[first], points.argmin(axis=0), points.argmax(axis=0)]))
    return np.asarray(points[chosen])


def excess(points: Points, room: Room) -> float:
    """By how much points stick out of the room wherever they are shifted in it, mm."""
    size = np.ptp(points, axis=0)
    tall = float(size[2]) - room.z
    if not room.round:
        return float(max(size[0] - room.x, size[1] - room.y, tall))
    return max(2 * least_circle(points[:, :2])[1] - room.x, tall)


def best_turn_about_z(points: Points, room: Room) -> Turned:
    """The turn about the vertical with the least excess, exactly: as (3, 3). A round room is the same from all sides.

    Notes: over one turn each width of the footprint is made of arcs of sine curves that bend down, so the lesser excess lies
    where an edge of the footprint is along an axis, or where both widths stick out by the same.
    """
    still = Turned(np.eye(3), excess(points, room), proved=True)
    if room.round:
        return still
    flat = hull_points(points[:, :2])
    tall = float(np.ptp(points[:, 2])) - room.z
    try:
        corners = np.asarray(flat[ConvexHull(flat).vertices])
    except (QhullError, ValueError):
        corners = flat
    edges = np.roll(corners, -1, axis=0) - corners
    breaks = np.unique(np.mod(-np.arctan2(edges[:, 1], edges[:, 0]), np.pi / 2))
    breaks = np.unique(np.concatenate([[0.0], breaks, [np.pi / 2]]))
    tries = [
        *breaks,
        *(angle for low, high in itertools.pairwise(breaks) for angle in _even(corners, low, high, room)),
    ]
    angles = np.concatenate([tries, np.asarray(tries) + np.pi / 2])
    cosine, sine = np.cos(angles), np.sin(angles)
    wide = np.ptp(np.outer(cosine, corners[:, 0]) - np.outer(sine, corners[:, 1]), axis=1)
    deep = np.ptp(np.outer(sine, corners[:, 0]) + np.outer(cosine, corners[:, 1]), axis=1)
    worst = np.maximum(wide - room.x, deep - room.y)
    best = int(np.argmin(worst))
    if max(float(worst[best]), tall) >= still.excess - 1e-9:
        return still
    turn = np.array([[cosine[best], -sine[best], 0], [sine[best], cosine[best], 0], [0, 0, 1.0]])
    return Turned(turn, max(float(worst[best]), tall), proved=True)


def _even(corners: Points, low: float, high: float, room: Room) -> list[float]:
    """Turns between two breaks (and a quarter turn on) at which both widths stick out by the same."""
    out = []
    middle = (low + high) / 2
    for quarter in (0.0, np.pi / 2):
        angle = middle + quarter
        x = corners @ [np.cos(angle), -np.sin(angle)]
        y = corners @ [np.sin(angle), np.cos(angle)]
        a, b = corners[np.argmax(x)] - corners[np.argmin(x)], corners[np.argmax(y)] - corners[np.argmin(y)]
        # a.x cos t - a.y sin t - room.x = b.x sin t + b.y cos t - room.y
        p, q, r = a[0] - b[1], -a[1] - b[0], room.x - room.y
        length = float(np.hypot(p, q))
        if length > 1e-12 and abs(r) <= length:
            base, swing = float(np.arctan2(q, p)), float(np.arccos(np.clip(r / length, -1, 1)))
            found = [np.mod(base + sign * swing - quarter, 2 * np.pi) for sign in (1, -1)]
            out += [float(t) for t in found if low - 1e-12 <= t <= high + 1e-12]
    return out


def best_turn(points: Points, room: Room) -> Turned:
    """The rotation with the least excess among many, the best of them refined; where it still sticks out, whether all must.

    points : (n, 3) mm of the part or its hull. Notes: exact turns about Z of the six faces of the principal box, a pass of
    random but fixed rotations, then downhill simplex from the best; then the proof of `ruled_out`.
    """
    whole = hull_points(points)
    whole = whole - (whole.min(axis=0) + whole.max(axis=0)) / 2
    # A turn is looked for with few corners, and counts only where it holds for all.
    hull = thinned(whole, _SEARCHED)
    found = _best_of(hull, room)
    stands_out = excess(whole @ found.matrix.T, room) if len(hull) < len(whole) else found.excess
    return Turned(found.matrix, max(found.excess, stands_out), found.proved and found.excess > SAME)


def _best_of(hull: Points, room: Room) -> Turned:
    best = best_turn_about_z(hull, room)
    if best.excess <= SAME:
        return best
    principal = np.linalg.svd(hull - hull.mean(axis=0), full_matrices=False)[2]
    if np.linalg.det(principal) < 0:
        principal[0] *= -1
    for flat in (Rotation.from_matrix([*_axis_turns()]) * Rotation.from_matrix(principal)).as_matrix():
        found = best_turn_about_z(hull @ flat.T, room)
        if found.excess < best.excess:
            best = Turned(found.matrix @ flat, found.excess)
    few = witnesses(hull)
    if best.excess > SAME and _too_long(hull, room):
        return Turned(best.matrix, best.excess, proved=True)
    if best.excess > SAME:
        best = _searched(hull, few, room, best)
    if best.excess > SAME:
        fits, proved = ruled_out(few, room)
        if fits is not None:
            better = _refined(hull, fits, room)
            best = better if better.excess < best.excess else best
        return Turned(best.matrix, best.excess, proved=proved and best.excess > SAME)
    return best


def _too_long(hull: Points, room: Room) -> bool:
    """Whether two corners are farther apart than any two places of the room."""
    diagonal = float(np.sqrt(room.x**2 + (0.0 if room.round else room.y**2) + room.z**2))
    few = witnesses(hull)
    apart = np.linalg.norm(few[:, None] - few[None, :], axis=2)
    return bool(apart.max() > diagonal + 1e-9)


def witnesses(hull: Points) -> Points:
    """At most some dozens of the corners of a hull, those farthest out: what these do not let in, all of it does not."""
    if len(hull) <= _WITNESSES:
        return hull
    spread = evenly_spread(_WITNESSES * 2)
    chosen = np.unique(np.argmax(hull @ spread.T, axis=0))
    return np.asarray(hull[chosen[:_WITNESSES]])


def evenly_spread(count: int) -> Points:
    """(count, 3) directions spread evenly, by the golden angle."""
    z = 1 - (2 * np.arange(count) + 1) / count
    angle = np.pi * (3 - np.sqrt(5)) * np.arange(count)
    level = np.sqrt(1 - z**2)
    return np.column_stack([level * np.cos(angle), level * np.sin(angle), z])


def _searched(hull: Points, few: Points, room: Room, best: Turned) -> Turned:
    tries = Rotation.random(_DIRECTIONS, rng=np.random.default_rng(7)).as_matrix()
    scores = _least_excess(few, tries, room)[0]
    for index in np.argsort(scores)[:_REFINED]:
        found = _refined(hull, tries[int(index)], room)
        if found.excess < best.excess:
            best = found
        if best.excess <= SAME:
            break
    return best


def _refined(hull: Points, start: Floats, room: Room) -> Turned:
    def score(vector: Floats) -> float:
        return excess(hull @ (Rotation.from_rotvec(vector).as_matrix() @ start).T, room)

    simplex = np.vstack([np.zeros(3), np.eye(3) * 0.08])
    found = minimize(score, np.zeros(3), method="Nelder-Mead", options={"xatol": 1e-8, "fatol": 1e-7, "maxiter": 400,
                     "initial_simplex": simplex})  # fmt: skip
    turn = Rotation.from_rotvec(found.x).as_matrix() @ start
    # The simplex comes close; about the vertical the rest is exact.
    last = best_turn_about_z(hull @ turn.T, room)
    return Turned(np.asarray(last.matrix @ turn), min(last.excess, float(found.fun)))


def ruled_out(points: Points, room: Room) -> tuple[Floats | None, bool]:
    """(a turn (3, 3) at which some corners fit or None, whether it is proved that no turn lets them in).

    points : (m, 3) a few corners of the part. Notes: branch and bound over rotation vectors. Turns whose vectors lie within d
    of one another differ by an angle of at most d (Hartley and Kahl, "Global optimization through rotation space search",
    IJCV 82, 2009). A pair of corners that spans c along an axis, with length l, spans at least c cos d - sqrt(l² - c²) sin d
    there after any turn by d: a cube of vectors whose middle spans too much by that bound holds no turn that fits. Given up,
    unproved, after a number of questions.
    """
    start, asked, half = time.monotonic(), 0, np.pi / 4
    steps = np.arange(-np.pi + half, np.pi, 2 * half)
    # A round room is the same from all sides: turns about level axes, which bring every direction up, are all there are.
    third, sides = ([0.0], (0,)) if room.round else (steps, (-1, 1))
    middles = np.stack(np.meshgrid(steps, steps, third, indexing="ij"), axis=-1).reshape(-1, 3)
    corners = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in sides])
    diagonal = float(np.sqrt(2 if room.round else 3))
    while len(middles):
        asked += len(middles)
        if asked > _MOST_ASKED or time.monotonic() - start > _PATIENCE:
            return None, False
        open_: list[Points] = []
        for low in range(0, len(middles), _PORTION):
            some = middles[low : low + _PORTION]
            turns = Rotation.from_rotvec(some).as_matrix()
            least, bound = _least_excess(points, turns, room, diagonal * half)
            inside = np.flatnonzero(least <= 0)
            if len(inside):
                return turns[inside[0]], False
            open_.append(some[bound <= 0])
        half /= 2
        middles = (np.concatenate(open_)[:, None, :] + half * corners).reshape(-1, 3)
        # Vectors longer than half a turn say again what shorter ones say.
        middles = middles[np.linalg.norm(middles, axis=1) <= np.pi + diagonal * half]
    return None, True


def _least_excess(points: Points, turns: Floats, room: Room, reach: float = 0.0) -> tuple[Floats, Floats]:
    """Of corners under turns (k, 3, 3): (excess of each, a bound below the excess of every turn within `reach` radians of it).

    In a round room the widest pair of corners stands for the circle round all, which is never narrower.
    """
    placed = np.einsum("kij,mj->kim", turns, points)
    high, low = placed.argmax(axis=2), placed.argmin(axis=2)
    span = points[high] - points[low]
    length = np.sqrt(np.einsum("kij,kij->ki", span, span))
    wide = np.ptp(placed, axis=2)
    angle = min(reach, np.pi)
    cosine = np.clip(wide / np.maximum(length, 1e-300), -1, 1)
    least = length * np.cos(np.minimum(np.arccos(cosine) + angle, np.pi))
    if not room.round:
        sides = np.array([room.x, room.y, room.z])
        return (wide - sides).max(axis=1), (least - sides).max(axis=1)
    first, second = np.triu_indices(len(points), 1)
    apart = points[first] - points[second]
    whole = np.sqrt(np.einsum("pj,pj->p", apart, apart))
    far = np.sqrt(np.maximum(whole**2 - (turns[:, 2] @ apart.T) ** 2, 0.0))
    pair, row = far.argmax(axis=1), np.arange(len(turns))
    tilt = np.arccos(np.clip(far[row, pair] / np.maximum(whole[pair], 1e-300), -1, 1))
    flat = whole[pair] * np.cos(np.minimum(tilt + angle, np.pi / 2))
    return (
        np.maximum(far[row, pair] - room.x, wide[:, 2] - room.z),
        np.maximum(flat - room.x, least[:, 2] - room.z),
    )


def _axis_turns() -> list[Floats]:
    """The six ways to lay a box down (each up to half turns)."""
    out = []
    for order in ((0, 1, 2), (0, 2, 1), (1, 0, 2), (1, 2, 0), (2, 0, 1), (2, 1, 0)):
        matrix = np.zeros((3, 3))
        matrix[range(3), order] = 1.0
        if np.linalg.det(matrix) < 0:
            matrix[0] *= -1
        out.append(matrix)
    return out
