"""What goes back to the designer: one archive whose content is known before it is written."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import Path

from gullyrise.core.report.dating import now

_OLDEST = (1980, 1, 1, 0, 0, 0)


@dataclass(frozen=True, slots=True)
class Packed:
    """A file of the archive. name : in it;  data : its bytes;  what : it is, in words"""

    name: str
    data: bytes = field(repr=False)
    what: str


def archive(files: Iterable[Packed]) -> bytes:
    """The bytes of a zip: the same for the same files at the same time. No two of its names are alike."""
    out = io.BytesIO()
    when = now().timetuple()[:6]
    taken: set[str] = set()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as pack:
        for one in files:
            name = _free(one.name, taken)
            taken.add(name.casefold())
            entry = zipfile.ZipInfo(name, max(when, _OLDEST))
            entry.compress_type = zipfile.ZIP_STORED if name.endswith((".png", ".pdf")) else zipfile.ZIP_DEFLATED
            entry.external_attr = 0o644 << 16
            pack.writestr(entry, one.data)
    return out.getvalue()


def _free(name: str, taken: set[str]) -> str:
    """A name in the archive that no other has, and that leads out of no folder."""
    safe = "/".join(part for part in name.replace("\\", "/").split("/") if part not in ("", ".", "..")) or "file"
    stem, ending = str(Path(safe).with_suffix("")), Path(safe).suffix
    number = 2
    while safe.casefold() in taken:
        safe = f"{stem}-{number}{ending}"
        number += 1
    return safe
