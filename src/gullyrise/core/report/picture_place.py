"""Where pictures for the record are kept."""

from __future__ import annotations

import re
from datetime import datetime
from pathlib import Path

from platformdirs import user_data_path


def fresh_path(folder: str, job: str) -> Path:
    """Where the next picture goes: in the chosen folder, else in the user's data folder; never over another one."""
    place = Path(folder).expanduser() if folder else user_data_path("gullyrise") / "pictures"
    stem = re.sub(r"[^\w-]+", "-", job).strip("-") or "view"
    when = datetime.now().strftime("%Y%m%d-%H%M%S")
    path = place / f"{stem}-{when}.png"
    number = 2
    while path.exists():
        path = place / f"{stem}-{when}-{number}.png"
        number += 1
    return path
