"""The window lives while much comes to it: the longest turn of its loop, and how soon a cancelled worker is gone."""

from __future__ import annotations

import contextlib
import os
import tempfile
import time
from collections.abc import Callable, Iterator
from itertools import pairwise
from pathlib import Path
from typing import Any

import trimesh
from PyQt6.QtCore import QEventLoop, QTimer

from benchmarks.timing import Ratio
from gullyrise.demo import FILES


def longest_turn(done: Callable[[], bool], seconds: float = 900) -> float:
    """Processor time (seconds) that the interface's thread spent between two beats, at most, until `done`: what the machine gives
    to others meanwhile is not ours. The loop is that of a real program."""
    loop, heart, watch = QEventLoop(), QTimer(), QTimer()
    beats = [time.thread_time()]
    heart.setInterval(5)
    heart.timeout.connect(lambda: beats.append(time.thread_time()))
    watch.setInterval(50)
    end = time.monotonic() + seconds
    watch.timeout.connect(lambda: loop.quit() if done() or time.monotonic() > end else None)
    heart.start()
    watch.start()
    loop.exec()
    heart.stop()
    if not done():
        raise TimeoutError("it never came to be")
    return max(after - before for before, after in pairwise(beats))


def many_files(folder: Path) -> Ratio:
    """A dropped lot of 200 small files of three formats."""
    paths = []
    for number in range(200):
        path = folder / f"piece-{number:03}.{('stl', 'obj', 'ply')[number % 3]}"
        trimesh.creation.box((5 + number / 10, 6, 7)).export(path)
        paths.append(str(path))
    return _opening("200 files come", paths, lambda window: not window.model.loader.reading)


def large_files(folder: Path) -> Ratio:
    """A closed ball of 1,310,720 triangles and an assembly, read and checked with all walls shown."""
    paths = [ball(folder / "million.stl"), str(FILES / "screw_set.step")]
    return _opening("1.3M triangles are read and checked", paths, lambda window: window.model.idle and window.bench.is_current)


def _opening(what: str, paths: list[str], done: Callable[[Any], bool]) -> Ratio:
    window = _window()
    window.model.open_files(paths)
    window.model.shown.show_measure("walls")
    longest = longest_turn(lambda: len(window.model.job.parts) == len(paths) and done(window))
    window.close()
    return Ratio(f"longest turn of the loop while {what}, against 50 ms", longest, 0.05, "1")


def cancelling(folder: Path) -> Ratio:
    """From the wish to the end of the reader's process."""
    window = _window()
    before = children()
    window.model.open_files([ball(folder / "large.off")])
    longest_turn(lambda: any(task.stage not in ("waiting", "reading") for task in window.tasks.under_way))
    start = time.perf_counter()
    window.do("work.cancel")
    while children() - before:
        time.sleep(0.001)
    taken = time.perf_counter() - start
    window.close()
    return Ratio("a reader of 1.3M triangles cancelled and gone, against 200 ms", taken, 0.2, "1")


def ball(path: Path) -> str:
    """A file of 1,310,720 triangles."""
    trimesh.creation.icosphere(8, 60).export(path)
    return str(path)


def children() -> set[str]:
    """Ids of the processes below this one that still run: workers are children of the fork server."""
    below, out = [str(os.getpid())], set()
    while below:
        one = below.pop()
        with contextlib.suppress(OSError):
            if Path(f"/proc/{one}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z":
                out.add(one)
            below += [child for task in Path(f"/proc/{one}/task").iterdir() for child in (task / "children").read_text().split()]
    return out


def _window() -> Any:
    from gullyrise.desktop import launch

    _, window = launch([])
    window.resize(1280, 800)
    window.wait_until_idle(60)
    return window


def all_of() -> Iterator[Ratio]:
    for measured in (many_files, large_files, cancelling):
        with tempfile.TemporaryDirectory() as folder:
            yield measured(Path(folder))


if __name__ == "__main__":
    for ratio in all_of():
        print(ratio.line(), flush=True)
