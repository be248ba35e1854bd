"""Jobs that were open lately: their files, machine and a picture, kept in the user's data folder."""

from __future__ import annotations

import hashlib
import json
import os
from dataclasses import asdict, dataclass
from datetime import datetime
from pathlib import Path

from platformdirs import user_data_path

from gullyrise.core.safe_files import read_within, write_safely

MOST = 6
_MOST_BYTES = 1 << 20
PICTURE = (184, 116)
"""Pixels of a picture as it is shown."""


@dataclass(frozen=True, slots=True)
class RecentJob:
    """name : as the window calls it
    files : paths
    machine : its id
    when : ISO 8601, local
    picture : a file's name
    """

    name: str
    files: tuple[str, ...]
    machine: str
    when: str
    picture: str


class RecentJobs:
    """Newest first. A folder that cannot be used keeps nothing, and says nothing: these are a comfort, not the work."""

    def __init__(self, folder: Path | None = None) -> None:
        self._folder = folder or user_data_path("gullyrise") / "recent"
        self._index = self._folder / "jobs.json"

    def all(self) -> list[RecentJob]:
        """Those of which at least one file is still there."""
        try:
            found = json.loads(read_within(self._index, _MOST_BYTES))
            jobs = [
                RecentJob(
                    str(one["name"]), tuple(map(str, one["files"])), str(one["machine"]), str(one["when"]), str(one["picture"])
                )
                for one in found
            ]
        except (OSError, ValueError, KeyError, TypeError, RecursionError):
            return []
        return [job for job in jobs[:MOST] if any(Path(file).is_file() for file in job.files)]

    def picture(self, job: RecentJob) -> Path:
        """The path of a job's picture."""
        # Only a name inside the folder: the index is a file like any other.
        return self._folder / Path(job.picture).name

    def keep(self, name: str, files: tuple[str, ...], machine: str, picture: bytes) -> None:
        """Puts a job in front; one of the same files before it goes. picture : PNG"""
        mark = hashlib.blake2b(os.fsencode("\n".join(sorted(files))), digest_size=8).hexdigest()
        job = RecentJob(name, files, machine, datetime.now().isoformat(timespec="minutes"), f"{mark}.png")
        kept = [job, *(one for one in self.all() if set(one.files) != set(files))][:MOST]
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            # Torn by a crash it is only not shown: not worth waiting for the disk as the window closes.
            (self._folder / job.picture).write_bytes(picture)
            write_safely(self._index, json.dumps([asdict(one) for one in kept], indent=1).encode())
            names = {one.picture for one in kept}
            for old in self._folder.glob("*.png"):
                if old.name not in names:
                    old.unlink(missing_ok=True)
        except OSError:
            return
