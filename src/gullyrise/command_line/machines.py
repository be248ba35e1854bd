"""`gullyrise machines`: the machine library."""

from __future__ import annotations

from gullyrise.command_line.speaking import Json, put_json
from gullyrise.core.machines.library import DEFAULT, library
from gullyrise.core.report.contract import machines_document


def machines(json: Json = None) -> int:
    """The machine library."""
    shelf = library()
    put_json(machines_document(shelf), json)
    if json is None:
        for machine in shelf:
            mark = "  (default)" if machine.id == DEFAULT else ""
            print(f"{machine.id:<14} {machine.process:<6} {machine.envelope.words():<24} {machine.name}{mark}")
    return 0
