"""How the benchmarks take time and say what they found."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Ratio:
    """`ours` against `theirs`, seconds each; `wanted` in words."""

    title: str
    ours: float
    theirs: float
    wanted: str
    more: str = ""

    def line(self) -> str:
        ratio = f"ratio {self.ours / self.theirs:9.5f}   wanted {self.wanted}"
        return f"{self.title:<66} {self.ours:10.6f} s {self.theirs:10.6f} s   {ratio}{self.more and '   ' + self.more}"


def best(run: Callable[[], Any], times: int = 3) -> float:
    """The shortest of several runs, seconds."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        run()
        taken.append(time.perf_counter() - start)
    return min(taken)
