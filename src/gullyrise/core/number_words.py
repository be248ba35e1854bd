"""Numbers as everybody reads them: sentences, lists, tags and reports have one style."""

from __future__ import annotations

import math

_COUNT = 3
_MOST_DECIMALS = 9


def number(value: float, doubt: float = 0.0, apart_from: float | None = None) -> str:
    """A number that was measured.

    doubt : its uncertainty, which leaves sense in so many digits; three digits count where it has none, and all whole ones
    apart_from : a limit that it is held against: it has as many digits more as tell it from that
    """
    if not math.isfinite(value):
        return "unbounded" if value > 0 else "−unbounded" if value < 0 else "unknown"
    decimals = decimals_of_doubt(doubt) if doubt > 0 else _decimals_of_size(value)
    words = _written(value, decimals)
    if apart_from is not None and value != apart_from:
        while decimals < _MOST_DECIMALS and float(words.replace(",", "")) == apart_from:
            decimals += 1
            words = _written(value, decimals)
    return words


def with_doubt(value: float, doubt: float, unit: str = "") -> str:
    """A measured number with its unit and uncertainty, both to the same digit: `26.0 g ± 0.5`."""
    said = f"{number(value, doubt)} {unit}".rstrip()
    return f"{said} ± {of_doubt(doubt)}" if doubt > 0 else said


def of_doubt(doubt: float) -> str:
    """An uncertainty, to the digit that it leaves sense in."""
    return _written(doubt, decimals_of_doubt(doubt))


def given(value: float) -> str:
    """A number that somebody set: as short as it may be written."""
    if not math.isfinite(value):
        return number(value)
    words = _written(value, _MOST_DECIMALS if abs(value) < 1 else 6)
    return words.rstrip("0").rstrip(".") if "." in words else words


def _written(value: float, decimals: int) -> str:
    words = f"{value:,.{decimals}f}"
    return words.lstrip("-") if float(words.replace(",", "")) == 0 else words


def decimals_of_doubt(doubt: float) -> int:
    """Digits after the point, so that its first digit is written, and the second where the first is a 1."""
    first = f"{doubt:.1e}"
    return min(max(0, -int(first[4:]) + first.startswith("1")), _MOST_DECIMALS)


def _decimals_of_size(value: float) -> int:
    if value == 0:
        return 0
    exponent = int(f"{value:.{_COUNT - 1}e}".partition("e")[2])
    return min(max(0, _COUNT - 1 - exponent), _MOST_DECIMALS)
