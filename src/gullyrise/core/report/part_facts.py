"""What a receiving report says of a part: names and values, faults with their counts."""

from __future__ import annotations

from typing import Any

from gullyrise.core.checks.protocol import Outcome
from gullyrise.core.intake.materials import mass, material_named, words_of
from gullyrise.core.number_words import number
from gullyrise.core.part import Part

UNIT_WORDS = {"mm": "millimetres", "cm": "centimetres", "m": "metres", "inch": "inches", "foot": "feet", "micron": "microns"}
_EXACT, _FINE = 0.02, 0.002
"""mm, mm2 and mm3 that are told of what is known as well as the file says it."""
_SOURCES = {"declared": "the file says so", "assumed": "assumed, the file says none", "given": "given by you"}


def facts(part: Part, figures: dict[str, Any], centre: tuple[float, float, float] | None, material: str) -> list[tuple[str, str]]:
    """(name, value) rows of the report, top to bottom. figures : as `part_figures` has them;  centre : of mass, mm"""
    bodies = figures["bodies"]
    volume, area = figures["volume"], figures["area"]
    solids = [body for body in part.bodies if body.kind == "solid"]
    exact = "exact" if len(solids) == len(part.bodies) else "of the triangles" if not solids else "solids exact"
    rows = [
        ("Format", figures["format"].upper()),
        ("Unit", f"{UNIT_WORDS[part.unit]}, {_SOURCES[part.unit_source]}"),
        ("Size", " × ".join(_of_size(side) for side in figures["size"]) + " mm"),
        ("Volume", f"{number(volume, _EXACT)} mm³, {exact}" if volume is not None else "encloses nothing"),
        ("Area", f"{number(area, _EXACT)} mm², {exact}"),
        ("Material", words_of(material)),
    ]
    if volume is not None:
        made_of = material_named(material)
        if made_of is None:
            rows.append(("Mass", "not known, as the material is not"))
        else:
            grams = mass(volume, made_of)
            # How far off the volume is takes longer to know; it is said where a body is measured.
            density = f"{made_of.density:g} g/cm³ ±\u00a0{made_of.spread * 100:g}\u00a0%"
            rows.append(("Mass", f"{number(grams, grams * made_of.spread)} g, solid, at {density}"))
    if centre is not None:
        rows.append(("Centre", "  ".join(f"{axis} {_of_size(value)}" for axis, value in zip("xyz", centre, strict=True))))
    copies = sum(body["count"] for body in bodies)
    count = f"{len(bodies):,} {'body' if len(bodies) == 1 else 'bodies'}"
    rows.append(("Bodies", count if copies == len(bodies) else f"{count}, {copies:,} copies in all"))
    shells = sum(body["shells"] * body["count"] for body in bodies)
    rows.append(("Triangles", f"{figures['triangles']:,} in {shells:,} {'shell' if shells == 1 else 'shells'}"))
    if solids:
        rows.append(("Faces", _kinds(part)))
        chord = max(body.chord_error or 0.0 for body in solids)
        rows.append(("Mesh", f"within {number(chord)} mm of the surfaces"))
    return rows


def _kinds(part: Part) -> str:
    totals: dict[str, int] = {}
    for body in part.bodies:
        for kind, many in (body.facts.counts() if body.facts is not None else {}).items():
            totals[kind] = totals.get(kind, 0) + many
    words = {"torus": "tori", "other": "other"}
    return ", ".join(f"{n:,} {kind if n == 1 else words.get(kind, kind + 's')}" for kind, n in totals.items())


def _of_size(value: float) -> str:
    return number(value, _EXACT if abs(value) >= 10 else _FINE)


def faults(health: Outcome) -> list[tuple[str, str, str]]:
    """(code of the findings, count, what) of each kind of fault that there is, gravest first."""
    found = health.measured
    rows = [
        ("open-edge", "boundary_edges", "boundary edge", "s"),
        ("many-faced-edge", "nonmanifold_edges", "edge", "s with more than two faces"),
        ("inside-out", "inside_out_shells", "shell", "s inside out"),
        ("inverted-faces", "flipped_faces", "inverted face", "s"),
        ("duplicate-faces", "duplicate_faces", "duplicate face", "s"),
        ("crossing-faces", "self_intersections", "pair", "s of faces that cross or touch"),
        ("cavity", "cavities", "sealed cavit", "ies"),
        ("stray", "stray_shells", "tiny stray shell", "s"),
        ("degenerate-faces", "degenerate_faces", "face", "s without area"),
    ]
    return [(code, f"{found[name]:,}", _worded(found[name], one, many)) for code, name, one, many in rows if found.get(name)]


def _worded(count: int, word: str, ending: str) -> str:
    if count != 1:
        return word + ending
    return "sealed cavity" if ending == "ies" else word + ending[1:]
