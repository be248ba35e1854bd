"""How much surface has which value: what a histogram draws."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry.arrays import Floats

BINS = 60


@dataclass(frozen=True, slots=True, eq=False)
class Tally:
    """area : (BINS,) mm2 of surface with values between each two of `edges` (BINS + 1,); what lies beyond is in the last."""

    edges: Floats
    area: Floats


def tallied(values: np.ndarray, area: Floats, low: float, high: float) -> Tally:
    """values : (n,), NaN where nothing is known, which is left out
    area : (n,) mm2 that each stands for; low < high.
    """
    known = np.isfinite(values)
    place = ((values[known] - low) * (BINS / (high - low))).astype(np.int64).clip(0, BINS - 1)
    return Tally(np.linspace(low, high, BINS + 1), np.bincount(place, area[known], BINS).astype(np.float64))
