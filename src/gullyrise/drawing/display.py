"""How the parts are drawn: choices of the one who looks, no part of the job."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Surface = Literal["shaded", "wireframe", "facets", "stripes", "facing"]
BodyColours = Literal["file", "own", "plain", "verdict"]
BODY_COLOURS: dict[BodyColours, str] = {
    "file": "As in the file",
    "own": "Each body its own",
    "plain": "Sandstone",
    "verdict": "By verdict",
}
SURFACES: dict[Surface, str] = {
    "shaded": "Shaded",
    "facets": "Flat facets",
    "wireframe": "Wireframe",
    "stripes": "Curvature stripes",
    "facing": "Inside and outside",
}


@dataclass(frozen=True, slots=True)
class Display:
    """What is drawn, and how. see_through : all parts let see through them;  bodies : how they are told apart by colour"""

    surface: Surface = "shaded"
    edges: bool = True
    see_through: bool = False
    bed: bool = True
    rulers: bool = True
    grid: bool = True
    axes: bool = False
    scale_bar: bool = True
    quiet: bool = False
    strokes: bool = False
    bodies: BodyColours = "own"


PLAIN = Display()
