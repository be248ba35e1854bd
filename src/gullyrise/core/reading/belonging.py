"""Files that a part file cannot be read without."""

from __future__ import annotations

import json
from pathlib import Path
from urllib.parse import unquote

_MOST, _MOST_BYTES = 64, 64 << 20


def belonging(path: Path) -> tuple[str, ...]:
    """Paths, from the file's own folder, of the buffers that a glTF file names; none for any other file, or a damaged one.

    What lies outside the folder is left out, as the reader leaves it.
    """
    if path.suffix.lower() != ".gltf":
        return ()
    try:
        if path.stat().st_size > _MOST_BYTES:
            return ()
        tree = json.loads(path.read_bytes())
        places = [str(one.get("uri", "data:")) for one in tree.get("buffers", [])[:_MOST]]
    except (OSError, ValueError, KeyError, TypeError, AttributeError, RecursionError):
        return ()
    home = path.parent.resolve()
    names = dict.fromkeys(unquote(place) for place in places if not place.startswith("data:"))
    return tuple(name for name in names if (home / name).resolve().is_relative_to(home) and (home / name).is_file())
