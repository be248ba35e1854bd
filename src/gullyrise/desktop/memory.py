"""What the C library does with memory that is free within this process, where it is the usual one."""

from __future__ import annotations

import ctypes
from contextlib import suppress

_MMAP_THRESHOLD = -3
"""M_MMAP_THRESHOLD of mallopt(3)."""
_LARGE = 1 << 20


def large_blocks_apart() -> None:
    """Arrays of a MB and more each get pages of their own, which go back as soon as they are let go of. By itself the library
    raises that bound to 32 MB, and small things that stay then hold whole regions of what has gone."""
    with suppress(AttributeError, OSError):
        ctypes.CDLL(None).mallopt(_MMAP_THRESHOLD, _LARGE)


def give_back() -> None:
    """Gives what is free back to the system."""
    with suppress(AttributeError, OSError):
        ctypes.CDLL(None).malloc_trim(0)
