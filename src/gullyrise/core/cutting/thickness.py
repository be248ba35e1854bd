"""How thick the material of a flat cut is about a place."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry import Floats

# Cosine of the angle under which a contact is seen from the middle of the disc against the first one: nearer ones are facets of
# the same curve.
_BESIDE = 0.5
_FACET = float(np.cos(np.radians(32.0)))


@dataclass(frozen=True, slots=True, eq=False)
class Disc:
    """The largest disc in the material that touches the outline where it is nearest to a place. All mm, (2,).

    across : from the first contact straight through the material, None where nothing bounds it
    """

    centre: Floats
    radius: float
    contact: Floats
    other: Floats
    across: float | None

    @property
    def thickness(self) -> float:
        """Its diameter, mm."""
        return 2 * self.radius


@dataclass(frozen=True, slots=True, eq=False)
class Ways:
    """The straight pieces of closed rings, material to their left. starts, ends : (w, 2) mm
    first, last : (w, 2) unit directions into the material at both ends: of facets of a curve those of the curve
    """

    starts: Floats
    ends: Floats
    first: Floats
    last: Floats


def ways_of(rings: list[Floats]) -> Ways:
    """The pieces of closed rings (k, 2)."""
    none = np.zeros((0, 2))
    if not rings:
        return Ways(none, none, none, none)
    parts = [_ways_of(ring) for ring in rings]
    return Ways(*(np.concatenate(column) for column in zip(*parts, strict=True)))


def _ways_of(ring: Floats) -> tuple[Floats, Floats, Floats, Floats]:
    ahead = np.roll(ring, -1, axis=0)
    run = ahead - ring
    inward = np.column_stack([-run[:, 1], run[:, 0]]) / np.maximum(np.linalg.norm(run, axis=1), 1e-300)[:, None]
    before = np.roll(inward, 1, axis=0)
    mean = inward + before
    mean /= np.maximum(np.linalg.norm(mean, axis=1), 1e-300)[:, None]
    smooth = ((inward * before).sum(axis=1) > _FACET)[:, None]
    at_start, at_end = np.where(smooth, mean, inward), np.where(smooth, mean, before)
    return ring, ahead, at_start, np.roll(at_end, -1, axis=0)


def is_inside(starts: Floats, ends: Floats, place: Floats) -> bool:
    """Whether a place lies in the material, by the winding number of the pieces about it."""
    upward = (starts[:, 1] <= place[1]) & (ends[:, 1] > place[1])
    downward = (starts[:, 1] > place[1]) & (ends[:, 1] <= place[1])
    side = (ends[:, 0] - starts[:, 0]) * (place[1] - starts[:, 1]) - (place[0] - starts[:, 0]) * (ends[:, 1] - starts[:, 1])
    return int((upward & (side > 0)).sum()) - int((downward & (side < 0)).sum()) != 0


def nearest_on(starts: Floats, ends: Floats, place: Floats) -> tuple[float, Floats, int]:
    """(distance, place, number of the piece) of what of some pieces is nearest to a place. Raises ValueError for none."""
    run = ends - starts
    share = np.clip(((place - starts) * run).sum(axis=1) / np.maximum((run**2).sum(axis=1), 1e-300), 0, 1)
    at = starts + share[:, None] * run
    away = np.linalg.norm(at - place, axis=1)
    best = int(np.argmin(away))
    return float(away[best]), at[best], best


def disc_at(ways: Ways, place: Floats) -> Disc | None:
    """The disc about a place of the material; None outside of it.

    Notes: along the inward normal of the contact, each piece bounds the radius in closed form: a line at distance d from the
    contact and inclined by n to the normal by d / (1 - n), an end by its distance squared over twice its height.
    """
    starts, ends = ways.starts, ways.ends
    if not len(starts) or not is_inside(starts, ends, place):
        return None
    distance, contact, piece = nearest_on(starts, ends, place)
    run = ends[piece] - starts[piece]
    share = float((contact - starts[piece]) @ run) / max(float(run @ run), 1e-300)
    inward = (1 - share) * ways.first[piece] + share * ways.last[piece]
    if not 1e-9 < share < 1 - 1e-9 and distance > 1e-12:
        # At a corner that stands into the material the way to it counts.
        inward = place - contact
    inward = inward / np.linalg.norm(inward)
    radius, touched = np.inf, contact
    for limit, at in (_by_lines(starts, ends, contact, inward), _by_ends(starts, contact, inward)):
        known = np.flatnonzero(np.isfinite(limit) & (limit >= distance * (1 - 1e-9)))
        centres = contact + limit[known, None] * inward
        seen = ((at[known] - centres) @ -inward) / limit[known]
        known = known[seen <= _BESIDE]
        if len(known):
            best = known[int(np.argmin(limit[known]))]
            if limit[best] < radius:
                radius, touched = float(limit[best]), at[best]
    if not np.isfinite(radius):
        return None
    return Disc(contact + radius * inward, radius, contact, touched, _across(starts, ends, contact, inward))


def _by_lines(starts: Floats, ends: Floats, contact: Floats, inward: Floats) -> tuple[Floats, Floats]:
    run = ends - starts
    length = np.maximum(np.linalg.norm(run, axis=1), 1e-300)
    left = np.column_stack([-run[:, 1], run[:, 0]]) / length[:, None]
    # Only lines whose material side looks at the contact bound the disc.
    off = ((contact - starts) * left).sum(axis=1)
    lean = left @ inward
    with np.errstate(divide="ignore", invalid="ignore"):
        radius = np.where((off > 0) & (lean < 1 - 1e-12), off / (1 - lean), np.inf)
        at = contact + radius[:, None] * (inward - left)
        share = ((at - starts) * run).sum(axis=1) / length**2
    return np.where((share >= 0) & (share <= 1), radius, np.inf), np.where(np.isfinite(at), at, 0.0)


def _by_ends(starts: Floats, contact: Floats, inward: Floats) -> tuple[Floats, Floats]:
    away = starts - contact
    rise = away @ inward
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(rise > 1e-12, (away**2).sum(axis=1) / (2 * rise), np.inf), starts


def _across(starts: Floats, ends: Floats, contact: Floats, inward: Floats) -> float | None:
    """From a contact straight ahead to the first piece that is left there."""
    run = ends - starts
    away = starts - contact
    across = inward[0] * run[:, 1] - inward[1] * run[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        ahead = (away[:, 0] * run[:, 1] - away[:, 1] * run[:, 0]) / across
        share = (away[:, 0] * inward[1] - away[:, 1] * inward[0]) / across
    # Material lies to the left, so that a way out crosses pieces that run to the left of it.
    met = (share >= -1e-12) & (share <= 1 + 1e-12) & (ahead > 1e-9) & (across > 0)
    return float(ahead[met].min()) if met.any() else None
