"""The machine library."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.registry import action

if TYPE_CHECKING:
    from gullyrise.desktop.features.machines.controller import Machines


@action("place.machines", "Machine library", "P K")
def open_library(machines: Machines) -> None:
    machines.open_library()
