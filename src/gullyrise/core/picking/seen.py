"""What pointing asks of what is seen: bodies where they stand, the machine, and what is cut away."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

import numpy as np

from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.geometry import Box, Floats, Mesh
from gullyrise.core.geometry.blocks import Blocks
from gullyrise.core.machines import Machine
from gullyrise.core.picking.prepared import Prepared


class Item(Protocol):
    """One copy of a body."""

    @property
    def key(self) -> tuple[int, int]:
        """(id of its placed part, number of the copy)."""

    @property
    def mesh(self) -> Mesh:
        """In its own coordinates."""

    @property
    def matrix(self) -> np.ndarray:
        """(4, 4) from the mesh to the machine, mm."""

    @property
    def box(self) -> Box:
        """On the machine, may be loose."""

    @property
    def prepared(self) -> Prepared | None:
        """What pointing wants, None until a worker has made it."""

    @property
    def blocks(self) -> Blocks | None:
        """Its faces in blocks, None until they are made."""


class Scene(Protocol):
    """All that is seen at a time."""

    @property
    def items(self) -> Sequence[Item]:
        """Every copy that is drawn."""

    @property
    def machine(self) -> Machine:
        """On which they stand."""

    @property
    def corners(self) -> Floats:
        """(n, 8, 3) corners of the items' boxes, mm."""

    def cuts_of(self, item: Item) -> tuple[Cut, ...]:
        """Those that go through a body."""

    def matrix_of(self, item: Item) -> np.ndarray:
        """(4, 4) from a mesh to the machine, for what is in the hand where it has come."""
