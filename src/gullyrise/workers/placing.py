"""Work on where parts stand: arranging, suggesting, fixture shapes."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from gullyrise.core.geometry import Transform
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.part import Part
from gullyrise.core.placing.fixture_shapes import FixtureShape
from gullyrise.core.placing.packing import Wishes
from gullyrise.core.progress import Progress
from gullyrise.workers.fencing.task import Task
from gullyrise.workers.work import Received, received

if TYPE_CHECKING:
    from gullyrise.core.placing.packing import Packed
    from gullyrise.core.placing.suggesting import Suggestion

Stood = tuple[int, str, Transform]
"""(id, digest of its shape, placement) of a part that stands in a job."""


@dataclass(frozen=True, slots=True, eq=False)
class Arrange(Task):
    """Places for parts on as many beds as they need, as `packing.arrange` gives them. parts : each shape by its digest
    fixed : those that stay where they are
    """

    parts: dict[str, Part]
    stands: tuple[Stood, ...]
    fixed: tuple[Stood, ...]
    machine: Machine
    limits: Limits
    wishes: Wishes
    title: str = "arranging the bed"

    def run(self, progress: Progress) -> Packed:
        from gullyrise.core.placing.packing import Thing, arrange

        whole = {digest: part.whole() for digest, part in self.parts.items()}
        things = []
        for id, digest, place in self.stands:
            attitude = place.matrix[:3, :3].round(12).tobytes()
            things.append(Thing(id, whole[digest].placed(place), (digest, attitude)))
        stay = [whole[digest].placed(place) for _, digest, place in self.fixed]
        return arrange(things, self.machine, self.limits, self.wishes, stay, progress)


@dataclass(frozen=True, slots=True, eq=False)
class Suggest(Task):
    """Ways in which a part could stand, best first, from how it is placed now."""

    part: Part
    placement: Transform
    machine: Machine
    limits: Limits

    @property
    def title(self) -> str:
        return f"placements of {self.part.name}"

    def run(self, progress: Progress) -> tuple[Suggestion, ...]:
        from gullyrise.core.placing.suggesting import suggested

        meshes = [mesh.placed(self.placement) for _, _, mesh in self.part.copies()]
        return suggested(meshes, self.machine, self.limits, progress)


@dataclass(frozen=True, slots=True)
class MakeFixture(Task):
    """The part of a fixture shape, as Read gives it."""

    spec: FixtureShape
    largest_machine: float

    @property
    def title(self) -> str:
        return self.spec.name

    def run(self, progress: Progress) -> Received:
        from gullyrise.core.placing.fixture_shapes import fixture_part

        return replace(received(fixture_part(self.spec), self.largest_machine, progress), origin=self.spec)
