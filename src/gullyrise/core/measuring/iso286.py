"""Limits of size by ISO 286: tolerance grades and fundamental deviations up to 500 mm.

Values are those of ISO 286-1:2010, tables 1 (grades), 4 and 5 (shafts), and its rule for holes: a hole's deviation mirrors that
of the shaft of the same letter, for K to N (to IT8) and P to S (to IT7) with the difference of its grade from the next finer one.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from dataclasses import dataclass

from gullyrise.core.errors import MeasureError

_STEPS = (3, 6, 10, 18, 30, 50, 80, 120, 180, 250, 315, 400, 500)
# Micrometres, IT1 to IT18, each for the steps above.
_GRADES: tuple[tuple[float, ...], ...] = (
    (0.8, 1, 1, 1.2, 1.5, 1.5, 2, 2.5, 3.5, 4.5, 6, 7, 8),
    (1.2, 1.5, 1.5, 2, 2.5, 2.5, 3, 4, 5, 7, 8, 9, 10),
    (2, 2.5, 2.5, 3, 4, 4, 5, 6, 8, 10, 12, 13, 15),
    (3, 4, 4, 5, 6, 7, 8, 10, 12, 14, 16, 18, 20),
    (4, 5, 6, 8, 9, 11, 13, 15, 18, 20, 23, 25, 27),
    (6, 8, 9, 11, 13, 16, 19, 22, 25, 29, 32, 36, 40),
    (10, 12, 15, 18, 21, 25, 30, 35, 40, 46, 52, 57, 63),
    (14, 18, 22, 27, 33, 39, 46, 54, 63, 72, 81, 89, 97),
    (25, 30, 36, 43, 52, 62, 74, 87, 100, 115, 130, 140, 155),
    (40, 48, 58, 70, 84, 100, 120, 140, 160, 185, 210, 230, 250),
    (60, 75, 90, 110, 130, 160, 190, 220, 250, 290, 320, 360, 400),
    (100, 120, 150, 180, 210, 250, 300, 350, 400, 460, 520, 570, 630),
    (140, 180, 220, 270, 330, 390, 460, 540, 630, 720, 810, 890, 970),
    (250, 300, 360, 430, 520, 620, 740, 870, 1000, 1150, 1300, 1400, 1550),
    (400, 480, 580, 700, 840, 1000, 1200, 1400, 1600, 1850, 2100, 2300, 2500),
    (600, 750, 900, 1100, 1300, 1600, 1900, 2200, 2500, 2900, 3200, 3600, 4000),
    (1000, 1200, 1500, 1800, 2100, 2500, 3000, 3500, 4000, 4600, 5200, 5700, 6300),
    (1400, 1800, 2200, 2700, 3300, 3900, 4600, 5400, 6300, 7200, 8100, 8900, 9700),
)
# Upper deviation of shafts d to h, negative.
_BELOW: dict[str, tuple[float, ...]] = {
    "d": (20, 30, 40, 50, 65, 80, 100, 120, 145, 170, 190, 210, 230),
    "e": (14, 20, 25, 32, 40, 50, 60, 72, 85, 100, 110, 125, 135),
    "f": (6, 10, 13, 16, 20, 25, 30, 36, 43, 50, 56, 62, 68),
    "g": (2, 4, 5, 6, 7, 9, 10, 12, 14, 15, 17, 18, 20),
    "h": (0,) * 13,
}
# Lower deviation of shafts k (IT4 to IT7; else 0), m, n, p.
_ABOVE: dict[str, tuple[float, ...]] = {
    "k": (0, 1, 1, 1, 2, 2, 2, 3, 3, 4, 4, 4, 5),
    "m": (2, 4, 6, 7, 8, 9, 11, 13, 15, 17, 20, 21, 23),
    "n": (4, 8, 10, 12, 15, 17, 20, 23, 27, 31, 34, 37, 40),
    "p": (6, 12, 15, 18, 22, 26, 32, 37, 43, 50, 56, 62, 68),
}
# r and s change within the steps.
_NARROW_STEPS = (3, 6, 10, 18, 30, 50, 65, 80, 100, 120, 140, 160, 180, 200, 225, 250, 280, 315, 355, 400, 450, 500)
_NARROW: dict[str, tuple[float, ...]] = {
    "r": (10, 15, 19, 23, 28, 34, 41, 43, 51, 54, 63, 65, 68, 77, 80, 84, 94, 98, 108, 114, 126, 132),
    "s": (14, 19, 23, 28, 35, 43, 53, 59, 71, 79, 92, 100, 108, 122, 130, 140, 158, 170, 190, 208, 232, 252),
}
_CLASS = re.compile(r"^(js|JS|[d-hkmnprsD-HKMNPRS])([1-9]\d?)$")
LETTERS = "d e f g h js k m n p r s, and D to S for holes"


@dataclass(frozen=True, slots=True)
class Deviations:
    """From the nominal size, mm."""

    lower: float
    upper: float


def deviations(name: str, nominal: float) -> Deviations:
    """The deviations of a class such as H7 or g6 at a nominal size in mm. Raises MeasureError with what is known."""
    found = _CLASS.match(name.strip())
    # Grades 01 and 0 are finer than 1, and are not known here.
    if found is None or int(found[2]) > 18:
        raise MeasureError(
            f"'{name[:20]}' is no class of ISO 286 that is known here; write one of {LETTERS}, with 1 to 18, as H7."
        )
    if not 0 < nominal <= _STEPS[-1]:
        raise MeasureError(f"Classes of ISO 286 are known here for sizes up to {_STEPS[-1]} mm; write plus and minus instead.")
    letter, grade = found[1], int(found[2])
    width = _grade(grade, nominal)
    if letter.lower() == "js":
        return Deviations(-width / 2000, width / 2000)
    nearer = _shaft(letter.lower(), grade, nominal)
    hole = letter.isupper()
    if letter.lower() in _BELOW:
        return (
            Deviations(nearer / 1000, (nearer + width) / 1000) if hole else Deviations(-(nearer + width) / 1000, -nearer / 1000)
        )
    if not hole:
        return Deviations(nearer / 1000, (nearer + width) / 1000)
    upper = _hole(letter, grade, nominal)
    return Deviations((upper - width) / 1000, upper / 1000)


def _grade(grade: int, nominal: float) -> float:
    return _GRADES[grade - 1][bisect_left(_STEPS, nominal)]


def _shaft(letter: str, grade: int, nominal: float) -> float:
    """The deviation that lies nearer to the nominal, without its sign, micrometres."""
    if letter in _BELOW:
        return _BELOW[letter][bisect_left(_STEPS, nominal)]
    if letter == "k" and not 4 <= grade <= 7:
        return 0.0
    if letter in _NARROW:
        return _NARROW[letter][bisect_left(_NARROW_STEPS, nominal)]
    return _ABOVE[letter][bisect_left(_STEPS, nominal)]


def _hole(letter: str, grade: int, nominal: float) -> float:
    """The upper deviation of a hole K to S, micrometres."""
    small = letter.lower()
    step = bisect_left(_STEPS, nominal)
    if small == "k" and grade > 8 and nominal > 3:
        raise MeasureError(f"{letter}{grade} has no deviations in ISO 286 over 3 mm; take a grade up to 8.")
    if small == "n" and grade > 8:
        return 0.0 if nominal > 3 else -_ABOVE["n"][0]
    narrow = _NARROW[small][bisect_left(_NARROW_STEPS, nominal)] if small in _NARROW else _ABOVE[small][step]
    finest = 8 if small in "kmn" else 7
    difference = _grade(grade, nominal) - _grade(grade - 1, nominal) if nominal > 3 and 3 <= grade <= finest else 0.0
    if small == "m" and grade == 6 and 250 < nominal <= 315:
        # The one value that the standard rounds by hand.
        return -9.0
    return difference - narrow
