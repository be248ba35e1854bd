"""Files that are whole or not there: written beside their place, then put into it."""

from __future__ import annotations

import os
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import IO

_MARK = ".part"


def write_safely(path: Path, data: bytes) -> None:
    """Puts bytes at a path: whoever looks, or comes after a crash, finds the old file or the new one, whole. Raises OSError."""
    fill_safely(path, lambda stream: stream.write(data))


def fill_safely(path: Path, fill: Callable[[IO[bytes]], object]) -> None:
    """The same for what is written bit by bit. What earlier writers that were killed left of this file is swept away.

    Raises OSError, and whatever `fill` raises; the old file then stands as it did.
    """
    fresh = path.with_name(f".{path.name}.{os.getpid()}{_MARK}")
    try:
        with fresh.open("wb") as stream:
            fill(stream)
            stream.flush()
            os.fsync(stream.fileno())
        fresh.replace(path)
    except BaseException:
        with suppress(OSError):
            fresh.unlink()
        raise
    _settle(path.parent)
    for left in path.parent.glob(f".{path.name}.*{_MARK}"):
        if not _lives(left):
            with suppress(OSError):
                left.unlink()


def _lives(left: Path) -> bool:
    """Whether the process that writes a file still runs."""
    number = left.name.removesuffix(_MARK).rpartition(".")[2]
    return number.isdigit() and Path(f"/proc/{number}").exists()


def _settle(folder: Path) -> None:
    """The new name itself survives a loss of power; not every file system can be asked for that."""
    with suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
