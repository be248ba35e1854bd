"""The interface's thread never stalls while large parts load and are checked."""

from __future__ import annotations

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
_BYSTANDER = """
import sys, time
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
def bystander(path: Path) -> Iterator[None]:
    """An idle program beside ours whose own beats tell what the machine keeps from everybody."""
    with path.open("w") as stream:
        process = subprocess.Popen([sys.executable, "-c", _BYSTANDER], stdout=stream)
        try:
            yield
        finally:
            process.kill()
            process.wait()


def own_stalls(beats: np.ndarray, others: np.ndarray) -> np.ndarray:
    """How late each beat came, less the longest that the bystander was kept waiting meanwhile; seconds."""
    late = np.diff(beats) - BEAT
    theirs = np.maximum(np.diff(others) - BEAT, 0.0)
    out = late.copy()
    for number in np.flatnonzero(late > 0.02):
        meanwhile = (others[1:] >= beats[number]) & (others[:-1] <= beats[number + 1])
        out[number] -= theirs[meanwhile].max(initial=0.0)
    return out


def test_the_heart_beats_while_a_million_triangles_and_an_assembly_load_and_are_checked(window: Any, tmp_path: Path) -> None:
    made = window()
    big = million(tmp_path / "million.stl")
    write_assembly_step(tmp_path / "station.step", "MM")
    beats: list[float] = []
    heart = QTimer()
    heart.setInterval(int(BEAT * 1000))
    heart.timeout.connect(lambda: beats.append(time.monotonic()))
    with bystander(tmp_path / "beats"):
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
    others = np.array([float(line) for line in (tmp_path / "beats").read_text().splitlines()[:-1]])
    late = np.diff(beats) - BEAT
    own = own_stalls(np.array(beats), others)
    assert len(own) > 200 and len(others) > 200
    print(
        f"stalls: worst {own.max() * 1000:.0f} ms, p99 {np.quantile(own, 0.99) * 1000:.0f} ms over {len(own)} beats; "
        f"with the machine's: {late.max() * 1000:.0f} and {np.quantile(late, 0.99) * 1000:.0f} ms"
    )
    assert np.quantile(own, 0.99) < 0.05
    assert own.max() < 0.1


def test_a_stall_of_our_own_is_told_from_the_machines() -> None:
    beats = np.array([0.0, 0.005, 0.155, 0.160, 0.360])
    others = np.array([0.0, 0.005, 0.010, 0.150, 0.155, 0.160, 0.165, *np.arange(0.17, 0.37, 0.005)])
    own = own_stalls(beats, others)
    assert own[1] < 0.02, "the machine stood still for both"
    assert own[3] > 0.19, "only ours stood still"
