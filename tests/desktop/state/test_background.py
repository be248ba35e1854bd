"""Background work can be cancelled, killed and run again, and the window goes on."""

from __future__ import annotations

import gc
import os
import signal
import threading
import time
from contextlib import suppress
from multiprocessing import forkserver
from pathlib import Path
from typing import Any

import pytest
import trimesh
from PyQt6.QtCore import QObject
from PyQt6.QtTest import QTest
from waiting import until, workers

from gullyrise.workers.process import Worker


@pytest.fixture
def large(tmp_path: Path) -> str:
    """A closed ball of 327,680 triangles: its reading and its walls take a while."""
    path = tmp_path / "large.stl"
    trimesh.creation.icosphere(7, 60).export(path)
    return str(path)


@pytest.fixture
def small(tmp_path: Path) -> str:
    path = tmp_path / "small.stl"
    trimesh.creation.box((10, 20, 30)).export(path)
    return str(path)


@pytest.fixture
def begun(monkeypatch: pytest.MonkeyPatch) -> list[Worker]:
    """The workers that have begun, as they do."""
    found: list[Worker] = []
    start = Worker.start

    def noted(worker: Worker) -> None:
        start(worker)
        found.append(worker)

    monkeypatch.setattr(Worker, "start", noted)
    return found


def test_a_killed_reader_gets_a_sentence_and_the_next_file_opens(
    window: Any, large: str, small: str, begun: list[Worker]
) -> None:
    made = window()
    made.model.open_files([large])
    until(lambda: begun)
    begun[0]._process.kill()
    until(lambda: made.notifications.sentences)
    (sentence,) = made.notifications.sentences
    assert "large.stl" in sentence and "signal 9" in sentence and sentence.endswith(".")
    made.model.open_files([small])
    assert made.wait_until_idle(240)
    assert [placed.part.name for placed in made.model.job.parts] == ["small"]


def test_a_reader_that_is_killed_before_it_has_begun_is_begun_once_more(
    window: Any, large: str, begun: list[Worker], monkeypatch: pytest.MonkeyPatch
) -> None:
    """The fork server has made the process, and the window has not heard of it yet."""
    made = window()
    killed: list[int] = []
    launch = forkserver.connect_to_new_process

    def launched(handles: list[int]) -> Any:
        ends = launch(handles)
        while not killed:
            killed.extend(workers())
            time.sleep(0.001)
        with suppress(ProcessLookupError):
            os.kill(killed[0], signal.SIGKILL)
        while killed[0] in workers():
            time.sleep(0.001)
        return ends

    monkeypatch.setattr(forkserver, "connect_to_new_process", launched)
    made.model.open_files([large])
    until(lambda: made.model.job.parts or made.notifications.sentences)
    assert killed and [placed.part.name for placed in made.model.job.parts] == ["large"]
    assert made.notifications.sentences == [] and begun


def test_a_killed_check_is_not_run_with_its_reason_and_can_be_run_again(window: Any, tmp_path: Path) -> None:
    ball = tmp_path / "ball.stl"
    trimesh.creation.icosphere(4, 60).export(ball)
    made = window()
    made.model.open_files([str(ball)])
    until(lambda: made.model.job.parts)
    (placed,) = made.model.job.parts
    until(lambda: any(task.work.title.startswith("walls") and task.stage != "waiting" for task in made.tasks.under_way))
    for pid in workers():
        os.kill(pid, signal.SIGKILL)
    assert made.wait_until_idle(240)
    (outcome,) = made.model.results.outcomes_of(placed, "walls")
    assert outcome.verdict == "not-run" and "signal 9" in outcome.why
    assert made.model.results.verdict_of(placed)[0] != "pass", "what was not run is no pass"
    made.do("check.again")
    assert made.wait_until_idle(240)
    assert made.model.results.outcomes_of(placed, "walls")[0].verdict == "pass"


def test_cancel_ends_the_processes_and_leaves_the_job_as_it_was(window: Any, large: str, small: str) -> None:
    made = window(small)
    before = made.model.job
    made.model.open_files([large])
    until(workers)
    made.do("work.cancel")
    assert not made.tasks.busy and made.model.idle
    until(lambda: not workers())
    QTest.qWait(200)
    assert made.model.job is before


def test_what_qt_made_is_taken_apart_in_the_interface_s_thread_alone(window: Any) -> None:
    """A cycle round a Qt object is garbage; other threads make plenty of objects, and none of them may take it apart."""
    made = window()
    taken_apart: list[threading.Thread] = []

    class Held(QObject):
        def __del__(self) -> None:
            taken_apart.append(threading.current_thread())

    def cycle() -> None:
        held = Held()
        held.itself = held

    cycle()
    other = threading.Thread(target=lambda: [[[]] for _ in range(200_000)])
    other.start()
    other.join()
    assert not taken_apart and not gc.isenabled()
    made.garbage.look_through()
    assert taken_apart == [threading.main_thread()]
    # And without being asked, once there is enough of it.
    cycle()
    kept = [[[]] for _ in range(5000)]
    until(lambda: len(taken_apart) == 2, 30)
    assert kept and taken_apart[1] is threading.main_thread()
