"""How the benchmarks take time and say what they found."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Ratio:
    """`ours` against `theirs`, each in `unit`; `wanted` in words."""

    title: str
    ours: float
    theirs: float
    wanted: str
    more: str = ""
    unit: str = "s"

    def line(self) -> str:
        both = f"{self.ours:10.6f} {self.unit} {self.theirs:10.6f} {self.unit}"
        ratio = f"ratio {self.ours / self.theirs:9.5f}   wanted {self.wanted}"
        return f"{self.title:<66} {both}   {ratio}{self.more and '   ' + self.more}"


def best(run: Callable[[], Any], times: int = 3) -> float:
    """The shortest of several runs, seconds."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        run()
        taken.append(time.perf_counter() - start)
    return min(taken)
