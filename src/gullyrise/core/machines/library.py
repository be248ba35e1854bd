"""The machine library: shipped files, then the user's own."""

from __future__ import annotations

from pathlib import Path

import platformdirs

from gullyrise.core.errors import MachineError
from gullyrise.core.machines.machine import Machine, read_machine

DEFAULT = "heron-220"
_SHIPPED = Path(__file__).parent / "shipped"


def own_folder() -> Path:
    """Where a user's own machine files stand."""
    return Path(platformdirs.user_data_dir("gullyrise")) / "machines"


def library() -> list[Machine]:
    """Every machine, by name; a user's file replaces a shipped one of the same id, and one that cannot be read is left out.

    A broken file of the user's must not keep the window from opening; `machine_named` tells what is wrong with it.
    """
    found: dict[str, Machine] = {}
    for path in [*sorted(_SHIPPED.glob("*.toml")), *sorted(own_folder().glob("*.toml"))]:
        try:
            machine = read_machine(path)
        except MachineError:
            if path.parent == _SHIPPED:
                raise
            continue
        found[machine.id] = machine
    return sorted(found.values(), key=lambda machine: (machine.process != "print", machine.name))


def machine_named(words: str) -> Machine:
    """The machine of an id in the library, or in a file at that path. Raises MachineError."""
    for machine in library():
        if machine.id == words:
            return machine
    path = Path(words)
    if path.suffix.lower() == ".toml" or path.exists():
        return read_machine(path)
    own = own_folder() / f"{words}.toml"
    if own.exists():
        return read_machine(own)
    known = ", ".join(machine.id for machine in library())
    raise MachineError(f"No machine '{words}' is in the library; choose one of {known}, or give the path of a machine file.")


def default_machine() -> Machine:
    return machine_named(DEFAULT)
