"""An evidence view: the camera, the cuts and the fading under which a finding is seen, and whether it really is."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from gullyrise.core.camera.camera import Camera
from gullyrise.core.cutting.cuts import Cut, gone
from gullyrise.core.evidence.room import Key, Room
from gullyrise.core.geometry import Floats, Plane, Points

ASPECT = 4 / 3
"""Width over height of a picture of evidence; a wider one shows more."""
MIDDLE = 0.6
"""Share of the picture's sides, round its middle, that the marks have to lie in."""
LEAST, MOST = 1 / 12, 1 / 2
"""Of the picture's height, between which what was measured has to be."""
_SLACK = 1e-3


@dataclass(frozen=True, slots=True, eq=False)
class Proof:
    """What does not hold of a view.

    hidden : numbers of the marks before which something is drawn, or that are cut away
    off : numbers of those that are not in the middle
    scaled : whether what was measured is neither too small nor too large in it
    """

    hidden: tuple[int, ...] = ()
    off: tuple[int, ...] = ()
    scaled: bool = True

    @property
    def holds(self) -> bool:
        """Whether the view shows what it is to show."""
        return not self.hidden and not self.off and self.scaled


@dataclass(frozen=True, slots=True, eq=False)
class Stop:
    """A straight tool where it is stopped. tip : (3,) the middle of its end;  along : (3,) unit, to where it is held
    by_holder : what stops it is its holder
    """

    tip: Floats
    along: Floats
    radius: float
    reach: float
    holder_radius: float
    by_holder: bool


@dataclass(frozen=True, slots=True, eq=False)
class Beside:
    """A small second picture of the place, which shows what the large one cannot.

    camera : parallel;  cuts : in it
    leaning : (3,) unit, the way up an overhanging face, which lies in the cut; None where no angle is meant
    """

    camera: Camera
    cuts: tuple[Cut, ...] = ()
    leaning: Floats | None = None


@dataclass(frozen=True, slots=True, eq=False)
class EvidenceView:
    """mm in the machine's coordinates.

    camera : parallel
    cuts : what they take away is on the eye's side
    faded : bodies that are let see through
    marks : (k, 3) places that must be seen
    size : mm of what was measured, as the picture shows it; 0 where it has none
    whole : camera of a picture that shows where on the part this is, None where this one shows all of it
    on_bed : whether the bed belongs into the picture
    beside : a second picture of the place, None where one is enough
    stop : the tool, where one is meant
    circle : (middle, radius) of a tool in a corner
    """

    camera: Camera
    cuts: tuple[Cut, ...] = ()
    faded: frozenset[Key] = frozenset()
    marks: Points = None  # type: ignore[assignment]
    size: float = 0.0
    proof: Proof = Proof()
    whole: Camera | None = None
    on_bed: bool = False
    beside: Beside | None = None
    stop: Stop | None = None
    circle: tuple[Floats, float] | None = None

    @property
    def toward(self) -> Floats:
        """(3,) unit, to the eye."""
        return self.camera.frame()[2]

    @property
    def plane(self) -> Plane | None:
        """The cut that is looked at straight, if there is one."""
        planes = [cut.plane for cut in self.cuts]
        return next((plane for plane in planes if float(plane.normal @ self.toward) > 1 - 1e-6), None)


def proved(view: EvidenceView, room: Room) -> EvidenceView:
    """The view with its proof, by a ray from the eye to each mark through all that is drawn."""
    span = view.camera.span
    slack = max(_SLACK * span, 4 * room.grain)
    solid = room.without(view.faded).with_cuts(view.cuts)
    flat = view.camera.to_picture(view.marks, 2, 2)[:, :2] - 1.0
    flat[:, 0] /= ASPECT
    off = (np.abs(flat) > MIDDLE).any(axis=1)
    lost = gone(view.cuts, view.marks - view.toward * slack)
    lost |= solid.hides(view.marks, np.tile(view.toward, (len(view.marks), 1)), slack) < np.inf
    scaled = not view.size or LEAST * span <= view.size <= MOST * span
    hidden, aside = (tuple(int(one) for one in np.flatnonzero(those)) for those in (lost, off))
    proof = Proof(hidden, aside, scaled)
    return replace(view, proof=proof)
