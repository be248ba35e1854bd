"""Finding the writer of a file by its ending, and writing so that a failure leaves the old file."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from pathlib import Path

from gullyrise.core.errors import WriteError
from gullyrise.core.part import Part
from gullyrise.core.writing import gltf, meshes, step, threemf

_WRITERS: dict[str, Callable[[Part, Path], list[str]]] = {
    ".stl": meshes.write_stl,
    ".obj": meshes.write_obj,
    ".ply": meshes.write_ply,
    ".3mf": threemf.write_3mf,
    ".glb": gltf.write_glb,
    ".step": step.write_step,
    ".stp": step.write_step,
}


def endings() -> tuple[str, ...]:
    """Of all formats that can be written, each with its dot."""
    return tuple(_WRITERS)


def write(part: Part, path: Path) -> list[str]:
    """Writes a part in the format of the ending; gives sentences on what that format cannot hold.

    Raises WriteError. The file appears whole or not at all.
    """
    writer = _WRITERS.get(path.suffix.lower())
    if writer is None:
        known = ", ".join(_WRITERS)
        raise WriteError(f"{path.name} has the ending '{path.suffix}', which is not written; use one of {known}.")
    try:
        handle, name = tempfile.mkstemp(suffix=path.suffix.lower(), prefix=".gullyrise-", dir=path.parent)
    except OSError as error:
        raise WriteError(f"{path.name} cannot be written there ({error.strerror}); choose another folder.") from None
    os.close(handle)
    draft = Path(name)
    try:
        said = writer(part, draft)
        draft.chmod(0o644)
        draft.replace(path)
    except OSError as error:
        raise WriteError(
            f"{path.name} could not be written ({error.strerror}); free some space or choose another folder."
        ) from None
    finally:
        draft.unlink(missing_ok=True)
    return said
