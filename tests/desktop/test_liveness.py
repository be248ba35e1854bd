"""The interface's thread never stalls while large parts load and are checked."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from makers import write_assembly_step
from PyQt6.QtCore import QEventLoop, QTimer

BEAT = 0.005
QUIET = 0.03
"""Seconds that a quiet machine may keep an idle program waiting; on a busier one a late beat proves nothing by itself."""
_BYSTANDER = """
import os, sys, time
os.sched_setaffinity(0, {int(sys.argv[1])})
while True:
    sys.stdout.write(f"{time.monotonic()}\\n")
    sys.stdout.flush()
    time.sleep(0.005)
"""


def million(path: Path) -> str:
    """A closed shell of 1,310,720 triangles."""
    trimesh.creation.icosphere(8, 60).export(path)
    return str(path)


@contextmanager
def bystanders(folder: Path) -> Iterator[None]:
    """An idle program on each core, whose own beats tell what the machine keeps from everybody."""
    running = []
    for core in os.sched_getaffinity(0):
        with (folder / f"beats-{core}").open("w") as stream:
            running.append(subprocess.Popen([sys.executable, "-c", _BYSTANDER, str(core)], stdout=stream))
    try:
        yield
    finally:
        for process in running:
            process.kill()
            process.wait()


def less_the_machine(spent: np.ndarray, beats: np.ndarray, others: list[np.ndarray]) -> np.ndarray:
    """Seconds spent between each two beats, less the longest that any bystander was kept waiting meanwhile."""
    out = spent.copy()
    for number in np.flatnonzero(spent > 0.02):
        for theirs in others:
            meanwhile = (theirs[1:] >= beats[number]) & (theirs[:-1] <= beats[number + 1])
            late = np.diff(theirs)[meanwhile].max(initial=0.0) - BEAT
            out[number] = min(out[number], spent[number] - max(late, 0.0))
    return out


def test_the_heart_beats_while_a_million_triangles_and_an_assembly_load_and_are_checked(window: Any, tmp_path: Path) -> None:
    made = window()
    big = million(tmp_path / "million.stl")
    write_assembly_step(tmp_path / "station.step", "MM")
    pulse: list[tuple[float, float]] = []
    heart = QTimer()
    heart.setInterval(int(BEAT * 1000))
    heart.timeout.connect(lambda: pulse.append((time.monotonic(), time.thread_time())))
    with bystanders(tmp_path):
        heart.start()
        made.model.open_files([big, str(tmp_path / "station.step")])
        made.model.show_measure("walls")
        end = time.monotonic() + 240
        # The loop of a real program: what a test's own waiting costs must not count as a stall.
        loop = QEventLoop()
        stop = QTimer()
        stop.setInterval(100)
        stop.timeout.connect(
            lambda: loop.quit() if (made.model.idle and made.bench.is_current) or time.monotonic() > end else None
        )
        stop.start()
        loop.exec()
        heart.stop()
    assert len(made.model.job.standings) == 2
    verdicts = [made.model.verdict_of(standing) for standing in made.model.job.standings]
    assert not any(stale for _, stale in verdicts), "all was judged in time"
    others = [np.array(path.read_text(encoding="utf-8").splitlines()[:-1], dtype=float) for path in tmp_path.glob("beats-*")]
    beats, busy = np.array(pulse).T
    late = np.diff(beats) - BEAT
    own, work = less_the_machine(late, beats, others), less_the_machine(np.diff(busy), beats, others)
    machine = max(float(np.diff(theirs).max()) - BEAT for theirs in others)
    assert len(own) > 200 and all(len(theirs) > 200 for theirs in others)
    print(
        f"stalls: worst {own.max() * 1000:.0f} ms, p99 {np.quantile(own, 0.99) * 1000:.0f} ms over {len(own)} beats, busy for "
        f"{work.max() * 1000:.0f} ms at most; the machine kept idle programs waiting for up to {machine * 1000:.0f} ms"
    )
    assert work.max() < 0.1, "nothing long runs in the interface's thread"
    assert np.quantile(own, 0.99) < 0.05
    if machine < QUIET:
        assert own.max() < 0.1


def test_a_stall_of_our_own_is_told_from_the_machines() -> None:
    beats = np.array([0.0, 0.005, 0.155, 0.160, 0.360])
    theirs = np.array([0.0, 0.005, 0.010, 0.150, 0.155, 0.160, 0.165, *np.arange(0.17, 0.37, 0.005)])
    own = less_the_machine(np.diff(beats) - BEAT, beats, [theirs, np.arange(0.0, 0.4, 0.005)])
    assert own[1] < 0.02, "the machine stood still for both"
    assert own[3] > 0.19, "only ours stood still"
