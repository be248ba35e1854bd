"""Files that a part file cannot be read without."""

from __future__ import annotations

import json
import struct
from pathlib import Path
from urllib.parse import unquote

from gullyrise.core.safe_files import ordinary, read_within

_MOST, _MOST_BYTES = 64, 64 << 20
_HEAD = struct.Struct("<4sIIII")
_JSON = 0x4E4F534A


def belonging(path: Path) -> tuple[str, ...]:
    """Paths, from the file's own folder, of the buffers that a glTF or GLB file names; none for any other file, or a damaged one.

    What lies outside the folder is left out, as the reader leaves it.
    """
    ending = path.suffix.lower()
    if ending not in (".gltf", ".glb"):
        return ()
    try:
        tree = json.loads(read_within(path, _MOST_BYTES) if ending == ".gltf" else _text_of(path))
        places = [str(one.get("uri", "data:")) for one in tree.get("buffers", [])[:_MOST]]
        home = path.parent.resolve()
        names = dict.fromkeys(unquote(place) for place in places if not place.startswith("data:"))
        return tuple(name for name in names if _is_below(home, name))
    except (OSError, ValueError, KeyError, TypeError, AttributeError, RecursionError):
        return ()


def _is_below(home: Path, name: str) -> bool:
    """Whether a name is that of an ordinary file in a folder."""
    try:
        return (home / name).resolve().is_relative_to(home) and (home / name).is_file()
    except (OSError, ValueError, RuntimeError):
        # A name with a null in it, or without end, or of a link in a ring, is nobody's.
        return False


def _text_of(path: Path) -> bytes:
    """The JSON of a GLB file (glTF 2.0, 4.4). Raises ValueError, OSError."""
    with ordinary(path) as stream:
        head = stream.read(_HEAD.size)
        if len(head) < _HEAD.size:
            raise ValueError("too short")
        mark, _, _, length, kind = _HEAD.unpack(head)
        if mark != b"glTF" or kind != _JSON or length > _MOST_BYTES:
            raise ValueError("no GLB")
        return stream.read(length)
