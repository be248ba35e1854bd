"""The cut face of a body as triangles, quickly enough to follow a plane that is dragged."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import manifold3d
import numpy as np

from gullyrise.core.cutting.section import Loop, loops_of
from gullyrise.core.geometry import Floats, Ints, Mesh, Plane, Points
from gullyrise.core.geometry.blocks import Blocks
from gullyrise.core.geometry.plane import flat


@dataclass(frozen=True, slots=True, eq=False)
class Fill:
    """A cut face laid flat in the frame of its plane, mm.

    region : rings (k, 2) round the material, apart from one another
    places, faces : (n, 2) and (m, 3) its triangles
    borders : closed outlines, (k, 2) each
    chains : outlines that do not close, (k, 2) each
    """

    plane: Plane
    region: tuple[Floats, ...]
    places: Floats
    faces: Ints
    borders: tuple[Floats, ...]
    chains: tuple[Floats, ...]

    def in_room(self, places: Floats) -> Points:
        """(n, 3) of (n, 2) places in the plane."""
        return in_room(self.plane, places)


def in_room(plane: Plane, places: Floats) -> Points:
    """(n, 3) mm of (n, 2) places in the frame of a plane."""
    u, v = plane.frame()
    return np.asarray(plane.point + places[:, :1] * u + places[:, 1:] * v)


def crossing(blocks: Blocks, plane: Plane) -> Ints:
    """(k,) the faces of all blocks whose boxes meet a plane."""
    if not len(blocks.low):
        return np.zeros(0, dtype=np.int64)
    away = ((blocks.low + blocks.high) / 2 - plane.point) @ plane.normal
    reach = (blocks.high - blocks.low) / 2 @ np.abs(plane.normal)
    return blocks.faces_in(np.flatnonzero(np.abs(away) <= reach * (1 + 1e-9) + 1e-9))


def filled(mesh: Mesh, blocks: Blocks, plane: Plane) -> Fill | None:
    """The cut face of a mesh, in its own coordinates; None where the plane misses it.

    Notes: only blocks of faces that the plane meets are looked at, and the outlines are filled by the NonZero rule.
    """
    among = crossing(blocks, plane)
    if not len(among):
        return None
    loops = loops_of(mesh, plane, among)
    return fill_of(loops, plane) if loops else None


def fill_of(loops: list[Loop], plane: Plane) -> Fill:
    """The face within outlines of one plane."""
    borders = tuple(flat(loop.points, plane) for loop in loops if loop.closed)
    chains = tuple(flat(loop.points, plane) for loop in loops if not loop.closed)
    shape = manifold3d.CrossSection(list(borders), manifold3d.FillRule.NonZero)
    region = rings_of(shape)
    return Fill(plane, region, *triangles(region), borders, chains)


def rings_of(shape: Any) -> tuple[Floats, ...]:
    """The rings (k, 2) of a flat region of the library, whose own objects are not to be kept: it misses them at the end."""
    return tuple(np.asarray(ring) for ring in shape.to_polygons())


def triangles(region: tuple[Floats, ...]) -> tuple[Floats, Ints]:
    """(places (n, 2), faces (m, 3)) of a flat region within rings."""
    rings = list(region)
    if not rings:
        return np.zeros((0, 2)), np.zeros((0, 3), dtype=np.int64)
    return np.concatenate(rings), np.asarray(manifold3d.triangulate(rings), dtype=np.int64).reshape(-1, 3)


def shared(regions: list[tuple[Floats, ...]]) -> tuple[Floats, ...]:
    """The region in which two or more of several flat regions lie over one another, without rings where they are apart."""
    out, so_far = manifold3d.CrossSection(), manifold3d.CrossSection()
    for region in regions:
        shape = manifold3d.CrossSection(list(region), manifold3d.FillRule.Positive)
        out = out + (so_far ^ shape)
        so_far = so_far + shape
    return rings_of(out)


def joined_up(loops: list[Loop], side: Plane) -> list[Loop]:
    """Chains whose ends meet, as where faces of a closed mesh are wound against one another, joined whichever way they run."""
    whole = [loop for loop in loops if loop.closed]
    chains = [loop.points for loop in loops if not loop.closed]
    near = 1e-9 * max(float(np.abs(flat(points, side)).max()) for points in chains) + 1e-12
    while chains:
        chain = chains.pop()
        while True:
            if len(chain) > 3 and np.linalg.norm(chain[0] - chain[-1]) <= near:
                whole.append(Loop(chain[:-1], True, 0.0))
                break
            found = next(
                ((number, flipped) for number, other in enumerate(chains) for flipped in (False, True)
                 if np.linalg.norm(other[-1 if flipped else 0] - chain[-1]) <= near), None
            )  # fmt: skip
            if found is None:
                whole.append(Loop(chain, False, 0.0))
                break
            other = chains.pop(found[0])
            chain = np.concatenate([chain, (other[::-1] if found[1] else other)[1:]])
    return whole
