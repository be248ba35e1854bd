"""A body that something is measured on."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.core.geometry import Transform
from gullyrise.core.intake.materials import Material
from gullyrise.core.part import Body


@dataclass(frozen=True, slots=True, eq=False)
class Subject:
    """A body that things were picked on. place : where it stands on the machine"""

    name: str
    body: Body
    place: Transform
    material: Material | None
