"""Dimensions as a table and as JSON, in millimetres whatever unit the window shows."""

from __future__ import annotations

import csv
import json
from collections.abc import Callable
from io import StringIO
from typing import Any

from gullyrise.core.measuring.keeping import judged, limits_of
from gullyrise.core.measuring.picks import Dimension
from gullyrise.core.report.cells import tame

UNITS = {"length": "mm", "area": "mm²", "volume": "mm³", "angle": "°", "mass": "g"}
_HEADS = ("name", "parts", "what", "value", "unit", "uncertainty", "method", "stale", "nominal", "from", "to", "class", "verdict")
Names = Callable[[Dimension], list[str]]


def rows_of(dimensions: tuple[Dimension, ...], names: Names, stale: Callable[[Dimension], bool]) -> list[dict[str, Any]]:
    """A row each.

    names : the parts of a dimension
    stale : whether they have changed since; then nothing is judged
    """
    rows = []
    for one in dimensions:
        old = stale(one)
        low, high = limits_of(one.tolerance) if one.tolerance is not None else (None, None)
        rows.append(
            {
                "name": one.name, "parts": names(one), "what": one.figure, "value": one.value, "unit": UNITS[one.quantity],
                "uncertainty": one.uncertainty, "method": one.method, "stale": old,
                "nominal": one.tolerance.nominal if one.tolerance is not None else None, "from": low, "to": high,
                "class": one.tolerance.iso if one.tolerance is not None and one.tolerance.iso else None,
                "verdict": None if old else judged(one),
            }
        )  # fmt: skip
    return rows


def as_json(rows: list[dict[str, Any]]) -> str:
    """The dimensions as a JSON document."""
    return json.dumps({"schema": "gullyrise.dimensions/1", "dimensions": rows}, ensure_ascii=False, indent=1) + "\n"


def as_csv(rows: list[dict[str, Any]]) -> str:
    """The dimensions as a table, its cells safe for spreadsheets."""
    text = StringIO()
    table = csv.writer(text, lineterminator="\n")
    table.writerow(_HEADS)
    for row in rows:
        table.writerow([_cell(row[head]) for head in _HEADS])
    return text.getvalue()


def _cell(value: Any) -> Any:
    if isinstance(value, list):
        return ", ".join(value)
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:.9g}"
    return "" if value is None else tame(value) if isinstance(value, str) else value
