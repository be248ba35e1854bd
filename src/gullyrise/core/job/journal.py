"""The journal: the work in hand, kept beside it while it goes on, so that whatever ends the program takes none of it away."""

from __future__ import annotations

import fcntl
import json
import os
import shutil
import time
import uuid
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from platformdirs import user_data_path

from gullyrise.core.errors import JobError
from gullyrise.core.job.form import JobForm, as_bytes, form_from
from gullyrise.core.job.store import Store
from gullyrise.core.safe_files import write_safely

_JOB, _ABOUT, _LOCK, _PARTS = "job.json", "about.json", "lock", "parts"
_DAYS = 60.0
MOST_OFFERED = 3


@dataclass(frozen=True, slots=True)
class Found:
    """Work of a session that ended without saving it. when : s since the epoch;  path : of its job file, or empty"""

    folder: Path
    form: JobForm
    when: float
    path: str

    @property
    def store(self) -> Store:
        return Store(self.folder / _PARTS)


class Journal:
    """One session's folder. While the session lives it holds a lock, which the system lets go of however the session ends."""

    def __init__(self, home: Path | None = None) -> None:
        self._home = home or journal_home()
        self.folder = self._home / uuid.uuid4().hex
        self._lock: IO[bytes] | None = None

    @property
    def store(self) -> Store:
        return Store(self.folder / _PARTS)

    def begin(self) -> None:
        """Raises JobError where there is no place for it."""
        if self._lock is not None:
            return
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            self._lock = (self.folder / _LOCK).open("wb")
            # Another session that looks for work left behind may hold it for a moment.
            fcntl.flock(self._lock, fcntl.LOCK_EX)
        except OSError as error:
            raise JobError(f"Work cannot be kept safe in {self._home} ({error.strerror}); save it often, or make room.") from None

    def write(self, form: JobForm, path: str) -> None:
        """Keeps the work as it is. path : of its job file, or empty. Raises JobError."""
        self.begin()
        try:
            write_safely(self.folder / _ABOUT, json.dumps({"path": path, "when": time.time()}).encode())
            write_safely(self.folder / _JOB, as_bytes(form))
        except OSError as error:
            raise JobError(f"The work is not kept safe at the moment ({error.strerror}); save it, or make room.") from None

    def settle(self) -> None:
        """All is saved: nothing is to be offered after this."""
        for name in (_JOB, _ABOUT):
            with suppress(OSError):
                (self.folder / name).unlink()

    def close(self) -> None:
        """Ends the session. What was not settled is offered to the next."""
        with suppress(OSError):
            if not (self.folder / _JOB).exists():
                shutil.rmtree(self.folder, ignore_errors=True)
        if self._lock is not None:
            self._lock.close()
            self._lock = None


def journal_home() -> Path:
    return Path(user_data_path("gullyrise")) / "journal"


def left_behind(home: Path | None = None) -> list[Found]:
    """Work of sessions that are over, newest first. What is empty or too old is swept away."""
    home = home or journal_home()
    found = []
    for folder in _over(home):
        job = folder / _JOB
        try:
            about = json.loads((folder / _ABOUT).read_bytes()) if (folder / _ABOUT).exists() else {}
            when, path = float(about.get("when", job.stat().st_mtime)), str(about.get("path", ""))
            form = form_from(job.read_bytes(), "The work that was left")
        except FileNotFoundError:
            shutil.rmtree(folder, ignore_errors=True)
            continue
        except (OSError, ValueError, AttributeError, JobError):
            continue
        if not form.stands or time.time() - when > _DAYS * 86400:
            shutil.rmtree(folder, ignore_errors=True)
            continue
        found.append(Found(folder, form, when, path))
    return sorted(found, key=lambda one: -one.when)


def throw_away(found: Found) -> None:
    shutil.rmtree(found.folder, ignore_errors=True)


def _over(home: Path) -> Iterator[Path]:
    """Folders of sessions whose lock nobody holds."""
    try:
        folders = [one for one in home.iterdir() if one.is_dir()]
    except OSError:
        return
    for folder in folders:
        with suppress(OSError):
            handle = os.open(folder / _LOCK, os.O_RDWR | os.O_CREAT)
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError:
                continue
            finally:
                os.close(handle)
            yield folder
