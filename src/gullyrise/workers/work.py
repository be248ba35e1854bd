"""The kinds of work that a process can be given; each takes plain values and gives plain values."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

from gullyrise.core.checks.protocol import Snapshot
from gullyrise.core.geometry import Mesh, Plane, Transform
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
    """Reads a file: gives (Part, receiving figures or None without `largest_machine`, digest of the part)."""

    path: str
    options: ReadOptions
    largest_machine: float | None = None

    @property
    def title(self) -> str:
        return Path(self.path).name

    def run(self, progress: Progress) -> Any:
        from gullyrise.core.checks.registry import part_digest
        from gullyrise.core.reading import read
        from gullyrise.core.report.intake import part_figures

        part = read(Path(self.path), self.options, progress)
        progress("judging health", 0, 0)
        figures = None if self.largest_machine is None else part_figures(part, self.largest_machine)
        return part, figures, part_digest(part)


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
class CutPlaced:
    """The section of parts as they stand on the machine: (part, placement) each."""

    stands: tuple[tuple[Part, Transform], ...]
    plane: Plane
    title: str = "section"

    def run(self, progress: Progress) -> Any:
        from gullyrise.core.cutting import cut

        return cut(_standing(self.stands), self.plane)


@dataclass(frozen=True, slots=True, eq=False)
class AreaAlong:
    """The cut area along an axis of parts as they stand on the machine."""

    stands: tuple[tuple[Part, Transform], ...]
    axis: int
    title: str = "area along the axis"

    def run(self, progress: Progress) -> Any:
        from gullyrise.core.cutting.along import area_along

        return area_along(_standing(self.stands), self.axis)


def _standing(stands: tuple[tuple[Part, Transform], ...]) -> list[Mesh]:
    return [mesh.placed(place) for part, place in stands for _, _, mesh in part.copies()]


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
