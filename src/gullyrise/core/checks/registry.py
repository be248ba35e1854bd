"""All checks, found by walking this package and the entry points; which of them apply; running one."""

from __future__ import annotations

import hashlib
import importlib
import pkgutil
from functools import cache
from importlib.metadata import entry_points
from typing import cast

import numpy as np

import gullyrise.core.checks as package
from gullyrise.core.checks.protocol import Check, Neighbour, Outcome, Row, Snapshot, limits_for
from gullyrise.core.checks.sight import with_sight
from gullyrise.core.errors import LimitsError
from gullyrise.core.geometry import Transform
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.machines.limit_rows import CHECKS
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress, silent


@cache
def checks() -> dict[str, Check]:
    """Every check by id, in the Traveller's order. Raises RuntimeError for two with one id."""
    found: list[Check] = []
    for module in pkgutil.iter_modules(package.__path__):
        loaded = importlib.import_module(f"{package.__name__}.{module.name}")
        if hasattr(loaded, "ROW"):
            found.append(cast(Check, loaded))
    found += [cast(Check, point.load()) for point in entry_points(group=CHECKS)]
    by_id = {check.ROW.id: check for check in sorted(found, key=lambda check: check.ROW.order)}
    if len(by_id) != len(found):
        raise RuntimeError("two checks have one id")
    return by_id


def chosen(only: str | None, machine: Machine | None) -> list[str]:
    """Ids of the checks to run: those named in `only` (comma separated), else all that apply to the machine.

    Raises LimitsError for a name that is no check.
    """
    if only is not None:
        names = [word.strip() for word in only.split(",") if word.strip()]
        for name in names:
            if name not in checks():
                raise LimitsError(f"'{name}' is not a check; choose from {', '.join(checks())}.")
        if not names:
            raise LimitsError(f"No check is named; choose from {', '.join(checks())}.")
        return [name for name in checks() if name in names]
    return [name for name, check in checks().items() if applies(check, machine)]


def applies(check: Check, machine: Machine | None) -> bool:
    """Whether a check has anything to say of parts on this machine."""
    row = check.ROW
    if row.process is not None:
        return machine is not None and machine.process == row.process
    return machine is not None or not row.machine


def run_check(name: str, snapshot: Snapshot, limits: Limits, progress: Progress = silent) -> tuple[Outcome, ...]:
    """The outcomes of one check on one snapshot."""
    check = checks()[name]
    return with_sight(check.run(snapshot, limits_for(check, limits), progress), snapshot)


def judged_anew(name: str, outcomes: tuple[Outcome, ...], limits: Limits) -> tuple[Outcome, ...] | None:
    """The outcomes under other limits, from the evidence that came with them; None where the check cannot."""
    check = checks()[name]
    again = getattr(check, "judged_anew", None)
    return None if again is None else again(outcomes, limits_for(check, limits))


def first_look(name: str, snapshot: Snapshot, limits: Limits) -> tuple[Outcome, ...]:
    """What can be shown within a second while the check runs. Raises AttributeError where `has_first_look` is not so."""
    check = checks()[name]
    found: tuple[Outcome, ...] = check.first_look(snapshot, limits_for(check, limits))  # type: ignore[attr-defined]
    return found


def has_first_look(name: str) -> bool:
    """Whether a check can colour a part before it is done."""
    return hasattr(checks()[name], "first_look")


def part_digest(part: Part) -> str:
    """The digest of a part's geometry and names, what its outcomes depend on."""
    digest = hashlib.blake2b(digest_size=16)
    for body in part.bodies:
        digest.update(f"{body.name}|{body.kind}|{body.volume}|{body.chord_error}".encode())
        digest.update(np.ascontiguousarray(body.mesh.vertices).data)
        digest.update(np.ascontiguousarray(body.mesh.faces).data)
        for place in body.placements:
            digest.update(place.matrix.tobytes())
    return digest.hexdigest()


def outcome_digest(name: str, geometry: str, snapshot: Snapshot, limits: Limits) -> str:
    """The digest of exactly what an outcome depends on."""
    base = base_digest(name, snapshot.machine, snapshot.library, limits)
    return placed_digest(base, checks()[name].ROW, geometry, snapshot.placement, snapshot.neighbours)


def base_digest(name: str, machine: Machine | None, library: tuple[Machine, ...], limits: Limits) -> str:
    """Of what is the same for all parts: the check, its limits, and the machines where it asks of them."""
    check = checks()[name]
    words = [name, str(check.ROW.version), repr(limits_for(check, limits))]
    if check.ROW.machine and machine is not None:
        words += [machine.digest, *(other.digest for other in library)]
    return "|".join(words)


def placed_digest(base: str, row: Row, geometry: str, placement: Transform, neighbours: tuple[Neighbour, ...]) -> str:
    """Of that, and of what is a part's own: its shape, how it is turned or where it stands, and what is near."""
    digest = hashlib.blake2b(f"{base}|{geometry}".encode(), digest_size=16)
    if row.placed:
        digest.update((placement.matrix[:3, :3].copy() if row.attitude else placement.matrix).data)
    if row.near:
        for neighbour in neighbours:
            digest.update(f"|{neighbour.name}|{neighbour.digest}".encode())
            digest.update(neighbour.placement.matrix.data)
    return digest.hexdigest()
