"""What is told of a limit: its words, its unit, between what it lies. Those of checks from elsewhere come with them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from importlib.metadata import entry_points
from typing import Any, Literal

CHECKS = "gullyrise.checks"
"""The group of entry points by which checks from elsewhere are found."""


@dataclass(frozen=True, slots=True)
class LimitRow:
    """One limit of a check, as forms show it.

    name : in files and on the command line
    words : before its field, such as `at least`
    unit, digits, step : of the field
    low, high : between which it lies
    kind : a number, or words parted by blanks
    off : what none means, for a limit that may be left out
    usual : what holds where nobody says anything, None for no such value
    tip : what else is to be known of it
    sign : stands for its words where there is room for a character only, empty for that of the side on which bad is
    """

    name: str
    words: str
    unit: str = "mm"
    low: float = 0.0
    high: float = 1000.0
    digits: int = 2
    step: float = 0.05
    kind: Literal["number", "words"] = "number"
    off: str = ""
    usual: float | None = None
    tip: str = ""
    sign: str = ""


REGIONS = LimitRow("min_region_area", "regions from", unit="mm²", high=1e6, digits=1, step=1.0)
"""Smaller ones are left out, by more than one check."""


@cache
def rows_from_elsewhere() -> tuple[Any, ...]:
    """The `ROW` of each check that another package brings along."""
    return tuple(point.load().ROW for point in entry_points(group=CHECKS))


@cache
def limits_from_elsewhere() -> dict[str, LimitRow]:
    """By name, those of checks that other packages bring along and that are no common limit. Raises RuntimeError where two
    packages mean different things by one name."""
    out: dict[str, LimitRow] = {}
    for row in rows_from_elsewhere():
        for limit in row.limits:
            if out.setdefault(limit.name, limit) != limit:
                raise RuntimeError(f"two checks mean different things by the limit {limit.name}")
    return out
