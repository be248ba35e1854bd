"""Holes and shafts that go together: coaxial round faces of two bodies, the clearance between their diameters."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry import Floats, Mesh, Transform
from gullyrise.core.geometry.anatomy import flat_regions
from gullyrise.core.geometry.arrays import Ints
from gullyrise.core.geometry.facts import SURFACES
from gullyrise.core.geometry.topology import edges_of
from gullyrise.core.measuring.iso_fits import like_fit
from gullyrise.core.measuring.on_mesh import face_of_mesh
from gullyrise.core.measuring.things import Thing
from gullyrise.core.part import Body

_MOST_FACES, _MOST_ROUND, _MOST_MISSES = 200_000, 80, 12
_NEAR = 0.02
_BEND = np.radians(32.0)
_LEVEL = np.radians(0.5)
_PARALLEL = float(np.cos(np.radians(1.0)))
_ALIKE = 0.25


@dataclass(frozen=True, slots=True, eq=False)
class Round:
    """A round face: low, high (3,) ends of its axis, mm;

    hollow : a hole
    error : of the diameter, mm, 0 where it is exact
    """

    low: Floats
    high: Floats
    diameter: float
    hollow: bool
    error: float

    def placed(self, place: Transform) -> Round:
        """The same after a rigid move."""
        low, high = place.apply(np.stack([self.low, self.high]))
        return Round(low, high, self.diameter, self.hollow, self.error)


@dataclass(frozen=True, slots=True)
class Fitting:
    """A hole and a shaft in it.

    hole, shaft, clearance : diameters, mm
    error : of the clearance, mm
    off : between the axes, mm
    like : the fit of ISO 286 that it is like, or empty
    at : on the axis, where both are
    """

    hole: float
    shaft: float
    clearance: float
    error: float
    off: float
    like: str
    at: tuple[float, float, float]


def rounds_of(body: Body) -> list[Round]:
    """The exact round faces of a solid in its own coordinates; none of a body without exact surfaces."""
    if body.facts is None or body.anatomy is None:
        return []
    facts, out = body.facts, []
    for face in np.flatnonzero(facts.surface == SURFACES.index("cylinder"))[:_MOST_ROUND]:
        points = body.mesh.vertices[body.mesh.faces[body.anatomy.face_of == face].reshape(-1)]
        if len(points):
            radius, hollow = float(facts.radius[face]), bool(facts.hollow[face])
            out.append(_along(points, facts.origin[face], facts.axis[face], radius, hollow, 0.0))
    return out


def _along(points: Floats, origin: Floats, axis: Floats, radius: float, hollow: bool, error: float) -> Round:
    along = (points - origin) @ axis
    return Round(origin + along.min() * axis, origin + along.max() * axis, 2 * radius, hollow, error)


def rounds_of_mesh(mesh: Mesh) -> list[Round]:
    """The round faces of a mesh, fitted; none of a very large one. Facets that bend gently into one another are a round face's;
    one of each such surface is asked what it lies on."""
    if len(mesh.faces) > _MOST_FACES:
        return []
    edges = edges_of(mesh)
    label = flat_regions(mesh, edges)
    normals, pairs = mesh.normals(), edges.pairs
    bend = 2 * np.arcsin(np.clip(np.linalg.norm(normals[pairs[:, 0]] - normals[pairs[:, 1]], axis=1) / 2, 0, 1))
    gentle = pairs[(bend > _LEVEL) & (bend < _BEND) & (label[pairs[:, 0]] != label[pairs[:, 1]])]
    waiting = np.zeros(len(mesh.faces), dtype=bool)
    waiting[gentle.reshape(-1)] = True
    areas = np.bincount(label, mesh.face_areas())
    out: list[Round] = []
    misses = 0
    for _ in range(_MOST_ROUND):
        index = np.flatnonzero(waiting)
        if not len(index) or misses >= _MOST_MISSES:
            break
        largest = index[np.argmax(areas[label[index]])]
        patch = np.flatnonzero(label == label[largest])
        waiting[patch] = False
        thing = face_of_mesh(mesh, patch, mesh.centroids()[largest])
        if thing.kind == "ball" and thing.point is not None and thing.radius is not None:
            off = np.linalg.norm(mesh.centroids()[index] - thing.point.place, axis=1)
            waiting[index[np.abs(off - thing.radius) < _NEAR * thing.radius]] = False
        if thing.kind not in ("hole", "shaft") or thing.line is None or thing.radius is None or thing.surface is None:
            misses += 1
            continue
        found = _along(
            thing.surface.vertices, thing.line.origin, thing.line.direction, thing.radius, thing.kind == "hole", _doubt(thing)
        )
        out.append(found)
        waiting[index[_on(mesh, index, found)]] = False
    return out


def _doubt(thing: Thing) -> float:
    return next((figure.uncertainty for figure in thing.own if figure.code == "diameter"), 0.0)


def _on(mesh: Mesh, index: Ints, found: Round) -> Ints:
    """Which of some faces lie on a round face."""
    axis = (found.high - found.low) / max(float(np.linalg.norm(found.high - found.low)), 1e-300)
    off = mesh.centroids()[index] - found.low
    along = off @ axis
    radius = np.linalg.norm(off - along[:, None] * axis, axis=1)
    within = np.abs(2 * radius - found.diameter) < _NEAR * found.diameter + 2 * found.error
    return np.flatnonzero(within & (along > -1e-6) & (along < np.linalg.norm(found.high - found.low) + 1e-6))


def fittings(a: list[Round], b: list[Round]) -> list[Fitting]:
    """Every hole of one body with a shaft of the other in it, tightest first."""
    out = []
    for one in a:
        for other in b:
            if one.hollow != other.hollow:
                hole, shaft = (one, other) if one.hollow else (other, one)
                found = _fitting(hole, shaft)
                if found is not None:
                    out.append(found)
    return sorted(out, key=lambda fit: fit.clearance)


def _fitting(hole: Round, shaft: Round) -> Fitting | None:
    if abs(hole.diameter - shaft.diameter) > _ALIKE * hole.diameter:
        return None
    axis, other = hole.high - hole.low, shaft.high - shaft.low
    length, other_length = float(np.linalg.norm(axis)), float(np.linalg.norm(other))
    if min(length, other_length) <= 0 or abs(float(axis @ other)) < _PARALLEL * length * other_length:
        return None
    axis = axis / length
    low, high = sorted(((shaft.low - hole.low) @ axis, (shaft.high - hole.low) @ axis))
    start, end = max(float(low), 0.0), min(float(high), length)
    if end <= start:
        return None
    # How far apart the axes are, half-way where both are.
    half = hole.low + axis * (start + end) / 2
    way = (shaft.high - shaft.low) / other_length
    off = half - shaft.low
    apart = float(np.linalg.norm(off - (off @ way) * way))
    clearance = hole.diameter - shaft.diameter
    if apart > max(abs(clearance) / 2, 0.0) + 0.02 * hole.diameter + hole.error + shaft.error:
        return None
    at = (float(half[0]), float(half[1]), float(half[2]))
    like = like_fit(hole.diameter, shaft.diameter) or ""
    return Fitting(hole.diameter, shaft.diameter, clearance, hole.error + shaft.error, apart, like, at)
