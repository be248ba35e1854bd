"""Soft shade in corners and where things touch, laid over a picture at rest.

Worked out of the picture's own depths: a place that lies deeper than the middle between two places on either side of it is in a
corner, and as much darker as the corner is steep. A flat face has none of that, however it lies (screen-space ambient occlusion;
after M. Mittring, Finding Next Gen, 2007, by pairs as in L. Bavoil and M. Sainz, 2009).
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gullyrise.core.camera.camera import Camera
from gullyrise.drawing.requests import Frame
from gullyrise.drawing.scene import Scene

_WAYS = ((1, 0), (0, 1), (1, 1), (1, -1))
_REACHES = ((2, 0.30), (5, 0.40), (11, 0.30))
"""How far to either side is looked, px of the halved picture, and with which weight."""
_STEEP, _STRONGEST, _HALO = 1.1, 0.42, 2.2
_READ_SHARE = 0.5


def softened(frame: Frame) -> Frame:
    """With its corners shaded, where surfaces are drawn."""
    display = frame.request.scene.display
    if display.surface == "wireframe" or display.see_through:
        return frame
    camera, share = frame.request.camera, _strength(frame.request.scene)
    return replace(frame, pixels=shaded(frame.pixels, frame.depth, frame.near, frame.far, camera, share))


def _strength(scene: Scene) -> float:
    """How strongly a scene is shaded: colours that are to be read come first."""
    return _READ_SHARE if any(item.values is not None for item in scene.items) else 1.0


def shaded(pixels: np.ndarray, depth: np.ndarray, near: float, far: float, camera: Camera, share: float = 1.0) -> np.ndarray:
    """A picture with its corners shaded, as one of its own. pixels : (h, w, 4) uint8;  depth : as a Frame has it
    share : of the full strength
    """
    height, width = depth.shape
    if min(height, width) < 64:
        return pixels
    rows, columns = _drawn(depth[::2, ::2] < 1.0)
    if rows.stop == 0:
        return pixels
    raw = depth[::2, ::2][rows, columns].astype(np.float32)
    nothing = raw >= 1.0
    if camera.parallel:
        z = near + raw * np.float32(far - near)
        px = np.full_like(raw, 2 * camera.span / height)
    else:
        z = np.float32(near * far) / (np.float32(far) - raw * np.float32(far - near))
        # mm that a pixel covers grow with the distance.
        px = z * np.float32(2 * camera.span / (height * camera.distance))
    z[nothing] = np.float32(far)
    z = _without_lines(z)
    dark = np.zeros_like(z)
    for reach, weight in _REACHES:
        room = px * np.float32(reach)
        for across, down in _WAYS:
            first, other, inner = _pair(z, across * reach, down * reach)
            here, by = z[inner], room[inner]
            deeper = (here - (first + other) * np.float32(0.5)) / by
            # What stands far before the place is another thing's edge, which casts no shade in it (fading, or its outline shows).
            near_by = np.clip(np.float32(_HALO) - (here - np.minimum(first, other)) / by, 0, 1)
            dark[inner] += np.clip(deeper / np.float32(_STEEP), 0, 1) * near_by * np.float32(weight / len(_WAYS))
    dark[nothing] = 0
    dark[1:-1] = (dark[:-2] + dark[1:-1] * 2 + dark[2:]) * np.float32(0.25)
    dark[:, 1:-1] = (dark[:, :-2] + dark[:, 1:-1] * 2 + dark[:, 2:]) * np.float32(0.25)
    light = 256 - np.minimum(dark * np.float32(2.4 * share * _STRONGEST * 256), np.float32(share * _STRONGEST * 256))
    at_full_size = slice(2 * rows.start, 2 * rows.stop), slice(2 * columns.start, 2 * columns.stop)
    there = depth[at_full_size]
    whole = np.repeat(np.repeat(light.astype(np.uint32), 2, axis=0), 2, axis=1)[: there.shape[0], : there.shape[1]]
    whole[there >= 1.0] = 256
    out = pixels.copy()
    # Red and blue of a pixel at once, then its green: four bytes are taken for one number, the first of them for the lowest.
    of_four = out.view("<u4")[:, :, 0][at_full_size]
    red_blue = ((of_four & 0xFF00FF) * whole >> 8) & 0xFF00FF
    green = ((of_four >> 8) & 0xFF) * whole & 0xFF00
    of_four[...] = of_four & 0xFF000000 | red_blue | green
    return out


def _drawn(where: np.ndarray) -> tuple[slice, slice]:
    """The rows and columns where something is drawn, with as much round them as a shade reaches; none where nothing is."""
    # On one side may be the picture's border: what is left has to be as wide as a pair stands apart.
    around = 2 * max(reach for reach, _ in _REACHES) + 1
    slices = []
    for axis in (1, 0):
        on = np.flatnonzero(where.any(axis=axis))
        slices.append(slice(max(int(on[0]) - around, 0), int(on[-1]) + around + 1) if len(on) else slice(0, 0))
    return slices[0], slices[1]


def _without_lines(z: np.ndarray) -> np.ndarray:
    """Depths without what is one or two pixels wide and lies nearer: edges are drawn a little before their faces, and would be a
    step to whatever is beside them."""
    for extreme in (np.maximum, np.minimum):
        wide = z.copy()
        extreme(wide[1:], z[:-1], out=wide[1:])
        extreme(wide[:-1], z[1:], out=wide[:-1])
        z = wide.copy()
        extreme(z[:, 1:], wide[:, :-1], out=z[:, 1:])
        extreme(z[:, :-1], wide[:, 1:], out=z[:, :-1])
    return z


def _pair(z: np.ndarray, across: int, down: int) -> tuple[np.ndarray, np.ndarray, tuple[slice, slice]]:
    """What lies so many pixels to the right and below, and as many to the left and above, where the picture has both; and where
    that is."""
    height, width = z.shape
    x, y = abs(across), abs(down)
    inner = (slice(y, height - y), slice(x, width - x))

    def moved(dx: int, dy: int) -> np.ndarray:
        return z[y + dy : height - y + dy, x + dx : width - x + dx]

    return moved(across, down), moved(-across, -down), inner
