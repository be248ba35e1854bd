"""A part's assemblies as a tree of plain values."""

from __future__ import annotations

from dataclasses import dataclass, field

from gullyrise.core.job import PlacedPart


@dataclass(slots=True)
class Node:
    """What one assembly holds: copies of bodies by body number, and assemblies by name."""

    bodies: dict[int, list[int]] = field(default_factory=dict)
    inside: dict[str, Node] = field(default_factory=dict)

    def copies(self) -> list[int]:
        """Numbers of all copies in it, in whatever depth."""
        own = [copy for copies in self.bodies.values() for copy in copies]
        return own + [copy for node in self.inside.values() for copy in node.copies()]


def tree_of(placed: PlacedPart) -> Node:
    """What the file holds outside any assembly, and the assemblies in it."""
    root, first = Node(), 0
    for number, body in enumerate(placed.part.bodies):
        for copy in range(body.count):
            node = root
            for name in body.trail(copy):
                node = node.inside.setdefault(name, Node())
            node.bodies.setdefault(number, []).append(first + copy)
        first += body.count
    return root
