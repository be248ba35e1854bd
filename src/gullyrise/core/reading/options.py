"""What the one who opens a file may say about it, and the bounds that hold for all."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    from pathlib import Path

    from gullyrise.core.part import Part
    from gullyrise.core.progress import Progress

MOST_BYTES = 4 << 30
MOST_TRIANGLES = 60_000_000
MOST_BODIES = 20_000
MOST_DEPTH = 64


@dataclass(frozen=True, slots=True)
class ReadOptions:
    """unit : overrules what the file says; chord : wanted chord error of solids in mm, None for diagonal / 1000."""

    unit: str | None = None
    chord: float | None = None


class Reader(Protocol):
    """The shape of a reader module. It may hold `WANTS`, names of modules that it imports only when it reads."""

    FORMAT: str
    ENDINGS: tuple[str, ...]

    def sniff(self, head: bytes) -> bool:
        """Whether a file's first bytes may be of its format."""

    def read(self, path: Path, options: ReadOptions, progress: Progress) -> Part:
        """The part of a file. Raises ReadError with a sentence for one that it cannot use."""
