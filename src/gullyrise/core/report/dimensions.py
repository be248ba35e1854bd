"""Dimensions as a table and as JSON, in millimetres whatever unit the window shows."""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

from gullyrise.core.measuring.keeping import judged, limits_of
from gullyrise.core.measuring.picks import Dimension

UNITS = {"length": "mm", "area": "mm²", "volume": "mm³", "angle": "°", "mass": "g"}
DIMENSION_HEADS = (
    "name", "parts", "what", "value", "unit", "uncertainty", "method", "stale", "nominal", "from", "to", "class", "verdict",
)  # fmt: skip


def rows_of(dimensions: Iterable[tuple[Dimension, list[str], bool]]) -> list[dict[str, Any]]:
    """A row each. dimensions : each with the names of its parts, and whether they have changed since; then nothing is judged"""
    rows = []
    for one, names, old in dimensions:
        low, high = limits_of(one.tolerance) if one.tolerance is not None else (None, None)
        rows.append(
            {
                "name": one.name, "parts": names, "what": one.figure, "value": one.value, "unit": UNITS[one.quantity],
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
