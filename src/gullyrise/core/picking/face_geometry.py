"""What a chosen face is in the room: its plane or its axis, exact from a solid, of its triangles from a mesh."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np

from gullyrise.core.geometry import Floats, Mesh, Transform
from gullyrise.core.geometry.facts import SURFACES
from gullyrise.core.job import PlacedPart
from gullyrise.core.job.copies import Copies
from gullyrise.core.picking.feature import Feature
from gullyrise.core.picking.prepared import Prepared

_FLAT = 0.02
_AXES = ("cylinder", "cone", "torus", "sphere")


class Bodies(Protocol):
    """Every copy of every body of a job, and of a part what pointing wants, None where no worker has made it yet."""

    def copies(self) -> Copies:
        """By key."""

    def prepared_of(self, placed: PlacedPart) -> tuple[Prepared, ...] | None:
        """One a body, None until a worker has made them."""


@dataclass(frozen=True, slots=True, eq=False)
class Line:
    """A place and a direction of length one, on the machine."""

    point: Floats
    direction: Floats


def triangles_of(model: Bodies, feature: Feature) -> Mesh | None:
    """The triangles of a chosen face where they stand; None while the body is not ready."""
    found = _face_of(model, feature)
    return None if found is None else found[0].only(found[2]).placed(found[1])


def _face_of(model: Bodies, feature: Feature) -> tuple[Mesh, Transform, np.ndarray] | None:
    """(body's mesh, its placement on the machine, which of its triangles are the face's); None while the body is not ready."""
    copies = model.copies()
    if feature.key not in copies:
        return None
    placed, body, place = copies[feature.key]
    ready = model.prepared_of(placed)
    if ready is None:
        return None
    anatomy = ready[placed.part.bodies.index(body)].anatomy
    return body.mesh, place.then(placed.placement), anatomy.face_of == feature.index


def place_of(model: Bodies, feature: Feature) -> Floats | None:
    """Where a chosen corner stands, (3,) mm on the machine; None for anything else."""
    found = model.copies().get(feature.key)
    ready = model.prepared_of(found[0]) if found is not None else None
    if feature.kind != "vertex" or found is None or ready is None:
        return None
    placed, body, place = found
    corner = ready[placed.part.bodies.index(body)].anatomy.corners[feature.index]
    return np.asarray(place.then(placed.placement).apply(corner[None])[0])


def placed_axis(axis: Any, whole: Transform) -> Line | None:
    """A fitted axis where a body stands; None for none."""
    if axis is None:
        return None
    direction = whole.matrix[:3, :3] @ axis.direction
    return Line(whole.apply(axis.point[None])[0], direction / np.linalg.norm(direction))


def plane_of(model: Bodies, feature: Feature) -> Line | None:
    """Middle and outward normal of a flat face; None for one that is not flat."""
    mesh = triangles_of(model, feature)
    if mesh is None or not len(mesh.faces):
        return None
    areas, normals = mesh.face_areas(), mesh.normals()
    mean = areas @ normals
    length = float(np.linalg.norm(mean))
    if length <= 0:
        return None
    normal = mean / length
    if float((np.linalg.norm(normals - normal, axis=1) * (areas > 0)).max()) > _FLAT:
        return None
    middle = areas @ mesh.centroids() / areas.sum()
    return Line(middle, normal)


def exact_axis_of(model: Bodies, feature: Feature) -> Line | None:
    """The axis of a round face of a solid; None for any other."""
    copies = model.copies()
    if feature.key not in copies:
        return None
    placed, body, place = copies[feature.key]
    facts = body.facts
    if facts is None or SURFACES[int(facts.surface[feature.index])] not in _AXES:
        return None
    whole = place.then(placed.placement)
    direction = facts.axis[feature.index]
    if not np.isfinite(direction).all():
        return None
    turned = whole.matrix[:3, :3] @ direction
    return Line(whole.apply(facts.origin[feature.index][None])[0], turned / np.linalg.norm(turned))


def body_placed(model: Bodies, feature: Feature) -> tuple[Mesh, Transform, int] | None:
    """(body's mesh, its placement on the machine, one triangle of the chosen face)."""
    found = _face_of(model, feature)
    return None if found is None else (found[0], found[1], int(np.argmax(found[2])))
