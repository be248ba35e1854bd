"""A small picture of one finding: the surface round its place, coloured by the check, seen from where nothing hides it."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from gullyrise.core.geometry import Floats, Mesh
from gullyrise.core.geometry.mesh import merged
from gullyrise.core.geometry.rays import RayScene
from gullyrise.core.part import Part

_ROUND_AREA, _ROUND_VALUE, _LEAST_SHARE, _MOST_SHARE = 1.3, 8.0, 0.06, 0.5
_DIM = 0.45
_ASLANT = np.array([0.4, -0.75, 0.53])


def reach_of(diagonal: float, area: float | None, value: float | None) -> float:
    """How far round its place a finding is shown, mm: wide enough for its region, or for its value, within bounds that its part
    sets.

    diagonal : of the part's box, mm;  area : of the region, mm2;  value : a length, mm; None where there is none
    """
    wanted = _ROUND_AREA * float(np.sqrt(area)) if area else _ROUND_VALUE * (value or 0.0)
    return float(np.clip(wanted, _LEAST_SHARE * diagonal, _MOST_SHARE * diagonal))


def surface_near(
    part: Part, colours: Callable[[int, Mesh], np.ndarray], at: Floats, reach: float
) -> tuple[Mesh, np.ndarray] | None:
    """The copies of a part's bodies that come near a place, in one mesh, with the colours of its faces; None where none does.

    colours : gives (m, 3) uint8 for the mesh of a copy, by its number
    """
    meshes, shades = [], []
    number = 0
    for body in part.bodies:
        box = body.mesh.box
        for placement in body.placements:
            off = float(np.linalg.norm(placement.apply(box.middle[None])[0] - at))
            # A placement may enlarge: by how much the box's own way from its middle says.
            far = float(np.linalg.norm(placement.apply(box.low[None])[0] - placement.apply(box.middle[None])[0]))
            if off <= far + 2 * reach:
                meshes.append(body.mesh.placed(placement))
                shades.append(colours(number, body.mesh))
            number += 1
    if not meshes:
        return None
    return merged(meshes), np.concatenate(shades)


def picture_of(
    mesh: Mesh, colours: np.ndarray, at: Floats, toward: Floats | None, reach: float, size: tuple[int, int]
) -> np.ndarray:
    """(height, width, 4) uint8, clear where nothing is. By one ray a pixel, through what lies round the place only: a part of a
    million faces takes as long as its faces take to be sorted out.

    colours : (m, 3) uint8, a face each;  at : (3,) mm;  toward : (3,) from the place to the eye; None for aslant from above
    reach : mm from the middle to the nearer edge;  size : width and height, px
    """
    width, height = size
    eye = np.asarray(_ASLANT if toward is None else toward, dtype=float)
    eye = eye / max(float(np.linalg.norm(eye)), 1e-300)
    up = np.array([0.0, 0.0, 1.0]) if abs(eye[2]) < 0.9 else np.array([0.0, 1.0, 0.0])
    right = np.cross(up, eye)
    right /= np.linalg.norm(right)
    up = np.cross(eye, right)
    pixel = 2 * reach / min(width, height)
    # Faces that may be in the picture: by their corners against the frame, whatever lies how deep.
    flat = (mesh.vertices - at) @ np.stack([right, up]).T
    half = np.array([width, height]) * (pixel / 2)
    low, high = (end(flat[mesh.faces], axis=1) for end in (np.min, np.max))
    near = np.flatnonzero(((low <= half) & (high >= -half)).all(axis=1))
    out = np.zeros((height, width, 4), dtype=np.uint8)
    if not len(near):
        return out
    used, faces = np.unique(mesh.faces[near], return_inverse=True)
    scene = RayScene(Mesh(mesh.vertices[used], faces.reshape(-1, 3).astype(np.int32)))
    depth = float(((mesh.vertices[used] - at) @ eye).max()) + reach
    columns = (np.arange(width) + 0.5 - width / 2) * pixel
    rows = (height / 2 - np.arange(height) - 0.5) * pixel
    origins = at + eye * depth + (columns[None, :, None] * right + rows[:, None, None] * up)
    first = scene.bare_first_hits(origins.reshape(-1, 3), np.tile(-eye, (width * height, 1)))
    seen = first >= 0
    hit = near[first[seen]]
    a, b, c = (mesh.vertices[mesh.faces[hit, corner]] for corner in range(3))
    normals = np.cross(b - a, c - a)
    length = np.linalg.norm(normals, axis=1)
    light = eye + 0.6 * up - 0.35 * right
    shade = np.abs(normals @ (light / np.linalg.norm(light))) / np.maximum(length, 1e-300)
    pixels = out.reshape(-1, 4)
    pixels[seen, :3] = colours[hit] * (_DIM + (1 - _DIM) * np.minimum(shade, 1.0))[:, None]
    pixels[seen, 3] = 255
    return out
