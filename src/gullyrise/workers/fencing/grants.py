"""Which files a piece of work may touch."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Grants:
    """reads : files and folders that may be read, with all below them
    writes : folders in which files may also be written, made and removed. What Python and its libraries are made of can always be
        read.
    """

    reads: tuple[str, ...] = ()
    writes: tuple[str, ...] = ()


NOTHING = Grants()
