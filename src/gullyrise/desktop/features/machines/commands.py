"""The machine library."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.registry import action

if TYPE_CHECKING:
    from gullyrise.desktop.features.machines.controller import MachinesController


@action("place.machines", "Machine library", "P K")
def open_library(machines: MachinesController) -> None:
    machines.open_library()
