"""Taking the measure of what was picked: what each thing measures by itself, and what lies between them."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from gullyrise.core.errors import MeasureError
from gullyrise.core.geometry import Floats
from gullyrise.core.geometry.anatomy import Anatomy, anatomy_of
from gullyrise.core.geometry.nearest import Surface
from gullyrise.core.intake.materials import mass
from gullyrise.core.measuring import gaps
from gullyrise.core.measuring.between import angle_at, between, chain
from gullyrise.core.measuring.faceting import area_doubt, faceting, volume_doubt
from gullyrise.core.measuring.figures import EXACT, Figure
from gullyrise.core.measuring.fits import grain
from gullyrise.core.measuring.on_mesh import chain_of, edge_of_mesh, face_of_mesh
from gullyrise.core.measuring.on_solid import edge_of_solid, face_of_solid
from gullyrise.core.measuring.picks import Pick
from gullyrise.core.measuring.subject import Subject
from gullyrise.core.measuring.things import Point, Thing
from gullyrise.core.part import Body

_INWARD = 0.02


@dataclass(frozen=True, slots=True, eq=False)
class Taken:
    """things : one a pick, where they stand
    between : what lies between all of them, the foremost first
    """

    things: tuple[Thing, ...]
    between: tuple[Figure, ...]

    @property
    def figures(self) -> tuple[Figure, ...]:
        """What is told: of one thing its own, of more what lies between."""
        return self.between if len(self.things) > 1 else self.things[0].own


def take(picks: tuple[Pick, ...], subjects: tuple[Subject, ...], *, closely: bool = True) -> Taken:
    """The figures of picks, each on the subject of the same place in order. Raises MeasureError for a pick that is not there.

    One thing gives its own figures, two what lies between, three points an angle and a chain, more points a chain.
    closely : smallest gaps and the thickness behind places too, which take longer
    """
    things = tuple(thing_of(pick, subject, closely=closely) for pick, subject in zip(picks, subjects, strict=True))
    if len(things) == 1:
        return Taken(things, ())
    if len(things) == 2:
        return Taken(things, (*between(*things), *(gaps.smallest(picks, subjects, things) if closely else ())))
    points = [thing.point for thing in things if thing.point is not None]
    if len(points) < len(things):
        raise MeasureError("Three things and more are measured as points; pick corners, middles, centres or places on faces.")
    found = [chain(points)]
    if len(points) == 3:
        angle = angle_at(*points)
        found = [*([angle] if angle is not None else []), *found]
    return Taken(things, tuple(found))


def thing_of(pick: Pick, subject: Subject, *, closely: bool = True) -> Thing:
    """What was picked, where it stands."""
    own = _whole(subject) if pick.what == "body" else _of(pick, subject.body)
    if closely and pick.what in ("face", "spot"):
        own = _with_wall(own, pick, subject.body)
    if pick.what in ("face", "spot", "body") or own.point is None:
        return own.placed(subject.place)
    placed = own.placed(subject.place)
    # A place's own figures are where it stands, in the machine's coordinates.
    if pick.what in ("corner", "middle", "centre") and placed.point is not None:
        return replace(placed, own=(*_coordinates(placed.point), *placed.own))
    return placed


def _coordinates(point: Point) -> tuple[Figure, ...]:
    method = EXACT if point.off == 0 else "a place"
    return tuple(Figure(f"at-{axis}", float(point.place[k]), "length", point.off, method) for k, axis in enumerate("xyz"))


def _of(pick: Pick, body: Body) -> Thing:
    place = np.array(pick.spot)
    if pick.what in ("face", "axis", "spot"):
        thing = _face(pick.index, body, place)
        if pick.what == "face":
            return thing
        if pick.what == "spot":
            # A place on a face, put onto its exact or fitted surface where that is flat or round.
            return _place_on(thing, seated(pick, body))
        if pick.what == "axis":
            if thing.line is None:
                raise MeasureError("That face has no axis; pick a round one.")
            return Thing("axis-of", thing.method, line=thing.line, own=thing.own[:3], radius=thing.radius, of=thing.kind)
    if pick.what == "corner":
        corners = _anatomy(body).corners
        _known(pick.index, len(corners), "corner")
        off = 0.0 if body.facts is not None else grain(body.mesh.vertices)
        method = EXACT if body.facts is not None else "a corner of the triangles"
        return Thing("corner", method, point=Point(corners[pick.index], off, "corner"))
    edge = _edge(pick.index, body, place)
    if pick.what == "edge":
        return edge
    if pick.what == "centre":
        if edge.point is None:
            raise MeasureError("That edge has no centre; pick a round one.")
        return Thing("circle-centre", edge.method, edge.point, edge.line, own=edge.own[:2], radius=edge.radius)
    return _middle(edge)


def _known(index: int, count: int, what: str) -> None:
    if index >= count:
        raise MeasureError(f"The part has changed: there is no {what} of number {index + 1} any more; pick it again.")


def _anatomy(body: Body) -> Anatomy:
    return body.anatomy if body.anatomy is not None else anatomy_of(body.mesh)


def _face(index: int, body: Body, place: Floats) -> Thing:
    anatomy = _anatomy(body)
    patch = np.flatnonzero(anatomy.face_of == index)
    _known(0 if len(patch) else 1, 1, "face")
    if body.facts is not None:
        return face_of_solid(body.facts, index, body.mesh.only(patch), body.chord_error or 0.0)
    return face_of_mesh(body.mesh, patch, place)


def _edge(index: int, body: Body, place: Floats) -> Thing:
    anatomy = _anatomy(body)
    segments = anatomy.segments[anatomy.edge_of == index]
    _known(0 if len(segments) else 1, 1, "edge")
    if body.facts is not None:
        return edge_of_solid(body.facts, index, body.chord_error or 0.0)
    points, closes = chain_of(segments)
    return edge_of_mesh(points, place, closes=closes)


def _middle(edge: Thing) -> Thing:
    """The middle of an edge, by length."""
    if edge.segments is None:
        raise MeasureError("That edge has no middle; pick another.")
    along = edge.segments[:, 1] - edge.segments[:, 0]
    length = np.linalg.norm(along, axis=1)
    half = float(length.sum()) / 2
    passed = np.cumsum(length)
    at = int(np.searchsorted(passed, half))
    share = (half - (passed[at] - length[at])) / max(length[at], 1e-300)
    place = edge.segments[at, 0] + share * along[at]
    off = edge.sag if edge.line is None or edge.line.kind != "edge" else edge.line.off
    if edge.line is not None and edge.line.kind == "axis" and edge.radius is not None:
        # On the arc itself, not on its chord.
        out = place - edge.line.origin
        out -= (out @ edge.line.direction) * edge.line.direction
        place = edge.line.origin + out / max(float(np.linalg.norm(out)), 1e-300) * edge.radius
    return Thing("edge-middle", edge.method, point=Point(place, off, "middle"))


def _place_on(face: Thing, place: Floats) -> Thing:
    off = face.sag
    if face.plane is not None:
        place = place - face.plane.normal * float((place - face.plane.origin) @ face.plane.normal)
        off = face.plane.off
    elif face.radius is not None and face.kind in ("hole", "shaft", "ball"):
        middle = face.point.place if face.point is not None else None
        if face.line is not None:
            middle = face.line.origin + ((place - face.line.origin) @ face.line.direction) * face.line.direction
        if middle is not None:
            out = place - middle
            place = middle + out / max(float(np.linalg.norm(out)), 1e-300) * face.radius
    method = face.method if face.method == EXACT else "a place on the triangles"
    return Thing("place-on", method, point=Point(place, off, "place"), of=face.kind)


def seated(pick: Pick, body: Body) -> Floats:
    """(3,) where a pick on a face lies on that face's own triangles: a part that was given another shape since leaves the place
    that was pointed at in the air, or on another face."""
    place = np.array(pick.spot)
    patch = body.mesh.only(np.flatnonzero(_anatomy(body).face_of == pick.index))
    away, triangle, nearest = Surface(patch).nearest(place[None])
    if away[0] <= 2 * (body.chord_error or 0.0) + 1e-4 * patch.box.diagonal:
        return place
    # A border belongs to two faces; a little way in, the face has its own wall behind it.
    middle = patch.vertices[patch.faces[triangle[0]]].mean(axis=0)
    return np.asarray(nearest[0] + _INWARD * (middle - nearest[0]))


def _with_wall(face: Thing, pick: Pick, body: Body) -> Thing:
    """A face tells the thickness behind the place where it was pointed at as well."""
    place = face.point.place if pick.what == "spot" and face.point is not None else seated(pick, body)
    return replace(face, own=(*face.own, *gaps.thickness_at(pick, body, place)))


def _whole(subject: Subject) -> Thing:
    """A body: volume, mass, surface and where its middle is."""
    body = subject.body
    found = faceting(body.mesh) if body.volume is None else None
    volume, doubt, method = body.volume, 0.0, EXACT
    if volume is None and found is not None:
        from gullyrise.core.geometry.topology import closed, edges_of

        if closed(edges_of(body.mesh)):
            volume, doubt, method = abs(body.mesh.signed_volume), volume_doubt(body.mesh, found), "triangles"
    area = body.area if body.area is not None else body.mesh.area
    area_off = 0.0 if found is None else area_doubt(body.mesh, found, np.arange(len(body.mesh.faces)))
    own = []
    if volume is not None:
        own.append(Figure("volume", volume, "volume", doubt, method))
    made_of = subject.material
    if volume is not None and made_of is not None:
        grams = mass(volume, made_of)
        off = grams * made_of.spread + mass(doubt, made_of)
        own.append(Figure("mass", grams, "mass", off, f"{made_of.name}, {made_of.density:g} g/cm³, solid"))
    own.append(Figure("surface", area, "area", area_off, EXACT if body.area is not None else "triangles"))
    sag = body.chord_error if body.chord_error is not None else float(found.sag.max(initial=0.0)) if found is not None else 0.0
    return Thing("body", EXACT if body.facts is not None else "triangles", own=tuple(own), surface=body.mesh, sag=sag)


def takes_longer(picks: tuple[Pick, ...]) -> bool:
    """Whether more can be found of these than is known at once: smallest gaps, and thickness."""
    if len(picks) == 1:
        return picks[0].what in ("face", "spot")
    return len(picks) == 2 and any(pick.what in ("face", "edge", "body") for pick in picks)
