"""The record of a job: what was done and said, line by line."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Line:
    """of : ids of the parts that it is about; none for the whole job"""

    words: str
    of: tuple[int, ...] = ()

    def concerns(self, number: int) -> bool:
        """Whether it is to be read with a part: its own, or one of the whole job."""
        return not self.of or number in self.of


def without_parts(record: Iterable[Line], gone: set[int]) -> tuple[Line, ...]:
    """Lines belong to their parts, and go with the last of them."""
    return tuple(line for line in record if not line.of or not set(line.of) <= gone)
