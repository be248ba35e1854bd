"""One made part and what is true of it; what a check made of it."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
from manifold3d import Manifold

import zoo
from gullyrise.core.checks.protocol import Outcome
from gullyrise.core.checks.registry import run_check
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.joining import joined
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.machines.library import default_machine, machine_named
from gullyrise.core.part import Body, Part

Random = np.random.Generator
What = Literal["sound", "false pass", "false alarm"]


@dataclass(frozen=True)
class Case:
    """check : its id;  bodies : meshes, or bodies made of solids;  value : the true one;  limit : the name of the limit
    least : whether the limit is a least value;  upright : it may only be turned round the vertical;  stays : not scaled
    asked : other limits;  doubt : how far from the limit the truth has
    to be, where the outcome does not state it in that unit; below 0 it may never pass
    reading : whether the worst value is the one that is true;  limit_at : the limit, where it is not drawn near the truth
    """

    check: str
    bodies: tuple[Manifold | Mesh | Body, ...]
    value: float
    limit: str
    least: bool = True
    upright: bool = False
    stays: bool = False
    asked: dict[str, object] = field(default_factory=dict)
    doubt: float = 0.0
    reading: bool = True
    limit_at: float | None = None


@dataclass(frozen=True)
class Judged:
    case: Case
    limit: float
    outcome: Outcome
    scale: float

    @property
    def value(self) -> float:
        return self.case.value * (self.scale if self._is_length else 1.0)

    @property
    def _is_length(self) -> bool:
        return self.case.check in ("walls", "clearances")

    @property
    def what(self) -> What:
        """A pass though the limit is broken by more than the stated uncertainty, or no pass though it is kept by more."""
        found = self.outcome
        doubt = max(
            self.case.doubt * (self.scale if self._is_length else 1.0), found.uncertainty or 0.0 if self._is_length else 0.0
        )
        inside = self.value - self.limit if self.case.least else self.limit - self.value
        if self.case.doubt < 0:
            # An overlap: no uncertainty of a distance excuses a pass.
            return "false pass" if found.verdict == "pass" else "sound"
        if found.verdict == "pass" and inside < -doubt:
            return "false pass"
        return "false alarm" if found.verdict != "pass" and inside > doubt else "sound"

    @property
    def covered(self) -> bool | None:
        """Whether the truth lies within the stated uncertainty of the reading; None where nothing was read."""
        found = self.outcome
        if not self.case.reading or found.worst is None or found.worst.value is None or found.uncertainty is None:
            return None
        return abs(found.worst.value - self.value) <= found.uncertainty + 1e-9 * max(self.value, 1.0)

    @property
    def width(self) -> float | None:
        if self.covered is None or self.value <= 0:
            return None
        return (self.outcome.uncertainty or 0.0) / self.value

    def words(self) -> str:
        found = self.outcome
        worst = None if found.worst is None else found.worst.value
        return (
            f"true {self.value:.6g} at a limit of {self.limit:.6g} (scale {self.scale:.3g}): {found.verdict}, read {worst} "
            f"± {found.uncertainty}; {found.why}"
        )


@dataclass(frozen=True, slots=True)
class Posed:
    """A case as it is given to the check.

    limits : asked for, among them the one that the case is about;  scale : against its own size
    """

    part: Part
    machine: Machine
    limits: dict[str, object]
    limit: float
    scale: float


def posed(case: Case, rng: Random, sizes: tuple[float, float] = (-2.6, 2.1), shares: tuple[float, float] = (0.6, 1.5)) -> Posed:
    """A case at a random pose, size and precision.

    sizes : powers of ten between which it is made larger;  shares : of its true value between which the limit lies
    """
    scale = 1.0 if case.stays else float(10 ** rng.uniform(*sizes))
    length = case.check in ("walls", "clearances")
    value = case.value * (scale if length else 1.0)
    limit = value * float(rng.uniform(*shares)) if case.limit_at is None else case.limit_at * (scale if length else 1.0)
    limit = min(limit, 88.0 if case.check == "overhangs" else 1000.0)
    axis = np.array([0.0, 0.0, 1.0]) if case.upright else rng.normal(size=3)
    turn = Transform.turned(axis, float(rng.uniform(0, 360))).then(Transform.moved(rng.uniform(-100, 100, 3) * scale))
    single = rng.random() < 0.5
    bodies = []
    for number, one in enumerate(case.bodies):
        if isinstance(one, Body):
            bodies.append(replace(one, name=f"body {number + 1}", placements=(turn,), exact_boxes=None))
            continue
        mesh = zoo.mesh_of(one) if isinstance(one, Manifold) else one
        mesh = mesh.placed(Transform.scaled(scale)).placed(turn)
        vertices = mesh.vertices.astype(np.float32) if single else mesh.vertices
        mesh = joined(vertices, mesh.faces)
        bodies.append(Body(f"body {number + 1}", "mesh", mesh, (Transform.identity(),)))
    part = Part("part", "part.stl", "stl", "mm", "assumed", tuple(bodies))
    machine = machine_named("alder-mill") if case.check == "access" else default_machine()
    return Posed(part, machine, {case.limit: limit, **case.asked}, limit, scale)


def judge(case: Case, rng: Random) -> Judged:
    """A case at a random pose, size and precision, under a limit on either side of the truth."""
    made = posed(case, rng)
    given = made.limits if case.check != "walls" else {"min_gap": 0.0, **made.limits}
    found = run_check(case.check, zoo.snapshot(made.part, made.machine), made.machine.full_limits(Limits(**given)))
    return Judged(case, made.limit, min(found, key=_gravest), made.scale)


def _gravest(outcome: Outcome) -> tuple[int, float]:
    """Of several outcomes the one that decides."""
    worst = outcome.worst.value if outcome.worst is not None and outcome.worst.value is not None else np.inf
    return ("fail", "review", "not-run", "pass").index(outcome.verdict), worst
