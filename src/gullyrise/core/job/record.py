"""The record of a job: what was done and said, line by line."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Literal

from gullyrise.core.geometry.spots import Spot

Kind = Literal["note", "picture"]


@dataclass(frozen=True, slots=True)
class Line:
    """words : the note, or a picture's caption
    of : ids of the parts that it is about; none for the whole job
    when : ISO 8601 to the minute, empty where nobody kept it
    at : a place in the file's coordinates of its first part, mm, to which it is pinned
    picture : PNG, small;  left_out : of the report
    """

    words: str
    of: tuple[int, ...] = ()
    kind: Kind = "note"
    when: str = ""
    at: Spot | None = None
    picture: bytes = field(default=b"", repr=False)
    left_out: bool = False

    @property
    def is_plain(self) -> bool:
        """Whether its words and parts are all there is to it."""
        return self == Line(self.words, self.of)

    def concerns(self, number: int) -> bool:
        """Whether it is to be read with a part: its own, or one of the whole job."""
        return not self.of or number in self.of


def without_parts(record: Iterable[Line], gone: set[int]) -> tuple[Line, ...]:
    """Lines belong to their parts, and go with the last of them."""
    return tuple(line for line in record if not line.of or not set(line.of) <= gone)
