"""Numbers as people type them, in one way for every field: dot and comma, fractions, units."""

from __future__ import annotations

import re
from fractions import Fraction
from math import isfinite
from typing import Literal

from gullyrise.core.errors import MeasureError

Typed = Literal["length", "angle", "share", "plain"]
"""What is meant: mm, degrees, per cent, or a number without a unit."""

_UNITS: dict[Typed, dict[str, float]] = {
    "length": {
        "mm": 1.0, "cm": 10.0, "m": 1000.0, "µm": 0.001, "μm": 0.001, "um": 0.001, "in": 25.4, "inch": 25.4, "inches": 25.4,
        '"': 25.4, "″": 25.4, "”": 25.4, "''": 25.4, "ft": 304.8, "'": 304.8, "′": 304.8,
    },
    "angle": {"°": 1.0, "deg": 1.0, "degrees": 1.0, "'": 1 / 60, "′": 1 / 60},
    "share": {"%": 1.0},
    "plain": {},
}  # fmt: skip
_EXAMPLES: dict[Typed, str] = {
    "length": "12.7, 12,7 mm, 0.5 in or 1/4\"", "angle": "30.5 or 30,5°", "share": "150 or 99.5 %", "plain": "0.5 or 0,5",
}  # fmt: skip
_SPACES = re.compile("[\u00a0\u2007\u2009\u202f ]+")
_WHOLE = re.compile(r"([+-]?)\s*(\d[\d.,'’ ]*|[.,]\d+)(?:e([+-]?\d{1,3}))?", re.IGNORECASE)
_FRACTION = re.compile(r"([+-]?)\s*(?:(\d+)[ -]\s*)?(\d+)\s*/\s*(\d+)")
_MOST = 64


def typed(text: str, quantity: Typed = "length", more: dict[str, float] | None = None, mark: str = ".") -> float:
    """What was typed, in mm, degrees, per cent or as it is. more : further units, such as of a speed, and what one of each is

    mark : the decimal mark with which numbers are shown where this was typed: a single one is that, whatever stands behind it

    A dot or a comma is the decimal mark where that is its only reading; marks that part groups of three are taken for that where
    nothing else can be meant. Raises MeasureError, with what to type, for what may mean two things or is no number.
    """
    words = _SPACES.sub(" ", text.strip()).replace("−", "-")
    if len(words) > _MOST:
        raise _no_number(text, quantity)
    units = {**_UNITS[quantity], **(more or {})}
    fraction = _FRACTION.match(words)
    if fraction is not None:
        sign, whole, above, below = fraction.groups()
        if int(below) == 0:
            raise MeasureError(f"'{text.strip()[:20]}' divides by nothing; type {_EXAMPLES[quantity]}.")
        value, rest = float(int(whole or 0) + Fraction(int(above), int(below))), words[fraction.end() :]
    else:
        found = _WHOLE.match(words)
        if found is None:
            raise _no_number(text, quantity)
        sign, figures, power = found.groups()
        end = found.end()
        # A stroke or two after the last digit is a unit, not a mark within the number.
        kept = figures.rstrip("'’ ")
        if power is None:
            end -= len(figures) - len(kept)
        value = _figures(kept, text, quantity, mark) * float(f"1e{power or 0}")
        rest = words[end:]
    unit = rest.strip().lower()
    if unit and unit not in units:
        known = ", ".join(one for one in units if one.isascii() and one.isalpha()) or "none"
        raise MeasureError(f"'{unit[:12]}' is no unit that fits here (known: {known}); type {_EXAMPLES[quantity]}.")
    value *= units.get(unit, 1.0)
    if not isfinite(value):
        raise _no_number(text, quantity)
    return -value if sign == "-" else value


def several(text: str) -> list[str]:
    """The numbers of a line that holds more than one, each as it was typed: parted by a semicolon or a blank."""
    return [one for one in re.split(r"\s*;\s*|\s+(?=[-+−.,\d])", text.strip()) if one]


def _figures(figures: str, text: str, quantity: Typed, mark: str) -> float:
    """Digits with their marks."""
    marks = re.findall(r"[.,'’ ]", figures)
    if not marks:
        return float(figures)
    last = marks[-1]
    groups = re.split(r"[.,'’ ]", figures)
    in_threes = bool(groups[0]) and len(groups[0]) <= 3 and all(len(group) == 3 for group in groups[1:])
    others = set(marks[:-1])
    if last in "'’ " or (len(marks) > 1 and others == {last}):
        # One mark that stands several times, or one that is never decimal, can only part groups of three.
        if set(marks) == {last} and in_threes:
            return float("".join(groups))
        raise _no_number(text, quantity)
    if others:
        # Groups of three by one mark, then the other one.
        before = groups[:-1]
        grouped = bool(before[0]) and len(before[0]) <= 3 and all(len(group) == 3 for group in before[1:])
        if len(others) == 1 and grouped and groups[-1]:
            return float(f"{''.join(before)}.{groups[-1]}")
        raise _no_number(text, quantity)
    if last == "," and last != mark and in_threes and groups[0].lstrip("0"):
        plain, point = "".join(groups), ".".join(groups)
        raise MeasureError(f"'{text.strip()[:20]}' may mean {plain} or {point}; type one of these.")
    return float(f"{groups[0] or '0'}.{groups[1] or '0'}")


def _no_number(text: str, quantity: Typed) -> MeasureError:
    return MeasureError(f"'{text.strip()[:20]}' is no number; type {_EXAMPLES[quantity]}.")
