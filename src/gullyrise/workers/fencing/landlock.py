"""Landlock: the kernel's rules on which files and networks a process can still reach (kernel.org, userspace-api/landlock).

The registries have one package for it, an alpha that takes an error left over from an earlier call for its own and knows neither
networks nor signals; what is needed here is three calls.
"""

from __future__ import annotations

import ctypes
import errno
import os
import stat
from collections.abc import Iterable
from contextlib import suppress

_CREATE, _ADD, _RESTRICT = 444, 445, 446
_VERSION_FLAG, _BENEATH = 1, 1
_PR_SET_NO_NEW_PRIVS = 38
_EXECUTE, _WRITE, _READ, _READ_DIR = 1 << 0, 1 << 1, 1 << 2, 1 << 3
_REMOVE_DIR, _REMOVE_FILE, _MAKE_DIR, _MAKE_REG = 1 << 4, 1 << 5, 1 << 7, 1 << 8
_REFER, _TRUNCATE, _IOCTL_DEV = 1 << 13, 1 << 14, 1 << 15
_FIRST = (1 << 13) - 1
"""Every right over files that the first version knows."""
_LOOK = _READ | _READ_DIR
_CHANGE = _LOOK | _WRITE | _REMOVE_DIR | _REMOVE_FILE | _MAKE_DIR | _MAKE_REG | _REFER | _TRUNCATE
_OF_FILES = _EXECUTE | _WRITE | _READ | _TRUNCATE | _IOCTL_DEV
_BIND_AND_CONNECT = 0b11
_SOCKETS_AND_SIGNALS = 0b11


class _Ruleset(ctypes.Structure):
    _fields_ = [("files", ctypes.c_uint64), ("networks", ctypes.c_uint64), ("scoped", ctypes.c_uint64)]


class _Beneath(ctypes.Structure):
    _pack_ = 1
    _fields_ = [("allowed", ctypes.c_uint64), ("parent", ctypes.c_int32)]


_libc = ctypes.CDLL(None, use_errno=True)


def _call(number: int, *words: object) -> int:
    ctypes.set_errno(0)
    return int(_libc.syscall(ctypes.c_long(number), *words))


def version() -> int:
    """Of the kernel's Landlock, 0 where it has none or it is switched off."""
    return max(_call(_CREATE, None, ctypes.c_size_t(0), ctypes.c_uint32(_VERSION_FLAG)), 0)


def no_new_privileges() -> None:
    """No program that is started from here on gains rights by its file. Raises OSError."""
    zero = ctypes.c_ulong(0)
    if _libc.prctl(_PR_SET_NO_NEW_PRIVS, ctypes.c_ulong(1), zero, zero, zero) != 0:
        raise OSError(ctypes.get_errno(), "no new privileges")


def restrict(reads: Iterable[str], writes: Iterable[str]) -> None:
    """From now on this thread, and every one that it starts, reaches only what lies at or below these paths, no network, and no
    process but itself; as far as the kernel knows of each. Paths that are not there are left out. Raises OSError."""
    known = version()
    if not known:
        raise OSError(errno.ENOSYS, "Landlock")
    files = _FIRST | (_REFER if known >= 2 else 0) | (_TRUNCATE if known >= 3 else 0) | (_IOCTL_DEV if known >= 5 else 0)
    wanted = _Ruleset(files, _BIND_AND_CONNECT if known >= 4 else 0, _SOCKETS_AND_SIGNALS if known >= 6 else 0)
    # Older kernels take a shorter structure, and refuse what they do not know.
    size = 8 if known < 4 else 16 if known < 6 else 24
    handle = _call(_CREATE, ctypes.byref(wanted), ctypes.c_size_t(size), ctypes.c_uint32(0))
    if handle < 0:
        raise OSError(ctypes.get_errno(), "Landlock's rules")
    try:
        for paths, rights in ((reads, _LOOK), (writes, _CHANGE)):
            for path in paths:
                _allow(handle, path, rights & files)
        no_new_privileges()
        if _call(_RESTRICT, ctypes.c_int(handle), ctypes.c_uint32(0)) != 0:
            raise OSError(ctypes.get_errno(), "Landlock")
    finally:
        os.close(handle)


def _allow(rules: int, path: str, rights: int) -> None:
    with suppress(FileNotFoundError, NotADirectoryError, PermissionError):
        place = os.open(path, os.O_PATH | os.O_CLOEXEC)
        try:
            if not stat.S_ISDIR(os.fstat(place).st_mode):
                rights &= _OF_FILES
            rule = _Beneath(rights, place)
            if _call(_ADD, ctypes.c_int(rules), ctypes.c_int(_BENEATH), ctypes.byref(rule), ctypes.c_uint32(0)) != 0:
                raise OSError(ctypes.get_errno(), "a rule of Landlock")
        finally:
            os.close(place)
