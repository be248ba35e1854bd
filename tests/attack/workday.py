"""`make workday ROUNDS=2000`: parts are opened, judged, moved, cut, limited and removed all day; what the window holds must not
grow.

Prints its memory as it goes; fails where it ends above 1.3 times what it was after the first ten rounds.
"""

from __future__ import annotations

import os
import random
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np
import trimesh

import zoo
from gullyrise.core.writing import write

_MOST = 1.3
_FIRST = 10


def held() -> float:
    """MB of memory of this process that are its own."""
    with open("/proc/self/smaps_rollup") as stream:
        lines = dict(line.split(":", 1) for line in stream if ":" in line)
    return sum(int(lines[name].split()[0]) for name in ("Private_Dirty", "Shared_Dirty", "Swap")) / 1024


def files(folder: Path) -> list[str]:
    """Parts of several kinds and sizes."""
    out = []
    for number in range(12):
        shape = zoo.sphere_shell(20 + number, 17, 24 + 12 * number) if number % 2 else zoo.block((0, 0, 0), (20 + number, 30, 8))
        write(zoo.part(zoo.mesh_of(shape), f"day {number}"), folder / f"day-{number}.stl")
        out.append(str(folder / f"day-{number}.stl"))
    ball = trimesh.creation.icosphere(6, 25)
    ball.export(folder / "fine ball.stl")
    return [*out, str(folder / "fine ball.stl")]


def one_round(made: Any, names: list[str], chance: random.Random) -> None:
    """What somebody does with a part or two between two cups of coffee."""
    from PyQt6.QtTest import QTest

    made.model.open_files(chance.sample(names, chance.randrange(1, 3)))
    end = time.monotonic() + 60
    while (not made.model.job.parts or made.model.loader.reading) and time.monotonic() < end:
        QTest.qWait(5)
    one = chance.choice(made.model.job.parts)
    made.model.selection.select({one.id})
    what = chance.randrange(6)
    if what == 0:
        made.wait_until_idle(60)
    elif what == 1:
        made.placement.turn(chance.randrange(3), 90)
    elif what == 2:
        made.model.document.set_limit("min_wall", 0.8 + chance.random())
    elif what == 3:
        made.placement.stretch(np.array([1.1, 1.1, 1.1]))
    elif what == 4:
        made.do("view.front")
        made.grab()
    else:
        made.do("job.undo")
        made.do("job.redo")
    QTest.qWait(20)
    if chance.random() < 0.9:
        made.model.document.remove({placed.id for placed in made.model.job.parts})
    QTest.qWait(10)


def main(rounds: int, seed: int) -> int:
    from PyQt6.QtTest import QTest

    from gullyrise.desktop import launch
    from gullyrise.desktop.starting import end

    with tempfile.TemporaryDirectory() as name:
        for key in ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_STATE_HOME"):
            os.environ[key] = str(Path(name) / "home")
        names, chance = files(Path(name)), random.Random(seed)
        _, made = launch([])
        began, first = time.monotonic(), 0.0
        for number in range(1, rounds + 1):
            one_round(made, names, chance)
            if number in (_FIRST, rounds) or number % 100 == 0:
                # Always of an empty bench: what happens to lie on it says nothing of what was left behind.
                made.wait_until_idle(120)
                made.model.document.remove({placed.id for placed in made.model.job.parts})
                made.wait_until_idle(120)
                QTest.qWait(5000)
                now = held()
                first = first or now
                print(
                    f"{number} rounds, {time.monotonic() - began:.0f} s: {now:.0f} MB, {now / first:.2f} of the first", flush=True
                )
        met = list(made.mishaps.met)
        made.mishaps.met.clear()
        end(made)
    print(f"seed {seed}; faults met: {met}")
    return 1 if now > _MOST * first or met else 0


if __name__ == "__main__":
    sys.exit(main(int(os.environ.get("ROUNDS", "2000")), int(os.environ.get("SEED", "1"))))
