"""The journal: the work in hand, kept beside it while it goes on, so that whatever ends the program takes none of it away."""

from __future__ import annotations

import fcntl
import json
import os
import shutil
import tempfile
import time
import uuid
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from platformdirs import user_data_path

from gullyrise.core.errors import JobError
from gullyrise.core.job.form import JobForm, as_bytes
from gullyrise.core.job.sound import sound_form
from gullyrise.core.job.store import Store
from gullyrise.core.paths import real_path, told_path
from gullyrise.core.safe_files import read_within, write_safely

_JOB, _ABOUT, _LOCK, _PARTS = "job.json", "about.json", "lock", "parts"
_MOST_JOB, _MOST_ABOUT = 256 << 20, 1 << 16
MOST_OFFERED = 3
_MOST_HELD = 200
"""Folders that are looked at and held at once: each takes a file handle."""


@dataclass(frozen=True, slots=True, eq=False)
class Found:
    """Work of a session that ended without saving it, held against all others until it is let go.

    form : None where it is damaged
    cost : sentences on what of it is
    when : s since the epoch
    path, state : of its job file, or empty
    instead_of : names of the folders of earlier sessions whose work it holds
    """

    folder: Path
    form: JobForm | None
    cost: tuple[str, ...]
    when: float
    path: str
    state: str
    instead_of: tuple[str, ...]
    _lock: IO[bytes]

    @property
    def store(self) -> Store:
        """Where the bytes of its parts are kept."""
        return Store(self.folder / _PARTS)

    def let_go(self) -> None:
        """Another session may offer it."""
        self._lock.close()

    def throw_away(self) -> None:
        """It is not wanted, or is kept elsewhere."""
        shutil.rmtree(self.folder, ignore_errors=True)
        self.let_go()


class Journal:
    """One session's folder. While the session lives it holds a lock, which the system lets go of however the session ends."""

    def __init__(self, home: Path | None = None) -> None:
        self._home = home or journal_home()
        self.folder = self._home / uuid.uuid4().hex
        self._lock: IO[bytes] | None = None
        self.is_safe = True
        """Whether it lies where the next session looks for work."""

    @property
    def store(self) -> Store:
        """Where the bytes of its parts are kept."""
        return Store(self.folder / _PARTS)

    def begin(self) -> None:
        """Raises JobError where there is no place for it; parts are then kept among the system's passing files."""
        if self._lock is not None and (self.folder / _LOCK).exists():
            return
        try:
            self._lock = _locked(self.folder)
        except OSError as error:
            self.is_safe = False
            with suppress(OSError):
                self.folder = Path(tempfile.mkdtemp(prefix="gullyrise-"))
                self._lock = _locked(self.folder)
            raise JobError(
                f"Work cannot be kept safe in {self._home} ({error.strerror}): save it often, into another place, or make room."
            ) from None

    def write(self, form: JobForm, path: str, state: str = "", instead_of: tuple[str, ...] = ()) -> None:
        """Keeps the work as it is. path, state : of its job file, or empty
        instead_of : names of folders whose work it holds, which are not offered beside it. Raises JobError.
        """
        self.begin()
        try:
            write_safely(
                self.folder / _ABOUT,
                json.dumps(
                    {"path": told_path(Path(path)) if path else "", "state": state, "when": time.time(), "instead_of": instead_of}
                ).encode(),
            )
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


def _locked(folder: Path) -> IO[bytes]:
    """The lock of a folder that is made for it. Raises OSError."""
    while True:
        folder.mkdir(parents=True, exist_ok=True)
        lock = (folder / _LOCK).open("wb")
        try:
            # Another session that looks for work left behind may hold it for a moment, and take it for an empty one.
            fcntl.flock(lock, fcntl.LOCK_EX)
            if os.fstat(lock.fileno()).st_ino == (folder / _LOCK).stat().st_ino:
                return lock
        except FileNotFoundError:
            pass
        except BaseException:
            lock.close()
            raise
        lock.close()


def journal_home() -> Path:
    """The folder in which every session keeps its own."""
    return Path(user_data_path("gullyrise")) / "journal"


def left_behind(home: Path | None = None) -> list[Found]:
    """Work of sessions that are over, newest first, each held from now on. Folders without any are swept away; work is never,
    however old it looks: clocks go wrong."""
    home = home or journal_home()
    try:
        folders = [one for one in home.iterdir() if one.is_dir() and not one.is_symlink()]
    except OSError:
        return []
    folders.sort(key=_last_touched, reverse=True)
    found = [one for folder in folders[:_MOST_HELD] if (one := _found(folder)) is not None]
    # A session that was ended between keeping what it took up and throwing that away. What is damaged stands for nothing else.
    whole = [one for one in found if one.form is not None and not one.cost]
    twice = {name for one in whole for name in one.instead_of if name != one.folder.name}
    for one in found:
        if one.folder.name in twice:
            one.throw_away()
    return sorted((one for one in found if one.folder.name not in twice), key=lambda one: -one.when)


def _last_touched(folder: Path) -> float:
    try:
        return folder.stat().st_mtime
    except OSError:  # Another session has just swept it away.
        return 0.0


def _found(folder: Path) -> Found | None:
    try:
        lock = (folder / _LOCK).open("ab")
    except OSError:
        return None
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        job = folder / _JOB
        if not job.exists():
            shutil.rmtree(folder, ignore_errors=True)
            lock.close()
            return None
        when, path, state, instead_of = _about(folder)
        form, cost = _form(job)
        if form is not None and not form.stands and not cost:
            shutil.rmtree(folder, ignore_errors=True)
            lock.close()
            return None
    except OSError:
        lock.close()
        return None
    return Found(folder, form, cost, when, path, state, instead_of, lock)


def _form(job: Path) -> tuple[JobForm | None, tuple[str, ...]]:
    try:
        return sound_form(read_within(job, _MOST_JOB), "the work that was left")
    except JobError as error:
        return None, (str(error),)


def _about(folder: Path) -> tuple[float, str, str, tuple[str, ...]]:
    """(when it was kept, the path and state of its job file, whose work it is), as far as that can be told."""
    written = (folder / _JOB).stat().st_mtime
    try:
        about = json.loads(read_within(folder / _ABOUT, _MOST_ABOUT))
        return (
            float(about.get("when", written)),
            real_path(str(about.get("path", ""))),
            str(about.get("state", "")),
            tuple(map(str, about.get("instead_of", ()))),
        )
    except (OSError, ValueError, AttributeError, TypeError, RecursionError, OverflowError):
        return written, "", "", ()
