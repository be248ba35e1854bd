"""Colours of a measure: even to the eye, safe for colour-blind eyes, with a hard break at the limit."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from gullyrise.core.checks.protocol import FaceField

# From the limit outwards: good runs from pale to deep river, bad from ochre to dark rust. Lightness falls on both sides.
_GOOD = np.array([[216, 231, 229], [172, 207, 208], [124, 176, 181], [78, 141, 148]], dtype=float)
_BAD = np.array([[236, 186, 96], [217, 132, 62], [178, 72, 54], [122, 32, 34]], dtype=float)
NOT_JUDGED = (201, 185, 154)
_STEPS = 256


@dataclass(frozen=True, slots=True)
class Scale:
    """How values become colours: `low` to `high` are the ends shown, `limit` the break, `bad_below` the side that fails."""

    title: str
    unit: str
    low: float
    high: float
    limit: float
    bad_below: bool
    yes_or_no: bool = False

    def with_limit(self, limit: float) -> Scale:
        """The same with another break."""
        return replace(self, limit=limit)

    def colours(self, values: np.ndarray) -> np.ndarray:
        """(n, 3) uint8 colours of (n,) values; NaN reads as not measured. By a table of steps on either side of the break, so
        that a million are coloured anew while a limit is dragged."""
        table = np.empty((2 * _STEPS + 1, 3), dtype=np.uint8)
        share = np.arange(_STEPS) / (_STEPS - 1)
        below, above = (_BAD, _GOOD) if self.bad_below else (_GOOD, _BAD)
        table[:_STEPS], table[_STEPS:-1], table[-1] = _ramp(below, share), _ramp(above, share), NOT_JUDGED
        # Against the limit in their own digits: a single one must not lie on the wrong side.
        high = values > self.limit if not self.bad_below else values >= self.limit
        if self.yes_or_no:
            shades = np.array([below[-1], above[-1], NOT_JUDGED], dtype=np.uint8)
            return np.asarray(shades[np.where(np.isnan(values), 2, high.astype(int))])
        off = np.asarray(values, dtype=np.float32) - np.float32(self.limit)
        up, down = max(self.high - self.limit, 1e-12), max(self.limit - self.low, 1e-12)
        off *= np.where(high, np.float32((_STEPS - 1) / up), np.float32((1 - _STEPS) / down))
        np.clip(off, np.float32(0), np.float32(_STEPS - 1), out=off)
        place = np.where(np.isnan(off), 2 * _STEPS, off + np.where(high, np.float32(_STEPS), np.float32(0)))
        return np.asarray(table[place.astype(np.int16)])


def _ramp(stops: np.ndarray, share: np.ndarray) -> np.ndarray:
    place = share * (len(stops) - 1)
    low = np.minimum(place.astype(int), len(stops) - 2)
    part = (place - low)[:, None]
    return np.asarray(stops[low] * (1 - part) + stops[low + 1] * part)


def scale_for(field: FaceField) -> Scale:
    """The ends that show a field best: from nothing to the limit on the bad side, three limits away on the good one."""
    limit = field.limit if field.limit is not None else 0.0
    if field.unit == "":
        return Scale(field.title, "", 0.0, 1.0, limit, field.bad_below, yes_or_no=True)
    if field.unit == "°":
        return Scale(field.title, "°", 0.0, 90.0, limit, field.bad_below)
    if field.bad_below:
        return Scale(field.title, field.unit, 0.0, max(limit * 3, 1e-6), limit, field.bad_below)
    return Scale(field.title, field.unit, limit - 50.0, limit + 10.0, limit, field.bad_below)
