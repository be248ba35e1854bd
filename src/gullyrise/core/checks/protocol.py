"""What a check is given and what it gives back.

A check module holds `ROW` (its titles and units), a frozen dataclass `Limits` whose fields are names of the common
limits, and `run(snapshot, limits, progress) -> tuple[Outcome, ...]`. It may hold two things more:
`judged_anew(outcomes, limits) -> tuple[Outcome, ...] | None`, the verdict under other limits out of what was measured (None where
that does not reach), which must be quick; and `first_look(snapshot, limits) -> tuple[Outcome, ...]`, colours within a second.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, fields, replace
from typing import Any, Literal, Protocol

import numpy as np

from gullyrise.core.checks.tally import Tally
from gullyrise.core.geometry import Mesh, Points, Transform
from gullyrise.core.geometry.spots import Spot, spot
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.machines.limit_rows import LimitRow
from gullyrise.core.machines.machine import Process
from gullyrise.core.number_words import number
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress

Verdict = Literal["pass", "review", "fail", "not-run"]
GRAVITY: dict[Verdict, int] = {"pass": 0, "not-run": 1, "review": 2, "fail": 3}


Shown = Literal["outside", "across", "below", "tool", "corner", "side", "clear"]
"""How a finding is shown: from where nothing hides it; on a cut that holds both ends of what was measured; from below; on a cut
along the tool; along a corner; in the flat view in which it sticks out; with the body let see through."""


def gravest(verdicts: list[Verdict]) -> Verdict:
    """The verdict that decides among several; nothing judged is `not-run`."""
    return max(verdicts, key=lambda verdict: GRAVITY[verdict], default="not-run")


@dataclass(frozen=True, slots=True)
class Deed:
    """Something to be asked of a check, done by an action of the window.

    words : of its button
    action : its id
    when : says by what a failed outcome measured whether it is offered; None for always
    """

    words: str
    action: str
    tip: str
    when: Callable[[dict[str, Any]], bool] | None = None


@dataclass(frozen=True, slots=True)
class Row:
    """Titles and units of a check.

    order : place in the Traveller
    unit : of the worst value
    limits : those that can be set of it; the first one is that of the row itself where `judged_by` names it, others are options
    judged_by : name of the limit that the worst value is held against, or none
    small_is_bad : on which side of it bad is
    placed : whether its outcome depends on where the part stands
    machine : whether it depends on the machine's envelope
    version : raised whenever the same input may give another outcome
    near : whether it depends on what stands near the part
    attitude : of a placed one, whether only how the part is turned matters, not where it stands
    between : whether it also judges what lies between parts
    balls : whether its evidence holds measured balls, the thinnest first
    angle : whether its limit is an angle from the vertical, which colours can follow as a part is turned
    room : whether it judges if parts stand in the machine's room
    second_key : of the two-stroke that shows it, in the family of checks
    deeds : what else can be asked of it
    tell_worst : the worst value in words, where it is more than a number with its unit
    kinds : (code of a finding, what such findings are called together), for those that are called otherwise than the check
    """

    id: str
    order: int
    title: str
    measure: str
    unit: str
    placed: bool
    machine: bool
    version: int
    limits: tuple[LimitRow, ...] = ()
    judged_by: str = ""
    small_is_bad: bool = True
    process: Process | None = None
    near: bool = False
    attitude: bool = False
    between: bool = False
    balls: bool = False
    angle: bool = False
    room: bool = False
    second_key: str = ""
    deeds: tuple[Deed, ...] = ()
    tell_worst: Callable[[float], str] | None = None
    kinds: tuple[tuple[str, str], ...] = ()

    def kind(self, code: str) -> str:
        """What findings of a code are called together."""
        return dict(self.kinds).get(code, self.title)

    @property
    def own_limit(self) -> LimitRow | None:
        """That which the row itself edits."""
        return next((limit for limit in self.limits if limit.name == self.judged_by), None)

    @property
    def options(self) -> tuple[LimitRow, ...]:
        """The other limits."""
        return tuple(limit for limit in self.limits if limit.name != self.judged_by)


@dataclass(frozen=True, slots=True)
class Worst:
    """The value that decides, and where; `at` in the file's coordinates, mm."""

    value: float
    unit: str
    at: tuple[float, float, float]


