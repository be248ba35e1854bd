"""What is pointed at: a surface that a ray meets, and a face, an edge or a corner of a body."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from gullyrise.core.geometry import Floats

Kind = Literal["body", "face", "edge", "vertex"]


KINDS: dict[Kind, str] = {"body": "Bodies", "face": "Faces", "edge": "Edges", "vertex": "Corners"}


@dataclass(frozen=True, slots=True, eq=False)
class Hit:
    """A surface that a ray meets.

    item : index into the scene's items
    face : triangle
    point : (3,) mm
    on_cut : it is the cut face of the body, which the ray enters there.
    """

    item: int
    face: int
    point: Floats
    distance: float
    on_cut: bool = False


@dataclass(frozen=True, slots=True)
class Feature:
    """A face, edge or corner of one copy of a body. index : into its anatomy."""

    kind: Kind
    key: tuple[int, int]
    index: int
