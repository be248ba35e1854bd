"""Findings as they are listed: those of one kind on one part together, the worst first."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.core.number_words import number
from gullyrise.desktop.features.checks.findings import Listed

Key = tuple[str, str, int, tuple[str, ...]]


@dataclass(frozen=True, slots=True)
class Group:
    """key : by which it is known again;  title : what they are and where;  places : in the list of all, worst first"""

    key: Key
    title: str
    places: tuple[int, ...]


def groups_of(listed: tuple[Listed, ...]) -> list[Group]:
    """In the order of the worst of each."""
    found: dict[Key, list[int]] = {}
    for place, one in enumerate(listed):
        found.setdefault((one.row.id, one.finding.code, one.placed.id, one.finding.of), []).append(place)
    return [Group(key, _title(listed[places[0]], len(places)), tuple(places)) for key, places in found.items()]


def _title(one: Listed, count: int) -> str:
    kind = one.row.kind(one.finding.code)
    return f"{kind}{f' {count}' if count > 1 else ''} · {_where(one)}"


def _where(one: Listed) -> str:
    """The part, and what of it or beside it is meant."""
    of, part = one.finding.of, one.placed.name
    if not of or of == (part,):
        return part
    return " – ".join(of) if one.finding.names(part) else f"{part}: {', '.join(of)}"


def value_words(one: Listed) -> str:
    """How bad, and how much of it."""
    words = [one.finding.figure] if one.finding.figure else []
    if one.finding.area is not None and one.finding.unit != "mm²":
        words.append(f"{number(one.finding.area)} mm²")
    if one.copies:
        words.append(f"{len(one.copies) + 1} alike")
    return " · ".join(words)


def place_words(one: Listed) -> str:
    """Where, in the coordinates of the file."""
    return "  ".join(f"{axis} {value:.1f}" for axis, value in zip("xyz", one.finding.at, strict=True))
