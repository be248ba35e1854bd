"""What parts are made of, for their mass: densities as suppliers' sheets round them."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Material:
    """density : g/cm3
    spread : how far grades of it differ either way, in shares
    """

    id: str
    name: str
    density: float
    spread: float


MATERIALS: tuple[Material, ...] = (
    Material("pla", "PLA", 1.24, 0.02),
    Material("petg", "PETG", 1.27, 0.02),
    Material("abs", "ABS", 1.05, 0.03),
    Material("pa12", "Nylon 12", 1.01, 0.02),
    Material("tpu", "TPU", 1.21, 0.03),
    Material("resin", "Photopolymer resin, cured", 1.18, 0.04),
    Material("pom", "Acetal (POM)", 1.41, 0.01),
    Material("aluminium", "Aluminium alloy", 2.70, 0.03),
    Material("brass", "Brass", 8.47, 0.02),
    Material("steel", "Steel", 7.85, 0.01),
    Material("stainless", "Stainless steel", 7.95, 0.02),
)
BY_ID = {material.id: material for material in MATERIALS}


def material_named(id: str) -> Material | None:
    """None for one that only another version knows: nothing is weighed in it."""
    return BY_ID.get(id)


def words_of(id: str) -> str:
    """What a material is called; one that is not known by its id."""
    found = material_named(id)
    return found.name if found is not None else f"unknown material {id[:40]}"


USUAL = {"print": "pla", "mill": "aluminium"}
"""What a machine's parts are taken to be of until somebody says otherwise."""


def mass(volume: float, material: Material) -> float:
    """Grams of a volume in mm3, solid throughout."""
    return volume * material.density / 1000
