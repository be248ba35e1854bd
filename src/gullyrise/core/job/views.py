"""Saved views: a name, where it looks from, and a little picture of what was seen."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.core.cutting.cuts import Cut


@dataclass(frozen=True, slots=True)
class SavedView:
    """target : mm
    heading, elevation, roll, field : degrees
    span : mm that the picture's height shows at the target
    stretch : factors of the picture along X, Y, Z
    picture : PNG
    cuts : that were open
    """

    name: str
    target: tuple[float, float, float]
    heading: float
    elevation: float
    span: float
    parallel: bool
    roll: float
    field: float
    stretch: tuple[float, float, float]
    picture: bytes
    cuts: tuple[Cut, ...] = ()
