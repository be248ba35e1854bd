"""Triangles in small boxed blocks: which of millions a ray meets, or lie near a point, in a few milliseconds.

Faces are sorted along a space-filling curve (G. M. Morton, IBM report, 1966), so that each run of 256 lies close together.
Plain arrays, so that a worker can make them and any thread can ask without holding the interpreter's lock for long.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from gullyrise.core.geometry.arrays import Floats, Ints, Points, crossed, frozen
from gullyrise.core.geometry.box import Box
from gullyrise.core.geometry.mesh import Mesh

SIZE, SMALL = 256, 16
_BITS = 10
_OUTSIDE = 1e-9
_PAIRS, _LOTS = 1_000_000, 16_000


@dataclass(frozen=True, slots=True, eq=False)
class Blocks:
    """order : (m,) int32 face indices, block after block
    low, high : (b, 3) mm, the box of each block
    box : of all of them, None where there is none
    """

    order: NDArray[np.int32]
    low: Floats
    high: Floats
    box: Box | None = field(init=False)
    _small: list[tuple[Floats, Floats]] = field(init=False, default_factory=list, repr=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "order", frozen(self.order, np.int32))
        object.__setattr__(self, "low", frozen(self.low, np.float64))
        object.__setattr__(self, "high", frozen(self.high, np.float64))
        object.__setattr__(self, "box", Box(self.low.min(axis=0), self.high.max(axis=0)) if len(self.low) else None)

    def __reduce__(self) -> tuple[type[Blocks], tuple[NDArray[np.int32], Floats, Floats]]:
        # What is kept is quicker worked out again than sent to another process.
        return Blocks, (self.order, self.low, self.high)

    def small(self, mesh: Mesh) -> tuple[Floats, Floats]:
        """(low (s, 3), high (s, 3)) mm of the boxes of every 16 faces in their order: what many rays are asked of. Worked out
        once and kept; a third of a second for a million faces."""
        if not self._small:
            # Corner by corner: several times quicker than along an axis of three.
            a, b, c = (np.take(mesh.vertices, mesh.faces[self.order, corner], axis=0) for corner in range(3))
            heads = np.arange(0, len(self.order), SMALL)
            low, high = np.minimum(np.minimum(a, b), c), np.maximum(np.maximum(a, b), c)
            # Wider by what a face may be passed at and still count as met.
            wider = _OUTSIDE * float(np.abs(self.box.high - self.box.low).max()) if self.box is not None else 0.0
            self._small.append((np.minimum.reduceat(low, heads) - wider, np.maximum.reduceat(high, heads) + wider))
        return self._small[0]

    def faces_in(self, blocks: Ints) -> Ints:
        """The faces of some blocks."""
        rows = (blocks[:, None] * SIZE + np.arange(SIZE)).reshape(-1)
        return np.asarray(self.order[rows[rows < len(self.order)]], dtype=np.int64)


def blocks_of(mesh: Mesh) -> Blocks:
    """The blocks of a mesh; an empty mesh has none."""
    if not len(mesh.faces):
        return Blocks(np.zeros(0, dtype=np.int32), np.zeros((0, 3)), np.zeros((0, 3)))
    corners = mesh.triangles()
    low, high = corners.min(axis=1), corners.max(axis=1)
    middle = (low + high) / 2
    start = middle.min(axis=0)
    reach = np.maximum(middle.max(axis=0) - start, 1e-12)
    cells = ((middle - start) / reach * (2**_BITS - 1)).astype(np.uint32)
    code = np.zeros(len(cells), dtype=np.uint32)
    for bit in range(_BITS):
        for axis in range(3):
            code |= (cells[:, axis] >> np.uint32(bit) & np.uint32(1)) << np.uint32(3 * bit + axis)
    order = np.argsort(code, kind="stable").astype(np.int32)
    heads = np.arange(0, len(order), SIZE)
    return Blocks(order, np.minimum.reduceat(low[order], heads), np.maximum.reduceat(high[order], heads))


def along_rays(mesh: Mesh, blocks: Blocks, origins: Points, directions: Points) -> tuple[Ints, Floats, Ints]:
    """Every face that each of n rays meets: (ray (k,), distance (k,) in lengths of its direction, face (k,)), in no order.

    origins, directions : (n, 3), directions not zero; see `along_ray`
    """
    rays, far, met = [np.zeros(0, dtype=np.int64)], [np.zeros(0)], [np.zeros(0, dtype=np.int64)]
    if not len(blocks.order):
        return rays[0], far[0], met[0]
    lot = max(1, _PAIRS // len(blocks.low))
    wider = _OUTSIDE * float(np.abs(blocks.box.high - blocks.box.low).max()) if blocks.box is not None else 0.0
    for start in range(0, len(origins), lot):
        origin, direction = origins[start : start + lot], directions[start : start + lot]
        ray, block = boxes_met(blocks.low - wider, blocks.high + wider, origin, direction)
        for first in range(0, len(ray), _LOTS):
            of, faces = _faces_of(mesh, blocks, ray[first : first + _LOTS], block[first : first + _LOTS], origin, direction)
            distance, meets = _moller(mesh, faces, origin[of], direction[of])
            rays.append(of[meets] + start)
            far.append(distance[meets])
            met.append(faces[meets])
    return np.concatenate(rays), np.concatenate(far), np.concatenate(met)


def boxes_met(low: Floats, high: Floats, origins: Points, directions: Points) -> tuple[Ints, Ints]:
    """(ray (p,), box (p,)) of all pairs of rays (n, 3) and boxes (b, 3) that meet."""
    enter, leave = np.zeros((len(origins), len(low))), np.full((len(origins), len(low)), np.inf)
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        for axis in range(3):
            slope = directions[:, axis, None]
            a = (low[:, axis] - origins[:, axis, None]) / slope
            b = (high[:, axis] - origins[:, axis, None]) / slope
            # A ray within the plane of a box's side gives 0/0, which neither comparison lets count: it is inside there.
            np.fmax(enter, np.minimum(a, b), out=enter)
            np.fmin(leave, np.maximum(a, b), out=leave)
        ray, block = np.nonzero((leave >= enter - 1e-9 * np.abs(leave)) & (leave >= 0))
    return ray, block


def _faces_of(mesh: Mesh, blocks: Blocks, ray: Ints, block: Ints, origins: Points, directions: Points) -> tuple[Ints, Ints]:
    """(ray (q,), face (q,)) of the faces of some blocks that each ray comes near: those in whose small boxes it comes."""
    low, high = blocks.small(mesh)
    rows = (block[:, None] * (SIZE // SMALL) + np.arange(SIZE // SMALL)).reshape(-1)
    of = np.repeat(ray, SIZE // SMALL)
    there = rows < len(low)
    rows, of = rows[there], of[there]
    enter, leave = np.zeros(len(rows)), np.full(len(rows), np.inf)
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        for axis in range(3):
            start, slope = origins[of, axis], directions[of, axis]
            a, b = (low[rows, axis] - start) / slope, (high[rows, axis] - start) / slope
            np.fmax(enter, np.minimum(a, b), out=enter)
            np.fmin(leave, np.maximum(a, b), out=leave)
        met = (leave >= enter - 1e-9 * np.abs(leave)) & (leave >= 0)
    rows, of = rows[met], of[met]
    places = rows[:, None] * SMALL + np.arange(SMALL)
    inside = places < len(blocks.order)
    return np.repeat(of, inside.sum(axis=1)), np.asarray(blocks.order[places[inside]], dtype=np.int64)


def _moller(mesh: Mesh, faces: Ints, origin: Points, direction: Points) -> tuple[Floats, Ints]:
    """((q,) distances of rays to the planes of faces, a ray a face; (k,) numbers of those that meet theirs)."""
    corner = mesh.faces[faces]
    at = mesh.vertices[corner[:, 0]]
    u, v = mesh.vertices[corner[:, 1]] - at, mesh.vertices[corner[:, 2]] - at
    across = crossed(direction, v)
    volume = np.einsum("ij,ij->i", u, across)
    away = origin - at
    with np.errstate(divide="ignore", invalid="ignore"):
        first = np.einsum("ij,ij->i", away, across) / volume
        other = crossed(away, u)
        second = np.einsum("ij,ij->i", other, direction) / volume
        distance = np.einsum("ij,ij->i", v, other) / volume
        meets = (first >= -_OUTSIDE) & (second >= -_OUTSIDE) & (first + second <= 1 + 2 * _OUTSIDE) & (distance >= 0)
    return distance, np.flatnonzero(meets & np.isfinite(distance))


def along_ray(mesh: Mesh, blocks: Blocks, origin: Floats, direction: Floats) -> tuple[Floats, Ints]:
    """Every face that a ray meets, nearest first: (distances (k,) in lengths of `direction`, faces (k,)).

    origin, direction : (3,), direction not zero. Both sides of a face count. T. Möller, B. Trumbore, Journal of Graphics
    Tools 2 (1997).
    """
    if not len(blocks.order):
        return np.zeros(0), np.zeros(0, dtype=np.int64)
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        a, b = (blocks.low - origin) / direction, (blocks.high - origin) / direction
        # A ray within the plane of a box's side gives 0/0; it counts as inside there.
        enter = np.fmax.reduce(np.minimum(a, b), axis=1, initial=-np.inf)
        leave = np.fmin.reduce(np.maximum(a, b), axis=1, initial=np.inf)
        met = (leave >= np.maximum(enter, 0.0) - 1e-9 * np.abs(leave)) & (leave >= 0)
    faces = blocks.faces_in(np.flatnonzero(met))
    if not len(faces):
        return np.zeros(0), np.zeros(0, dtype=np.int64)
    distance, found = _moller(mesh, faces, np.broadcast_to(origin, (len(faces), 3)), np.broadcast_to(direction, (len(faces), 3)))
    found = found[np.argsort(distance[found], kind="stable")]
    return distance[found], faces[found]
