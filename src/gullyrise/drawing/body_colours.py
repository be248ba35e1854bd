"""By which colours bodies are told apart."""

from __future__ import annotations

from gullyrise.core.checks.protocol import Verdict
from gullyrise.drawing.display import BodyColours
from gullyrise.drawing.palette import Palette

OWN = ("", "#8FB0C6", "#D9A284", "#93AE6E", "#B9A9D6", "#DEC873", "#6FAFA4", "#D8A6BD")
"""Even to the eye, and told apart by colour-blind ones by how light they are; the first is the palette's own."""
_MIXED = 0.62


def colour_of(
    choice: BodyColours, palette: Palette, number: int, in_file: tuple[float, float, float] | None, verdict: Verdict
) -> str:
    """`#rrggbb` of a body, empty for that of the palette. number : of the body;  in_file : red, green and blue, 0 to 1"""
    if choice == "own":
        return OWN[number % len(OWN)]
    if choice == "file" and in_file is not None:
        return "#" + "".join(f"{round(min(max(share, 0.0), 1.0) * 255):02X}" for share in in_file)
    return of_verdict(palette, verdict) if choice == "verdict" else ""


def of_verdict(palette: Palette, verdict: Verdict) -> str:
    """A verdict's colour, softened so that shading is still seen on it."""
    full = palette.verdict(verdict)
    pale = palette.colour("panel")
    pairs = ((full.red(), pale.red()), (full.green(), pale.green()), (full.blue(), pale.blue()))
    return "#" + "".join(f"{round(one * _MIXED + other * (1 - _MIXED)):02X}" for one, other in pairs)
