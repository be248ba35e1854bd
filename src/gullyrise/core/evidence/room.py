"""What stands in the room that a finding is looked at in: bodies where they stand, and what rays meet of them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from gullyrise.core.cutting.cuts import Cut, kept_ways
from gullyrise.core.geometry import Box, Floats, Mesh, Points, Transform
from gullyrise.core.geometry.arrays import Bools, Ints, crossed
from gullyrise.core.geometry.blocks import Blocks, along_rays, blocks_of, boxes_met
from gullyrise.core.machines import Machine
from gullyrise.core.part import Part
from gullyrise.core.picking import seen
from gullyrise.core.picking.prepared import Prepared

Key = tuple[int, int]
_ROUNDING = 1e-6


@dataclass(frozen=True, slots=True, eq=False)
class Copy:
    """One copy of a body, with as much of it as rays want; see `seen.Item`."""

    key: Key
    mesh: Mesh
    matrix: np.ndarray
    box: Box
    blocks: Blocks | None
    prepared: Prepared | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Met:
    """Hits of rays, k of them in no order. ray : (k,) its number;  distance : (k,) mm
    cosine : (k,) between its direction and the outward normal there, positive where it comes out of material
    """

    ray: Ints
    distance: Floats
    cosine: Floats


@dataclass(frozen=True, slots=True, eq=False)
class Room:
    """Bodies on a machine, and what is cut away of them; mm in the machine's coordinates.

    about : number of the part that is looked at, None for all
    corners : (n, 8, 3) of the bodies' boxes;  subject : of those of that part
    """

    items: Sequence[seen.Item]
    machine: Machine
    cuts: tuple[Cut, ...] = ()
    about: int | None = None
    corners: Floats = field(init=False)
    subject: Floats = field(init=False)
    box: Box = field(init=False)

    def __post_init__(self) -> None:
        boxes = [item.box for item in self.items]
        corners = np.array([box.corners() for box in boxes]).reshape(-1, 8, 3)
        own = np.array([self.about in (None, item.key[0]) for item in self.items], dtype=bool)
        object.__setattr__(self, "corners", corners)
        object.__setattr__(self, "subject", corners[own] if own.any() else corners)
        object.__setattr__(self, "box", Box.around(boxes) if boxes else self.machine.envelope.box)

    @classmethod
    def of_part(cls, part: Part, placement: Transform, machine: Machine, number: int = 0) -> Room:
        """All copies of a part. number : of the part, for the keys of its copies"""
        items: list[seen.Item] = []
        for body in part.bodies:
            blocks = blocks_of(body.mesh)
            for place in body.placements:
                matrix = placement.matrix @ place.matrix
                used = body.mesh.vertices if len(body.mesh.vertices) else np.zeros((1, 3))
                items.append(
                    Copy((number, len(items)), body.mesh, matrix, Box.of(used @ matrix[:3, :3].T + matrix[:3, 3]), blocks)
                )
        return cls(tuple(items), machine)

    def beside(self, other: Room, about: int) -> Room:
        """With the bodies of another room, too. about : number of the part that is looked at"""
        return Room((*self.items, *other.items), self.machine, self.cuts, about)

    def cuts_of(self, item: seen.Item) -> tuple[Cut, ...]:
        """Those that go through a body."""
        return tuple(cut for cut in self.cuts if cut.touches(item.key))

    def matrix_of(self, item: seen.Item) -> np.ndarray:
        """(4, 4) from a mesh to the machine."""
        return item.matrix

    def with_cuts(self, cuts: tuple[Cut, ...]) -> Room:
        """The same bodies under other cuts."""
        return replace(self, cuts=cuts)

    def without(self, faded: frozenset[Key]) -> Room:
        """Without the bodies that are let see through."""
        return replace(self, items=tuple(item for item in self.items if item.key not in faded)) if faded else self

    @property
    def keys(self) -> frozenset[Key]:
        """Of all bodies."""
        return frozenset(item.key for item in self.items)

    @property
    def grain(self) -> float:
        """mm that coordinates of the room are sure to."""
        return _ROUNDING * max(self.box.diagonal, 1e-9)

    def met(self, origins: Points, directions: Points) -> Met:
        """What rays (n, 3) with unit directions meet of what the cuts leave, cut faces too."""
        ray, far, cosine = [np.zeros(0, dtype=np.int64)], [np.zeros(0)], [np.zeros(0)]
        for item, near in self._boxes_met(origins, directions):
            if item.blocks is None:
                continue
            inverse = np.linalg.inv(item.matrix)
            start, ahead = origins[near] @ inverse[:3, :3].T + inverse[:3, 3], directions[near] @ inverse[:3, :3].T
            of, distance, face = along_rays(item.mesh, item.blocks, start, ahead)
            if not len(of):
                continue
            corner = item.mesh.vertices[item.mesh.faces[face]]
            normal = crossed(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
            slope = np.einsum("ij,ij->i", normal, ahead[of])
            slope = slope / np.maximum(np.linalg.norm(normal @ inverse[:3, :3], axis=1), 1e-300)
            of = near[of]
            cuts = self.cuts_of(item)
            if cuts:
                of, distance, slope = _cut(of, distance, slope, *kept_ways(cuts, origins, directions))
            ray.append(of)
            far.append(distance)
            cosine.append(slope)
        return Met(np.concatenate(ray), np.concatenate(far), np.concatenate(cosine))

    def _boxes_met(self, origins: Points, directions: Points) -> Iterator[tuple[seen.Item, Ints]]:
        """The bodies whose boxes rays come by, each with the numbers of those rays."""
        grown = 1e-3 * self.box.diagonal
        low = self.corners.min(axis=1) - grown if len(self.corners) else np.zeros((0, 3))
        high = self.corners.max(axis=1) + grown if len(self.corners) else np.zeros((0, 3))
        ray, number = boxes_met(low, high, origins, directions)
        order = np.argsort(number, kind="stable")
        ends = np.cumsum(np.bincount(number, minlength=len(self.items)))
        for one, near in enumerate(np.split(ray[order], ends[:-1])):
            if len(near):
                yield self.items[one], near

    def hides(self, places: Points, toward: Points, slack: float) -> Floats:
        """(n,) mm before each place at which the nearest thing stands that hides it from the eye; inf where none does.

        places, toward : (n, 3) and unit, to the eye, which is farther away than anything
        slack : mm; what lies nearer to a place than that is the place itself
        """
        far = self._beyond(places)
        met = self.met(places + toward * far, -toward)
        before = far - met.distance
        out = np.full(len(places), np.inf)
        hiding = before > slack
        np.minimum.at(out, met.ray[hiding], before[hiding])
        return out

    def facing(self, places: Points, toward: Points, slack: float) -> Floats:
        """(n,) cosine between the eye's direction and the surface at each place; 0 where none is within the slack of it."""
        met = self.met(places + toward * (2 * slack), -toward)
        out = np.zeros(len(places))
        near = met.distance <= 4 * slack
        np.maximum.at(out, met.ray[near], np.abs(met.cosine[near]))
        return out

    def holds(self, places: Points, along: Points) -> Bools:
        """(n,) whether each place lies in material: the surface that is next met along a direction is met from inside."""
        met = self.met(places, along)
        out = np.zeros(len(places), dtype=bool)
        order = np.argsort(-met.distance, kind="stable")
        # The nearest is put last, and stays.
        out[met.ray[order]] = met.cosine[order] > 0
        return out

    def first(self, origins: Points, directions: Points) -> Floats:
        """(n,) mm to what each ray meets first, inf where it meets nothing."""
        met = self.met(origins, directions)
        out = np.full(len(origins), np.inf)
        np.minimum.at(out, met.ray, met.distance)
        return out

    def normal_at(self, place: Floats, toward: Floats, slack: float) -> Floats | None:
        """(3,) unit outward normal of the surface at a place, as met from a direction; None where none is within the slack.

        Notes: from the cosines of three rays that come from about that direction.
        """
        square = np.cross(toward, np.eye(3)[int(np.argmin(np.abs(toward)))])
        square /= np.linalg.norm(square)
        ways = np.array([toward, toward + 0.3 * square, toward + 0.3 * np.cross(toward, square)])
        ways /= np.linalg.norm(ways, axis=1)[:, None]
        met = self.met(place + ways * slack, -ways)
        cosines = np.full(3, np.nan)
        for number in range(3):
            mine = np.flatnonzero((met.ray == number) & (met.distance <= 3 * slack))
            if len(mine):
                cosines[number] = met.cosine[mine[np.argmin(met.distance[mine])]]
        if not np.isfinite(cosines).all():
            return None
        normal = np.linalg.solve(-ways, cosines)
        return np.asarray(normal / max(float(np.linalg.norm(normal)), 1e-300))

    def _beyond(self, places: Points) -> float:
        """mm from any place to where nothing is any more."""
        return self.box.diagonal + float(np.linalg.norm(places - self.box.middle, axis=1).max()) + 1.0


def _cut(ray: Ints, distance: Floats, cosine: Floats, enters: Floats, leaves: Floats) -> tuple[Ints, Floats, Floats]:
    """What is left of hits under cuts. Where a ray comes into what is left, a face that is next met from inside has material
    before it: the cut face."""
    kept = (distance >= enters[ray]) & (distance <= leaves[ray])
    ahead = np.flatnonzero(distance > enters[ray])
    order = ahead[np.lexsort((distance[ahead], ray[ahead]))]
    first = order[np.diff(ray[order], prepend=-1) != 0]
    of = ray[first]
    face = first[(cosine[first] > 0) & (enters[of] > 0) & (enters[of] < leaves[of])]
    on = ray[face]
    return (
        np.concatenate([ray[kept], on]), np.concatenate([distance[kept], enters[on]]),
        np.concatenate([cosine[kept], np.full(len(on), -1.0)]),
    )  # fmt: skip
