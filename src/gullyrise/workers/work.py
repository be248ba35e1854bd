"""The kinds of work that a process can be given; each takes plain values and gives plain values."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

import numpy as np

from gullyrise.core.checks.protocol import Outcome, Snapshot
from gullyrise.core.geometry import Mesh, Plane, Points, Transform
from gullyrise.core.job.origins import FileOrigin
from gullyrise.core.job.store import Store
from gullyrise.core.machines import Limits
from gullyrise.core.part import Part
from gullyrise.core.picking.prepared import Prepared
from gullyrise.core.placing.fixture_shapes import FixtureShape
from gullyrise.core.progress import Progress, silent
from gullyrise.core.reading import ReadOptions
from gullyrise.workers.fencing import Grants
from gullyrise.workers.fencing.task import Task

if TYPE_CHECKING:
    from gullyrise.core.checks.access_setups import Setups
    from gullyrise.core.cutting.told import Told
    from gullyrise.core.geometry.round_faces import Axis

_READY_AT_ONCE = 40_000
"""Triangles of a part up to which it is made ready for the bench where it is read, for a process less."""


class Work(Protocol):
    """Something that can be run in a worker and names what it is about, for sentences."""

    @property
    def title(self) -> str: ...

    def beforehand(self, progress: Progress) -> Work: ...

    def grants(self) -> Grants: ...

    def weight(self) -> int | None: ...

    def afterwards(self) -> None: ...

    def run(self, progress: Progress) -> Any: ...


@dataclass(frozen=True, slots=True, eq=False)
class Received:
    """A part with what is known of it.

    figures : in the shape of the `info` contract, empty where not asked for
    centre : of mass, mm
    digest : of its geometry
    ready : what Prepare gives, where that was quickly made along with it
    hull : (n, 3) corners of its convex hull, mm
    origin : its bytes, where those were to be kept
    told : of what was done to it
    unkept : why its bytes are not kept, in a sentence, or empty
    """

    part: Part
    figures: dict[str, Any]
    centre: tuple[float, float, float] | None
    digest: str
    ready: tuple[Prepared, ...] | None = None
    hull: Points | None = None
    origin: FileOrigin | FixtureShape | None = None
    told: Any = None
    unkept: str = ""

    @property
    def is_whole(self) -> bool:
        """Whether its pieces are of one part."""
        from gullyrise.core.report.intake import are_figures_of

        part = self.part
        if not part.bodies or not all(body.placements for body in part.bodies):
            return False
        if any(body.trails and len(body.trails) != body.count for body in part.bodies):
            return False
        if self.hull is not None and (self.hull.shape[1:] != (3,) or not np.isfinite(self.hull).all()):
            return False
        if self.ready is not None and len(self.ready) != len(part.bodies):
            return False
        return not self.figures or are_figures_of(self.figures, part)


def ready_to_read(path: Path) -> None:
    """Loads what reads a file. Raises ReadError for what is no ordinary file."""
    from gullyrise.core.reading.registry import checked_head, load_readers

    checked_head(path)
    load_readers({path.suffix.lower()})


def size_of(path: str) -> int | None:
    """Bytes of a file; None for one that is not there."""
    try:
        return Path(path).stat().st_size
    except (OSError, ValueError):
        return None


def reads_of(path: Path) -> Grants:
    """A part file with those of its folder that it cannot be read without."""
    from gullyrise.core.reading.belonging import belonging

    return Grants((str(path), *(str(path.parent / name) for name in belonging(path))))


def received(part: Part, largest_machine: float | None, progress: Progress) -> Received:
    """A part with its figures; without a largest machine to weigh its unit against, with none."""
    from gullyrise.core.checks.registry import part_digest
    from gullyrise.core.placing.turning import hull_points
    from gullyrise.core.report.intake import centre_of, part_figures

    if largest_machine is None:
        return Received(part, {}, None, part_digest(part))
    progress("judging health", 0, 0)
    small = sum(len(body.mesh.faces) for body in part.bodies) <= _READY_AT_ONCE
    ready = Prepare(part).run(progress) if small else None
    progress("taking its outline", 0, 0)
    hull = hull_points(np.concatenate([mesh.vertices for _, _, mesh in part.copies()]))
    return Received(part, part_figures(part, largest_machine), centre_of(part), part_digest(part), ready, hull)


@dataclass(frozen=True, slots=True)
class Read(Task):
    """Reads a file: gives what it holds as `received` does. keep : the folder of a store that keeps its bytes, or none
    origin, unkept : what came of keeping them
    """

    path: str
    options: ReadOptions
    largest_machine: float | None = None
    keep: str | None = None
    origin: FileOrigin | None = None
    unkept: str = ""

    @property
    def title(self) -> str:
        return Path(self.path).name

    def beforehand(self, progress: Progress) -> Read:
        path = Path(self.path)
        ready_to_read(path)
        if self.keep is None:
            return self
        progress("keeping its bytes", 0, 0)
        # Before they are looked into: what reads them may not write.
        origin, unkept = Store(Path(self.keep)).origin_of(path, self.options.unit)
        return replace(self, origin=origin, unkept=unkept)

    def grants(self) -> Grants:
        return reads_of(Path(self.path))

    def weight(self) -> int | None:
        return size_of(self.path)

    def run(self, progress: Progress) -> Received:
        from gullyrise.core.reading import read

        found = received(read(Path(self.path), self.options, progress), self.largest_machine, progress)
        return replace(found, origin=self.origin, unkept=self.unkept)


@dataclass(frozen=True, slots=True)
class Figures(Task):
    """Reads a file and gives only its receiving figures, so that no arrays cross."""

    path: str
    options: ReadOptions
    largest_machine: float

    @property
    def title(self) -> str:
        return Path(self.path).name

    def beforehand(self, progress: Progress) -> Figures:
        ready_to_read(Path(self.path))
        return self

    def grants(self) -> Grants:
        return reads_of(Path(self.path))

    def weight(self) -> int | None:
        return size_of(self.path)

    def run(self, progress: Progress) -> dict[str, Any]:
        from gullyrise.core.reading import read
        from gullyrise.core.report.intake import part_figures

        part = read(Path(self.path), self.options, progress)
        progress("judging health", 0, 0)
        return part_figures(part, self.largest_machine)


@dataclass(frozen=True, slots=True, eq=False)
class RunCheck(Task):
    """Runs one check: gives its outcomes. evidence : whether what they can be judged anew from comes along, which is large
    colours : whether their colours alone do
    """

    check: str
    snapshot: Snapshot
    limits: Limits
    evidence: bool = False
    colours: bool = False

    @property
    def title(self) -> str:
        return f"{self.check} of {self.snapshot.part.name}"

    def run(self, progress: Progress) -> tuple[Outcome, ...]:
        from gullyrise.core.checks.registry import run_check

        found = run_check(self.check, self.snapshot, self.limits, progress)
        if self.evidence:
            return found
        return tuple(replace(one, evidence=None, field=one.field if self.colours else None) for one in found)


@dataclass(frozen=True, slots=True, eq=False)
class FirstLook(Task):
    """What a check can show within a second: outcomes without a verdict."""

    check: str
    snapshot: Snapshot
    limits: Limits

    @property
    def title(self) -> str:
        return f"first look at {self.check} of {self.snapshot.part.name}"

    def run(self, progress: Progress) -> tuple[Outcome, ...]:
        from gullyrise.core.checks.registry import first_look

        return first_look(self.check, self.snapshot, self.limits)


@dataclass(frozen=True, slots=True, eq=False)
class FindSetups(Task):
    """The fewest set-ups that a part takes on its mill, as `fewest_setups` gives them."""

    snapshot: Snapshot
    limits: Limits

    @property
    def title(self) -> str:
        return f"set-ups of {self.snapshot.part.name}"

    def run(self, progress: Progress) -> Setups:
        from gullyrise.core.checks import access
        from gullyrise.core.checks.access_setups import fewest_setups
        from gullyrise.core.checks.protocol import limits_for
        from gullyrise.core.geometry.material import material_of_all
        from gullyrise.core.geometry.orientation import outward

        whole = material_of_all([outward(mesh) for _, mesh in self.snapshot.placed_copies()]).mesh
        tools = access.tools_for(self.snapshot.machine, limits_for(access, self.limits))  # type: ignore[arg-type]
        return fewest_setups(whole, tools, self.limits.setups or (), progress)


@dataclass(frozen=True, slots=True, eq=False)
class RunChecks(Task):
    """Runs many short checks in one process: the outcomes of each, in order."""

    checks: tuple[RunCheck, ...]

    @property
    def title(self) -> str:
        return f"{self.checks[0].check} of {len(self.checks)} parts"

    def run(self, progress: Progress) -> tuple[tuple[Outcome, ...], ...]:
        out = []
        for done, one in enumerate(self.checks):
            progress("measuring", done, len(self.checks))
            out.append(one.run(silent))
        return tuple(out)


@dataclass(frozen=True, slots=True, eq=False)
class Cut(Task):
    """The section of a part by a plane, as `section_told` gives it."""

    part: Part
    plane: Plane

    @property
    def title(self) -> str:
        return f"section of {self.part.name}"

    def run(self, progress: Progress) -> Told:
        from gullyrise.core.cutting.told import section_told

        return section_told(self.part, self.plane, progress)


@dataclass(frozen=True, slots=True, eq=False)
class Apart(Task):
    """The smallest gap between two parts."""

    a: Part
    b: Part

    @property
    def title(self) -> str:
        return f"distance of {self.a.name} and {self.b.name}"

    def run(self, progress: Progress) -> dict[str, Any]:
        from gullyrise.core.placing.apart import distance_between

        return distance_between(self.a, self.b, progress)


@dataclass(frozen=True, slots=True, eq=False)
class Prepare(Task):
    """What the bench wants of each body of a part before it can point at it: a Prepared each."""

    part: Part

    @property
    def title(self) -> str:
        return f"view of {self.part.name}"

    def run(self, progress: Progress) -> tuple[Prepared, ...]:
        from gullyrise.core.picking.prepared import prepared

        out = []
        for done, body in enumerate(self.part.bodies):
            progress("making ready", done, len(self.part.bodies))
            out.append(prepared(body.mesh, body.anatomy, body.facts))
        return tuple(out)


@dataclass(frozen=True, slots=True, eq=False)
class FindAlike(Task):
    """Which of some meshes have the shape of the first: a tuple of yes or no, the first included."""

    meshes: tuple[Mesh, ...]
    title: str = "search for like bodies"

    def run(self, progress: Progress) -> tuple[bool, ...]:
        from gullyrise.core.geometry.likeness import alike

        out = []
        for done, mesh in enumerate(self.meshes):
            progress("comparing shapes", done, len(self.meshes))
            out.append(mesh is self.meshes[0] or alike(self.meshes[0], mesh))
        return tuple(out)


@dataclass(frozen=True, slots=True, eq=False)
class FindAxis(Task):
    """The axis of the cylinder that a face of a mesh lies on, or None."""

    mesh: Mesh
    face: int
    title: str = "axis of the round face"

    def run(self, progress: Progress) -> Axis | None:
        from gullyrise.core.geometry.round_faces import axis_about

        return axis_about(self.mesh, self.face)


@dataclass(frozen=True, slots=True, eq=False)
class FindNear(Task):
    """How far each of some bodies is from the first: mm each, in the order given. bodies : (mesh, placement) each."""

    bodies: tuple[tuple[Mesh, Transform], ...]
    title: str = "distances of the neighbours"

    def run(self, progress: Progress) -> tuple[float, ...]:
        from gullyrise.core.geometry.nearest import Tree

        first = Tree(self.bodies[0][0].placed(self.bodies[0][1]))
        out = [0.0]
        for done, (mesh, place) in enumerate(self.bodies[1:], 1):
            progress("measuring gaps", done, len(self.bodies))
            out.append(first.gap_to(Tree(mesh.placed(place))).distance)
        return tuple(out)
