"""A part cut in two along a plane, into closed bodies."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, Literal

import numpy as np

from gullyrise.core.cutting.fill import Fill, filled
from gullyrise.core.cutting.pegs import PegWish, placed_pegs, rod
from gullyrise.core.errors import SplitError
from gullyrise.core.geometry import Mesh, Plane, Transform
from gullyrise.core.geometry.blocks import blocks_of
from gullyrise.core.geometry.booleans import mesh_of, solid_of
from gullyrise.core.geometry.pegs import Pegs
from gullyrise.core.geometry.topology import closed, edges_of
from gullyrise.core.part import Body, Part, renamed

_SQUARE = 0.94
"""Cosine to an axis from which on a side has the name of that axis: within 20 degrees of it."""
Side = Literal["front", "back"]
"""The side of a plane that its normal points to, and the other."""


def half_of(part: Part, plane: Plane, side: Side, pegs: Pegs | None = None) -> Part:
    """What of a part lies on one side of a plane, in its own coordinates; pegs stand on the back half and their holes are in the
    front one.

    Bodies that the plane crosses are cut and closed: of solids the exact shape, of meshes the triangles. Raises SplitError
    where a body that is crossed is not closed, or where nothing is left.
    """
    bodies: list[Body] = []
    for body in part.bodies:
        for copy, place in enumerate(body.placements):
            heights = plane.heights(body.mesh.placed(place).vertices)
            ahead = side == "front"
            if heights.min() >= -_touching(part) or heights.max() <= _touching(part):
                # It lies on one side as a whole.
                if (heights.max() > _touching(part)) == ahead:
                    bodies.append(_as_it_is(body, copy, place))
                continue
            bodies += _cut_body(body, copy, place, plane, side, pegs)
    if not bodies:
        raise SplitError(f"Nothing of {part.name} lies on that side of the cut; move it into the part.")
    return replace(part, name=f"{part.name} {half_words(plane)[0 if side == 'front' else 1]}", bodies=tuple(renamed(bodies)))


def half_words(plane: Plane) -> tuple[str, str]:
    """What the halves on both sides of a plane are called, that to which its normal points first: by the axis of the file that it
    is square to, and by number where it leans."""
    axis = int(np.argmax(np.abs(plane.normal)))
    if abs(float(plane.normal[axis])) < _SQUARE:
        return ("half 1", "half 2")
    words = (("right", "left"), ("back", "front"), ("upper", "lower"))[axis]
    return words if plane.normal[axis] > 0 else (words[1], words[0])


def pegs_for(part: Part, plane: Plane, wish: PegWish) -> Pegs:
    """Places for pegs on the cut faces of a part. Raises SplitError where they have no room."""
    solids: list[Any] = []
    faces: list[Fill] = []
    for _, body, mesh in part.copies():
        face = filled(mesh, blocks_of(mesh), plane)
        if face is not None:
            solids.append(_solid(body, mesh))
            faces.append(face)
    return placed_pegs(solids, faces, plane, wish)


def _touching(part: Part) -> float:
    return 1e-9 * max(part.box.diagonal, 1.0)


def _as_it_is(body: Body, copy: int, place: Transform) -> Body:
    boxes = None if body.exact_boxes is None else (body.exact_boxes[copy],)
    return replace(body, placements=(place,), trails=(body.trail(copy),) if body.trails else (), exact_boxes=boxes)


def _solid(body: Body, mesh: Mesh) -> Any:
    found = solid_of(mesh) if closed(edges_of(mesh)) else None
    if found is None:
        raise SplitError(f"{body.name} is not closed, so its halves would not be; repair its holes first.")
    return found


def _cut_body(body: Body, copy: int, place: Transform, plane: Plane, side: Side, pegs: Pegs | None) -> list[Body]:
    trails = (body.trail(copy),) if body.trails else ()
    if body.exact is not None:
        from gullyrise.core.solids.splitting import half_of_solid

        made = half_of_solid(body.name, body.exact, place, plane, side, pegs)
        return [replace(one, trails=trails, colour=body.colour) for one in made]
    half = _half_mesh(_solid(body, body.mesh.placed(place)), plane, side, pegs)
    return [
        Body(body.name, "mesh", mesh_of(piece), (Transform.identity(),), trails=trails, colour=body.colour)
        for piece in half.decompose()
        if float(piece.volume()) > 0
    ]


def _half_mesh(solid: Any, plane: Plane, side: Side, pegs: Pegs | None) -> Any:
    front, back = solid.split_by_plane(tuple(plane.normal), float(plane.point @ plane.normal))
    half = front if side == "front" else back
    for foot in pegs.feet if pegs is not None else ():
        if pegs is None:
            break
        where = np.array(foot)
        if side == "front":
            half = half - rod(where, plane.normal, -pegs.root, pegs.depth, pegs.hole_diameter)
        else:
            grown = rod(where, plane.normal, -pegs.root, pegs.length, pegs.diameter)
            # Only of the body in which it is rooted.
            if float((half ^ grown).volume()) > 0:
                half = half + grown
    return half
