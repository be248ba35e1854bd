"""Smallest gaps between picked things, and how thick the wall is behind a place."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from gullyrise.core.geometry import Floats, Mesh, Points, Transform
from gullyrise.core.geometry.nearest import Gap, Surface, Tree
from gullyrise.core.geometry.spots import spot
from gullyrise.core.measuring.faceting import faceting
from gullyrise.core.measuring.figures import EXACT, Figure
from gullyrise.core.measuring.fits import grain
from gullyrise.core.measuring.things import Thing
from gullyrise.core.part import Body

if TYPE_CHECKING:
    from gullyrise.core.measuring.picks import Pick
    from gullyrise.core.measuring.subject import Subject

_PORTION = 500_000
_MOST_PAIRS = 20_000
"""Pairs of faces up to which the kernel is asked: it looks at each, and takes minutes for large assemblies of faces."""


def smallest(picks: tuple[Pick, ...], subjects: tuple[Subject, ...], things: tuple[Thing, ...]) -> tuple[Figure, ...]:
    """The smallest gap between two things with extent; empty where one has none."""
    if any(thing.surface is None and thing.segments is None and thing.point is None for thing in things):
        return ()
    if all(thing.surface is None and thing.segments is None for thing in things):
        return ()
    exact = _exact(picks, subjects, things)
    if exact is not None:
        gap, off, method = exact, 0.0, EXACT
    else:
        gap = _between(things[0], things[1])
        off = sum(_doubt(thing) for thing in things)
        method = "nearest triangles"
    if gap.distance <= 0:
        return (
            Figure(
                "smallest-gap", 0.0, "length", off, method, spot(gap.point_a), spot(gap.point_b), said="smallest gap: they meet"
            ),
        )
    return (Figure("smallest-gap", gap.distance, "length", off, method, spot(gap.point_a), spot(gap.point_b)),)


def _doubt(thing: Thing) -> float:
    if thing.surface is not None:
        sag = float(faceting(thing.surface).sag.max(initial=0.0))
        return max(sag, thing.sag) + grain(thing.surface.vertices)
    return thing.sag if thing.segments is not None else thing.point.off if thing.point is not None else 0.0


def _exact(picks: tuple[Pick, ...], subjects: tuple[Subject, ...], things: tuple[Thing, ...]) -> Gap | None:
    """Between exact surfaces, where both have them and the kernel finds it."""
    if any(thing.method != EXACT or subject.body.exact is None for thing, subject in zip(things, subjects, strict=True)):
        # The kernel takes seconds to come in, and has no say here.
        return None
    from gullyrise.core.solids.gaps import Piece, exact_gap

    faces = [1 if pick.what != "body" or subject.body.facts is None else len(subject.body.facts.surface)
             for pick, subject in zip(picks, subjects, strict=True)]  # fmt: skip
    if faces[0] * faces[1] > _MOST_PAIRS:
        return None
    pieces = []
    for pick, subject, thing in zip(picks, subjects, things, strict=True):
        if pick.what in ("body", "face", "edge"):
            kind = "whole" if pick.what == "body" else pick.what
            pieces.append(Piece(subject.body.exact, subject.place, kind, pick.index))
        elif thing.point is not None:
            pieces.append(Piece(None, Transform.moved(thing.point.place)))
        else:
            return None
    try:
        return exact_gap(pieces[0], pieces[1])
    except ValueError:
        return None


def _between(a: Thing, b: Thing) -> Gap:
    if a.surface is not None and b.surface is not None:
        return Tree(a.surface).gap_to(Tree(b.surface))
    if a.surface is not None:
        found = _between(b, a)
        return Gap(found.distance, found.point_b, found.point_a)
    if b.surface is not None:
        if a.segments is None:
            return _point_to_surface(_place(a)[None], b.surface)
        return _edge_to_surface(a.segments, b.surface)
    ends = [thing.segments if thing.segments is not None else np.repeat(_place(thing)[None, None], 2, axis=1) for thing in (a, b)]
    return _edges(ends[0], ends[1])


def _place(thing: Thing) -> Floats:
    assert thing.point is not None
    return thing.point.place


def _point_to_surface(points: Points, surface: Mesh) -> Gap:
    distance, _, place = Surface(surface).nearest(points)
    best = int(np.argmin(distance))
    return Gap(float(distance[best]), points[best], place[best])


def _edge_to_surface(segments: Points, surface: Mesh) -> Gap:
    """From the ends of the edge's pieces to the surface, from its pieces to the sides of the triangles, and where they pierce."""
    pierced = _pierced(segments, surface)
    if pierced is not None:
        return Gap(0.0, pierced, pierced)
    best = _point_to_surface(np.concatenate([segments[:, 0], segments[-1:, 1]]), surface)
    corners = surface.triangles()
    sides = np.stack([corners, np.roll(corners, -1, axis=1)], axis=2).reshape(-1, 2, 3)
    beside = _edges(segments, sides)
    return beside if beside.distance < best.distance else best


