"""Faces and edges of a solid as things, from what the kernel said of its exact surfaces."""

from __future__ import annotations

import numpy as np

from gullyrise.core.geometry import Floats, Mesh, Points
from gullyrise.core.geometry.facts import CURVES, SURFACES, Facts
from gullyrise.core.geometry.spots import spot
from gullyrise.core.measuring.figures import EXACT, Figure
from gullyrise.core.measuring.things import Flat, Line, Point, Thing


def face_of_solid(facts: Facts, index: int, surface: Mesh, chord: float) -> Thing:
    """A face by its number. surface : its triangles, within `chord` mm of it"""
    kind = SURFACES[int(facts.surface[index])]
    origin, axis = facts.origin[index], facts.axis[index]
    area = Figure("area", float(facts.area[index]), "area", 0.0, EXACT)
    own: tuple[Figure, ...]
    if kind == "plane":
        # Its middle as near as the triangles tell, put onto the exact plane.
        middle = _middle(surface)
        middle = middle - axis * float((middle - origin) @ axis)
        return Thing("flat-face", plane=Flat(middle, axis, 0.0, 0.0), own=(area,), surface=surface, sag=0.0)
    if kind == "sphere":
        radius = float(facts.radius[index])
        own = (_length("diameter", 2 * radius), _length("radius", radius), area)
        return Thing("ball", point=Point(origin, 0.0, "centre"), own=own, radius=radius, surface=surface, sag=chord)
    if kind == "cylinder":
        radius = float(facts.radius[index])
        along = (surface.vertices - origin) @ axis
        low, high = origin + along.min() * axis, origin + along.max() * axis
        own = (
            _length("diameter", 2 * radius), _length("radius", radius),
            Figure("axis-length", float(np.ptp(along)), "length", 0.0, EXACT, spot(low), spot(high)), area,
        )  # fmt: skip
        words = "hole" if facts.hollow[index] else "shaft"
        line = Line((low + high) / 2, axis, 0.0, 0.0, "axis")
        return Thing(words, line=line, own=own, radius=radius, surface=surface, sag=chord)
    if kind == "cone":
        along = (surface.vertices - origin) @ axis
        line = Line(origin + along.mean() * axis, axis, 0.0, 0.0, "axis")
        half = float(facts.second[index])
        own = (
            Figure("cone-angle", 2 * half, "angle", 0.0, EXACT),
            Figure("side-to-axis", half, "angle", 0.0, EXACT),
            area,
        )
        return Thing("cone", line=line, own=own, surface=surface, sag=chord)
    if kind == "torus":
        own = (_length("ring-radius", float(facts.radius[index])), _length("radius", float(facts.second[index])), area)
        line = Line(origin, axis, 0.0, 0.0, "axis")
        return Thing("ring", line=line, own=own, radius=float(facts.second[index]), surface=surface, sag=chord)
    return Thing("free-form-face", own=(area,), surface=surface, sag=chord)


def edge_of_solid(facts: Facts, index: int, chord: float) -> Thing:
    """An edge by its number."""
    kind = CURVES[int(facts.curve[index])]
    points = facts.points[facts.starts[index] : facts.starts[index + 1]]
    segments = np.stack([points[:-1], points[1:]], axis=1)
    length = float(facts.length[index])
    if kind == "line":
        along = (points[-1] - points[0]) / np.linalg.norm(points[-1] - points[0])
        own = (Figure("length", length, "length", 0.0, EXACT, spot(points[0]), spot(points[-1])),)
        return Thing(
            "straight-edge", line=Line((points[0] + points[-1]) / 2, along, 0.0, 0.0, "edge"), own=own, segments=segments
        )
    if kind == "circle":
        return round_edge(points, facts.middle[index], facts.normal[index], float(facts.bend[index]), length, chord)
    return Thing("curved-edge", own=(_length("length", length),), segments=segments, sag=chord)


def round_edge(points: Points, centre: Floats, normal: Floats, radius: float, length: float, chord: float) -> Thing:
    """An exact circle or arc. points : (n, 3) along it"""
    whole = abs(length - 2 * np.pi * radius) <= 1e-9 * radius
    own: tuple[Figure, ...]
    first = _length("diameter", 2 * radius), _length("radius", radius)
    own = first if whole else (first[1], first[0])
    own += (_length("around" if whole else "arc-length", length),)
    if not whole:
        own += (_angle("arc-angle", float(np.degrees(length / radius))),)
    return Thing(
        "circle" if whole else "arc", point=Point(centre, 0.0, "centre"), line=Line(centre, normal, 0.0, 0.0, "axis"), own=own,
        radius=radius, segments=np.stack([points[:-1], points[1:]], axis=1), sag=chord,
    )  # fmt: skip


def _length(name: str, value: float) -> Figure:
    return Figure(name, value, "length", 0.0, EXACT)


def _angle(name: str, value: float) -> Figure:
    return Figure(name, value, "angle", 0.0, EXACT)


def _middle(surface: Mesh) -> Floats:
    areas = surface.face_areas()
    return np.asarray(areas @ surface.centroids() / max(float(areas.sum()), 1e-300))
