"""The JSON that other programs rely on. A change of shape raises the schema number."""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from typing import Any

from gullyrise.core.checks.protocol import Outcome
from gullyrise.core.cutting.told import Told
from gullyrise.core.machines import Limits, Machine

Errors = list[dict[str, str]]


def as_json(value: Any) -> str:
    """Strict JSON in plain ascii, which no terminal or locale can spoil: numbers that are none become null."""
    return json.dumps(_clean(value), indent=1, allow_nan=False)


def _clean(value: Any) -> Any:
    if isinstance(value, dict):
        return {str(key): _clean(item) for key, item in value.items()}
    if isinstance(value, (list, tuple)):
        return [_clean(item) for item in value]
    if isinstance(value, float):
        return value if math.isfinite(value) else None
    return value


def info_document(parts: list[dict[str, Any]], errors: Errors) -> dict[str, Any]:
    """What `info` writes as JSON."""
    return {"schema": "gullyrise.info/1", "parts": parts, "errors": errors}


def outcome_form(outcome: Outcome, pictures: Sequence[dict[str, Any] | None] = ()) -> dict[str, Any]:
    """One outcome as JSON has it. pictures : of its findings, or none where none were asked for"""
    worst = outcome.worst
    return {
        "check": outcome.check,
        "subject": list(outcome.subject) if isinstance(outcome.subject, tuple) else outcome.subject,
        "verdict": outcome.verdict,
        "why": outcome.why,
        "worst": None if worst is None else {"value": worst.value, "unit": worst.unit, "at": list(worst.at)},
        "measured": outcome.measured,
        "findings": [
            {"what": f.what, "value": f.value, "unit": f.unit, "at": list(f.at), "area": f.area}
            | ({"picture": pictures[number]} if pictures else {})
            for number, f in enumerate(outcome.findings)
        ],
        "method": f"{outcome.method} {outcome.sampling}".strip(),
        "uncertainty": outcome.uncertainty,
    }


def check_document(
    machine: Machine | None,
    limits: Limits,
    parts: list[dict[str, Any]],
    outcomes: list[Outcome],
    errors: Errors,
    pictures: Sequence[Sequence[dict[str, Any] | None]] = (),
) -> dict[str, Any]:
    """What `check` writes as JSON. pictures : of the findings of each outcome, or none where none were asked for"""
    return {
        "schema": "gullyrise.check/1",
        "machine": None if machine is None else machine_form(machine),
        "limits": limits_form(limits),
        "parts": parts,
        "checks": [outcome_form(outcome, pictures[number] if pictures else ()) for number, outcome in enumerate(outcomes)],
        "errors": errors,
    }


def machine_form(machine: Machine) -> dict[str, Any]:
    """A machine as its file would say it, and every limit settled."""
    form = machine.model_dump(mode="json", exclude_none=True)
    form["limits"] = limits_form(machine.full_limits())
    return form


def limits_form(limits: Limits) -> dict[str, Any]:
    """Every limit; wishes of single pairs only where there are any."""
    form = limits.model_dump(mode="json")
    if form["pair_gaps"] is None:
        del form["pair_gaps"]
    return form


def machines_document(machines: list[Machine]) -> dict[str, Any]:
    """What `machines` writes as JSON."""
    return {"schema": "gullyrise.machines/1", "machines": [machine_form(machine) for machine in machines]}


def section_document(told: Told) -> dict[str, Any]:
    """What `section` writes as JSON."""
    section = told.section
    plane = section.plane
    return {
        "schema": "gullyrise.section/1",
        "plane": {"point": plane.point.tolist(), "normal": plane.normal.tolist()},
        "area": section.area,
        "perimeter": section.perimeter,
        "centroid": None if section.centroid is None else section.centroid.tolist(),
        "loops": [{"closed": loop.closed, "area": loop.area, "points": loop.points.tolist()} for loop in section.loops],
        "open_length": section.open_length,
        "uncertainty": {"area": told.area_off, "perimeter": told.perimeter_off},
        "method": told.method,
        "sides": None if told.sides is None else {"behind": told.sides[0], "before": told.sides[1]},
    }


def distance_document(found: dict[str, Any]) -> dict[str, Any]:
    """What `distance` writes as JSON."""
    return {"schema": "gullyrise.distance/1", **found}
