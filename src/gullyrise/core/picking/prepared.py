"""What the bench wants beside a mesh before it can point at it and turn it without waiting."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.core.geometry.anatomy import Anatomy, anatomy_of
from gullyrise.core.geometry.blocks import Blocks, blocks_of
from gullyrise.core.geometry.facts import Facts
from gullyrise.core.geometry.mesh import Mesh
from gullyrise.core.geometry.reducing import Reduced, reduced
from gullyrise.core.geometry.topology import sealed
from gullyrise.core.measuring.marks import Marks, marks_of

_FINE, _CRUDE_SHARE, _CRUDE_LEAST = 24_000, 24, 48
_LEAST_WORTH = 400


@dataclass(frozen=True, slots=True, eq=False)
class Prepared:
    """levels : fixture shapes, finest first; empty where the mesh itself is small
    sealed : from outside only the outsides of its faces can be seen, so that the others need not be drawn
    marks : what the pointer snaps to besides faces, edges and corners
    """

    blocks: Blocks
    anatomy: Anatomy
    levels: tuple[Reduced, ...]
    sealed: bool
    marks: Marks


def prepared(mesh: Mesh, anatomy: Anatomy | None, facts: Facts | None = None) -> Prepared:
    """anatomy, facts : of a solid, known already; None to have them found."""
    m = len(mesh.faces)
    levels = []
    if m > _FINE * 3:
        levels.append(reduced(mesh, _FINE))
    if m > _LEAST_WORTH:
        crude = max(_CRUDE_LEAST, min(m, 4 * _FINE) // _CRUDE_SHARE)
        levels.append(reduced(mesh, crude))
    known = anatomy if anatomy is not None else anatomy_of(mesh)
    return Prepared(blocks_of(mesh), known, tuple(levels), sealed(mesh), marks_of(mesh, known, facts))
