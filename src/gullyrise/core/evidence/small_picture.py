"""The evidence view of a finding as a small picture, by one ray a pixel: for lists, where no drawing library is wanted."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from gullyrise.core.camera.camera import Camera
from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.evidence.view import EvidenceView
from gullyrise.core.geometry import Floats, Ints, Mesh, Points
from gullyrise.core.geometry.arrays import Faces
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.geometry.reducing import Reduced

_DIM = 0.45
_HATCH, _HATCH_EVERY, _HATCH_WIDE = 0.72, 7, 2
_MOST_NEAR = 120_000


@dataclass(frozen=True, slots=True, eq=False)
class Surface:
    """A body as it is to be seen.

    matrix : (4, 4) from its mesh to the machine;  colours : (m, 3) uint8 of its faces
    reduced : what stands in for it where too much of it is in the picture, None for nothing
    """

    mesh: Mesh
    matrix: np.ndarray
    colours: np.ndarray
    reduced: Reduced | None = None


def small_picture(
    surfaces: Iterable[Surface], camera: Camera, cuts: tuple[Cut, ...], size: tuple[int, int], cut_colour: tuple[int, int, int]
) -> np.ndarray:
    """(height, width, 4) uint8, clear where nothing is; cut faces hatched. camera : parallel;  size : width and height, px"""
    width, height = size
    right, up, toward = camera.frame()
    pixel = camera.span / height
    half = np.array([width, height]) * (pixel / 2)
    out = np.zeros((height, width, 4), dtype=np.uint8)
    found = [_in_frame(one, camera.target, np.stack([right, up]), half) for one in surfaces]
    near = [one for one in found if len(one[0])]
    if not near:
        return out
    corners = np.concatenate([one[0] for one in near])
    shades = np.concatenate([one[1] for one in near])
    mesh = Mesh(corners.reshape(-1, 3), np.arange(3 * len(corners), dtype=np.int32).reshape(-1, 3))
    scene = RayScene(mesh)
    depth = float(((corners.reshape(-1, 3) - camera.target) @ toward).max()) + camera.span
    columns = (np.arange(width) + 0.5 - width / 2) * pixel
    rows = (height / 2 - np.arange(height) - 0.5) * pixel
    origins = camera.target + toward * depth + (columns[None, :, None] * right + rows[:, None, None] * up)
    origins, begins_in_cut = _past_cuts(origins.reshape(-1, 3), toward, cuts)
    directions = np.tile(-toward, (width * height, 1))
    first = scene.bare_first_hits(origins, directions)
    seen = first >= 0
    normals = mesh.cross()[first[seen]]
    length = np.maximum(np.linalg.norm(normals, axis=1), 1e-300)
    light = toward + 0.6 * up - 0.35 * right
    shade = np.abs(normals @ (light / np.linalg.norm(light))) / length
    pixels = out.reshape(-1, 4)
    pixels[seen, :3] = shades[first[seen]] * (_DIM + (1 - _DIM) * np.minimum(shade, 1.0))[:, None]
    # What a ray that begins on a cut comes out of is material: the cut face.
    inside = np.zeros(width * height, dtype=bool)
    inside[seen] = (normals @ toward < 0) & begins_in_cut[seen]
    lined = np.add.outer(np.arange(height), np.arange(width)).reshape(-1) % _HATCH_EVERY < _HATCH_WIDE
    pixels[inside, :3] = cut_colour
    pixels[inside & lined, :3] = (np.array(cut_colour) * _HATCH).astype(np.uint8)
    pixels[seen, 3] = 255
    return out


def marks_in(view: EvidenceView, size: tuple[int, int]) -> Points:
    """(k, 2) px of the marks in such a picture."""
    return np.asarray(view.camera.to_picture(view.marks, *size)[:, :2])


def _past_cuts(origins: Points, toward: Floats, cuts: tuple[Cut, ...]) -> tuple[Points, np.ndarray]:
    """Rays moved on to where nothing is cut away any more, and which of them begin on a cut."""
    moved = np.zeros(len(origins))
    for cut in cuts:
        for side in cut.sides():
            slope = float(-toward @ side.normal)
            if slope < 0:
                moved = np.maximum(moved, side.heights(origins) / -slope)
    return origins - toward * moved[:, None], moved > 0


def _in_frame(one: Surface, target: Floats, axes: Floats, half: Floats) -> tuple[Points, np.ndarray]:
    """((k, 3, 3) corners of faces that may be in the picture, (k, 3) their colours)."""

    def chosen(vertices: Points, faces: Faces) -> Ints:
        flat = (vertices - target) @ axes.T
        low, high = (end(flat[faces], axis=1) for end in (np.min, np.max))
        return np.flatnonzero(((low <= half) & (high >= -half)).all(axis=1))

    vertices = one.mesh.vertices @ one.matrix[:3, :3].T + one.matrix[:3, 3]
    faces = one.mesh.faces[:, ::-1] if np.linalg.det(one.matrix[:3, :3]) < 0 else one.mesh.faces
    near = chosen(vertices, faces)
    if len(near) > _MOST_NEAR and one.reduced is not None:
        vertices = one.reduced.vertices @ one.matrix[:3, :3].T + one.matrix[:3, 3]
        faces = one.reduced.faces
        near = chosen(vertices, faces)
        return vertices[faces[near]], one.colours[one.reduced.source[near]]
    return vertices[faces[near]], one.colours[near]
