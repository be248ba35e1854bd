"""The machine library."""

from __future__ import annotations

from gullyrise.desktop.commands.registry import ActionsOn
from gullyrise.desktop.features.machines.controller import MachinesController

machines = ActionsOn(MachinesController)

machines("place.machines", "Machine library", "P K", do=lambda it: it.open_library())
