"""What a format cannot hold of a part, in sentences."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.core.part import Part


@dataclass(frozen=True, slots=True)
class Holds:
    """What a format keeps."""

    unit: bool = False
    names: bool = False
    copies: bool = False
    assemblies: bool = False
    colours: bool = False
    solids: bool = False
    exact_numbers: bool = True


def lost(part: Part, form: str, holds: Holds) -> list[str]:
    """A sentence for each thing that the part has and the format does not hold."""
    said = []
    if not holds.unit:
        said.append(f"{form} declares no unit; the numbers are millimetres.")
    if len(part.bodies) > 1 and not holds.names:
        said.append(f"{form} holds no names; {len(part.bodies)} bodies become shells of one.")
    if any(body.count > 1 for body in part.bodies) and not holds.copies:
        said.append(f"{form} holds no copies; each is written out.")
    if any(any(body.trails) for body in part.bodies) and not holds.assemblies:
        said.append(f"Assemblies are not written to {form}; their bodies stand side by side in it.")
    if any(body.colour is not None for body in part.bodies) and not holds.colours:
        said.append(f"Colours are not written to {form}.")
    if any(body.kind == "solid" for body in part.bodies) and not holds.solids:
        said.append(f"{form} holds no exact surfaces; triangles are written.")
    if not holds.exact_numbers:
        said.append(f"{form} rounds coordinates to single precision.")
    return said
