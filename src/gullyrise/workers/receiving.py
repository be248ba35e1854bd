"""Work on parts that have been received: their unit, repairs, meshes, shapes, and writing them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from gullyrise.core.cutting.pegs import PegWish
from gullyrise.core.cutting.splitting import Side
from gullyrise.core.geometry import Mesh, Plane, Transform
from gullyrise.core.geometry.pegs import Pegs
from gullyrise.core.geometry.spots import spot
from gullyrise.core.intake.repairs import Change as Repaired
from gullyrise.core.job.origins import Change, Split
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.workers.fencing import Grants
from gullyrise.workers.fencing.task import Task
from gullyrise.workers.work import Received, received

_WORDS = {"unit": "unit", "mends": "mends", "finer": "finer mesh", "stretch": "size", "split": "half"}


@dataclass(frozen=True, slots=True)
class ListFolders(Task):
    """The part files that each of some paths stands for: itself, or those in it where it is a folder."""

    paths: tuple[str, ...]
    title: str = "folders"

    def grants(self) -> Grants:
        return Grants(self.paths)

    def run(self, progress: Progress) -> list[list[str]]:
        from gullyrise.core.reading.folders import files_below

        progress("looking for part files", 0, 0)
        return [files_below(Path(path)) if Path(path).is_dir() else [path] for path in self.paths]


@dataclass(frozen=True, slots=True, eq=False)
class Reshape(Task):
    """A part after one more step, such as another unit, repairs, a finer mesh or a stretch: as Read gives it."""

    part: Part
    step: Change
    largest_machine: float

    @property
    def title(self) -> str:
        return f"{_WORDS[self.step.kind]} of {self.part.name}"

    def run(self, progress: Progress) -> Received:
        from gullyrise.core.job.steps import done

        part, told = done(self.part, self.step, progress)
        return replace(received(part, self.largest_machine, progress), told=told)


@dataclass(frozen=True, slots=True, eq=False)
class SplitPart(Task):
    """Both halves of a part, the front first: (step, what Read gives) each. wish : for pegs, or none"""

    part: Part
    plane: Plane
    wish: PegWish | None
    largest_machine: float

    @property
    def title(self) -> str:
        return f"halves of {self.part.name}"

    def run(self, progress: Progress) -> tuple[tuple[Split, Received], ...]:
        from gullyrise.core.cutting.splitting import half_of, pegs_for

        progress("placing pegs", 0, 0)
        pegs = pegs_for(self.part, self.plane, self.wish) if self.wish is not None else None
        point, normal = spot(self.plane.point), spot(self.plane.normal)
        out: list[tuple[Split, Received]] = []
        sides: tuple[Side, Side] = ("front", "back")
        for side in sides:
            progress(f"cutting off the {side}", len(out), 2)
            half = half_of(self.part, self.plane, side, pegs)
            step = Split(point=point, normal=normal, side=side, pegs=pegs)
            out.append((step, received(half, self.largest_machine, progress)))
        return tuple(out)


@dataclass(frozen=True, slots=True, eq=False)
class PlacePegs(Task):
    """Where the pegs of a split would stand: Pegs. Raises SplitError where they have no room."""

    part: Part
    plane: Plane
    wish: PegWish

    @property
    def title(self) -> str:
        return f"pegs of {self.part.name}"

    def run(self, progress: Progress) -> Pegs:
        from gullyrise.core.cutting.splitting import pegs_for

        progress("placing pegs", 0, 0)
        return pegs_for(self.part, self.plane, self.wish)


@dataclass(frozen=True, slots=True, eq=False)
class PreviewRepairs(Task):
    """What each repair would change: {id of the repair: (Change of each body that it would change, with its number)}."""

    part: Part

    @property
    def title(self) -> str:
        return f"repairs of {self.part.name}"

    def run(self, progress: Progress) -> dict[str, list[tuple[int, Repaired]]]:
        from gullyrise.core.intake.health import health_of
        from gullyrise.core.intake.repairs import REPAIRS, changed

        bodies = [(number, body.mesh) for number, body in enumerate(self.part.bodies) if body.kind == "mesh"]
        before = [health_of(mesh) for _, mesh in bodies]
        out: dict[str, list[tuple[int, Repaired]]] = {}
        for done, repair in enumerate(REPAIRS):
            progress("trying repairs", done, len(REPAIRS))
            for (number, mesh), health in zip(bodies, before, strict=True):
                _, change = changed(repair, mesh, health)
                if change.count:
                    out.setdefault(repair.id, []).append((number, change))
        return out


@dataclass(frozen=True, slots=True, eq=False)
class GroupShapes(Task):
    """Which meshes have one shape: the number of the shape of each, in order of appearance."""

    meshes: tuple[Mesh, ...]
    title: str = "shapes of the parts list"

    def run(self, progress: Progress) -> tuple[int, ...]:
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
class WriteParts(Task):
    """Parts as they stand into files: sentences on what the formats cannot hold.

    files : (path, (part, placement, name of the copy) each) of every file, such as one for each bed
    """

    files: tuple[tuple[str, tuple[tuple[Part, Transform, str], ...]], ...]

    @property
    def title(self) -> str:
        return Path(self.files[0][0]).name

    def grants(self) -> Grants:
        return Grants(writes=tuple({str(Path(path).resolve().parent) for path, _ in self.files}))

    def run(self, progress: Progress) -> list[str]:
        from gullyrise.core.writing import write
        from gullyrise.core.writing.placed import together

        said: list[str] = []
        for done, (path, stands) in enumerate(self.files):
            progress("writing", done, len(self.files))
            said += write(together(stands, Path(path).stem), Path(path))
        return list(dict.fromkeys(said))
