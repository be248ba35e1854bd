"""Length units: their factors, and when one looks wrong."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.errors import LimitsError
from gullyrise.core.geometry import Floats

_FINEST, _FAR_BEYOND = 0.5, 10.0
"""mm, and times the largest machine, beyond which not even a declared unit is believed."""

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


@dataclass(frozen=True, slots=True)
class Doubt:
    """Why a unit looks wrong, in a sentence without its end, and the units that would explain it, likeliest first."""

    why: str
    answers: tuple[str, ...]


def doubt(size: Floats, largest_machine: float) -> Doubt | None:
    """Whether the unit of a file that declares none looks wrong. `size` (3,) mm as read in millimetres.

    Notes: evidence is a part too small to hold or too large for any machine, and sides that only come out round in
    another unit. Nothing is rescaled here.
    """
    sides = np.sort(size[size > 0])[::-1]
    if not len(sides):
        return None
    largest = float(sides[0])
    as_inch = in_words(size * 25.4)
    if largest < 2.0:
        return Doubt(
            f"largest side is {plain(largest)} mm; read as inches it would be {as_inch} mm, as metres {in_words(size * 1000)} mm",
            ("m", "inch") if largest * 25.4 < 2.0 or not _round_inches(sides) else ("inch", "m"),
        )
    if largest > 1.5 * largest_machine:
        return Doubt(
            f"largest side is {plain(largest)} mm, over 1.5 times the largest machine ({plain(largest_machine)} mm); "
            f"read as microns it would be {plain(largest / 1000)} mm",
            ("micron",),
        )
    if largest < 40.0 and len(sides) == 3:
        # Small, not round in tenths of a millimetre, yet round in sixteenths of an inch once read as inches.
        if not _roundness(sides, 0.1) and _roundness(sides, 1 / 16):
            return Doubt(f"sides {in_words(size)} are round in sixteenths; read as inches it would be {as_inch} mm", ("inch",))
        if not _roundness(sides, 0.05) and _roundness(sides * 25.4, 0.5):
            return Doubt(f"sides {in_words(size)} come out round when read as inches: {as_inch} mm", ("inch",))
    if len(sides) == 3 and largest > 60 and not _roundness(sides, 0.1) and _roundness(sides / 25.4, 1 / 16):
        inches = in_words(size / 25.4)
        return Doubt(f"sides {in_words(size)} mm are round in inches ({inches}); it may be an inch part scaled once already", ())
    return None


def declared_doubt(size: Floats, unit: str, largest_machine: float) -> Doubt | None:
    """Whether a unit that the file itself declares cannot be meant: no machine of the library makes anything like it.
    `size` (3,) mm as read in that unit."""
    largest = float(size.max(initial=0.0))
    if not largest or _FINEST <= largest <= _FAR_BEYOND * largest_machine:
        return None
    numbers = size / factor_of(unit)
    fitting = [
        other
        for other, factor in MILLIMETRES.items()
        if other != unit and 2.0 <= float(numbers.max()) * factor <= 1.5 * largest_machine
    ]
    # As millimetres first, which is what most numbers without a thought are in.
    fitting.sort(key=lambda other: (other != "mm", abs(np.log(float(numbers.max()) * MILLIMETRES[other] / 60.0))))
    beyond = (
        f"over {_FAR_BEYOND:g} times the largest machine ({plain(largest_machine)} mm)"
        if largest > _FINEST
        else "finer than any machine makes"
    )
    instead = f"; read as {fitting[0]} it would be {in_words(numbers * MILLIMETRES[fitting[0]])} mm" if fitting else ""
    return Doubt(f"the file says {unit}, and its largest side is {plain(largest)} mm, {beyond}{instead}", tuple(fitting[:2]))


def _round_inches(sides: Floats) -> bool:
    return _roundness(sides, 1 / 32) or _roundness(sides * 25.4, 0.5)


def plain(value: float) -> str:
    """Four digits that count, written out."""
    if abs(value) >= 1000:
        return f"{value:,.0f}"
    return f"{value:.4f}".rstrip("0").rstrip(".") if abs(value) < 1 else f"{value:.4g}"


def in_words(size: Floats) -> str:
    """(3,) sides, in whatever unit they are, for a reader."""
    return " x ".join(plain(float(side)) for side in size)
