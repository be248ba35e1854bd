"""Cells of tables that a spreadsheet may open."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Mapping, Sequence
from io import StringIO
from typing import Any

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


def written(value: Any) -> Any:
    """A value as a cell of text: yes and no, numbers with nine digits, lists with commas, nothing for None."""
    if isinstance(value, list):
        return ", ".join(value)
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:.9g}"
    return "" if value is None else tame(value) if isinstance(value, str) else value


def as_csv(heads: Sequence[str], rows: Iterable[Mapping[str, Any]]) -> str:
    """A table with a line of titles, its cells safe for spreadsheets."""
    text = StringIO()
    table = csv.writer(text, lineterminator="\n")
    table.writerow(heads)
    table.writerows([written(row[head]) for head in heads] for row in rows)
    return text.getvalue()
