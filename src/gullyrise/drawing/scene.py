"""What stands on the bench, as plain values that the renderer compares and draws."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.geometry import Box, Floats, Mesh
from gullyrise.core.geometry.blocks import Blocks
from gullyrise.core.machines import Machine
from gullyrise.core.picking import seen
from gullyrise.core.picking.prepared import Prepared
from gullyrise.core.placing.bed import bed_offset
from gullyrise.drawing.colour_maps import Scale
from gullyrise.drawing.display import PLAIN, Display
from gullyrise.drawing.palette import Palette


@dataclass(frozen=True, slots=True, eq=False)
class Item:
    """One copy of a body.

    key : unique, (id of its placed part, number of the copy)
    matrix : (4, 4) from mesh to bench
    box : on the bench, may be loose (both where it stands, also while it is in the hand)
    opacity : 1 is solid
    colour : `#rrggbb` of its surface, empty for that of the palette
    prepared : what pointing and quick turning want, None until a worker has made it
    """

    key: tuple[int, int]
    name: str
    mesh: Mesh
    matrix: np.ndarray
    box: Box
    selected: bool
    values: np.ndarray | None = None
    scale: Scale | None = None
    opacity: float = 1.0
    prepared: Prepared | None = None
    colour: str = ""

    @property
    def owner(self) -> int:
        """Id of its placed part."""
        return self.key[0]

    @property
    def blocks(self) -> Blocks | None:
        """Its faces in blocks, None until a worker has made them."""
        return None if self.prepared is None else self.prepared.blocks

    @property
    def mirrored(self) -> bool:
        """Whether the matrix turns the body's faces inside out."""
        return bool(np.linalg.det(self.matrix[:3, :3]) < 0)


@dataclass(frozen=True, slots=True, eq=False)
class Carry:
    """Parts in the hand.

    owners : their ids
    move : (4, 4) rigid, by which all of them have come from where they stand
    """

    owners: frozenset[int]
    move: np.ndarray


@dataclass(frozen=True, slots=True, eq=False)
class Scene:
    """A whole picture but for the camera. angles : the colours of overhang angles, where those are shown: what is turned in the
    hand is coloured by how it hangs at each moment"""

    items: tuple[Item, ...]
    machine: Machine
    palette: Palette
    cuts: tuple[Cut, ...] = ()
    out_of_room: bool = False
    display: Display = PLAIN
    beds: int = 1
    carry: Carry | None = None
    angles: Scale | None = None

    corners: np.ndarray = field(init=False)
    """(n, 8, 3) corners of the items' boxes."""
    parts_box: Box | None = field(init=False)
    box: Box = field(init=False)
    """All that may be seen, bed included."""

    def same_as(self, other: Scene) -> bool:
        """Whether each thing in it is the very one of the other, so that the picture is as it was."""
        things = (self.items, self.machine, self.palette, self.carry)
        values = (self.cuts, self.out_of_room, self.display, self.beds, self.angles)
        others = (other.items, other.machine, other.palette, other.carry)
        same = all(one is another for one, another in zip(things, others, strict=True))
        return same and values == (other.cuts, other.out_of_room, other.display, other.beds, other.angles)

    @property
    def subject(self) -> Box:
        """What is to be in view: the parts, and of the bed what lies round them; the machine's envelope where there are none."""
        return self.machine.envelope.box if self.parts_box is None else self.parts_box

    @property
    def chosen_box(self) -> Box | None:
        """Round all that is selected."""
        boxes = [item.box for item in self.items if item.selected]
        return Box.around(boxes) if boxes else None

    @property
    def pivot(self) -> Floats:
        """(3,) mm what is turned about where nothing is pointed at: the selection's middle, else that of all."""
        return (self.chosen_box or self.subject).middle

    def cuts_of(self, item: seen.Item) -> tuple[Cut, ...]:
        """Those that go through a body."""
        return tuple(cut for cut in self.cuts if cut.touches(item.key))

    def matrix_of(self, item: seen.Item) -> np.ndarray:
        """(4, 4) from a mesh to the bench, for what is in the hand where it has come."""
        carry = self.carry
        return carry.move @ item.matrix if carry is not None and item.key[0] in carry.owners else item.matrix

    def __post_init__(self) -> None:
        # Worked out once: each picture and each move of the pointer asks for them.
        boxes = [item.box for item in self.items]
        room = self.machine.envelope.box
        box = Box(room.low - np.array([0, 0, 6.0]), room.high + bed_offset(self.machine, self.beds - 1))
        parts = Box.around(boxes) if boxes else None
        if parts is not None and self.carry is not None:
            # Loose, but so that nothing in the hand is cut off.
            moved = parts.corners() @ self.carry.move[:3, :3].T + self.carry.move[:3, 3]
            box = box.joined(Box.of(moved))
        object.__setattr__(self, "corners", np.array([b.corners() for b in boxes]).reshape(-1, 8, 3))
        object.__setattr__(self, "parts_box", parts)
        object.__setattr__(self, "box", box if parts is None else box.joined(parts))
