"""Thousands of random parts with a known truth: `make truth N=10000 SEED=1 FAMILIES="drill_points tube"`.

Prints, family by family, how many passed that break their limit, how many were held up that keep it, how often the truth lies
within the stated uncertainty, and how wide that is. Ends with status 1 where anything passed that should not.
"""

from __future__ import annotations

import os
import sys
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field

import numpy as np

from truth.families import FAMILIES
from truth.families.case import judge


@dataclass
class Tally:
    parts: int = 0
    false_passes: list[str] = field(default_factory=list)
    alarms: list[str] = field(default_factory=list)
    uncovered: list[str] = field(default_factory=list)
    read: int = 0
    widths: list[float] = field(default_factory=list)
    broken: list[str] = field(default_factory=list)
    seconds: float = 0.0

    def add(self, other: Tally) -> None:
        for name in self.__dataclass_fields__:
            setattr(self, name, getattr(self, name) + getattr(other, name))


def one(family: str, seed: int) -> Tally:
    """What one part of a family gives; a fault of the check counts as broken."""
    tally = Tally(parts=1)
    start = time.monotonic()
    try:
        judged = judge(FAMILIES[family](np.random.default_rng(seed)), np.random.default_rng(seed + 1))
    except Exception as error:  # A campaign goes on, and says which seed to look at.
        tally.broken.append(f"{family} {seed}: {type(error).__name__}: {error}")
        return tally
    words = f"{family} {seed}: {judged.words()}"
    if judged.what == "false pass":
        tally.false_passes.append(words)
    elif judged.what == "false alarm":
        tally.alarms.append(words)
    if judged.covered is not None:
        tally.read = 1
        if not judged.covered:
            tally.uncovered.append(words)
        if judged.width is not None:
            tally.widths.append(judged.width)
    tally.seconds = time.monotonic() - start
    return tally


def run(count: int, seed: int, names: list[str]) -> dict[str, Tally]:
    """So many parts, spread over the families, on all cores."""
    work = [(names[number % len(names)], seed * 1_000_003 + 7 * number) for number in range(count)]
    found = {name: Tally() for name in names}
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        for (name, _), tally in zip(work, pool.map(one, *zip(*work, strict=True), chunksize=4), strict=True):
            found[name].add(tally)
    return found


def main() -> int:
    count, seed = int(os.environ.get("N", "300")), int(os.environ.get("SEED", "1"))
    names = os.environ.get("FAMILIES", "").split() or list(FAMILIES)
    found = run(count, seed, names)
    whole = Tally()
    print(f"{'family':34} parts  false passes  alarms  covered     width, median / 95th   s each")
    for name, tally in found.items():
        print(_line(name, tally))
        whole.add(tally)
    print(_line("all", whole))
    for title in ("broken", "false_passes", "alarms", "uncovered"):
        for words in getattr(whole, title)[: int(os.environ.get("SHOW", "12"))]:
            print(f"{title.replace('_', ' ')}: {words}")
    return 1 if whole.false_passes or whole.broken else 0


def _line(name: str, tally: Tally) -> str:
    covered = 100 * (1 - len(tally.uncovered) / tally.read) if tally.read else float("nan")
    widths = np.array(tally.widths or [float("nan")]) * 100
    alarms = f"{len(tally.alarms)} ({100 * len(tally.alarms) / max(tally.parts, 1):.1f} %)"
    broken = f"  broken: {len(tally.broken)}" if tally.broken else ""
    return (
        f"{name:34} {tally.parts:5}  {len(tally.false_passes):12}  {alarms:>11}  {covered:6.2f} %  "
        f"{np.median(widths):8.3f} / {np.percentile(widths, 95):.3f} %  {tally.seconds / max(tally.parts, 1):6.2f}{broken}"
    )


if __name__ == "__main__":
    sys.exit(main())
