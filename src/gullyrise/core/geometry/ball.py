"""Wall thickness at surface points: the largest ball inside that touches there.

Source: J. Ma, S. W. Bae, S. Choi, "3D medial axis point approximation using nearest neighbors and the normal field",
The Visual Computer 28 (2012): the shrinking ball; here against exact nearest surface points in place of nearest samples,
which read falsely thin near edges.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from gullyrise.core.geometry.arrays import Bools, Floats, Ints, Points, unit_rows
from gullyrise.core.geometry.nearest import Surface
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.sampling import Samples

# cos 110 degrees: contacts opposed by less are a corner's. 120 would lose wedges of 60 degrees, which meet it exactly.
OPPOSED = -0.34
# Contacts this near the sample's own direction are neighbouring facets of one curved surface.
OWN_SIDE = 0.5
_BARELY = 0.02
_MOST_STEPS = 40
_RIGHT_BEHIND = 1.05
_NOT_FAR_BEHIND = 3.0
_ROUGH = 0.03
_STEP = 0.01


@dataclass(frozen=True, slots=True, eq=False)
class Balls:
    """Readings at n samples.

    diameter : (n,) of the ball, mm; at the cap where the ball never met anything under it
    through  : (n,) straight distance to the far side, mm; inf where nothing is hit
    wall     : (n,) the contacts are opposed: a wall; else the ball is held by an edge or corner
    capped   : (n,) the diameter is a lower bound
    contact  : (n, 3) where the ball meets the other side
    contact_face : (n,)
    """

    diameter: Floats
    through: Floats
    wall: Bools
    capped: Bools
    contact: Points
    contact_face: Ints


class Crowd:
    """Surface samples that stand in for the surface where a ball is large against their spacing.

    Notes: a nearest-point tree visits every face when a centre is as far from all of them, as in the middle of a sphere,
    and takes milliseconds a question there. Asking only for what lies deeper in the ball than three hundredths of its
    radius has no such worst case. Against samples spaced h a ball of radius r errs by h^2 / 2r besides.
    """

    def __init__(self, samples: Samples, spacing: float) -> None:
        self._samples = samples
        self._tree = cKDTree(samples.points)
        self.large = 20 * spacing

    def deeper(self, centre: Points, radius: Floats) -> tuple[Floats, Ints, Points]:
        """Distance (n,), face (n,), place (n, 3) of the sample nearest to each centre, inf where none is deep inside."""
        distance = np.full(len(centre), np.inf)
        index = np.zeros(len(centre), dtype=np.int64)
        # The tree takes one bound for all questions of a call, so like radii are asked together.
        step = np.floor(np.log(radius) / _STEP).astype(np.int64)
        for label in np.unique(step):
            here = np.flatnonzero(step == label)
            bound = float(np.exp(label * _STEP)) * (1 - _ROUGH)
            distance[here], index[here] = self._tree.query(centre[here], distance_upper_bound=bound)
        index[~np.isfinite(distance)] = 0
        return distance, self._samples.face[index], self._samples.points[index]


def _nearest(surface: Surface, crowd: Crowd | None, centre: Points, radius: Floats) -> tuple[Floats, Ints, Points]:
    if crowd is None or not (large := radius > crowd.large).any():
        return surface.nearest(centre)
    distance, face, place = np.empty(len(centre)), np.empty(len(centre), dtype=np.int64), np.empty_like(centre)
    distance[large], face[large], place[large] = crowd.deeper(centre[large], radius[large])
    distance[~large], face[~large], place[~large] = surface.nearest(centre[~large])
    return distance, face, place


def shrink_balls(
    scene: RayScene,
    surface: Surface,
    points: Points,
    normals: Points,
    cap: float,
    tolerance: float = 1e-3,
    crowd: Crowd | None = None,
) -> Balls:
    """Balls at surface points.

    points, normals : (n, 3) mm and outward unit normals
    cap       : largest diameter of interest, mm, or inf; what keeps thick bodies fast
    tolerance : relative; the ball stands when nothing lies deeper inside it than this
    crowd     : for balls large against its spacing, in place of the surface

    Notes: seeded with half the straight distance, then r = |p - q|^2 / (2 n.(p - q)) for the surface point q nearest to
    the centre, one to two nearest questions a sample. Only the last contact is judged: judging on the way reports false
    thin places at edges.
    """
    hits = scene.through(points, normals)
    straight = hits.distance
    reach = np.where(np.isfinite(straight), straight, cap if np.isfinite(cap) else 0.0)
    radius = np.minimum(reach, cap) / 2
    capped = reach > cap * (1 + 1e-9)
    capped |= ~np.isfinite(straight)
    contact = points - normals * (2 * radius)[:, None]
    contact_face = np.where(capped, -1, hits.face)
    cosine = np.full(len(points), -1.0)
    active = np.flatnonzero(radius > 0)
    for _ in range(_MOST_STEPS):
        if not len(active):
            break
        centre = points[active] - normals[active] * radius[active, None]
        distance, face, place = _nearest(surface, crowd, centre, radius[active])
        r = radius[active]
        toward = place - centre
        cos_here = np.einsum("ij,ij->i", toward, normals[active]) / np.maximum(distance, 1e-300)
        limit = np.where(cos_here > OWN_SIDE, 1 - _BARELY, 1 - tolerance)
        deeper = distance < r * limit
        active, face, place, cos_here = active[deeper], face[deeper], place[deeper], cos_here[deeper]
        away = points[active] - place
        lean = 2 * np.einsum("ij,ij->i", away, normals[active])
        with np.errstate(divide="ignore", invalid="ignore"):
            smaller = np.einsum("ij,ij->i", away, away) / lean
        sound = (lean > 0) & (smaller < radius[active]) & (smaller > 0)
        active, face, place, smaller = active[sound], face[sound], place[sound], smaller[sound]
        radius[active] = smaller
        capped[active] = False
        contact[active] = place
        contact_face[active] = face
        centre = points[active] - normals[active] * smaller[:, None]
        cosine[active] = np.einsum("ij,ij->i", place - centre, normals[active]) / smaller
    wall = (cosine < OPPOSED) & (radius > 0)
    # In a rod, a cone or a square bar the ball meets everything at once, and which contact came last is chance: where the
    # far side stands right behind the ball, that contact counts.
    asked = np.flatnonzero(~wall & ~capped & (radius > 0) & (straight <= _NOT_FAR_BEHIND * radius))
    r = radius[asked]
    centre = points[asked] - normals[asked] * r[:, None]
    _, face, place = surface.nearest(centre - 0.3 * normals[asked] * r[:, None])
    away = np.linalg.norm(place - centre, axis=1)
    cos_here = np.einsum("ij,ij->i", place - centre, normals[asked]) / np.maximum(away, 1e-300)
    behind = (away <= _RIGHT_BEHIND * r) & (cos_here < OPPOSED)
    asked, away = asked[behind], away[behind]
    contact[asked], contact_face[asked] = place[behind], face[behind]
    wall[asked] = True
    diameter = 2 * radius
    diameter[asked] = radius[asked] + np.maximum(away, radius[asked])
    return Balls(diameter, straight, wall, capped, contact, contact_face)


def tapers(surface: Surface, points: Points, normals: Points, balls: Balls) -> tuple[Bools, Points]:
    """Whether each ball sits in a wedge or cone that really runs out to nothing, and where its tip lies.

    Notes: the tangent planes at the two contacts meet at a tip. The solid tapers to it when the free ball shrinks in
    proportion on the way there: at half and at three quarters of the way the distance to the surface is a half and a
    quarter of the radius, and at the tip itself it is nothing, all give or take what facets of a cone put in. Of a wedge cut
    off at a width e only balls over twice e pass, which are not its thinnest.
    """
    radius = balls.diameter / 2
    centre = points - normals * radius[:, None]
    found = np.zeros(len(points), dtype=bool)
    tip = np.full((len(points), 3), np.nan)
    # The contact is known to the ball's tolerance, which a slim wedge magnifies. The foot of a point most of the way there
    # gives the direction of the facet itself. In a cone many contacts tie, and the one across is found from a point
    # moved a little that way.
    for probe in (centre + 0.7 * (balls.contact - centre), centre - 0.3 * normals * radius[:, None]):
        asked = np.flatnonzero(balls.wall & ~balls.capped & (radius > 0) & ~found)
        if not len(asked):
            break
        _, _, foot = surface.nearest(probe[asked])
        good, place = _runs_out(surface, centre[asked], radius[asked], normals[asked], unit_rows(foot - probe[asked]))
        found[asked] = good
        tip[asked[good]] = place[good]
    return found, tip


def _runs_out(surface: Surface, centre: Points, radius: Floats, normals: Points, other: Points) -> tuple[Bools, Points]:
    """(whether the wedge between two contact directions runs out to nothing, where its tip would lie)."""
    lean = normals + other
    half_sine = np.linalg.norm(lean, axis=1) / 2
    # Under one degree the sides are parallel for our purpose, and the tip is nowhere near.
    leans = half_sine > 0.0087
    half_sine = np.where(leans, half_sine, 1.0)
    way = lean * (radius / (2 * half_sine**2))[:, None]
    good = leans.copy()
    for step, wanted, slack in ((0.5, 0.5, 0.25), (0.75, 0.25, 0.25), (1.0, 0.0, 0.45)):
        index = np.flatnonzero(good)
        distance, _, _ = surface.nearest(centre[index] + step * way[index])
        good[index] = np.abs(distance / radius[index] - wanted) < slack
    return good, centre + way
