"""Places of a body that a pointer snaps to besides its faces, edges and corners: middles of edges, centres of circles, axes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.geometry import Floats, Ints, Mesh, Plane, Points
from gullyrise.core.geometry.anatomy import Anatomy
from gullyrise.core.geometry.arrays import frozen
from gullyrise.core.geometry.facts import SURFACES, Facts
from gullyrise.core.geometry.outline import circle_of, rounded
from gullyrise.core.measuring.fits import fit_plane, grain
from gullyrise.core.measuring.on_mesh import chain_of

_MOST_EDGES = 1_500
_WITHIN = 1e-3
_ROUND = ("cylinder", "cone", "torus")


@dataclass(frozen=True, slots=True, eq=False)
class Marks:
    """All mm, in the body's coordinates.

    middles, middle_edge : (m, 3), (m,) middles of edges, and which edge
    centres, centre_edge, centre_near : (c, 3), (c,), (c, 3) middles of circles and arcs, the edge, and a place on it
    axes, axis_face : (a, 2, 3), (a,) axes of round faces from end to end, and which face
    """

    middles: Points
    middle_edge: Ints
    centres: Points
    centre_edge: Ints
    centre_near: Points
    axes: Points
    axis_face: Ints

    def __post_init__(self) -> None:
        for name in self.__slots__:
            value = getattr(self, name)
            object.__setattr__(self, name, frozen(value, value.dtype))


def marks_of(mesh: Mesh, anatomy: Anatomy, facts: Facts | None) -> Marks:
    """facts : of a solid; None for a mesh, whose edges are looked at one by one. A body of very many edges has no marks."""
    edges = np.unique(anatomy.edge_of)
    if len(edges) > _MOST_EDGES:
        edges = edges[:0]
    order = np.argsort(anatomy.edge_of, kind="stable")
    starts = np.searchsorted(anatomy.edge_of[order], edges)
    ends = np.searchsorted(anatomy.edge_of[order], edges, side="right")
    middles: list[Floats] = []
    found: list[tuple[int, Floats, Floats]] = []
    for edge, start, end in zip(edges.tolist(), starts, ends, strict=True):
        segments = anatomy.segments[order[start:end]]
        middles.append(_middle(segments))
        if facts is None:
            found += [(edge, centre, near) for centre, near in _centres(segments)]
        elif np.isfinite(facts.bend[edge]):
            found.append((edge, facts.middle[edge], segments[0, 0]))
    axes = _axes(mesh, anatomy, facts) if facts is not None else []
    return Marks(
        np.array(middles).reshape(-1, 3), edges.astype(np.int64),
        np.array([centre for _, centre, _ in found]).reshape(-1, 3), np.array([edge for edge, _, _ in found], dtype=np.int64),
        np.array([near for _, _, near in found]).reshape(-1, 3),
        np.array([ends for _, ends in axes]).reshape(-1, 2, 3), np.array([face for face, _ in axes], dtype=np.int64),
    )  # fmt: skip


def _middle(segments: Points) -> Floats:
    points, closes = chain_of(segments)
    ways = np.linalg.norm(np.diff(np.append(points, points[:1], axis=0) if closes else points, axis=0), axis=1)
    half, passed = ways.sum() / 2, np.cumsum(ways)
    at = min(int(np.searchsorted(passed, half)), len(ways) - 1)
    share = (half - (passed[at] - ways[at])) / max(float(ways[at]), 1e-300)
    return np.asarray(points[at] + share * (points[(at + 1) % len(points)] - points[at]))


def _centres(segments: Points) -> list[tuple[Floats, Floats]]:
    """(centre, a place on it) of the arcs in an edge of a mesh."""
    if len(segments) < 4:
        return []
    chain, closes = chain_of(segments)
    plane = fit_plane(chain)
    within = _WITHIN * float(np.abs(chain - chain.mean(axis=0)).max()) + 2 * grain(chain)
    if plane is None or plane.residual > within:
        return []
    u, v = Plane(plane.middle, plane.normal).frame()
    flat = np.column_stack([(chain - plane.middle) @ u, (chain - plane.middle) @ v])
    outline = rounded(flat, closed=closes, within=within)
    out: list[tuple[Floats, Floats]] = []
    for a, b, bulge in zip(*outline.ways(), strict=True):
        if not bulge:
            continue
        centre, _ = circle_of(a, b, float(bulge))
        place = plane.middle + centre[0] * u + centre[1] * v
        if not any(np.linalg.norm(place - other) <= within for other, _ in out):
            out.append((place, plane.middle + a[0] * u + a[1] * v))
    return out


def _axes(mesh: Mesh, anatomy: Anatomy, facts: Facts) -> list[tuple[int, Floats]]:
    """(face, both ends of its axis) of the round faces of a solid."""
    round_ones = [face for face, kind in enumerate(facts.surface.tolist()) if SURFACES[kind] in _ROUND]
    if len(round_ones) > _MOST_EDGES:
        return []
    wanted = np.isin(anatomy.face_of, round_ones)
    faces, corners = anatomy.face_of[wanted], mesh.faces[wanted]
    out = []
    for face in round_ones:
        points = mesh.vertices[corners[faces == face].reshape(-1)]
        if len(points):
            along = (points - facts.origin[face]) @ facts.axis[face]
            out.append((face, facts.origin[face] + np.array([[along.min()], [along.max()]]) * facts.axis[face]))
    return out
