"""What a check is given and what it gives back.

A check module holds `ROW` (its titles and units), a frozen dataclass `Limits` whose fields are names of the common
limits, and `run(snapshot, limits, progress) -> tuple[Outcome, ...]`.
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Any, Literal, Protocol

import numpy as np

from gullyrise.core.geometry import Mesh, Points, Transform
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress

Verdict = Literal["pass", "review", "fail", "not-run"]
GRAVITY: dict[Verdict, int] = {"pass": 0, "not-run": 1, "review": 2, "fail": 3}


def gravest(verdicts: list[Verdict]) -> Verdict:
    """The verdict that decides among several; nothing judged is `not-run`."""
    return max(verdicts, key=lambda verdict: GRAVITY[verdict], default="not-run")


@dataclass(frozen=True, slots=True)
class Row:
    """Titles and units of a check.

    order : place in the Traveller;  unit : of the worst value;  limit : name of the limit that its row edits, or None
    placed : whether its outcome depends on where the part stands;  machine : whether it depends on the machine's envelope
    version : raised whenever the same input may give another outcome;  near : whether it depends on what stands near the part
    attitude : of a placed one, whether only how the part is turned matters, not where it stands
    """

    id: str
    order: int
    title: str
    measure: str
    unit: str
    limit: str | None
    placed: bool
    machine: bool
    version: int
    process: Literal["print", "mill"] | None = None
    near: bool = False
    attitude: bool = False


@dataclass(frozen=True, slots=True)
class Worst:
    """The value that decides, and where; `at` in the file's coordinates, mm."""

    value: float
    unit: str
    at: tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class Finding:
    """One place that is not as it should be; `at` in the file's coordinates, `area` mm2 where one is meant.

    seen_from : a direction from which nothing of the part stands before the place, None where none was sought
    """

    what: str
    value: float | None
    unit: str
    at: tuple[float, float, float]
    area: float | None = None
    seen_from: tuple[float, float, float] | None = None


@dataclass(frozen=True, slots=True, eq=False)
class FaceField:
    """A value on every face, for colouring: one (m,) float32 array per copy in the order of `Part.copies()`.

    limit : where the break between good and bad lies;  bad_below : on which side bad is;  NaN : not measured
    """

    title: str
    unit: str
    values: tuple[np.ndarray, ...]
    limit: float | None
    bad_below: bool


@dataclass(frozen=True, slots=True, eq=False)
class Outcome:
    """What one check says about one subject."""

    check: str
    subject: str | tuple[str, str]
    verdict: Verdict
    why: str
    worst: Worst | None
    measured: dict[str, Any]
    findings: tuple[Finding, ...]
    method: str
    uncertainty: float | None
    field: FaceField | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Neighbour:
    """A part whose box meets that of another. digest : of its geometry"""

    name: str
    part: Part
    placement: Transform
    digest: str = ""


@dataclass(frozen=True, slots=True, eq=False)
class Snapshot:
    """What a check looks at: a part, where it stands on the machine, the machine, the library, and what stands near."""

    part: Part
    placement: Transform
    machine: Machine | None
    library: tuple[Machine, ...] = ()
    neighbours: tuple[Neighbour, ...] = ()

    def placed_copies(self) -> list[tuple[str, Mesh]]:
        """(name, mesh) of every copy as it stands on the machine."""
        return [(name, mesh.placed(self.placement)) for name, _, mesh in self.part.copies()]

    def in_file(self, points: Points) -> Points:
        """Points on the machine, (n, 3) mm, as coordinates of the file."""
        inverse = np.linalg.inv(self.placement.matrix)
        return np.asarray(points @ inverse[:3, :3].T + inverse[:3, 3])


class Check(Protocol):
    """The shape of a check module."""

    ROW: Row
    Limits: type

    def run(self, snapshot: Snapshot, limits: Any, progress: Progress) -> tuple[Outcome, ...]: ...


def spot(point: np.ndarray) -> tuple[float, float, float]:
    """A place as plain numbers."""
    return (float(point[0]), float(point[1]), float(point[2]))


def limits_for(check: Check, given: Limits) -> Any:
    """The check's own frozen limits out of all."""
    return check.Limits(**{field.name: getattr(given, field.name) for field in fields(check.Limits)})


def number(value: float) -> str:
    """A number for a sentence: three digits after the point at most."""
    return f"{value:.3f}".rstrip("0").rstrip(".") if abs(value) < 1e5 else f"{value:.4g}"