def _pierced(segments: Points, surface: Mesh) -> Floats | None:
    """A place where a piece goes through a triangle (Möller, Trumbore 1997)."""
    corner = surface.triangles()
    u, v = corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]
    for start, end in segments:
        run = end - start
        across = np.cross(run, v)
        volume = np.einsum("ij,ij->i", u, across)
        away = start - corner[:, 0]
        other = np.cross(away, u)
        with np.errstate(divide="ignore", invalid="ignore"):
            first = np.einsum("ij,ij->i", away, across) / volume
            second = other @ run / volume
            share = np.einsum("ij,ij->i", v, other) / volume
            met = (first >= 0) & (second >= 0) & (first + second <= 1) & (share >= 0) & (share <= 1)
        if met.any():
            return np.asarray(start + share[np.argmax(met)] * run)
    return None


def _edges(a: Points, b: Points) -> Gap:
    """The smallest gap between straight pieces (k, 2, 3) and (n, 2, 3).

    C. Ericson, Real-Time Collision Detection (2005), 5.1.9: closest points of two segments.
    """
    best = Gap(np.inf, a[0, 0], b[0, 0])
    step = max(_PORTION // max(len(b), 1), 1)
    for low in range(0, len(a), step):
        here = a[low : low + step, None]
        p, d1 = here[..., 0, :], here[..., 1, :] - here[..., 0, :]
        q, d2 = b[None, :, 0], (b[:, 1] - b[:, 0])[None]
        r = p - q
        aa, ee, ff = (d1 * d1).sum(-1), (d2 * d2).sum(-1), (d2 * r).sum(-1)
        cc, bb = (d1 * r).sum(-1), (d1 * d2).sum(-1)
        square = aa * ee - bb * bb
        with np.errstate(divide="ignore", invalid="ignore"):
            s = np.where(square > 1e-14 * aa * ee, np.clip((bb * ff - cc * ee) / square, 0, 1), 0.0)
            t = np.where(ee > 0, (bb * s + ff) / ee, 0.0)
            s = np.where(t < 0, np.clip(-cc / aa, 0, 1), np.where(t > 1, np.clip((bb - cc) / aa, 0, 1), s))
            s = np.where(aa > 0, s, 0.0)
        t = np.clip(t, 0, 1)
        t = np.where((aa <= 0) & (ee > 0), np.clip(ff / np.where(ee > 0, ee, 1.0), 0, 1), t)
        one, other = p + s[..., None] * d1, q + t[..., None] * d2
        away = np.linalg.norm(one - other, axis=-1)
        at = np.unravel_index(int(np.argmin(away)), away.shape)
        if away[at] < best.distance:
            best = Gap(float(away[at]), one[at], other[at])
    return best


def thickness_at(pick: Pick, body: Body, place: Floats) -> tuple[Figure, ...]:
    """How thick the wall is behind a place of a face, in the body's coordinates: straight through, and by the largest ball that
    touches there."""
    found = []
    straight = _through(pick, body, place)
    if straight is not None:
        found.append(straight)
    ball = _ball(body, place)
    if ball is not None:
        found.append(ball)
    return tuple(found)


def _through(pick: Pick, body: Body, place: Floats) -> Figure | None:
    name = "thickness-through"
    if body.exact is not None:
        from gullyrise.core.solids.gaps import exact_through

        exact = exact_through(body.exact, pick.index, place)
        if exact is not None:
            return Figure(name, exact.distance, "length", 0.0, EXACT, spot(exact.point), spot(exact.far))
    from gullyrise.core.geometry.rays import RayScene

    _, faces, places = Surface(body.mesh).nearest(place[None])
    normal = body.mesh.normals()[faces]
    hits = RayScene(body.mesh).through(places, normal)
    if not np.isfinite(hits.distance[0]):
        return None
    bends = faceting(body.mesh)
    here, there = int(faces[0]), int(hits.face[0])
    distance = float(hits.distance[0])
    # A facet leans by half its bend from the surface that it stands for, which makes the way through longer.
    lean = (bends.bend[here] + bends.bend[there]) / 2
    off = float(bends.sag[here] + bends.sag[there] + distance * (1 / np.cos(min(lean, 1.0)) - 1)) + 2 * grain(body.mesh.vertices)
    if body.chord_error:
        off = max(off, 2 * body.chord_error)
    far = places[0] - normal[0] * distance
    return Figure(name, distance, "length", off, "ray through the triangles", spot(places[0]), spot(far))


def _ball(body: Body, place: Floats) -> Figure | None:
    from gullyrise.core.geometry.ball import shrink_balls
    from gullyrise.core.geometry.rays import RayScene

    surface = Surface(body.mesh)
    _, faces, places = surface.nearest(place[None])
    normals = body.mesh.normals()[faces]
    balls = shrink_balls(RayScene(body.mesh), surface, places, normals, np.inf)
    if not balls.wall[0] or balls.capped[0] or not balls.diameter[0] > 0:
        return None
    bends = faceting(body.mesh)
    far = int(balls.contact_face[0])
    off = float(bends.sag[faces[0]] + bends.sag[far]) + 2 * grain(body.mesh.vertices) + 1e-3 * float(balls.diameter[0])
    off = max(off, 2 * (body.chord_error or 0.0))
    method = "largest ball in the triangles that touches there"
    return Figure("thickness-ball", float(balls.diameter[0]), "length", off, method, spot(places[0]), spot(balls.contact[0]))
