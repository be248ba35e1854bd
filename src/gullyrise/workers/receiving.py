"""Work on parts that have been received: their unit, mends, meshes, shapes, and writing them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.workers.work import received


@dataclass(frozen=True, slots=True)
class ListFolders:
    """The part files that each of some paths stands for: itself, or those in it where it is a folder."""

    paths: tuple[str, ...]
    title: str = "folders"

    def run(self, progress: Progress) -> Any:
        from gullyrise.core.reading.folders import files_below

        progress("looking for part files", 0, 0)
        return [files_below(Path(path)) if Path(path).is_dir() else [path] for path in self.paths]


@dataclass(frozen=True, slots=True, eq=False)
class Rescale:
    """A part read in another unit: as Read gives it."""

    part: Part
    unit: str
    largest_machine: float

    @property
    def title(self) -> str:
        return f"unit of {self.part.name}"

    def run(self, progress: Progress) -> Any:
        from gullyrise.core.intake.rescaling import rescaled

        progress("scaling", 0, 0)
        return received(rescaled(self.part, self.unit), self.largest_machine, progress)


@dataclass(frozen=True, slots=True, eq=False)
class PreviewMends:
    """What each mend would change: {id of the mend: (Change of each body that it would change, with its number)}."""

    part: Part

    @property
    def title(self) -> str:
        return f"mends of {self.part.name}"

    def run(self, progress: Progress) -> Any:
        from gullyrise.core.intake.health import health_of
        from gullyrise.core.intake.mends import MENDS, changed

        bodies = [(number, body.mesh) for number, body in enumerate(self.part.bodies) if body.kind == "mesh"]
        before = [health_of(mesh) for _, mesh in bodies]
        out: dict[str, list[tuple[int, Any]]] = {}
        for done, mend in enumerate(MENDS):
            progress("trying mends", done, len(MENDS))
            for (number, mesh), health in zip(bodies, before, strict=True):
                _, change = changed(mend, mesh, health)
                if change.count:
                    out.setdefault(mend.id, []).append((number, change))
        return out


@dataclass(frozen=True, slots=True, eq=False)
class MendPart:
    """A part with some mends done, one after another: (as Read gives it, [(number of the body, Change)])."""

    part: Part
    mends: tuple[str, ...]
    largest_machine: float

    @property
    def title(self) -> str:
        return f"mending {self.part.name}"

    def run(self, progress: Progress) -> Any:
        from gullyrise.core.intake.mends import BY_ID, changed

        bodies, changes = list(self.part.bodies), []
        for name in self.mends:
            for number, body in enumerate(bodies):
                progress("mending", number, len(bodies))
                if body.kind == "mesh":
                    mesh, change = changed(BY_ID[name], body.mesh)
                    if change.count:
                        bodies[number] = replace(body, mesh=mesh)
                        changes.append((number, change))
        left = tuple(body for body in bodies if len(body.mesh.faces))
        return received(replace(self.part, bodies=left), self.largest_machine, progress), changes


@dataclass(frozen=True, slots=True, eq=False)
class Refine:
    """A part's solids meshed anew within another chord error, mm: as Read gives it."""

    part: Part
    chord: float
    largest_machine: float

    @property
    def title(self) -> str:
        return f"finer mesh of {self.part.name}"

    def run(self, progress: Progress) -> Any:
        from gullyrise.core.solids.harvest import refined

        return received(refined(self.part, self.chord, progress), self.largest_machine, progress)


@dataclass(frozen=True, slots=True, eq=False)
class GroupShapes:
    """Which meshes have one shape: the number of the shape of each, in order of appearance."""

    meshes: tuple[Mesh, ...]
    title: str = "shapes of the parts list"

    def run(self, progress: Progress) -> Any:
        from gullyrise.core.geometry.likeness import alike, moments

        signs = [(mesh.area, *moments(mesh)[1]) if len(mesh.faces) else (0.0,) * 4 for mesh in self.meshes]
        firsts: list[int] = []
        out: list[int] = []
        for number, mesh in enumerate(self.meshes):
            progress("comparing shapes", number, len(self.meshes))
            near = (place for place, first in enumerate(firsts) if _near(signs[first], signs[number]))
            found = next((place for place in near if alike(self.meshes[firsts[place]], mesh)), None)
            if found is None:
                found = len(firsts)
                firsts.append(number)
            out.append(found)
        return tuple(out)


def _near(a: tuple[float, ...], b: tuple[float, ...]) -> bool:
    """Whether two bodies agree within a hundredth in area and second moments, without which they cannot be alike."""
    return all(abs(one - other) <= 0.01 * max(abs(one), abs(other), max(a[1:])) for one, other in zip(a, b, strict=True))


@dataclass(frozen=True, slots=True, eq=False)
class WriteParts:
    """Parts as they stand on the machine into one file: sentences on what its format cannot hold."""

    stands: tuple[tuple[Part, Transform], ...]
    path: str

    @property
    def title(self) -> str:
        return Path(self.path).name

    def run(self, progress: Progress) -> Any:
        from gullyrise.core.writing import write
        from gullyrise.core.writing.placed import together

        progress("writing", 0, 0)
        return write(together(self.stands, Path(self.path).stem), Path(self.path))
