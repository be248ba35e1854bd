"""Part files in folders."""

from __future__ import annotations

import os
from pathlib import Path

from gullyrise.core.reading.registry import endings

MOST_FILES = 2_000
_MOST_LOOKED_AT = 200_000


def files_below(folder: Path) -> list[str]:
    """The files in a folder, and in the folders in it, that have the ending of a part file, by name; at most one more than is
    opened at once. Hidden folders are left out, links to folders are not followed."""
    known = set(endings())
    found: list[str] = []
    looked_at = 0
    for here, folders, names in os.walk(folder, followlinks=False):
        folders[:] = sorted(name for name in folders if not name.startswith("."))
        found += [str(Path(here) / name) for name in sorted(names) if Path(name).suffix.lower() in known]
        looked_at += len(names)
        if len(found) > MOST_FILES or looked_at > _MOST_LOOKED_AT:
            break
    return found[: MOST_FILES + 1]