@dataclass(frozen=True, slots=True, eq=False)
class Finding:
    """One place that is not as it should be; `at` in the file's coordinates, `area` mm2 where one is meant.

    code : of its kind, which stays though the words are changed
    of : names of the bodies or things that it is about
    tells : whether its value says more than its kind does
    counts : whether its value is how many, which is whole and has no digits after the point
    seen_from : a direction from which nothing of the part stands before the place, None where none was sought
    past : how far beyond its limit, as a share of it, 1 for as bad as can be; what findings of all checks are sorted by
    collides : whether two bodies run into each other there
    remedy : what to try, a clause
    lines : (k, 2, 3) mm what to draw of it in the file's coordinates
    solid : the same as a body
    own : whether these are of the part alone, and go where it goes
    shown : how a picture shows it
    ends : both ends of what was measured, none where it is one place
    ball : (its middle, its radius mm) of one measured there
    along : of a tool, the direction from which it comes; of what sticks out, that in which it does
    around : (k, 3) mm outermost places of the region that it is about
    """

    what: str
    value: float | None
    unit: str
    at: Spot
    area: float | None = None
    seen_from: Spot | None = None
    past: float = 0.0
    remedy: str = ""
    lines: np.ndarray | None = None
    solid: Mesh | None = None
    collides: bool = False
    code: str = field(kw_only=True)
    of: tuple[str, ...] = field(default=(), kw_only=True)
    tells: bool = field(default=True, kw_only=True)
    counts: bool = field(default=False, kw_only=True)
    own: bool = field(default=False, kw_only=True)
    shown: Shown = field(default="outside", kw_only=True)
    ends: tuple[Spot, Spot] | None = field(default=None, kw_only=True)
    ball: tuple[Spot, float] | None = field(default=None, kw_only=True)
    along: Spot | None = field(default=None, kw_only=True)
    around: np.ndarray | None = field(default=None, kw_only=True)

    def placed(self, by: Transform) -> Finding:
        """The same with all of its places moved, rigidly or by a scale."""

        def at(place: Spot) -> Spot:
            return spot(by.apply(np.array(place)[None])[0])

        def way(along: Spot | None) -> Spot | None:
            if along is None:
                return None
            turned = by.matrix[:3, :3] @ np.array(along)
            return spot(turned / max(float(np.linalg.norm(turned)), 1e-300))

        scale = float(abs(np.linalg.det(by.matrix[:3, :3]))) ** (1 / 3)
        return replace(
            self,
            at=at(self.at),
            seen_from=way(self.seen_from),
            along=way(self.along),
            lines=None if self.lines is None else by.apply(self.lines.reshape(-1, 3)).reshape(-1, 2, 3),
            solid=None if self.solid is None else self.solid.placed(by),
            ends=None if self.ends is None else (at(self.ends[0]), at(self.ends[1])),
            ball=None if self.ball is None else (at(self.ball[0]), self.ball[1] * scale),
            around=None if self.around is None else by.apply(self.around),
        )

    def names(self, part: str) -> bool:
        """Whether its words name a part already, or a copy of it."""
        return any(part in one for one in self.of)

    @property
    def figure(self) -> str:
        """Its value with the unit, in short; empty where it has none that tells anything."""
        if self.value is None or not self.tells:
            return ""
        said = f"{self.value:,.0f}" if self.counts else number(self.value)
        return f"{said} {self.unit}".strip().replace(" °", "°")

    @property
    def cost(self) -> tuple[float, float, float]:
        """What findings of all checks are sorted by, the worst first: what runs into something, then how far past the limit, then
        how much of it, mm2 or mm3."""
        much = self.area if self.area is not None else (self.value or 0.0) if self.collides else 0.0
        return (-float(self.collides), -self.past, -much)


@dataclass(frozen=True, slots=True, eq=False)
class FaceField:
    """A value on every face, for colouring: one (m,) float32 array per copy in the order of `Part.copies()`.

    limit : where the break between good and bad lies
    bad_below : on which side bad is
    NaN : not measured
    tally : how much surface has which value, None where nobody counted
    """

    title: str
    unit: str
    values: tuple[np.ndarray, ...]
    limit: float | None
    bad_below: bool
    tally: Tally | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Outcome:
    """What one check says about one subject.

    sampling : how closely was looked, a sentence
    evidence : what the verdict can be given from once more under other limits
    first_look : of a quick overview, while the check itself still runs
    nothing : there was nothing to judge: it holds nothing up, and is no pass that anybody could rely on
    headline : what stands in front where `worst` is not what the verdict was given for, a clause
    """

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
    sampling: str = ""
    evidence: Any = None
    first_look: bool = False
    nothing: bool = False
    headline: str = ""


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

    def run(self, snapshot: Snapshot, limits: Any, progress: Progress) -> tuple[Outcome, ...]:
        """The outcomes for one part, one or more. Raises GullyriseError where it cannot be judged."""


def share_under(value: float, limit: float) -> float:
    """How far a value lies under its limit, as a share of it: 0 at the limit, 1 at nothing."""
    return float(min(max((limit - value) / limit, 0.0), 1.0)) if limit > 0 else 0.0


def share_over(value: float, limit: float, most: float) -> float:
    """How far a value lies over its limit, as a share of the way to the most that it can be."""
    return float(min(max((value - limit) / max(most - limit, 1e-12), 0.0), 1.0))


def limits_for(check: Check, given: Limits) -> Any:
    """The check's own frozen limits out of all."""
    return check.Limits(**{field.name: given.value(field.name) for field in fields(check.Limits)})
