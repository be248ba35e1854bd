"""Points on a surface, even by area and the same every time."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry.arrays import Floats, Ints, Points
from gullyrise.core.geometry.mesh import Mesh

# The plastic number's powers: Roberts' R2 sequence spreads points evenly over a square.
_R2 = np.array([0.7548776662466927, 0.5698402909980532])

# Of the 26 cubes round a cube, one of each opposite two.
_HALF_OF_NEIGHBOURS = [(x, y, z) for x in (-1, 0, 1) for y in (-1, 0, 1) for z in (-1, 0, 1) if (x, y, z) > (0, 0, 0)]


@dataclass(frozen=True, slots=True, eq=False)
class Samples:
    """Surface samples.

    points  : (n, 3) mm
    normals : (n, 3) outward unit normals of their faces
    face    : (n,) face of each
    weight  : (n,) area that each stands for, mm2
    """

    points: Points
    normals: Points
    face: Ints
    weight: Floats

    def take(self, which: np.ndarray) -> Samples:
        """Some of them. which : (k,) their numbers, or (n,) whether each is one"""
        return Samples(self.points[which], self.normals[which], self.face[which], self.weight[which])


def joined_samples(parts: list[Samples]) -> Samples:
    """Several in one, in their order."""
    return Samples(*(np.concatenate([getattr(part, name) for part in parts]) for name in Samples.__dataclass_fields__))


def place_on(mesh: Mesh, face: Ints, number: Ints) -> Points:
    """The `number`-th point of an even sequence on each named face: (n, 3)."""
    uv = (0.5 + (number[:, None] + 1) * _R2) % 1.0
    over = uv.sum(axis=1) > 1
    uv[over] = 1 - uv[over]
    a, b, c = (mesh.vertices[mesh.faces[face, k]] for k in range(3))
    return np.asarray(a + uv[:, :1] * (b - a) + uv[:, 1:] * (c - a))


def spread(mesh: Mesh, count: int, *, every_face: bool = True) -> Samples:
    """About `count` samples, in number by area; with `every_face`, at least one on each face with an area.

    A face with one sample has it at its middle. Faces without area get none. Zero faces give zero samples.
    """
    areas = mesh.face_areas()
    total = float(areas.sum())
    if total <= 0 or not len(areas):
        empty = np.zeros(0, dtype=np.int64)
        return Samples(np.zeros((0, 3)), np.zeros((0, 3)), empty, np.zeros(0))
    # Rounding along the running sum keeps the spacing even over many small faces.
    steps = np.floor(np.cumsum(areas) / total * count + 0.5).astype(np.int64)
    each = np.diff(steps, prepend=0)
    if every_face:
        each = np.maximum(each, 1)
    each[areas <= 0] = 0
    face = np.repeat(np.arange(len(areas)), each)
    number = np.arange(len(face)) - np.repeat(np.cumsum(each) - each, each)
    points = place_on(mesh, face, number)
    single = each[face] == 1
    corners = mesh.vertices[mesh.faces[face[single]]]
    points[single] = corners.mean(axis=1)
    return Samples(points, mesh.normals()[face], face, areas[face] / each[face])


def touching_cubes(points: Points, side: float) -> tuple[Ints, Ints, int]:
    """Points dealt into cubes of that side, mm: (cube of each point (n,), pairs of cubes that touch, corners included (p, 2),
    how many cubes there are). Linear in n, where pairs of points within a distance would grow with their density."""
    place = np.floor((points - points.min(axis=0)) / side).astype(np.int64)
    span = place.max(axis=0) + 3
    step = np.array([span[1] * span[2], span[2], 1])
    key = (place + 1) @ step
    cubes, of_point = np.unique(key, return_inverse=True)
    links = []
    for dx, dy, dz in _HALF_OF_NEIGHBOURS:
        wanted = cubes + dx * step[0] + dy * step[1] + dz
        found = np.searchsorted(cubes, wanted)
        found[found == len(cubes)] = 0
        there = np.flatnonzero(cubes[found] == wanted)
        links.append(np.column_stack([there, found[there]]))
    return of_point.reshape(-1).astype(np.int64), np.concatenate(links), len(cubes)
