"""The machine library: shipped files, then the user's own."""

from __future__ import annotations

import re
from pathlib import Path

import platformdirs
import tomli_w

from gullyrise.core.errors import MachineError
from gullyrise.core.machines.machine import Machine, read_machine
from gullyrise.core.paths import plain_name
from gullyrise.core.safe_files import write_safely

DEFAULT = "heron-220"
_MOST_OWN = 500
_SHIPPED = Path(__file__).parent / "shipped"


def own_folder() -> Path:
    """Where a user's own machine files stand."""
    return Path(platformdirs.user_data_dir("gullyrise")) / "machines"


def library() -> list[Machine]:
    """Every machine, by name; a user's file replaces a shipped one of the same id, and one that cannot be read is left out."""
    return library_told()[0]


def library_told() -> tuple[list[Machine], tuple[str, ...]]:
    """(every machine, a sentence on each file of the user's that is left out). None of those keeps the window from opening."""
    found: dict[str, Machine] = {}
    left_out: list[str] = []
    for path in [*sorted(_SHIPPED.glob("*.toml")), *_own_files()]:
        try:
            machine = read_machine(path)
        except MachineError as error:
            if path.parent == _SHIPPED:
                raise
            left_out.append(str(error))
            continue
        found[machine.id] = machine
    return sorted(found.values(), key=lambda machine: (machine.process != "print", machine.name)), tuple(left_out)


def _own_files() -> list[Path]:
    """The user's own files, as many as anybody keeps."""
    try:
        return sorted(own_folder().glob("*.toml"))[:_MOST_OWN]
    except OSError:
        return []


def machine_named(words: str) -> Machine:
    """The machine of an id in the library, or in a file at that path. Raises MachineError."""
    for machine in library():
        if machine.id == words:
            return machine
    path = Path(words)
    if path.suffix.lower() == ".toml" or _is_there(path):
        return read_machine(path)
    own = own_folder() / f"{words}.toml"
    if _is_there(own):
        return read_machine(own)
    known = ", ".join(machine.id for machine in library())
    raise MachineError(
        f"No machine '{plain_name(words)[:80]}' is in the library; choose one of {known}, or give the path of a machine file."
    )


def _is_there(path: Path) -> bool:
    try:
        return path.exists()
    except (OSError, ValueError):
        # A name that no file can have.
        return False


def default_machine() -> Machine:
    """The one that a new job stands on."""
    return machine_named(DEFAULT)


def is_shipped(id: str) -> bool:
    """Whether a machine of that id came with the application."""
    return any(read_machine(path).id == id for path in _SHIPPED.glob("*.toml"))


def own_file(id: str) -> Path | None:
    """The user's own file of a machine, None where there is none."""
    for path in _own_files():
        try:
            if read_machine(path).id == id:
                return path
        except MachineError:
            continue
    return None


def as_toml(machine: Machine) -> str:
    """The machine as its file's text; what is as it usually is stays out."""
    return tomli_w.dumps(machine.model_dump(exclude_none=True, exclude_defaults=True, mode="json"))


def save_own(machine: Machine) -> Path:
    """Keeps a machine in the user's folder, in place of the one of the same id. Raises MachineError where that fails."""
    path = own_file(machine.id) or own_folder() / f"{_slug(machine.id)}.toml"
    return export(machine, path)


def export(machine: Machine, path: Path) -> Path:
    """Writes a machine's file. Raises MachineError where that fails."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        write_safely(path, as_toml(machine).encode())
    except OSError as error:
        raise MachineError(f"{path.name} cannot be written ({error.strerror}); choose another place.") from None
    return path


def remove_own(id: str) -> bool:
    """Takes the user's own file of a machine away; a shipped one of that id stands again. Whether there was one."""
    path = own_file(id)
    if path is None:
        return False
    try:
        path.unlink()
    except OSError as error:
        raise MachineError(f"{path.name} cannot be removed ({error.strerror}); remove it by hand.") from None
    return True


def bring_in(path: Path) -> Machine:
    """A machine's file from elsewhere, kept in the user's folder; under a fresh id where its own is taken by another machine.

    Raises MachineError for a file that is none.
    """
    machine = read_machine(path)
    taken = {one.id: one for one in library()}
    if machine.id in taken and taken[machine.id] != machine:
        machine = machine.model_copy(update={"id": fresh_id(machine.id, set(taken))})
    save_own(machine)
    return machine


def duplicate(machine: Machine) -> Machine:
    """A copy under a fresh id and name; it is not kept before it is saved."""
    shelf = library()
    names = {one.name for one in shelf}
    name = next(
        name for n in range(1, len(names) + 2) if (name := f"{machine.name} copy" + (f" {n}" if n > 1 else "")) not in names
    )
    return machine.model_copy(update={"id": fresh_id(machine.id, {one.id for one in shelf}), "name": name[:120]})


def fresh_id(id: str, taken: set[str]) -> str:
    """The id, or one like it that is not taken."""
    tries = [id, f"{id[:70]}-copy", *(f"{id[:70]}-copy-{n}" for n in range(2, len(taken) + 3))]
    return next(one for one in tries if one not in taken)


def _slug(id: str) -> str:
    """An id as the name of a file."""
    return re.sub(r"[^A-Za-z0-9._-]+", "-", id).strip("-.") or "machine"
