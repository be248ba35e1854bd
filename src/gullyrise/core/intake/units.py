"""Length units: their factors, and when one looks wrong."""

from __future__ import annotations

import numpy as np

from gullyrise.core.errors import LimitsError
from gullyrise.core.geometry import Floats

MILLIMETRES: dict[str, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "inch": 25.4, "foot": 304.8, "micron": 0.001}
"""Millimetres in one of each unit; the names are those of the command line."""


def factor_of(unit: str) -> float:
    """Millimetres in one `unit`. Raises LimitsError for a word that is no unit."""
    try:
        return MILLIMETRES[unit]
    except KeyError:
        raise LimitsError(f"'{unit}' is not a unit; choose one of {', '.join(MILLIMETRES)}.") from None


def _roundness(sizes: Floats, step: float) -> bool:
    """Whether every size is a multiple of step within 0.02 % of its length."""
    multiples = sizes / step
    return bool((np.abs(multiples - np.round(multiples)) * step <= 2e-4 * sizes).all() and (np.round(multiples) > 0).all())


def doubt(size: Floats, largest_machine: float) -> str | None:
    """Why the unit of a file that declares none looks wrong, or None. `size` (3,) mm as read in millimetres.

    Notes: evidence is a part too small to hold or too large for any machine, and sides that only come out round in
    another unit. Nothing is rescaled here.
    """
    sides = np.sort(size[size > 0])[::-1]
    if not len(sides):
        return None
    largest = float(sides[0])
    words = " x ".join(f"{side:.4g}" for side in size)
    if largest < 2.0:
        as_inch = " x ".join(f"{side * 25.4:.4g}" for side in size)
        as_metre = " x ".join(f"{side * 1000:.4g}" for side in size)
        return f"largest side is {largest:.4g} mm; read as inches it would be {as_inch} mm, as metres {as_metre} mm"
    if largest > 1.5 * largest_machine:
        return (
            f"largest side is {largest:.4g} mm, over 1.5 times the largest machine ({largest_machine:.4g} mm); "
            f"read as microns it would be {largest / 1000:.4g} mm"
        )
    if largest < 40.0 and len(sides) == 3:
        # Small, not round in tenths of a millimetre, yet round in sixteenths of an inch once read as inches.
        if not _roundness(sides, 0.1) and _roundness(sides, 1 / 16):
            as_inch = " x ".join(f"{side * 25.4:.4g}" for side in size)
            return f"sides {words} are round in sixteenths; read as inches it would be {as_inch} mm"
        if not _roundness(sides, 0.05) and _roundness(sides * 25.4, 0.5):
            as_inch = " x ".join(f"{side * 25.4:.4g}" for side in size)
            return f"sides {words} come out round when read as inches: {as_inch} mm"
    if len(sides) == 3 and largest > 60 and not _roundness(sides, 0.1) and _roundness(sides / 25.4, 1 / 16):
        inches = " x ".join(f"{side / 25.4:.4g}" for side in size)
        return f"sides {words} mm are round in inches ({inches}); it may be an inch part scaled once already"
    return None
