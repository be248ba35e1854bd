"""Kinds of parts with a true value by construction, at random: what the program says of them is held against that."""

from __future__ import annotations

from collections.abc import Callable

from truth.families import clearances, overhangs, walls
from truth.families.case import Case, Random

FAMILIES: dict[str, Callable[[Random], Case]] = {make.__name__: make for make in (*walls.ALL, *clearances.ALL, *overhangs.ALL)}
