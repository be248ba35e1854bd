"""Zip archives that may be hostile: bounds before anything is unpacked."""

from __future__ import annotations

import zipfile
from pathlib import Path, PurePosixPath

from gullyrise.core.errors import Damaged, TooLarge, UnsafeContent

MOST_ENTRIES = 10_000
MOST_UNPACKED = 4 << 30
MOST_RATIO = 200
_SMALL = 64 << 20


def checked_entries(path: Path, form: str) -> list[zipfile.ZipInfo]:
    """The entries of an archive whose names, counts and announced sizes are within bounds.

    Raises Damaged, TooLarge, UnsafeContent.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            entries = archive.infolist()
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as error:
        raise Damaged(path.name, form, f"it is not a whole zip archive ({error})") from error
    if len(entries) > MOST_ENTRIES:
        raise TooLarge(path.name, f"{len(entries):,} entries in the archive", f"{MOST_ENTRIES:,}")
    unpacked = sum(entry.file_size for entry in entries)
    if unpacked > MOST_UNPACKED or (unpacked > _SMALL and unpacked > MOST_RATIO * max(path.stat().st_size, 1)):
        raise UnsafeContent(path.name, f"its archive would unpack to {unpacked / 2**30:.1f} GiB, far more than it weighs")
    for entry in entries:
        place = PurePosixPath(entry.filename.replace("\\", "/"))
        if place.is_absolute() or ".." in place.parts or ":" in entry.filename:
            raise UnsafeContent(path.name, f"its archive names a place outside itself ({entry.filename[:60]})")
    return entries


def refuse_entities(path: Path, entry: zipfile.ZipInfo) -> None:
    """Raises UnsafeContent where an XML entry declares entities; TooLarge where it unpacks to more than it says."""
    with zipfile.ZipFile(path) as archive, archive.open(entry) as stream:
        # A document type may only stand before the root element, and no honest prologue is a megabyte long.
        head = stream.read(1 << 20)
    for encoding in ("utf-8", "utf-16-le", "utf-16-be"):
        text = head.decode(encoding, errors="ignore").upper()
        if "<!DOCTYPE" in text or "<!ENTITY" in text:
            raise UnsafeContent(path.name, f"{entry.filename[:60]} declares entities, which may unfold without end")
