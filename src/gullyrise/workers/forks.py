"""The fork server, from which the window's workers come: started once, ended with the window, its sockets in a folder that is
swept."""

from __future__ import annotations

import atexit
import fcntl
import multiprocessing
import os
import shutil
import tempfile
from contextlib import suppress
from multiprocessing import forkserver, process
from pathlib import Path
from typing import IO, Any

PARENT = "GULLYRISE_PARENT"
"""Tells the fork server whose it is."""
_PREFIX, _LOCK = "gullyrise-", "lock"
_LONGEST = 60
"""Bytes of a folder's path that leave room for the rest of a socket's, of which Linux takes 107."""
_held: list[IO[bytes]] = []
_loaded = ["gullyrise.workers.preload"]
_READERS = "gullyrise.workers.preload_readers"


def context() -> Any:
    """By which workers are started."""
    found: Any = multiprocessing.get_context("forkserver")
    found.set_forkserver_preload(_loaded)
    return found


def begin_with_readers() -> None:
    """Starts the fork server with all that readers want at hand, which takes its time and its memory: for a window, where it
    loads beside what the window needs, and each solid part that is dropped later is read two seconds sooner."""
    if _READERS not in _loaded:
        _loaded.append(_READERS)
    begin()


def begin() -> None:
    """Starts the fork server where it does not run. From the main thread: the system ends it with the thread that started it."""
    context()
    if not _held:
        _sweep()
        # Without a place for passing files multiprocessing looks for one itself, and tells who starts a worker.
        with suppress(OSError):
            process.current_process()._config["tempdir"] = _own_folder()  # type: ignore[attr-defined]
    # It stays: where the fork server is ended, another is started by whoever asks next.
    os.environ[PARENT] = str(os.getpid())
    # What cannot be had now is told of the work that asks for it.
    with suppress(OSError):
        forkserver.ensure_running()


def _places() -> list[str]:
    """Where passing files may lie whose paths are short enough for a socket's address."""
    wanted = (tempfile.gettempdir(), os.environ.get("XDG_RUNTIME_DIR", ""), "/tmp", "/var/tmp")
    return [one for one in dict.fromkeys(wanted) if one and len(os.fsencode(one)) <= _LONGEST and os.access(one, os.W_OK)]


def _own_folder() -> str:
    """Raises OSError."""
    folder = Path(tempfile.mkdtemp(prefix=_PREFIX, dir=next(iter(_places()), None)))
    lock = (folder / _LOCK).open("wb")
    fcntl.flock(lock, fcntl.LOCK_EX)
    _held.append(lock)
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    return str(folder)


def _sweep() -> None:
    """Takes away the folders of windows that were killed: those of this user whose lock nobody holds."""
    for folder in (found for place in _places() for found in Path(place).glob(f"{_PREFIX}*")):
        with suppress(OSError):
            state = folder.lstat()
            if state.st_uid != os.getuid() or not folder.is_dir() or folder.is_symlink():
                continue
            with (folder / _LOCK).open("rb") as lock:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
                shutil.rmtree(folder, ignore_errors=True)
