"""What the C library does with memory that is free within this process, where it is the usual one."""

from __future__ import annotations

import ctypes
from contextlib import suppress

_MMAP_THRESHOLD, _ARENA_MAX = -3, -8
"""M_MMAP_THRESHOLD and M_ARENA_MAX of mallopt(3)."""
_LARGE = 1 << 20


def hold_together() -> None:
    """Before there are threads. Arrays of a MB and more each get pages of their own, which go back as soon as they are let go of:
    by itself the library raises that bound to 32 MB, and small things that stay then hold whole regions of what has gone. All
    threads share one region for the rest: what one lets go of serves another."""
    with suppress(AttributeError, OSError):
        libc = ctypes.CDLL(None)
        libc.mallopt(_MMAP_THRESHOLD, _LARGE)
        libc.mallopt(_ARENA_MAX, 1)


def give_back() -> None:
    """Gives what is free back to the system."""
    with suppress(AttributeError, OSError):
        ctypes.CDLL(None).malloc_trim(0)
