"""Finding the reader of a file, by its content first and its ending second."""

from __future__ import annotations

import importlib
import stat
from dataclasses import replace
from functools import cache
from importlib.metadata import entry_points
from pathlib import Path
from typing import cast

from gullyrise.core.errors import Damaged, EmptyFile, NoPermission, NotAFile, ReadError, TooLarge, UnknownFormat
from gullyrise.core.name_words import said_name, told_once
from gullyrise.core.part import Part, renamed
from gullyrise.core.paths import printable
from gullyrise.core.progress import Progress, silent
from gullyrise.core.reading.options import MOST_BYTES, Reader, ReadOptions

# Looked through in this order; the loosest sniffers come last.
_MODULES = ("threemf", "amf", "gltf", "step", "iges", "brep", "ply", "off", "stl", "obj")
# Known without importing a reader, so that the window can name them in its dialog at once.
_ENDINGS = (".stl", ".obj", ".ply", ".off", ".3mf", ".amf", ".glb", ".gltf", ".step", ".stp", ".iges", ".igs", ".brep", ".brp")


@cache
def _from_elsewhere() -> tuple[Reader, ...]:
    """Those that other packages bring along."""
    return tuple(cast(Reader, point.load()) for point in entry_points(group="gullyrise.readers"))


def endings() -> tuple[str, ...]:
    """File endings that can be read, each with its dot."""
    return tuple(dict.fromkeys((*_ENDINGS, *(ending for reader in _from_elsewhere() for ending in reader.ENDINGS))))


@cache
def _readers() -> list[Reader]:
    own = [cast(Reader, importlib.import_module(f"gullyrise.core.reading.{name}")) for name in _MODULES]
    return [*own, *_from_elsewhere()]


def load_readers(found: set[str]) -> None:
    """Loads the readers, and what those of these endings import when they read."""
    for reader in _readers():
        if found & set(reader.ENDINGS):
            for name in getattr(reader, "WANTS", ()):
                importlib.import_module(name)


def _shown(part: Part) -> Part:
    """With words that can be shown, whatever its file has for them: what nobody named is called as its file is, and a sentence
    that is said again and again stands once."""
    stem = Path(part.file).stem
    names = [said_name(body.name, stem) for body in part.bodies]
    if names != [body.name for body in part.bodies]:
        bodies = [replace(body, name=name) for body, name in zip(part.bodies, names, strict=True)]
        part = replace(part, bodies=tuple(renamed(bodies)))
    return replace(
        part,
        name=printable(part.name),
        notes=told_once(map(printable, part.notes)),
        metadata=tuple((printable(name), printable(value)) for name, value in part.metadata),
    )


def checked_head(path: Path) -> bytes:
    """The first bytes of an ordinary file, or the ReadError that says why it is none."""
    try:
        state = path.stat()
    except PermissionError:
        raise NoPermission(path.name) from None
    except (OSError, ValueError):
        raise NotAFile(path.name, folder=False) from None
    if stat.S_ISDIR(state.st_mode):
        raise NotAFile(path.name, folder=True)
    if not stat.S_ISREG(state.st_mode):
        raise Damaged(path.name, "a part file", "it is a device or a pipe")
    if state.st_size == 0:
        raise EmptyFile(path.name)
    if state.st_size > MOST_BYTES:
        raise TooLarge(path.name, f"{state.st_size / 2**30:.1f} GiB", f"{MOST_BYTES >> 30} GiB")
    try:
        with path.open("rb") as stream:
            return stream.read(4096)
    except PermissionError:
        raise NoPermission(path.name) from None
    except OSError as error:
        raise Damaged(path.name, "a part file", f"the disk says {error.strerror}") from error


def read(path: Path, options: ReadOptions | None = None, progress: Progress = silent) -> Part:
    """The part in a file, in mm, Z up. Raises ReadError with one sentence; never anything else but MemoryError."""
    head = checked_head(path)
    readers = _readers()
    ending = path.suffix.lower()
    chosen = next((reader for reader in readers if reader.sniff(head)), None)
    if chosen is not None and chosen.FORMAT == "3mf" and ending == ".amf":
        # Both may be zip archives, which say nothing of what they hold.
        chosen = next(reader for reader in readers if reader.FORMAT == "amf")
    if chosen is None or (chosen.FORMAT == "obj" and ending not in chosen.ENDINGS):
        chosen = next((reader for reader in readers if ending in reader.ENDINGS), None)
    if chosen is None:
        raise UnknownFormat(path.name, ", ".join(word.lstrip(".").upper() for word in _ENDINGS))
    progress("reading", 0, 0)
    try:
        return _shown(chosen.read(path, options or ReadOptions(), progress))
    except (ReadError, MemoryError):
        raise
    except PermissionError:
        raise NoPermission(path.name) from None
    except Exception as error:
        # Readers map the errors that they know; whatever else a library raises on a bad file ends here, and its words are chained
        # for who looks for them: to a person they say nothing.
        raise Damaged(path.name, chosen.FORMAT.upper(), "its content breaks the rules of the format") from error
