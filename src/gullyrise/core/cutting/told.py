"""A section with what is not known of it: from the exact surfaces of solids, from the triangles of meshes."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from gullyrise.core.cutting.section import Loop, Section, cut, heights, segments
from gullyrise.core.geometry import Floats, Mesh, Plane, Transform
from gullyrise.core.geometry.facets import SMOOTH, facet_error
from gullyrise.core.geometry.topology import edges_of
from gullyrise.core.part import Body, Part
from gullyrise.core.progress import Progress, silent

EXACT, TRIANGLES, BOTH = "exact surfaces", "triangles", "exact surfaces and triangles"
_SINGLE = float(np.finfo(np.float32).eps)
_KERNEL = 1e-7
_STEEPEST = 0.05


@dataclass(frozen=True, slots=True, eq=False)
class Told:
    """area_off, perimeter_off : mm2 and mm by which the section's may be wrong
    method : what they come from
    sides : mm2 just behind the plane and just before it, where faces lie in it
    note : what a careful reader should know
    """

    section: Section
    area_off: float
    perimeter_off: float
    method: str
    sides: tuple[float, float] | None = None
    note: str = ""


def section_told(part: Part, plane: Plane, progress: Progress = silent) -> Told:
    """The section of a part by a plane. Solids are cut by their kernel; one that it cannot cut is cut by its triangles."""
    found: list[Told] = []
    stands = [(body, place) for body in part.bodies for place in body.placements]
    for done, (body, place) in enumerate(stands):
        progress("cutting", done, len(stands))
        one = _of_solid(body, place, plane) if body.exact is not None else None
        found.append(one if one is not None else _of_mesh(body.mesh.placed(place), plane, body.chord_error))
    return _together(found, plane)


def _of_solid(body: Body, place: Transform, plane: Plane) -> Told | None:
    from gullyrise.core.solids.sections import exact_section

    height = plane.heights(place.apply(body.mesh.vertices))
    beside = 2 * (body.chord_error or 0.0) + 1e-6
    if height.min() > beside or height.max() < -beside:
        return Told(Section(plane, (), 0.0, 0.0, None, 0.0), 0.0, 0.0, EXACT)
    assert body.exact is not None
    try:
        flat = exact_section(body.exact, place, plane)
        before = (
            exact_section(body.exact, place, Plane(plane.point + _ASIDE * plane.normal, plane.normal)) if flat.beside else None
        )
    except (ValueError, RuntimeError):
        return None
    u, v = plane.frame()
    loops = []
    for outline in flat.outlines:
        places = outline.drawn(flat.sag)
        loops.append(Loop(plane.point + places[:, :1] * u + places[:, 1:] * v, outline.closed, outline.area))
    middle = None if flat.centroid is None else plane.point + flat.centroid[0] * u + flat.centroid[1] * v
    section = Section(plane, tuple(loops), flat.area, flat.perimeter, middle, 0.0, flat.second)
    # The kernel's curves are good to its tolerance, along all of their length.
    off = _KERNEL * flat.perimeter + 1e-9 * flat.area
    sides = None if before is None else (flat.area, before.area)
    return Told(section, off, _KERNEL * max(len(loops), 1) + 1e-7 * flat.perimeter, EXACT, sides)


_ASIDE = 2e-6


def _of_mesh(mesh: Mesh, plane: Plane, chord: float | None) -> Told:
    reach = max(float(np.abs(mesh.vertices).max(initial=0.0)), float(np.abs(plane.point).max()))
    grain = 4 * _SINGLE * reach
    height = plane.heights(mesh.vertices)
    level = (np.abs(height) <= grain)[mesh.faces].all(axis=1)
    sides = None
    moved = plane
    if level.any() and float(mesh.face_areas()[level].sum()) > grain * reach:
        # Corners of such a face lie on either side by chance: only the areas beside it mean something.
        moved, beyond = (Plane(plane.point + step * 2 * grain * plane.normal, plane.normal) for step in (-1, 1))
        sides = (cut([mesh], moved).area, cut([mesh], beyond).area)
    section = replace(cut([mesh], moved), plane=plane)
    area_off, perimeter_off = _doubt(mesh, moved, section, chord, grain / 4)
    return Told(section, area_off, perimeter_off, TRIANGLES, sides)


def _doubt(mesh: Mesh, plane: Plane, section: Section, chord: float | None, grain: float) -> tuple[float, float]:
    """(mm2, mm) that facets and the rounding of coordinates may hide.

    Notes: an outline shifts by what its facet may be off, the more the flatter the facet lies to the plane.
    """
    above = heights(mesh.vertices, plane) >= 0
    count = above[mesh.faces].sum(axis=1)
    crossing = np.flatnonzero((count == 1) | (count == 2))
    if not len(crossing):
        return 0.0, 0.0
    rise = facet_error(mesh, edges_of(mesh))[crossing]
    if chord is not None:
        rise = np.minimum(rise, 1.2 * chord)
    pieces, _ = segments(mesh, plane, crossing)
    length = np.linalg.norm(pieces[:, 1] - pieces[:, 0], axis=1)
    steep = np.maximum(np.sqrt(np.maximum(1 - (mesh.normals()[crossing] @ plane.normal) ** 2, 0.0)), _STEEPEST)
    shift = rise / steep
    area_off = float((length * (shift + grain / steep)).sum())
    longer = sum(_arcs_over_chords(loop) for loop in section.loops)
    return area_off, longer + 2 * grain * max(len(section.loops), 1)


def _arcs_over_chords(loop: Loop) -> float:
    """mm by which an outline would be longer if its gentle bends were those of arcs: a chord that turns by t lacks t^2 / 24."""
    ahead = np.roll(loop.points, -1, axis=0) - loop.points if loop.closed else np.diff(loop.points, axis=0)
    length = np.linalg.norm(ahead, axis=1)
    way = ahead / np.maximum(length, 1e-300)[:, None]
    turn = np.arccos(np.clip(np.einsum("ij,ij->i", way, np.roll(way, -1, axis=0)), -1, 1))
    turn[turn > SMOOTH] = 0.0
    most = np.maximum(turn, np.roll(turn, 1))
    return float((1.5 * length * most**2 / 24).sum())


def _together(found: list[Told], plane: Plane) -> Told:
    cut_ones = [one for one in found if one.section.loops]
    area, perimeter = sum(one.section.area for one in found), sum(one.section.perimeter for one in found)
    loops = tuple(replace(loop, body=number) for number, one in enumerate(found) for loop in one.section.loops)
    weighed = [(one.section.area, one.section.centroid) for one in found if one.section.centroid is not None]
    middle: Floats | None = None
    if weighed and area > 0:
        middle = np.sum([share * place for share, place in weighed], axis=0) / sum(share for share, _ in weighed)
    section = Section(plane, loops, area, perimeter, middle, sum(one.section.open_length for one in found))
    methods = {one.method for one in cut_ones or found}
    method = methods.pop() if len(methods) == 1 else BOTH
    sides = None
    note = ""
    if any(one.sides is not None for one in found):
        sides = (
            sum(one.sides[0] if one.sides else one.section.area for one in found),
            sum(one.sides[1] if one.sides else one.section.area for one in found),
        )
        note = (
            f"Faces lie in this plane: {sides[0]:.6g} mm2 are cut just behind it, {sides[1]:.6g} mm2 just before it; "
            "the figures are those behind."
        )
    return Told(section, sum(one.area_off for one in found), sum(one.perimeter_off for one in found), method, sides, note)
