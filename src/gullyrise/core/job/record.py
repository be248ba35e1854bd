"""The record of a job: what was done and said, line by line."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Literal

from gullyrise.core.geometry.spots import Spot

Kind = Literal["note", "picture"]


@dataclass(frozen=True, slots=True)
class Line:
    """words : the note, or a picture's caption
    of : ids of the parts that it is about; none for the whole job
    when : ISO 8601 to the minute, empty where nobody kept it
    at : a place in the file's coordinates of its first part, mm, to which it is pinned
    picture : PNG, small
    left_out : of the report, and with it what the line tells of
    tells : which dimension was kept or finding accepted, by its `record_key`; empty for none
    """

    words: str
    of: tuple[int, ...] = ()
    kind: Kind = "note"
    when: str = ""
    at: Spot | None = None
    picture: bytes = field(default=b"", repr=False)
    left_out: bool = False
    tells: str = ""

    @property
    def is_plain(self) -> bool:
        """Whether its words and parts are all there is to it."""
        return self == Line(self.words, self.of)

    def concerns(self, number: int) -> bool:
        """Whether it is to be read with a part: its own, or one of the whole job."""
        return not self.of or number in self.of


def left_out(record: Iterable[Line]) -> frozenset[str]:
    """Keys of the dimensions and acceptances that are kept out of the report. One that two lines tell of stands in it while one
    of them does."""
    told = [line for line in record if line.tells]
    return frozenset(line.tells for line in told) - {line.tells for line in told if not line.left_out}


def dated(record: tuple[Line, ...], before: int, when: str) -> tuple[Line, ...]:
    """With the time on lines that came after the first so many and have none."""
    fresh = (replace(line, when=when) if not line.when else line for line in record[before:])
    return (*record[:before], *fresh) if len(record) > before else record


def without_parts(record: Iterable[Line], gone: set[int]) -> tuple[Line, ...]:
    """Lines belong to their parts, and go with the last of them."""
    return tuple(line for line in record if not line.of or not set(line.of) <= gone)
