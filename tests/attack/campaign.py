"""`make attack CASES=5000 SEED=1`: job files, machines, limits and settings mutated field by field, answers garbled, methods
broken.

Each case that goes wrong is told with its seed; the process that runs them must neither abort nor hang.
"""

from __future__ import annotations

import os
import random
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from attack import answers, jobs, tables, windows

_LOT, _METHODS = 25, 12
_LATEST = 900.0


def _core(count: int, seed: int) -> Iterator[tuple[str, str]]:
    """(kind, fault) of cases that need no window."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        tree, _ = jobs.rich_job(folder)
        before, _ = jobs.sound_form(jobs.data_of(tree), "sample")
        for case in jobs.some(tree, count // 2, seed):
            fault = jobs.fault_of(case, before)
            yield "job", fault and f"{case.words}: {fault}"
        machine = {key: value for key, value in tree["machine"].items() if value is not None}
        files = list(tables.machine_files(machine, tree["limits"]))
        for kind, data in tables.some_of(files, count // 5, seed):
            yield kind, tables.table_fault(kind, data, folder)
        for data in tables.some_of(list(tables.settings_files()), count // 10, seed):
            yield "settings", tables.settings_fault(data, folder)
        path = folder / "lug-1.stl"
        for data, stays in answers.answers(answers.sound_answer(path), count // 10, seed):
            yield "answer", answers.answer_fault(data, stays, path)


def _window(kind: str, count: int, seed: int) -> None:
    """Runs in a process of its own: cases in one window, each fault on a line."""
    from PyQt6.QtTest import QTest

    from gullyrise.desktop import launch
    from gullyrise.desktop.starting import end

    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for key in ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_STATE_HOME"):
            os.environ[key] = str(folder / "home")
        tree, store = jobs.rich_job(folder)
        before, _ = jobs.sound_form(jobs.data_of(tree), "sample")
        _, made = launch([])
        QTest.qWait(300)
        if kind == "opened":
            for case in jobs.some(tree, count, seed):
                fault = windows.opened_fault(made, case, before, store, folder)
                print(f"{kind}\t{fault and f'{case.words}: {fault}'!r}", flush=True)
        else:
            chance = random.Random(seed)
            for which in windows.some_methods(count, seed):
                print(f"{kind}\t{windows.broken_fault(made, which, str(folder / 'lug-1.stl'), chance, folder)!r}", flush=True)
        made.mishaps.met.clear()
        end(made)


def _windows(kind: str, count: int, seed: int, lot: int) -> Iterator[tuple[str, str]]:
    """(kind, fault) of cases in windows; one that aborts or hangs is a fault of its own."""
    for start in range(0, count, lot):
        words = [
            sys.executable,
            "-X",
            "faulthandler",
            "-m",
            "attack.campaign",
            kind,
            str(min(lot, count - start)),
            str(seed + start),
        ]
        try:
            done = subprocess.run(words, capture_output=True, encoding="utf-8", timeout=_LATEST, check=False)
        except subprocess.TimeoutExpired as late:
            told = late.stdout.decode() if isinstance(late.stdout, bytes) else late.stdout or ""
            yield kind, f"hangs after {told.count(kind)} cases of seed {seed + start}"
            continue
        for line in done.stdout.splitlines():
            if line.startswith(f"{kind}\t"):
                yield kind, line.partition("\t")[2].strip("'\"")
        if done.returncode != 0:
            yield kind, f"aborted ({done.returncode}) in seed {seed + start}: {done.stderr[-4000:]}"


def main(count: int, seed: int) -> int:
    began, told = time.monotonic(), {}
    bad = 0
    runs: list[Any] = [
        _core(count * 9 // 10, seed),
        _windows("opened", count * 2 // 25, seed, _LOT),
        _windows("broken", count // 50, seed, _METHODS),
    ]
    for run in runs:
        for kind, fault in run:
            told[kind] = told.get(kind, 0) + 1
            if fault:
                bad += 1
                print(f"{kind}: {fault}", flush=True)
    counts = ", ".join(f"{number:,} of {kind}" for kind, number in told.items())
    print(f"{sum(told.values()):,} cases ({counts}), seed {seed}, {time.monotonic() - began:.0f} s: {bad} faults")
    return 1 if bad else 0


if __name__ == "__main__":
    if sys.argv[1:2] and sys.argv[1] in ("opened", "broken"):
        _window(sys.argv[1], int(sys.argv[2]), int(sys.argv[3]))
    else:
        sys.exit(main(int(os.environ.get("CASES", "5000")), int(os.environ.get("SEED", "1"))))
