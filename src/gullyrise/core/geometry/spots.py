"""A place as plain numbers, as findings, figures and files hold it."""

from __future__ import annotations

from collections.abc import Iterable

Spot = tuple[float, float, float]
"""mm"""


def spot(place: Iterable[float]) -> Spot:
    """Three plain numbers of anything with three."""
    x, y, z = (float(value) for value in place)
    return x, y, z
