"""What of straight pieces and triangles lies before the eye of a perspective picture, and so has a place in it. No Qt, no VTK."""

from __future__ import annotations

import numpy as np

from gullyrise.core.camera.camera import Camera
from gullyrise.core.geometry import Floats, Ints, Points

_NEAR = 1e-4
"""Of the distance to what is looked at: nothing nearer to the eye is kept."""


def depths(camera: Camera, points: Points) -> Floats:
    """(n,) mm beyond the nearest place that has one in the picture; all are, in a parallel picture."""
    if camera.parallel:
        return np.full(len(points), np.inf)
    _, _, back = camera.frame()
    away = points * np.array(camera.stretch) - camera.drawn_target
    return np.asarray(camera.distance * (1 - _NEAR) - away @ back)


def pieces(camera: Camera, ends: Points) -> tuple[Points, Ints]:
    """(k', 2, 3) what of straight pieces (k, 2, 3) of the room lies before the eye, and (k',) of which each is a part."""
    depth = depths(camera, ends.reshape(-1, 3)).reshape(-1, 2)
    of = np.flatnonzero((depth > 0).any(axis=1))
    ends, depth = ends[of].copy(), depth[of]
    for behind, ahead in ((0, 1), (1, 0)):
        cut = np.flatnonzero(depth[:, behind] <= 0)
        ends[cut, behind] = _between(ends[cut, behind], ends[cut, ahead], depth[cut, behind], depth[cut, ahead])
    return ends, of


def triangles(camera: Camera, corners: Points) -> tuple[Points, Ints]:
    """(m', 3, 3) triangles that cover what of triangles (m, 3, 3) of the room lies before the eye, and (m',) of which each is
    a part."""
    depth = depths(camera, corners.reshape(-1, 3)).reshape(-1, 3)
    ahead = (depth > 0).sum(axis=1)
    found, owners = [corners[ahead == 3]], [np.flatnonzero(ahead == 3)]
    for count in (1, 2):
        of = np.flatnonzero(ahead == count)
        # The odd one out first: it alone is ahead, or it alone is behind.
        odd = ((depth[of] > 0) == (count == 1)).argmax(axis=1)
        order = (odd[:, None] + np.arange(3)) % 3
        turned, far = np.take_along_axis(corners[of], order[:, :, None], axis=1), np.take_along_axis(depth[of], order, axis=1)
        first = _between(turned[:, 0], turned[:, 1], far[:, 0], far[:, 1])
        last = _between(turned[:, 0], turned[:, 2], far[:, 0], far[:, 2])
        if count == 1:
            found.append(np.stack([turned[:, 0], first, last], axis=1))
            owners.append(of)
        else:
            found += [np.stack([first, turned[:, 1], turned[:, 2]], axis=1), np.stack([first, turned[:, 2], last], axis=1)]
            owners += [of, of]
    return np.concatenate(found), np.concatenate(owners)


def _between(start: Points, end: Points, start_depth: Floats, end_depth: Floats) -> Points:
    """(n, 3) where pieces whose ends lie on both sides come before the eye."""
    share = start_depth / (start_depth - end_depth)
    return np.asarray(start + share[:, None] * (end - start))
