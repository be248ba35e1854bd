"""Cells of tables that a spreadsheet may open."""

from __future__ import annotations

_BEGINNINGS = ("=", "+", "-", "@", "\t", "\r")


def tame(words: str) -> str:
    """Words that a spreadsheet would take for a formula are kept words, numbers numbers: names come from files of strangers."""
    if words[:1] not in _BEGINNINGS:
        return words
    try:
        float(words)
    except ValueError:
        return f"'{words}"
    return words
