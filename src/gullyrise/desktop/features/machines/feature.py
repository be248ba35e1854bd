"""The machine plate and the library of machines."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.desktop.context import Context
from gullyrise.desktop.features.machines import commands as commands
from gullyrise.desktop.features.machines.controller import MachinesController
from gullyrise.desktop.features.machines.plate import MachinePlate


@dataclass(frozen=True, slots=True)
class MachinesFeature:
    controller: MachinesController
    plate: MachinePlate


def attach(context: Context) -> MachinesFeature:
    made = MachinesController(context.window, context.model, context.notifier, context.looks)
    plate = MachinePlate(context.model, context.palette)
    plate.chosen.connect(made.use_machine)
    for part in (plate, made):
        context.looks.changed.connect(part.wear)
    context.commands.serve(made)
    return MachinesFeature(made, plate)
