"""Findings as tables, one row a finding: CSV, and a workbook of findings and dimensions."""

from __future__ import annotations

import io
from collections.abc import Iterable, Sequence
from typing import Any

from gullyrise.core.checks.protocol import Outcome
from gullyrise.core.report.dating import now

FINDING_HEADS: tuple[str, ...] = (
    "part", "file", "check", "subject", "verdict", "finding", "value", "unit", "uncertainty", "limit", "x", "y", "z", "area",
    "remedy", "accepted",
)  # fmt: skip
Cell = str | float | int | bool | None
_WIDEST, _MOST_IN_CELL = 60, 32_767


def finding_rows(part: str, file: str, outcomes: Iterable[tuple[Outcome, str, Sequence[str]]]) -> list[dict[str, Cell]]:
    """A row each, lengths in mm. outcomes : each with its limit in words and the notes of its accepted findings, empty for
    none"""
    out: list[dict[str, Cell]] = []
    for outcome, limit, notes in outcomes:
        subject = " and ".join(outcome.subject) if isinstance(outcome.subject, tuple) else ""
        unit = outcome.worst.unit if outcome.worst is not None else None
        for finding, note in zip(outcome.findings, notes, strict=True):
            x, y, z = finding.at
            out.append(
                {
                    "part": part, "file": file, "check": outcome.check, "subject": subject, "verdict": outcome.verdict,
                    "finding": finding.what, "value": finding.value, "unit": finding.unit,
                    "uncertainty": outcome.uncertainty if finding.unit == unit else None, "limit": limit, "x": x, "y": y, "z": z,
                    "area": finding.area, "remedy": finding.remedy, "accepted": note,
                }
            )  # fmt: skip
    return out


def workbook(sheets: Sequence[tuple[str, Sequence[str], Sequence[dict[str, Cell]]]]) -> bytes:
    """A workbook (ISO/IEC 29500) of tables: (title, heads, rows) each. Words stay words, whatever they begin with."""
    import xlsxwriter

    out = io.BytesIO()
    quiet = {"strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False, "in_memory": True}
    book = xlsxwriter.Workbook(out, quiet)
    # A date of its own in it would make other bytes of the same findings.
    book.set_properties({"created": now().replace(tzinfo=None)})
    head = book.add_format({"bold": True, "bottom": 1})
    for title, heads, rows in sheets:
        sheet = book.add_worksheet(title)
        sheet.freeze_panes(1, 0)
        for column, name in enumerate(heads):
            sheet.write_string(0, column, name, head)
            widest = max((len(str(row[name])) for row in rows if row[name] is not None), default=0)
            sheet.set_column(column, column, min(max(widest, len(name)) + 2, _WIDEST))
        for line, row in enumerate(rows, 1):
            for column, name in enumerate(heads):
                _put(sheet, line, column, row[name])
        if rows:
            sheet.autofilter(0, 0, len(rows), len(heads) - 1)
    book.close()
    return out.getvalue()


def _put(sheet: Any, line: int, column: int, value: Cell) -> None:
    if value is None:
        return
    if isinstance(value, bool):
        sheet.write_boolean(line, column, value)
    elif isinstance(value, int | float):
        sheet.write_number(line, column, value)
    else:
        sheet.write_string(line, column, value[:_MOST_IN_CELL])
