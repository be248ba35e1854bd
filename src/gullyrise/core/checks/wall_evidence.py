"""What was measured of a body's walls, kept so that a verdict under another limit needs no measuring."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.checks.places import Cells
from gullyrise.core.checks.wall_map import WallMap, face_values, measure_walls, readings_for_all
from gullyrise.core.checks.wall_slots import Slots, no_slots
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.arrays import Bools, Floats, Points
from gullyrise.core.geometry.spots import Spot, spot
from gullyrise.core.intake.health import degenerate_faces
from gullyrise.core.part import Body
from gullyrise.core.progress import Progress

# Thin readings within so many spacings of one another are one place.
_CLUSTER = 3.0
_CLOSE, _ROUGH, _WANTED, _FINEST = 3e-3, 0.02, 0.008, 1 / 40


@dataclass(frozen=True, slots=True, eq=False)
class BodyWalls:
    """Readings on one body, n of them, in the file's coordinates, mm, of its first copy.

    points, normals, contact : (n, 3) where, outwards, and the far side
    tip : (n, 3) where a taper ends, NaN elsewhere
    diameter, through, error : (n,) mm
    loose : (n,) mm by which each may be thicker besides
    weight : (n,) mm2
    readings : (n,) with what edges take from the wall beside them
    wall, capped, taper : (n,) as `WallMap` has them
    values : (m,) float32 per face
    opposite : (n,) what lies straight behind is opposed
    whole : as `WallMap` has it
    asked : the least wall that it was measured for, mm or None, and so how closely
    cells : for gathering readings
    """

    name: str
    copies: int
    points: Points
    normals: Points
    contact: Points
    tip: Points
    diameter: Floats
    through: Floats
    error: Floats
    loose: Floats
    weight: Floats
    readings: Floats
    wall: Bools
    capped: Bools
    taper: Bools
    values: np.ndarray
    cells: Cells
    slots: Slots
    slot_cells: Cells
    asked: float | None
    tested: float
    median: float | None
    spacing: float
    finest: float
    cap: float
    bulk: float
    drift: float
    is_closed: bool
    whole: bool
    opposite: Bools

    @property
    def counted(self) -> Bools:
        """(n,) readings that are walls and enter the minimum."""
        return self.wall & ~self.taper & ~self.capped

    @property
    def empty(self) -> bool:
        """Whether nothing was measured on it."""
        return not len(self.points)

    def ball(self, one: int) -> tuple[Spot, float]:
        """(middle, radius mm) of the ball of one reading."""
        radius = float(self.diameter[one]) / 2
        return spot(self.points[one] - self.normals[one] * radius), radius

    def ends(self, one: int) -> tuple[Spot, Spot]:
        """The two places that one reading lies between; of one at the ceiling the far end of its ball."""
        far = self.points[one] - self.normals[one] * self.diameter[one] if self.capped[one] else self.contact[one]
        return spot(self.points[one]), spot(far)

    def thinnest_places(self, most: int) -> list[tuple[float, Points]]:
        """(mm, place (3,)) of the thinnest walls, whatever the limit: places that no thinner one lies beside, the least first."""
        lows = self.cells.lows(self.diameter, self.counted)[:most]
        return [(float(self.diameter[one]), self.points[one]) for one in lows]


def body_walls(
    body: Body, min_wall: float | None, max_wall: float | None, min_slot: float | None, progress: Progress
) -> BodyWalls:
    """Measures the walls of one body. A body without any face that has an area comes back empty."""
    values = np.full(len(body.mesh.faces), np.nan, dtype=np.float32)
    sound = ~degenerate_faces(body.mesh)
    if not sound.any():
        return _empty(body, values)
    walls = measure_walls(body.mesh, body.chord_error, min_wall, max_wall, progress, min_slot)
    readings = readings_for_all(walls)
    own = face_values(walls, readings, len(walls.mesh.faces))
    np.fmin.at(values, walls.face_of, own)
    finer = _finer(body, walls, min_wall)
    if finer is not None:
        walls = measure_walls(finer[0], finer[1], min_wall, max_wall, progress, min_slot)
        readings = readings_for_all(walls)
    place, samples, balls = body.placements[0], walls.samples, walls.balls
    points, contact = place.apply(samples.points), place.apply(balls.contact)
    linear = place.matrix[:3, :3]
    slots = Slots(
        place.apply(walls.slots.points), place.apply(walls.slots.contact), walls.slots.width, walls.slots.error,
        walls.slots.weight, walls.slots.runs_out,
    )  # fmt: skip
    side = max(_CLUSTER * walls.spacing, 0.5 * (min_wall or 0.0))
    return BodyWalls(
        name=body.name, copies=body.count, points=points, normals=samples.normals @ linear.T, contact=contact,
        tip=place.apply(np.nan_to_num(walls.tip)), diameter=balls.diameter, through=balls.through,
        error=walls.error, loose=balls.loose,
        weight=samples.weight, readings=readings, wall=balls.wall, capped=balls.capped, taper=walls.taper, values=values,
        cells=Cells.dealt(points, contact, side), slots=slots,
        slot_cells=Cells.dealt(slots.points, slots.contact, max(side, 2 * (min_slot or 0.0))), asked=min_wall,
        tested=walls.tested, median=walls.median, spacing=walls.spacing, finest=walls.finest, cap=walls.cap, bulk=walls.bulk,
        drift=walls.drift, is_closed=walls.is_closed, whole=walls.whole,
        opposite=balls.opposite,
    )  # fmt: skip


def _finer(body: Body, walls: WallMap, min_wall: float | None) -> tuple[Mesh, float] | None:
    """(finer triangles of a solid, their chord error mm) where those that it has leave its thinnest wall too unsure: by more than
    a fiftieth, or on which side of the limit it lies. None where they are close enough or finer ones would be too many."""
    counted = np.flatnonzero(walls.counted)
    if body.exact is None or not body.chord_error or not len(counted):
        return None
    thinnest = counted[np.argmin(walls.balls.diameter[counted])]
    least, doubt = float(walls.balls.diameter[thinnest]), float(walls.error[thinnest] + walls.balls.loose[thinnest])
    unsure = min_wall is not None and abs(least - min_wall) <= doubt
    if least <= 0 or doubt <= _CLOSE * least or not (unsure or doubt > _ROUGH * least):
        return None
    from gullyrise.core.solids.gaps import finer_mesh

    chord = body.chord_error * float(np.clip(_WANTED * least / doubt, _FINEST, 0.5))
    mesh = finer_mesh(body.exact, Transform.identity(), chord)
    return None if mesh is None else (mesh, chord)


def _empty(body: Body, values: np.ndarray) -> BodyWalls:
    rows, none, no = np.zeros((0, 3)), np.zeros(0), np.zeros(0, dtype=bool)
    cells = Cells.dealt(rows, rows, 1.0)
    return BodyWalls(
        body.name, body.count, rows, rows, rows, rows, none, none, none, none, none, none, no, no, no, values, cells, no_slots(),
        cells, None, np.inf, None, 0.0, 0.0, np.inf, 0.0, 0.0, False, True, no,
    )  # fmt: skip
