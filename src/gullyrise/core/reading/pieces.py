"""What the readers of mesh formats share: units, mesh health of arrays, the making of a Part."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gullyrise.core.errors import Damaged, NothingInside, TooLarge
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.joining import joined
from gullyrise.core.intake.units import factor_of
from gullyrise.core.part import Part, Piece, UnitSource, bodies_from
from gullyrise.core.reading.options import MOST_BODIES, MOST_TRIANGLES, ReadOptions

__all__ = ["Piece", "bounded", "part_of", "settled_unit", "single", "sound_mesh"]


def sound_mesh(name: str, form: str, vertices: NDArray[Any], faces: NDArray[Any]) -> Mesh:
    """A joined mesh of finite numbers and indices in range. Raises Damaged or TooLarge."""
    bounded(name, len(faces))
    vertices = np.asarray(vertices)
    faces = np.asarray(faces).reshape(-1, 3)
    if vertices.ndim != 2 or vertices.shape[1] != 3 or not len(vertices):
        raise NothingInside(name)
    if len(faces) and (int(faces.min()) < 0 or int(faces.max()) >= len(vertices)):
        raise Damaged(name, form, "a face names a vertex that is not there")
    # One pass for the common case: a number that is none makes the least of all of them none, too.
    low, high = float(vertices.min()), float(vertices.max())
    if not (np.isfinite(low) and np.isfinite(high)):
        finite = np.asarray(np.isfinite(vertices).all(axis=1))
        if not finite[np.unique(faces)].all():
            raise Damaged(name, form, "a vertex has a coordinate that is not a number")
        low, high = float(vertices[finite].min(initial=0.0)), float(vertices[finite].max(initial=0.0))
    if max(-low, high) > 1e12:
        raise Damaged(name, form, "a coordinate is beyond a thousand million metres")
    return joined(vertices, faces)


def bounded(name: str, triangles: int) -> None:
    """Raises TooLarge past the bound on triangles."""
    if triangles > MOST_TRIANGLES:
        raise TooLarge(name, f"{triangles:,} triangles", f"{MOST_TRIANGLES:,}")


def part_of(
    path: Path,
    form: str,
    pieces: list[Piece],
    options: ReadOptions,
    declared: str | None,
    notes: tuple[str, ...] = (),
    metadata: tuple[tuple[str, str], ...] = (),
) -> Part:
    """A Part from pieces in the file's own unit. Raises NothingInside for one without triangles."""
    if len(pieces) > MOST_BODIES:
        raise TooLarge(path.name, f"{len(pieces):,} placed bodies", f"{MOST_BODIES:,}")
    unit, source = settled_unit(options, declared)
    bodies = bodies_from(pieces, factor_of(unit))
    if not bodies:
        raise NothingInside(path.name)
    return Part(path.stem, str(path), form, unit, source, bodies, notes, metadata)


def settled_unit(options: ReadOptions, declared: str | None) -> tuple[str, UnitSource]:
    """(unit, where it comes from): given before declared before assumed millimetres."""
    if options.unit is not None:
        return options.unit, "given"
    if declared is not None:
        return declared, "declared"
    return "mm", "assumed"


def single(path: Path, form: str, vertices: NDArray[Any], faces: NDArray[Any], options: ReadOptions) -> Part:
    """A part of one body, named for its file, in a format that declares no unit."""
    mesh = sound_mesh(path.name, form.upper(), vertices, faces)
    return part_of(path, form, [Piece(path.stem, mesh, Transform.identity())], options, None)
