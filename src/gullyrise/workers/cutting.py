"""Work on cuts: sections of bodies as they stand, from triangles and from exact surfaces, and the area along a direction."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from gullyrise.core.cutting import Section
from gullyrise.core.geometry import Floats, Mesh, Plane, Transform
from gullyrise.core.geometry.outline import Outline
from gullyrise.core.part import Body
from gullyrise.core.progress import Progress
from gullyrise.workers.fencing.task import Task

if TYPE_CHECKING:
    from gullyrise.core.cutting.along import AreaCurve
    from gullyrise.core.solids.sections import ExactSection

Stand = tuple[Body, Transform]
"""A body and where one of its copies stands on the machine."""


_ARCS = 2e-4


@dataclass(frozen=True, slots=True, eq=False)
class Shown:
    """A section and its outlines laid flat, with arcs where corners lie on circles."""

    section: Section
    outlines: tuple[Outline, ...]


@dataclass(frozen=True, slots=True, eq=False)
class CutPlaced(Task):
    """The section of bodies as they stand: a Shown."""

    stands: tuple[Stand, ...]
    plane: Plane
    title: str = "section"

    def run(self, progress: Progress) -> Shown:
        from gullyrise.core.cutting import cut
        from gullyrise.core.report.outlines import outlines_of

        found = cut(_stood(self.stands), self.plane)
        box = found.box()
        within = _ARCS * float(np.linalg.norm(box[1] - box[0])) if box is not None else 0.0
        return Shown(found, outlines_of(found, within))


@dataclass(frozen=True, slots=True, eq=False)
class CutExactly(Task):
    """The section of solids as they stand, from their surfaces; None where the kernel cannot say it."""

    stands: tuple[Stand, ...]
    plane: Plane
    title: str = "exact section"

    def run(self, progress: Progress) -> ExactSection | None:
        from gullyrise.core.solids.sections import exact_section, together

        found = []
        for done, (body, place) in enumerate(self.stands):
            progress("cutting solids", done, len(self.stands))
            if body.exact is None:
                return None
            heights = self.plane.heights(place.apply(body.mesh.vertices))
            beside = 2 * (body.chord_error or 0.0) + 1e-6
            if heights.min() > beside or heights.max() < -beside:
                # Most bodies of an assembly are missed, and the kernel takes its time to say so.
                continue
            try:
                found.append(exact_section(body.exact, place, self.plane))
            except (ValueError, RuntimeError):
                return None
        return together(found) if found else None


@dataclass(frozen=True, slots=True, eq=False)
class AreaAlong(Task):
    """The cut area along a direction of bodies as they stand."""

    stands: tuple[Stand, ...]
    direction: Floats
    title: str = "area along the cut"

    def run(self, progress: Progress) -> AreaCurve:
        from gullyrise.core.cutting.along import area_along

        return area_along(_stood(self.stands), self.direction)


def _stood(stands: tuple[Stand, ...]) -> list[Mesh]:
    return [body.mesh.placed(place) for body, place in stands]
