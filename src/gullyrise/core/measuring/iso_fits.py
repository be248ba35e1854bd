"""Which fit of ISO 286 a hole and a shaft are like."""

from __future__ import annotations

from gullyrise.core.errors import MeasureError
from gullyrise.core.measuring.iso286 import deviations

# The fits that ISO 286-1 prefers on the basis of the hole, tightest first.
PREFERRED = (
    ("H7", "s6"), ("H7", "r6"), ("H7", "p6"), ("H7", "n6"), ("H7", "m6"), ("H7", "k6"), ("H7", "js6"), ("H7", "h6"),
    ("H7", "g6"), ("H8", "h7"), ("H8", "f7"), ("H8", "e8"), ("H8", "d9"), ("H9", "h9"), ("H9", "e9"), ("H9", "d9"),
    ("H11", "h11"), ("H11", "d11"),
)  # fmt: skip
_STEP = 0.5


def nominal_of(hole: float) -> float:
    """The size that was probably meant, mm: the nearest half millimetre, and below one millimetre the size itself."""
    return max(round(hole / _STEP) * _STEP, _STEP) if hole >= 1 else hole


def like_fit(hole: float, shaft: float) -> str | None:
    """The preferred fit whose clearances hold that of a hole and a shaft, mm of diameter; None where none does.

    Where several do, one whose classes hold both sizes themselves comes first, then the one whose middle is nearest, as a share
    of its width.
    """
    nominal, clearance = nominal_of(hole), hole - shaft
    best: tuple[bool, float, str] | None = None
    for hole_class, shaft_class in PREFERRED:
        try:
            outer, inner = deviations(hole_class, nominal), deviations(shaft_class, nominal)
        except MeasureError:
            return None
        least, most = outer.lower - inner.upper, outer.upper - inner.lower
        if not least - 1e-9 <= clearance <= most + 1e-9:
            continue
        holds = _within(hole - nominal, outer.lower, outer.upper) and _within(shaft - nominal, inner.lower, inner.upper)
        off = abs(clearance - (least + most) / 2) / (most - least)
        key = (not holds, off, f"{hole_class}/{shaft_class}")
        if best is None or key < best:
            best = key
    return None if best is None else best[2]


def _within(value: float, low: float, high: float) -> bool:
    return low - 1e-9 <= value <= high + 1e-9
