"""The kinds of work that a process can be given; each takes plain values and gives plain values."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

from gullyrise.core.checks.protocol import Snapshot
from gullyrise.core.geometry import Plane
from gullyrise.core.machines import Limits
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading import ReadOptions


class Work(Protocol):
    """Something that can be run in a worker and names what it is about, for sentences."""

    @property
    def title(self) -> str: ...

    def run(self, progress: Progress) -> Any: ...


@dataclass(frozen=True, slots=True)
class Read:
    """Reads a file to a Part; with `largest_machine`, also its receiving figures: (Part, figures or None)."""

    path: str
    options: ReadOptions
    largest_machine: float | None = None

    @property
    def title(self) -> str:
        return Path(self.path).name

    def run(self, progress: Progress) -> Any:
        from gullyrise.core.reading import read
        from gullyrise.core.report.intake import part_figures

        part = read(Path(self.path), self.options, progress)
        if self.largest_machine is None:
            return part, None
        progress("judging health", 0, 0)
        return part, part_figures(part, self.largest_machine)


@dataclass(frozen=True, slots=True)
class Figures:
    """Reads a file and gives only its receiving figures, so that no arrays cross."""

    path: str
    options: ReadOptions
    largest_machine: float

    @property
    def title(self) -> str:
        return Path(self.path).name

    def run(self, progress: Progress) -> Any:
        return Read(self.path, self.options, self.largest_machine).run(progress)[1]


@dataclass(frozen=True, slots=True, eq=False)
class RunCheck:
    """Runs one check: gives its outcomes."""

    check: str
    snapshot: Snapshot
    limits: Limits

    @property
    def title(self) -> str:
        return f"{self.check} of {self.snapshot.part.name}"

    def run(self, progress: Progress) -> Any:
        from gullyrise.core.checks.registry import run_check

        return run_check(self.check, self.snapshot, self.limits, progress)


@dataclass(frozen=True, slots=True, eq=False)
class Cut:
    """The section of copies by a plane."""

    part: Part
    plane: Plane

    @property
    def title(self) -> str:
        return f"section of {self.part.name}"

    def run(self, progress: Progress) -> Any:
        from gullyrise.core.cutting import cut

        return cut([mesh for _, _, mesh in self.part.copies()], self.plane)


@dataclass(frozen=True, slots=True, eq=False)
class Apart:
    """The smallest gap between two parts."""

    a: Part
    b: Part

    @property
    def title(self) -> str:
        return f"distance of {self.a.name} and {self.b.name}"

    def run(self, progress: Progress) -> Any:
        from gullyrise.core.placing.apart import distance_between

        return distance_between(self.a, self.b, progress)
