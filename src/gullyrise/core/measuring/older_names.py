"""What figures were called in jobs that kept their names alone. Nothing is ever added here: since then a code is kept."""

from __future__ import annotations

import re

_SAME = {"diameter", "radius", "area", "length", "around", "volume", "mass", "surface"}
_MEANT = {
    "length along the axis": "axis-length", "angle of the cone": "cone-angle", "side to axis": "side-to-axis",
    "radius of the ring": "ring-radius", "arc length": "arc-length", "angle of the arc": "arc-angle",
    "angle at the second": "angle-at-second", "smallest gap": "smallest-gap", "smallest gap: they meet": "smallest-gap",
    "thickness here, straight through": "thickness-through", "thickness here, by a ball": "thickness-ball", "at X": "at-x",
    "at Y": "at-y", "at Z": "at-z",
}  # fmt: skip
_BETWEEN = re.compile(r"(\w+) to (\w+)(, angle|, where they pass)?")
_ENDS = {None: "", ", angle": "-angle", ", where they pass": "-passing"}


def code_of(name: str) -> str:
    """The code of a figure by its name of then; empty for a name that no figure had."""
    if name in _SAME:
        return name
    if name.startswith("chain of "):
        return "chain"
    if name in _MEANT:
        return _MEANT[name]
    found = _BETWEEN.fullmatch(name)
    return f"{found[1]}-{found[2]}{_ENDS[found[3]]}" if found is not None else ""
