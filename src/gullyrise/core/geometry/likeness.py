"""Whether two bodies have one shape, however they are turned and however their triangles are cut."""

from __future__ import annotations

from itertools import product

import numpy as np

from gullyrise.core.geometry.arrays import Floats, Points
from gullyrise.core.geometry.mesh import Mesh
from gullyrise.core.geometry.nearest import Surface
from gullyrise.core.geometry.sampling import spread

_SAMPLES = 1_500
_MOST_TRIES = 400
_INVARIANT = 5e-3


def moments(mesh: Mesh) -> tuple[Floats, Floats, Points]:
    """(centre (3,), second moments of the surface along its own axes (3,), those axes as rows (3, 3), right-handed), mm."""
    areas, corners = mesh.face_areas(), mesh.triangles()
    total = max(float(areas.sum()), 1e-300)
    centre = (areas[:, None] * corners.mean(axis=1)).sum(axis=0) / total
    away = corners - centre
    # Exact for triangles: the mean over a triangle from its corners and its middle (Stroud, degree two).
    middle = away.mean(axis=1)
    second = np.einsum("i,ikx,iky->xy", areas / 12, away, away) + np.einsum("i,ix,iy->xy", areas * 9 / 12, middle, middle)
    values, axes = np.linalg.eigh(second / total)
    rows = axes.T.copy()
    rows[2] *= np.sign(np.linalg.det(rows))
    return centre, np.sqrt(np.maximum(values, 0.0)), rows


def alike(a: Mesh, b: Mesh, tolerance: float | None = None) -> bool:
    """Whether a turn and a move bring one surface onto the other within a tolerance, mm (default: a thousandth of the
    diagonal). Mirror images are not alike. Open and empty meshes are judged by their surface as well.

    Notes: area and second moments sort out most pairs. The rest are laid onto one another: by the three corners of `a` that
    stand farthest out, matched with corners of `b` at the same distances (exact where the triangles are alike), and by their
    own axes in the four ways there are. Each try is proven by the distance of samples of one to the surface of the other,
    both ways.
    """
    if not len(a.faces) or not len(b.faces):
        return len(a.faces) == len(b.faces)
    near = tolerance if tolerance is not None else 1e-3 * a.box.diagonal
    if a.faces.shape == b.faces.shape and a.vertices.shape == b.vertices.shape and bool((a.faces == b.faces).all()):
        # Copies have their triangles in one order, which says which corner goes where.
        turn = _best_turn(a.vertices - a.vertices.mean(axis=0), b.vertices - b.vertices.mean(axis=0))
        off = (a.vertices - a.vertices.mean(axis=0)) @ turn.T - (b.vertices - b.vertices.mean(axis=0))
        if float(np.abs(off).max()) <= near:
            return True
    centre_a, size_a, axes_a = moments(a)
    centre_b, size_b, axes_b = moments(b)
    reach = float(size_a.max())
    if abs(a.area / b.area - 1) > _INVARIANT or np.abs(size_a - size_b).max() > max(_INVARIANT * reach, near):
        return False
    points_a, points_b = spread(a, _SAMPLES, every_face=False).points, spread(b, _SAMPLES, every_face=False).points
    surface_a, surface_b = Surface(a), Surface(b)

    def fits(turn: Points) -> bool:
        over = (points_a - centre_a) @ turn.T + centre_b
        # A handful first: most tries fail at once.
        if surface_b.nearest(over[:: max(1, len(over) // 40)])[0].max() > near:
            return False
        back = (points_b - centre_b) @ turn + centre_a
        return bool(surface_b.nearest(over)[0].max() <= near and surface_a.nearest(back)[0].max() <= near)

    for signs in product((1.0, -1.0), repeat=2):
        flip = np.diag([signs[0], signs[1], signs[0] * signs[1]])
        if fits(axes_b.T @ flip @ axes_a):
            return True
    return any(fits(turn) for turn in _by_corners(a.vertices - centre_a, b.vertices - centre_b, near))


def _best_turn(a: Points, b: Points) -> Points:
    """(3, 3) the turn that takes points `a` to points `b` best (least squares: W. Kabsch, Acta Cryst. A32, 1976)."""
    u, _, v = np.linalg.svd(b.T @ a)
    # Of the two that fit best, the one that does not mirror.
    return np.asarray(u @ np.diag([1.0, 1.0, np.linalg.det(u @ v)]) @ v)


def _by_corners(a: Points, b: Points, near: float) -> list[Points]:
    """Turns that take three far corners of `a` to corners of `b`."""
    far_a, far_b = np.linalg.norm(a, axis=1), np.linalg.norm(b, axis=1)
    one = int(np.argmax(far_a))
    two = int(np.argmax(np.linalg.norm(np.cross(a, a[one]), axis=1)))
    off = np.linalg.norm(a - a[one], axis=1) * np.linalg.norm(a - a[two], axis=1)
    three = int(np.argmax(np.where((far_a > 0.3 * far_a.max()), off, -1.0)))
    chosen = a[[one, two, three]]
    ones = np.flatnonzero(np.abs(far_b - far_a[one]) <= near)[:40]
    twos = np.flatnonzero(np.abs(far_b - far_a[two]) <= near)
    threes = np.flatnonzero(np.abs(far_b - far_a[three]) <= near)
    out: list[Points] = []
    for i in ones:
        for j in twos[np.abs(np.linalg.norm(b[twos] - b[i], axis=1) - np.linalg.norm(chosen[1] - chosen[0])) <= 2 * near]:
            fit = np.abs(np.linalg.norm(b[threes] - b[i], axis=1) - np.linalg.norm(chosen[2] - chosen[0])) <= 2 * near
            fit &= np.abs(np.linalg.norm(b[threes] - b[j], axis=1) - np.linalg.norm(chosen[2] - chosen[1])) <= 2 * near
            for k in threes[fit][:8]:
                out.append(_best_turn(chosen, b[[i, j, k]]))
                if len(out) >= _MOST_TRIES:
                    return out
    return out
