"""Names in sentences."""

from __future__ import annotations

_NAMED = 12


def some_of(names: list[str]) -> str:
    """The first few of some names, and how many more there are."""
    more = len(names) - _NAMED
    return f"{', '.join(names[:_NAMED])}{f' and {more} more' if more > 0 else ''}"
