"""Figures in words: units, digits, fractions of an inch, and how they were rounded."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from math import inf, isfinite
from typing import Literal

from gullyrise.core.measuring.figures import Figure, Quantity
from gullyrise.core.number_words import decimals_of_doubt, of_doubt

Unit = Literal["mm", "inch", "inch-fraction", "m", "um"]
UNITS: dict[Unit, str] = {"mm": "mm", "inch": "inch", "inch-fraction": "inch, fractions", "m": "m", "um": "µm"}
_LENGTH = {"mm": 1.0, "inch": 25.4, "inch-fraction": 25.4, "m": 1000.0, "um": 0.001}
_SIGN = {"mm": "mm", "inch": "in", "inch-fraction": "in", "m": "m", "um": "µm"}
_SHIFT = {"mm": 0, "inch": 1, "inch-fraction": 1, "m": 3, "um": -3}
PARTS_OF_INCH = 64


@dataclass(frozen=True, slots=True)
class Wording:
    """digits : after the point of a length in mm; other units and quantities get as many as say as much"""

    unit: Unit = "mm"
    digits: int = 3


def sign_of(quantity: Quantity, unit: Unit) -> str:
    """The unit's sign."""
    if quantity == "angle":
        return "°"
    if quantity == "mass":
        return "g"
    power = {"length": "", "area": "²", "volume": "³"}[quantity]
    return _SIGN[unit] + power


def in_unit(value: float, quantity: Quantity, unit: Unit) -> float:
    """mm, mm2, mm3, degrees or grams as a number of the unit."""
    power = {"length": 1, "area": 2, "volume": 3, "angle": 0, "mass": 0}[quantity]
    return value / float(_LENGTH[unit]) ** power


def digits_for(quantity: Quantity, wording: Wording) -> int:
    """Digits after the point."""
    if quantity == "angle":
        return min(wording.digits, 4)
    if quantity == "mass":
        return min(wording.digits, 3)
    power = {"length": 1, "area": 2, "volume": 3}[quantity]
    return max(0, wording.digits - (power - 1) + power * _SHIFT[wording.unit])


def number(value: float, quantity: Quantity, wording: Wording, doubt: float = 0.0) -> str:
    """The number alone, rounded half to even in the last digit shown; a length in fractions of an inch to the nearest 64th.

    doubt : its uncertainty, beyond which no digit is shown
    """
    if wording.unit == "inch-fraction" and quantity == "length":
        return _fraction(value / 25.4)
    shown = in_unit(value, quantity, wording.unit)
    digits = digits_for(quantity, wording)
    if 0 < doubt < inf:
        digits = min(digits, decimals_of_doubt(in_unit(doubt, quantity, wording.unit)))
    words = f"{shown:,.{digits}f}"
    return words[1:] if words.startswith("-") and not words.strip("-0.,") else words


def _fraction(inches: float) -> str:
    whole = Fraction(round(abs(inches) * PARTS_OF_INCH), PARTS_OF_INCH)
    units, rest = divmod(whole, 1)
    words = f"{units}" if units or not rest else ""
    if rest:
        words += f"{' ' if words else ''}{rest.numerator}/{rest.denominator}"
    return f"{'-' if inches < 0 and whole else ''}{words}"


def said(figure: Figure, wording: Wording) -> str:
    """Number and unit, such as 12.700 mm; about fractions of an inch what they leave out is said."""
    words = number(figure.value, figure.quantity, wording, figure.uncertainty)
    words = f"{words} {sign_of(figure.quantity, wording.unit)}".replace(" °", "°")
    if wording.unit == "inch-fraction" and figure.quantity == "length":
        left = figure.value / 25.4 - float(Fraction(round(figure.value / 25.4 * PARTS_OF_INCH), PARTS_OF_INCH))
        return f"{words} {left:+.4f}" if abs(left) >= 5e-5 else words
    return words


def doubt(figure: Figure, wording: Wording) -> str:
    """The uncertainty in words: exact, or a plus-minus to the digit that it leaves sense in."""
    if figure.uncertainty <= 0:
        return "exact"
    unit: Unit = "inch" if wording.unit == "inch-fraction" else wording.unit
    shown = in_unit(figure.uncertainty, figure.quantity, unit)
    if not isfinite(shown):
        return "not known"
    return f"± {of_doubt(shown)} {sign_of(figure.quantity, unit)}".replace(" °", "°")


def rounding(wording: Wording) -> str:
    """How numbers are rounded, in one sentence."""
    if wording.unit == "inch-fraction":
        return f"Rounded to 1/{PARTS_OF_INCH} inch; what that leaves out stands behind."
    digits = digits_for("length", wording)
    return f"Rounded to {digits} {'digit' if digits == 1 else 'digits'} after the point, {UNITS[wording.unit]}."
