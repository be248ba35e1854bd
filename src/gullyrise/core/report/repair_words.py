"""What repairs did, for the record and the report."""

from __future__ import annotations

from gullyrise.core.intake.repairs import BY_ID, Change
from gullyrise.core.job import PlacedPart
from gullyrise.core.number_words import number


def change_words(placed: PlacedPart, body: int, change: Change) -> str:
    """What a repair did, for the record."""
    repair = BY_ID[change.repair]
    name = placed.part.bodies[body].name
    where = name if name == placed.part.name else f"{placed.part.name}, {name}"
    return f"{where}: {repair.title[:1].lower()}{repair.title[1:]} ({counted(change)}); {volume_words(change)}."


def counted(change: Change) -> str:
    """How much was changed, with its unit."""
    one, many = BY_ID[change.repair].unit
    return f"{change.count:,} {one if change.count == 1 else many}"


def volume_words(change: Change) -> str:
    """Volumes before and after, mm³."""
    before, after = change.volume
    if before is None and after is None:
        return f"open before and after, {change.open_edges[0]:,} to {change.open_edges[1]:,} boundary edges"
    if before is None and after is not None:
        return f"now closed, {number(after)} mm³"
    if after is None or before is None:
        return f"volume {number(before or 0.0)} mm³ before, now open"
    moved = after - before
    return (
        f"volume as before, {number(after)} mm³"
        if abs(moved) <= 1e-9 * abs(before)
        else f"volume {'+' if moved > 0 else ''}{number(moved)} mm³ to {number(after)} mm³"
    )
