"""What the pointer snaps to while measuring: corners, middles and centres first, then edges, axes and faces."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gullyrise.core.camera.camera import Camera
from gullyrise.core.geometry import Floats, Points
from gullyrise.core.geometry.near_pieces import to_segments
from gullyrise.core.geometry.spots import spot
from gullyrise.core.measuring.picks import Pick, What
from gullyrise.core.picking.feature import Hit
from gullyrise.core.picking.seen import Item, Scene

WORDS: dict[What, str] = {
    "corner": "corner", "middle": "middle of an edge", "centre": "centre of a circle", "edge": "edge", "axis": "axis",
    "face": "face", "spot": "place on a face", "body": "body",
}  # fmt: skip
REACH = 9.0
"""Pixels within which a corner, a middle, a centre or an edge is meant."""
AHEAD: dict[What, float] = {"corner": 6.0, "centre": 5.0, "middle": 4.0, "edge": 0.0}
"""Pixels by which each is preferred: a corner always lies on edges too."""
_BEHIND = 0.01


@dataclass(frozen=True, slots=True, eq=False)
class Snap:
    """pick : what a click takes;  place : (3,) on the bench, to show it there;  lines : (k, 2, 3) on the bench that show it"""

    pick: Pick
    place: Floats
    lines: Points


def snap_at(
    scene: Scene, hit: Hit | None, at: tuple[float, float], camera: Camera, size: tuple[int, int], *, spots: bool
) -> Snap | None:
    """What a click at a place of the picture would take. hit : the foremost surface there;  spots : places on faces are wanted,
    not the faces themselves

    A centre lies in the air more often than not, so those of all bodies that are seen are looked at where nothing nearer is met.
    """
    found = _on_item(scene, hit, camera, size) if hit is not None and not hit.on_cut else []
    found += _centres(scene, at, camera, size, hit)
    if found:
        return min(found, key=lambda pair: pair[0])[1]
    if hit is None or hit.on_cut:
        return None
    item = scene.items[hit.item]
    if item.prepared is None:
        return None
    axis = _axis_near(scene, item, at, camera, size)
    if axis is not None:
        return axis
    face = int(item.prepared.anatomy.face_of[hit.face])
    local = _local(scene, item, hit.point)
    return Snap(_pick("spot" if spots else "face", item, face, local), hit.point, np.zeros((0, 2, 3)))


def _pick(what: What, item: Item, index: int, place: Floats) -> Pick:
    return Pick(what=what, part=item.key[0], copy_number=item.key[1], index=index, spot=spot(place))


def _local(scene: Scene, item: Item, point: Floats) -> Floats:
    matrix = scene.matrix_of(item)
    return np.asarray(np.linalg.solve(matrix[:3, :3], point - matrix[:3, 3]))


def _room(scene: Scene, item: Item, points: Points) -> Points:
    matrix = scene.matrix_of(item)
    return np.asarray(points @ matrix[:3, :3].T + matrix[:3, 3])


def _pixel(camera: Camera, point: Floats, size: tuple[int, int]) -> float:
    """mm of a pixel at a place of the room."""
    depth = float(camera.to_picture(point[None], *size)[0, 2])
    return camera.span / size[1] * (1.0 if camera.parallel else depth / camera.distance)


def _on_item(scene: Scene, hit: Hit, camera: Camera, size: tuple[int, int]) -> list[tuple[float, Snap]]:
    """(pixels away less its handicap, snap) of what lies on the surface near a hit."""
    item = scene.items[hit.item]
    ready = item.prepared
    if ready is None:
        return []
    place = _local(scene, item, hit.point)
    pixel = _pixel(camera, hit.point, size)
    found = []
    for what, points, index in (
        ("corner", ready.anatomy.corners, None),
        ("middle", ready.marks.middles, ready.marks.middle_edge),
    ):
        if len(points):
            away = np.linalg.norm(points - place, axis=1) / pixel
            best = int(np.argmin(away))
            if away[best] <= REACH:
                number = best if index is None else int(index[best])
                lines = _edge_lines(scene, item, number) if what == "middle" else np.zeros((0, 2, 3))
                pick = _pick(what, item, number, points[best])  # type: ignore[arg-type]
                at = _room(scene, item, points[best][None])[0]
                found.append((float(away[best]) - AHEAD[what], Snap(pick, at, lines)))  # type: ignore[index]
    if len(ready.anatomy.segments):
        away = to_segments(place, ready.anatomy.segments) / pixel
        best = int(np.argmin(away))
        if away[best] <= REACH:
            edge = int(ready.anatomy.edge_of[best])
            snap = Snap(_pick("edge", item, edge, place), hit.point, _edge_lines(scene, item, edge))
            found.append((float(away[best]) - AHEAD["edge"], snap))
    return found


def _edge_lines(scene: Scene, item: Item, edge: int) -> Points:
    if item.prepared is None:
        return np.zeros((0, 2, 3))
    anatomy = item.prepared.anatomy
    segments = anatomy.segments[anatomy.edge_of == edge]
    return _room(scene, item, segments.reshape(-1, 3)).reshape(-1, 2, 3)


def _axis_near(scene: Scene, item: Item, at: tuple[float, float], camera: Camera, size: tuple[int, int]) -> Snap | None:
    """An axis that is seen to run under the pointer; it lies inside, so what is in front of it does not matter."""
    if item.prepared is None or not len(item.prepared.marks.axes):
        return None
    ends = _room(scene, item, item.prepared.marks.axes.reshape(-1, 3))
    seen = camera.to_picture(ends, *size)[:, :2].reshape(-1, 2, 2)
    if not np.isfinite(seen).all():
        return None
    run = seen[:, 1] - seen[:, 0]
    square = (run**2).sum(axis=1)
    share = np.clip(((np.array(at) - seen[:, 0]) * run).sum(axis=1) / np.maximum(square, 1e-9), 0, 1)
    away = np.linalg.norm(seen[:, 0] + share[:, None] * run - np.array(at), axis=1)
    # One that is seen end on is no line.
    away[square < (2 * REACH) ** 2] = np.inf
    best = int(np.argmin(away))
    # Nearer than an edge has to be: a thin part has its axis under most of its surface.
    if away[best] > REACH / 3:
        return None
    line = ends.reshape(-1, 2, 3)[best]
    face = int(item.prepared.marks.axis_face[best])
    middle = item.prepared.marks.axes[best].mean(axis=0)
    return Snap(_pick("axis", item, face, middle), line[0] + share[best] * (line[1] - line[0]), line[None])


def _seen_near(scene: Scene, at: tuple[float, float], camera: Camera, size: tuple[int, int]) -> list[int]:
    """The items whose boxes are seen within reach of a place; of hundreds only these are asked one by one."""
    if not len(scene.corners):
        return []
    seen = camera.to_picture(scene.corners.reshape(-1, 3), *size)[:, :2].reshape(-1, 8, 2)
    whole = np.isfinite(seen).all(axis=(1, 2))
    low, high = seen.min(axis=1) - REACH, seen.max(axis=1) + REACH
    inside = ((low <= at) & (at <= high)).all(axis=1)
    return [int(number) for number in np.flatnonzero(inside | ~whole)]


def _centres(
    scene: Scene, at: tuple[float, float], camera: Camera, size: tuple[int, int], hit: Hit | None
) -> list[tuple[float, Snap]]:
    """(pixels away less its handicap, snap) of the nearest middle of a circle that no surface lies well in front of."""
    best: tuple[float, Item, int, Floats] | None = None
    depth = np.inf if hit is None else float(camera.to_picture(hit.point[None], *size)[0, 2])
    for candidate in _seen_near(scene, at, camera, size):
        item = scene.items[candidate]
        if item.prepared is None or not len(item.prepared.marks.centres):
            continue
        places = _room(scene, item, item.prepared.marks.centres)
        seen = camera.to_picture(places, *size)
        away = np.hypot(seen[:, 0] - at[0], seen[:, 1] - at[1])
        away[~np.isfinite(away) | (seen[:, 2] > depth * (1 + _BEHIND))] = np.inf
        number = int(np.argmin(away))
        if away[number] <= REACH and (best is None or away[number] < best[0]):
            best = float(away[number]), item, number, places[number]
    if best is None:
        return []
    away_by, item, number, place = best
    if item.prepared is None:
        return []
    marks = item.prepared.marks
    edge = int(marks.centre_edge[number])
    snap = Snap(_pick("centre", item, edge, marks.centre_near[number]), place, _edge_lines(scene, item, edge))
    return [(away_by - AHEAD["centre"], snap)]
