"""The window's loop turns on while large parts load and are checked; how long a turn takes, `benchmarks/living.py` measures."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Any

import pytest
import trimesh
from makers import write_assembly_step
from PyQt6.QtCore import QEventLoop, QTimer

from gullyrise.workers import cutting, measuring, work

HEAVY = (work.Read, work.Figures, work.RunCheck, work.Prepare, work.FindAlike, work.FindNear, work.Cut,
         cutting.CutPlaced, cutting.CutExactly, cutting.AreaAlong, measuring.TakeMeasure)  # fmt: skip


def test_the_loop_turns_while_a_large_part_and_an_assembly_load_and_are_checked(
    window: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    done_here: list[str] = []
    for kind in HEAVY:
        # Workers are processes of their own that do not see this: only what the window's process did itself is noted.
        monkeypatch.setattr(kind, "run", lambda self, progress, name=kind.__name__: done_here.append(name))
    made = window()
    big = str(tmp_path / "large.stl")
    trimesh.creation.icosphere(6, 60).export(big)
    write_assembly_step(tmp_path / "station.step", "MM")
    stages: dict[str, int] = {}
    heart = QTimer()
    heart.setInterval(5)
    heart.timeout.connect(lambda: [stages.update({it.stage: stages.get(it.stage, 0) + 1}) for it in made.tasks.under_way])
    heart.start()
    made.model.open_files([big, str(tmp_path / "station.step")])
    made.model.shown.show_measure("walls")
    end = time.monotonic() + 240
    loop, stop = QEventLoop(), QTimer()
    stop.setInterval(100)
    stop.timeout.connect(lambda: loop.quit() if (made.model.idle and made.bench.is_current) or time.monotonic() > end else None)
    stop.start()
    loop.exec()
    heart.stop()
    assert len(made.model.job.parts) == 2
    verdicts = [made.model.results.verdict_of(placed) for placed in made.model.job.parts]
    assert not any(stale for _, stale in verdicts), "all was judged in time"
    assert done_here == [], "all of it in workers"
    assert sum(stages.values()) > 200 and len(stages) >= 4, "the loop turned in every stage of the work"
