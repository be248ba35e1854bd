"""Files that are whole or not there: written beside their place, then put into it. And files that are read within bounds."""

from __future__ import annotations

import ctypes
import errno
import hashlib
import os
import stat
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import IO

_MARK = ".part"
_LONG = 200
"""Bytes of a name beyond which there is no room for what stands round it while it is written."""
_MOST_LINKS = 40


def ordinary(path: Path) -> IO[bytes]:
    """Opens an ordinary file for reading. Raises OSError, with a word that says so for a folder, a device or a pipe, which would
    give bytes without end or none for ever."""
    handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    try:
        _refuse_odd(os.fstat(handle).st_mode, path)
        os.set_blocking(handle, True)
        return os.fdopen(handle, "rb")
    except BaseException:
        os.close(handle)
        raise


def read_within(path: Path, most: int) -> bytes:
    """The bytes of a small ordinary file. Raises OSError, also for one of more than `most` bytes."""
    with ordinary(path) as stream:
        data = stream.read(most + 1)
    if len(data) > most:
        raise OSError(errno.EFBIG, "it is far too large for its purpose", str(path))
    return data


def write_safely(path: Path, data: bytes) -> None:
    """Puts bytes at a path: whoever looks, or comes after a crash, finds the old file or the new one, whole. Raises OSError."""
    fill_safely(path, lambda stream: stream.write(data))


def fill_safely(path: Path, fill: Callable[[IO[bytes]], object]) -> None:
    """The same for what is written bit by bit. What earlier writers that were killed left of this file is swept away.

    A link is written through to what it leads to; an old file's mode and owner stay as far as the system lets them.
    Raises OSError, also for a place that holds something else than an ordinary file, and whatever `fill` raises; the old file
    then stands as it did.
    """
    try:
        place = _through_links(path)
        before = _state(place)
    except ValueError:
        raise OSError(errno.EINVAL, "its name cannot be a file's", "") from None
    if before is not None:
        _refuse_odd(before.st_mode, place)
        # Put into its place, a new file would take that of one that may not be written.
        if not os.access(place, os.W_OK):
            raise PermissionError(errno.EACCES, os.strerror(errno.EACCES), str(place))
    name = (
        place.name
        if len(os.fsencode(place.name)) <= _LONG
        else hashlib.blake2b(os.fsencode(place.name), digest_size=16).hexdigest()
    )
    fresh = place.with_name(f".{name}.{os.getpid()}{_MARK}")
    try:
        with fresh.open("wb") as stream:
            fill(stream)
            stream.flush()
            if before is not None:
                _as_before(stream.fileno(), before)
            os.fsync(stream.fileno())
        fresh.replace(place)
    except BaseException:
        with suppress(OSError):
            fresh.unlink()
        raise
    _settle(place.parent)
    _sweep(place.parent, name)


class Together:
    """New files of one folder that come to stand in it at once, whole: with one wait for the disk for all, as thousands with a
    wait each take minutes on a busy one. Until `settle` none of them is there."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._names: set[str] = set()

    def __contains__(self, name: str) -> bool:
        return name in self._names

    def fill(self, name: str, fill: Callable[[IO[bytes]], object]) -> None:
        """Raises OSError, and whatever `fill` raises; the file then is none of them."""
        fresh = self._beside(name)
        try:
            with fresh.open("wb") as stream:
                fill(stream)
        except BaseException:
            with suppress(OSError):
                fresh.unlink()
            raise
        self._names.add(name)

    def settle(self) -> None:
        """Raises OSError where the disk refuses; what stands there then stays, and the rest is let go."""
        try:
            if self._names:
                _wait_for_disk(self._folder)
            while self._names:
                self._beside(name := next(iter(self._names))).replace(self._folder / name)
                self._names.remove(name)
        finally:
            self.let_go()
        _settle(self._folder)

    def let_go(self) -> None:
        """Takes away what was written and not put in its place."""
        for name in self._names:
            with suppress(OSError):
                self._beside(name).unlink()
        self._names.clear()

    def _beside(self, name: str) -> Path:
        return self._folder / f".{name}.{os.getpid()}{_MARK}"


def sweep_unfinished(folder: Path) -> None:
    """Takes away what writers that were killed left in a folder."""
    _sweep(folder, "")


def _through_links(path: Path) -> Path:
    """The place that a path's last links lead to, whether anything is there or not. Raises OSError for links in a ring."""
    for _ in range(_MOST_LINKS):
        if not path.is_symlink():
            return path
        path = path.parent / os.readlink(path)  # noqa: PTH115 : a path of the system's own bytes
    raise OSError(errno.ELOOP, os.strerror(errno.ELOOP), str(path))


def _state(path: Path) -> os.stat_result | None:
    try:
        return path.stat()
    except FileNotFoundError:
        return None


def _refuse_odd(mode: int, path: Path) -> None:
    if stat.S_ISDIR(mode):
        raise IsADirectoryError(errno.EISDIR, "it is a folder", str(path))
    if not stat.S_ISREG(mode):
        raise OSError(errno.EINVAL, "it is a device or a pipe", str(path))


def _as_before(handle: int, before: os.stat_result) -> None:
    """The owner first: the system takes rights away from a file that changes hands."""
    now = os.fstat(handle)
    if (now.st_uid, now.st_gid) != (before.st_uid, before.st_gid):
        with suppress(OSError):
            os.fchown(handle, before.st_uid, before.st_gid)
    with suppress(OSError):
        os.fchmod(handle, stat.S_IMODE(before.st_mode))


def _sweep(folder: Path, name: str) -> None:
    begin = f".{name}." if name else "."
    with suppress(OSError):
        for left in os.scandir(folder):
            if left.name.startswith(begin) and left.name.endswith(_MARK) and not _lives(left.name):
                with suppress(OSError):
                    os.unlink(left.path)  # noqa: PTH108 : as it was found


def _lives(name: str) -> bool:
    """Whether the process that writes a file still runs."""
    number = name.removesuffix(_MARK).rpartition(".")[2]
    return number.isdigit() and Path(f"/proc/{number}").exists()


def _wait_for_disk(folder: Path) -> None:
    """All that was written to a folder's file system is on its disk. Raises OSError."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        libc = ctypes.CDLL(None, use_errno=True)
        if libc.syncfs(handle) != 0:
            number = ctypes.get_errno()
            raise OSError(number, os.strerror(number), str(folder))
    finally:
        os.close(handle)


def _settle(folder: Path) -> None:
    """The new name itself survives a loss of power; not every file system can be asked for that."""
    with suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
