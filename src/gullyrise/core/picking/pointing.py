"""What is under the pointer, by ray and exactly, whatever the picture shows at the moment."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from gullyrise.core.camera.camera import Camera
from gullyrise.core.camera.rectangle import edges_meet, faces_meet
from gullyrise.core.cutting.cuts import kept_way
from gullyrise.core.geometry import Bools, Floats, Points
from gullyrise.core.geometry.blocks import along_ray
from gullyrise.core.geometry.near_pieces import to_segments
from gullyrise.core.picking.feature import Feature, Hit, Kind
from gullyrise.core.picking.seen import Item, Scene

EDGE_WITHIN = 10.0
"""Pixels from the pointer to an edge or corner that still means it."""
_MANY = 200_000


class Finder:
    """Asks the bodies of one scene. Copies that no worker has prepared yet cannot be met."""

    def __init__(self, scene: Scene) -> None:
        self._scene = scene
        self._ready = [number for number, item in enumerate(scene.items) if item.blocks is not None and len(item.mesh.faces)]
        items = [scene.items[number] for number in self._ready]
        self._inverse = np.linalg.inv(np.array([item.matrix for item in items])) if items else np.zeros((0, 4, 4))
        boxes = [item.blocks.box for item in items if item.blocks]
        self._low = np.array([box.low for box in boxes if box]).reshape(-1, 3)
        self._high = np.array([box.high for box in boxes if box]).reshape(-1, 3)

    @property
    def whole(self) -> bool:
        """Whether every body can be met."""
        return len(self._ready) == len(self._scene.items)

    def along(self, origin: Floats, direction: Floats, reach: float = np.inf) -> list[Hit]:
        """Every surface along a ray, nearest first; what is cut away is not there, and the cut face is.

        reach : bodies whose box begins farther away than this are not asked.
        """
        if not self._ready:
            return []
        start = np.einsum("nij,j->ni", self._inverse[:, :3, :3], origin) + self._inverse[:, :3, 3]
        ahead = np.einsum("nij,j->ni", self._inverse[:, :3, :3], direction)
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            a, b = (self._low - start) / ahead, (self._high - start) / ahead
            # A ray within the plane of a box's side gives 0/0; it counts as inside there.
            enter = np.fmax.reduce(np.minimum(a, b), axis=1, initial=-np.inf)
            leave = np.fmin.reduce(np.maximum(a, b), axis=1, initial=np.inf)
        hits: list[Hit] = []
        for place in np.flatnonzero((leave >= np.maximum(enter, 0.0) - 1e-9) & (enter <= reach)):
            number = self._ready[place]
            item = self._scene.items[number]
            if item.blocks is None:
                continue
            distances, faces = along_ray(item.mesh, item.blocks, start[place], ahead[place])
            hits += self._of_item(number, item, distances, faces, origin, direction, ahead[place])
        return sorted(hits, key=lambda hit: hit.distance)

    def first(self, origin: Floats, direction: Floats) -> Hit | None:
        """The nearest surface along a ray, None for none."""
        hits = self.along(origin, direction)
        return hits[0] if hits else None

    def _of_item(
        self, number: int, item: Item, distances: Floats, faces: np.ndarray, origin: Floats, direction: Floats, local: Floats
    ) -> list[Hit]:
        points = origin + distances[:, None] * direction
        cuts = self._scene.cuts_of(item)
        if not cuts:
            return [Hit(number, int(f), p, float(d)) for d, f, p in zip(distances, faces, points, strict=True)]
        enters, leaves = kept_way(cuts, origin, direction)
        kept = np.flatnonzero((distances >= enters) & (distances <= leaves))
        found = [Hit(number, int(faces[k]), points[k], float(distances[k])) for k in kept]
        ahead = np.flatnonzero(distances > enters)
        if 0 < enters < leaves and len(ahead):
            # Where the ray comes into what is left, a face that is next met from behind has material before it: the cut face.
            first = int(faces[ahead[0]])
            corner = item.mesh.vertices[item.mesh.faces[first]]
            if np.cross(corner[1] - corner[0], corner[2] - corner[0]) @ local > 0:
                found.insert(0, Hit(number, first, origin + enters * direction, enters, on_cut=True))
        return found


def bed_point(scene: Scene, origin: Floats, direction: Floats) -> tuple[Floats, float] | None:
    """Where a ray from above meets the bed: (point, distance), or None."""
    if direction[2] >= 0 or origin[2] <= 0:
        return None
    distance = -float(origin[2] / direction[2])
    point = origin + distance * direction
    box = scene.machine.envelope.box
    if scene.machine.envelope.shape == "cylinder":
        return (point, distance) if float(np.hypot(point[0], point[1])) <= box.high[0] else None
    inside = (point[:2] >= box.low[:2]).all() and (point[:2] <= box.high[:2]).all()
    return (point, distance) if inside else None


def feature_at(item: Item, hit: Hit, kind: Kind, camera: Camera, size: tuple[int, int]) -> Feature | None:
    """The face that was hit, or the edge or corner near the place that was; None where there is none within ten pixels."""
    anatomy = item.prepared.anatomy if item.prepared is not None else None
    if anatomy is None or kind == "body":
        return None
    if kind == "face":
        return None if hit.on_cut else Feature("face", item.key, int(anatomy.face_of[hit.face]))
    depth = float(camera.to_picture(hit.point[None], *size)[0, 2])
    reach = EDGE_WITHIN * camera.span / size[1] * (1.0 if camera.parallel else depth / camera.distance)
    inverse = np.linalg.inv(item.matrix)
    place = inverse[:3, :3] @ hit.point + inverse[:3, 3]
    if kind == "vertex":
        if not len(anatomy.corners):
            return None
        away = np.linalg.norm(anatomy.corners - place, axis=1)
        best = int(np.argmin(away))
        return Feature("vertex", item.key, best) if away[best] <= reach else None
    if not len(anatomy.segments):
        return None
    away = to_segments(place, anatomy.segments)
    best = int(np.argmin(away))
    return Feature("edge", item.key, int(anatomy.edge_of[best])) if away[best] <= reach else None


def own_lines(item: Item, feature: Feature) -> Points:
    """(k, 2, 3) straight pieces, in the body's own coordinates, that show a feature: an edge itself, the border of a face, a
    corner as a piece without length."""
    anatomy = item.prepared.anatomy if item.prepared is not None else None
    if anatomy is None:
        return np.zeros((0, 2, 3))
    if feature.kind == "edge":
        return np.asarray(anatomy.segments[anatomy.edge_of == feature.index])
    if feature.kind == "vertex":
        return np.repeat(anatomy.corners[feature.index][None, None], 2, axis=1)
    corners = item.mesh.faces[anatomy.face_of == feature.index].astype(np.int64)
    ends = np.sort(np.concatenate([corners[:, [0, 1]], corners[:, [1, 2]], corners[:, [2, 0]]]), axis=1)
    # As one number each: the library sorts rows eight times slower.
    key, uses = np.unique(ends[:, 0] * len(item.mesh.vertices) + ends[:, 1], return_counts=True)
    border = key[uses == 1]
    return np.asarray(item.mesh.vertices[np.column_stack([border // len(item.mesh.vertices), border % len(item.mesh.vertices)])])


class FeatureLines:
    """Remembers the lines of features. Those of a face of a large body are worked out aside: none yet until then.

    ask : (question, what to do with its answer)
    changed : called when lines have come
    """

    _MOST_KEPT = 500
    _AT_ONCE = 100_000

    def __init__(
        self, ask: Callable[[Callable[[], Points], Callable[[Points], None]], None], changed: Callable[[], None]
    ) -> None:
        self._ask, self._changed = ask, changed
        self._kept: dict[Feature, tuple[object, Points | None]] = {}

    def of(self, item: Item, feature: Feature) -> Points:
        """(k, 2, 3) on the bench."""
        kept = self._kept.get(feature)
        if kept is None or kept[0] is not item.prepared:
            if len(self._kept) >= self._MOST_KEPT:
                self._kept.clear()
            if feature.kind != "face" or len(item.mesh.faces) <= self._AT_ONCE:
                kept = self._kept[feature] = (item.prepared, own_lines(item, feature))
            else:
                kept = self._kept[feature] = (item.prepared, None)
                self._ask(lambda: own_lines(item, feature), lambda lines: self._keep(item, feature, lines))
        lines = kept[1]
        if lines is None:
            return np.zeros((0, 2, 3))
        return np.asarray(lines.reshape(-1, 3) @ item.matrix[:3, :3].T + item.matrix[:3, 3]).reshape(-1, 2, 3)

    def _keep(self, item: Item, feature: Feature, lines: Points) -> None:
        self._kept[feature] = (item.prepared, lines)
        self._changed()


def in_rectangle(
    item: Item, kind: Kind, camera: Camera, size: tuple[int, int], low: Floats, high: Floats, *, touching: bool
) -> list[int]:
    """What of a body lies in a rectangle of the picture, pixels: indices of its faces, edges or corners; [0] for the body itself.

    touching : a part of it in the rectangle is enough; else all of it must be. What is hidden behind other things counts too.
    """

    def placed(points: Points) -> Points:
        return np.asarray(points @ item.matrix[:3, :3].T + item.matrix[:3, 3])

    def inside(places: Points) -> Bools:
        seen = camera.to_picture(places, *size)[:, :2]
        return np.asarray(((seen >= low) & (seen <= high)).all(axis=1))

    def by_group(met: Bools, group: np.ndarray) -> list[int]:
        count, hit = np.bincount(group), np.bincount(group, weights=met)
        return [int(n) for n in np.flatnonzero((hit > 0) if touching else ((hit == count) & (count > 0)))]

    corners = camera.to_picture(item.box.corners(), *size)[:, :2]
    ahead = bool(np.isfinite(corners).all())
    if ahead and bool((corners.max(axis=0) < low).any() or (corners.min(axis=0) > high).any()):
        return []
    if kind == "body":
        if ahead and bool((corners >= low).all() and (corners <= high).all()):
            return [0]
        points, faces = _outline(item)
        places = placed(points)
        found = inside(places)
        if found.all() or (touching and (found.any() or faces_meet(camera, size, places, faces, low, high).any())):
            return [0]
        return []
    anatomy = item.prepared.anatomy if item.prepared is not None else None
    if anatomy is None:
        return []
    if kind == "vertex":
        return [int(n) for n in np.flatnonzero(inside(placed(anatomy.corners)))]
    if kind == "edge":
        ends = placed(anatomy.segments.reshape(-1, 3))
        if not len(ends):
            return []
        if touching:
            return by_group(edges_meet(camera, size, ends.reshape(-1, 2, 3), low, high), anatomy.edge_of)
        return by_group(inside(ends), np.repeat(anatomy.edge_of, 2))
    places = placed(item.mesh.vertices)
    if touching:
        return by_group(faces_meet(camera, size, places, item.mesh.faces, low, high), anatomy.face_of)
    return by_group(np.all(inside(places)[item.mesh.faces], axis=1), anatomy.face_of)


def _outline(item: Item) -> tuple[Points, np.ndarray]:
    """Vertices and faces that are enough to say where a body lies in the picture."""
    if len(item.mesh.faces) > _MANY and item.prepared is not None and item.prepared.levels:
        level = item.prepared.levels[0]
        return level.vertices.astype(np.float64), level.faces
    return item.mesh.vertices, item.mesh.faces


def face_at(item: Item, hit: Hit) -> Feature | None:
    """The face that was hit; None while the body is not ready."""
    return None if item.prepared is None else Feature("face", item.key, int(item.prepared.anatomy.face_of[hit.face]))
