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
from gullyrise.core.geometry.mesh import Mesh
from gullyrise.core.geometry.nearest import Surface
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.sampling import spread

# cos 117 degrees: contacts opposed by less are a corner's. 120 would lose wedges of 60 degrees, which meet it exactly, and a
# contact is known to two or three degrees.
OPPOSED = -0.45
# Contacts this near the sample's own direction are neighbouring facets of one curved surface.
OWN_SIDE = 0.5
_BARELY = 0.02
_MOST_STEPS = 40
# Of so few faces the nearest is found sooner than the nearest of many samples, wherever it is asked from.
_FEW_FACES = 400
# On a facet of a rod the ball off the facet's middle is held by the facets beside it (contacts within 72 degrees): at the
# middle of a triangle it shrinks to two thirds of the rod's, whatever the number of facets. The far side then lies two radii
# behind its centre, three from the sample.
_BESIDE = 0.3
_RIGHT_BEHIND, _RIGHT_BEHIND_SAME, _RIGHT_BEHIND_BESIDE = 1.05, 1.2, 2.1
_NOT_FAR_BEHIND = 3.2
_ROUGH = 0.03
_PARALLEL, _SAME = -0.9, -0.985
_LEVEL = -0.9999
_TAPER_STEPS = 4
# Sine of 31 degrees: planes that meet at more than 62 make a sharp edge, not a taper.
_ACUTE = 0.515
_PARALLEL_SIDES = 0.0087
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
    loose    : (n,) mm by which it may be thicker: beside a blunt end the ball is held by the end a little before its place
    opposite : (n,) what lies straight behind is opposed, whatever holds the ball
    proven   : (n,) the ball lies between two places that come nearest to each other there: a wall, whatever its neighbourhood
    """

    diameter: Floats
    through: Floats
    wall: Bools
    capped: Bools
    contact: Points
    contact_face: Ints
    loose: Floats
    opposite: Bools
    proven: Bools

    def take(self, which: np.ndarray) -> Balls:
        """Those of some samples. which : (k,) their numbers, or (n,) whether each is one"""
        return Balls(**{name: getattr(self, name)[which] for name in Balls.__dataclass_fields__})


def joined_balls(parts: list[Balls]) -> Balls:
    """Several in one, in their order."""
    return Balls(**{name: np.concatenate([getattr(part, name) for part in parts]) for name in Balls.__dataclass_fields__})


class Crowd:
    """Surface samples that stand in for the surface where a ball is large against their spacing.

    Notes: a nearest-point tree visits every face when a centre is as far from all of them, as in the middle of a sphere,
    and takes milliseconds a question there. Asking only for what lies deeper in the ball than three hundredths of its
    radius has no such worst case. Against samples spaced h a ball of radius r errs by h^2 / 2r besides.

    large : mm, from which radius on it stands in; inf where a mesh has so few faces that the surface always answers
    """

    def __init__(self, mesh: Mesh, count: int) -> None:
        """count : of samples"""
        if len(mesh.faces) <= _FEW_FACES:
            self.large = np.inf
            return
        self.large = 20 * float(np.sqrt(mesh.area / count))
        self._samples = spread(mesh, count, every_face=False)
        self._tree = cKDTree(self._samples.points)

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
    beside = cosine[asked] > _BESIDE
    centre = points[asked] - normals[asked] * r[:, None]
    _, face, place = surface.nearest(centre - 0.3 * normals[asked] * r[:, None])
    away = np.linalg.norm(place - centre, axis=1)
    cos_here = np.einsum("ij,ij->i", place - centre, normals[asked]) / np.maximum(away, 1e-300)
    facing = scene.facing(hits.face[asked], normals[asked])
    near = np.where(facing < _SAME, _RIGHT_BEHIND_SAME, _RIGHT_BEHIND)
    behind = (away <= np.where(beside, _RIGHT_BEHIND_BESIDE, near) * r) & (cos_here < OPPOSED)
    straight_on = ~behind & beside & (facing < OPPOSED)
    face[straight_on] = hits.face[asked[straight_on]]
    away[straight_on] = (straight[asked] - r)[straight_on]
    across = asked[straight_on]
    place[straight_on] = points[across] - normals[across] * straight[across, None]
    behind |= straight_on
    asked, away, facing = asked[behind], away[behind], facing[behind]
    contact[asked], contact_face[asked] = place[behind], face[behind]
    wall[asked] = True
    diameter = 2 * radius
    # Of a rod's facets only the middles have room for its whole ball. Between two nearly parallel ones that meet at b the
    # ball is the straight distance times cos2(b / 2).
    whole = np.where(facing < _PARALLEL, straight[asked] * (1 - facing) / 2, 0.0)
    diameter[asked] = np.maximum(radius[asked] + np.maximum(away, radius[asked]), whole)
    loose = np.zeros(len(points))
    loose[asked] = np.where(facing > _LEVEL, np.maximum(away - radius[asked], 0.0) / 2, 0.0)
    opposite = np.isfinite(straight) & (scene.facing(hits.face, normals) < OPPOSED)
    return Balls(diameter, straight, wall, capped, contact, contact_face, loose, opposite, np.zeros(len(points), dtype=bool))


def tapers(
    scene: RayScene, surface: Surface, mesh: Mesh, points: Points, normals: Points, balls: Balls
) -> tuple[Bools, Bools, Points]:
    """(runs out : the ball sits in a wedge or cone that really tapers to nothing; edge : its sides meet at over 62 degrees,
    so that it sits at a sharp edge; tip : (n, 3) where, NaN elsewhere).

    Notes: the tangent planes at the two contacts meet at a tip. Half-way there a ball of half the size must touch both
    sides, half-way from there one of a quarter, and so on for four steps, each ball and its planes taken anew. A web that is
    thinnest at some width, such as that between a bore and a flat side, stops the shrinking and is a wall. Of a wedge cut off
    at a width only balls many times as large pass, which are not its thinnest.
    """
    count = len(points)
    radius = balls.diameter / 2
    centre = points - normals * radius[:, None]
    own = normals.copy()
    good = balls.wall & ~balls.capped & (radius > 0)
    way, half_sine = np.zeros((count, 3)), np.ones(count)
    edge = np.zeros(count, dtype=bool)
    face_normals = mesh.normals()
    for step in range(_TAPER_STEPS + 1):
        asked = np.flatnonzero(good)
        if not len(asked):
            break
        way[asked], half_sine[asked] = _towards_tip(surface, centre[asked], own[asked], radius[asked])
        if step == 0:
            # The direction of a contact is known to three degrees, that of the planes that meet to the last digits.
            planes = np.linalg.norm(normals + face_normals[balls.contact_face], axis=1) / 2
            edge = good & (half_sine > _ACUTE) & (planes > _ACUTE)
        # Under one degree the sides are parallel for our purpose, and the tip is nowhere near. Over 62 the ball has come into
        # the corner of a blunt end.
        good[asked] = (half_sine[asked] > _PARALLEL_SIDES) & (half_sine[asked] < _ACUTE)
        if step == _TAPER_STEPS:
            break
        asked = np.flatnonzero(good)
        half_way = centre[asked] + 0.5 * way[asked]
        _, face, foot = surface.nearest(half_way)
        smaller = shrink_balls(scene, surface, foot, face_normals[face], np.inf)
        share = smaller.diameter / (2 * radius[asked])
        kept = (share > 0.25) & (share < 0.72)
        good[asked] = kept
        asked, face, foot = asked[kept], face[kept], foot[kept]
        radius[asked] = smaller.diameter[kept] / 2
        own[asked] = face_normals[face]
        centre[asked] = foot - own[asked] * radius[asked, None]
    tip = np.where(good[:, None], centre + way, np.nan)
    return good, edge, tip


def _towards_tip(surface: Surface, centre: Points, normals: Points, radius: Floats) -> tuple[Points, Floats]:
    """(from the centre to where the planes at the ball's two sides meet (n, 3) mm, sine of half their angle (n,)).

    The contact is known to the ball's tolerance, which a slim wedge magnifies, and in a cone many contacts tie. The foot of a
    point moved a little across gives the direction of the facet there itself.
    """
    probe = centre - 0.3 * normals * radius[:, None]
    _, _, foot = surface.nearest(probe)
    lean = normals + unit_rows(foot - probe)
    half_sine = np.linalg.norm(lean, axis=1) / 2
    return lean * (radius / (2 * np.maximum(half_sine, 1e-9) ** 2))[:, None], half_sine
