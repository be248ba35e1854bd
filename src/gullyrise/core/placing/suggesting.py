"""Suggested orientations: how a part could stand, ranked by what each way would cost."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.spatial import ConvexHull, QhullError

from gullyrise.core.geometry import Floats, Mesh, Points, Transform
from gullyrise.core.geometry.mesh import merged
from gullyrise.core.geometry.orientation import outward
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.placing.moves import dropped, shortest_turn
from gullyrise.core.placing.turning import SAME, Room, best_turn_about_z, evenly_spread, excess, hull_points, thinned
from gullyrise.core.progress import Progress, silent
from gullyrise.core.support.borders import RESTS_WITHIN
from gullyrise.core.support.regions import measured_support

_DIRECTIONS, _MOST_FLATS, _KEPT, _LOOKED_AT = 120, 60, 10, 20_000
_NO_FOOT = 1.0
_SAME_WAY = float(np.cos(np.radians(2.0)))
_PORTION = 4_000_000
PICTURE = (96, 72)


@dataclass(frozen=True, slots=True, eq=False)
class Suggestion:
    """turn : (3, 3) from how it stands now
    support : mm3
    overhang, base : mm2 that want support, and that rest on the bed
    height : mm
    fits : whether the machine holds it so, turned about the vertical as it may be
    stands : whether its centre of mass is over its base
    picture : (72, 96) float32 brightness from 0 to 1, NaN where nothing is; two added where support would be wanted
    """

    turn: Floats
    support: float
    overhang: float
    height: float
    base: float
    fits: bool
    stands: bool
    picture: np.ndarray


def suggested(meshes: list[Mesh], machine: Machine, limits: Limits, progress: Progress = silent) -> tuple[Suggestion, ...]:
    """The best ways to stand, best first. meshes : of every copy of every body, as they stand now.

    Notes: every distinct flat face of the convex hull is tried as the base, and directions spread evenly over the sphere; all
    by the areas over the limit and the columns under them down to the bed, the best of those as the check of overhangs measures
    them. Those that the machine holds come first, and those that touch the bed with a face: what balances on a corner may have
    nothing that hangs over, and yet cannot be begun. Then by support volume; where two are within a hundredth of the part's box,
    those that stand by themselves, then by overhang area, height and base area.
    """
    whole = merged([outward(mesh) for mesh in meshes])
    room = Room.of(machine, limits.edge_margin or 0.0, limits.top_margin or 0.0)
    hull = hull_points(whole.vertices)
    ways = _ways(hull)
    progress("trying directions", 0, len(ways))
    rough = _rough(whole, ways, limits.overhang_angle or 45.0, progress)
    # The larger flats are what people lay things on: some are always measured, whatever the rough look says.
    order = list(dict.fromkeys([*np.argsort(rough)[: 2 * _KEPT].tolist(), *range(min(6, len(ways)))]))
    found = []
    for done, number in enumerate(order):
        progress("measuring support", done, len(order))
        found.append(_measured(whole, hull, ways[number], room, limits))
    step = max(float(np.prod(np.ptp(whole.vertices, axis=0))) * 1e-2, 1e-9)
    found.sort(
        key=lambda s: (
            not s.fits,
            s.base < _NO_FOOT,
            round(s.support / step),
            not s.stands,
            round(s.overhang, 1),
            round(s.height, 1),
            -s.base,
        )
    )
    return tuple(_drawn(whole, one, limits.overhang_angle or 45.0) for one in found[:_KEPT])


def _ways(hull: Points) -> Points:
    """(n, 3) unit directions that may point down: of flat faces of the hull, the largest first, then
    spread over the sphere where no flat is near."""
    flats: list[Floats] = []
    try:
        some = thinned(hull, _LOOKED_AT)
        found = ConvexHull(some)
        corners = some[found.simplices]
        areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
        normals = found.equations[:, :3]
        # Triangles of one flat have one normal up to rounding: they are gathered by it.
        _, inverse = np.unique(np.round(normals, 4), axis=0, return_inverse=True)
        total = np.bincount(inverse.ravel(), weights=areas)
        # Their mean by area has all the digits that the rounding took.
        means = np.column_stack([np.bincount(inverse.ravel(), weights=areas * normals[:, k]) for k in range(3)])
        for index in np.argsort(-total):
            direction = means[index] / max(float(np.linalg.norm(means[index])), 1e-300)
            if all(float(direction @ other) < _SAME_WAY for other in flats):
                flats.append(direction)
            if len(flats) >= _MOST_FLATS:
                break
    except (QhullError, ValueError):
        pass
    spread = evenly_spread(_DIRECTIONS)
    more = [one for one in spread if all(float(one @ other) < _SAME_WAY for other in flats)]
    return np.array([*flats, *more])


def _rough(mesh: Mesh, ways: Points, limit: float, progress: Progress) -> Floats:
    """(n,) mm3 of columns from every face over the limit down to the bed: more than the truth where the part is below itself."""
    cross, middles = mesh.cross() / 2, mesh.centroids()
    area = np.linalg.norm(cross, axis=1)
    sine = np.sin(np.radians(limit))
    out = np.zeros(len(ways))
    step = max(_PORTION // max(len(area), 1), 1)
    for start in range(0, len(ways), step):
        progress("trying directions", start, len(ways))
        some = ways[start : start + step]
        facing = cross @ some.T
        height = (mesh.vertices @ some.T).max(axis=0) - middles @ some.T
        wanted = (facing > sine * area[:, None]) & (height > RESTS_WITHIN)
        out[start : start + step] = np.where(wanted, facing * height, 0.0).sum(axis=0)
    return out


def _measured(mesh: Mesh, hull: Points, down: Floats, room: Room, limits: Limits) -> Suggestion:
    turn = shortest_turn(down, np.array([0.0, 0.0, -1.0]))
    level = best_turn_about_z(turn.apply(hull), room)
    # The least turn about the vertical that fits is kept; where none is needed, the heading is left alone.
    if excess(turn.apply(hull), room) > SAME and level.excess <= SAME:
        matrix = np.eye(4)
        matrix[:3, :3] = level.matrix
        turn = turn.then(Transform(matrix))
    placed = mesh.placed(turn)
    placed = placed.placed(dropped(placed.vertices))
    area, volume, _ = measured_support(placed, limits.overhang_angle or 45.0, limits.min_region_area or 0.0)
    resting = placed.vertices[:, 2][placed.faces].max(axis=1) <= RESTS_WITHIN
    base = float(placed.face_areas()[resting].sum())
    fits = excess(turn.apply(hull), room) <= SAME
    picture = np.zeros((0, 0), dtype=np.float32)
    height = float(np.ptp(placed.vertices[:, 2]))
    return Suggestion(turn.matrix[:3, :3].copy(), volume, area, height, base, fits, _stands(placed), picture)


def _stands(placed: Mesh) -> bool:
    """Whether the centre of mass is over the hull of what touches the bed; never for a mesh that encloses nothing."""
    volume = placed.signed_volume
    if abs(volume) < 1e-12:
        return False
    corner = placed.triangles()
    six = np.einsum("ij,ij->i", corner[:, 0], np.cross(corner[:, 1], corner[:, 2]))
    centre = (corner.sum(axis=1) * six[:, None]).sum(axis=0) / (24 * volume)
    touching = placed.vertices[placed.vertices[:, 2] <= RESTS_WITHIN][:, :2]
    try:
        sides = ConvexHull(touching).equations
    except (QhullError, ValueError):
        return False
    return bool((sides[:, :2] @ centre[:2] + sides[:, 2] <= 1e-9).all())


def _drawn(mesh: Mesh, one: Suggestion, limit: float) -> Suggestion:
    """With its picture: places spread over the surface, nearest to the eye first, lit from the upper left."""
    from gullyrise.core.geometry.sampling import spread

    matrix = np.eye(4)
    matrix[:3, :3] = one.turn
    placed = mesh.placed(Transform(matrix))
    samples = spread(placed, 60_000, every_face=False)
    wide, high = PICTURE
    eye = Transform.turned(np.array([0.0, 0, 1]), -35.0).then(Transform.turned(np.array([1.0, 0, 0]), 22.0)).matrix[:3, :3]
    points, normals = samples.points @ eye.T, samples.normals @ eye.T
    low, reach = points.min(axis=0), np.ptp(points, axis=0)
    scale = 0.9 * min(wide / max(reach[0], 1e-9), high / max(reach[2], 1e-9))
    x = ((points[:, 0] - low[0] - reach[0] / 2) * scale + wide / 2).astype(int).clip(0, wide - 1)
    y = (high / 2 - (points[:, 2] - low[2] - reach[2] / 2) * scale).astype(int).clip(0, high - 1)
    order = np.argsort(-points[:, 1])
    light = np.array([-0.4, -0.7, 0.6]) / np.linalg.norm([-0.4, -0.7, 0.6])
    bright = 0.35 + 0.65 * np.clip(normals @ light, 0, 1)
    over = samples.normals[:, 2] < -np.sin(np.radians(limit))
    resting = samples.points[:, 2] - samples.points[:, 2].min() <= RESTS_WITHIN
    bright = np.where(over & ~resting, bright + 2.0, bright)
    picture = np.full((high, wide), np.nan, dtype=np.float32)
    picture[y[order], x[order]] = bright[order]
    return replace(one, picture=picture)
