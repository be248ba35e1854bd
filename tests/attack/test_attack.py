"""Some hundreds of the cases of `make attack`, always the same and a few that no run has seen; each that ever fell is named."""

from __future__ import annotations

import random
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from attack import answers, jobs, tables, windows
from gullyrise.core.errors import MachineError
from gullyrise.core.machines.machine import read_machine

FRESH = int(time.time())
SEEDS = pytest.mark.parametrize("seed", (1, FRESH), ids=("first", "fresh"))
"""One that is always tried and one that never was. Named, since processes that share the tests out need to agree on their names,
and may begin in different seconds."""


@pytest.fixture(scope="module")
def rich(tmp_path_factory: pytest.TempPathFactory) -> tuple[Any, Any, Path]:
    folder = tmp_path_factory.mktemp("rich")
    tree, store = jobs.rich_job(folder)
    return tree, store, folder


def _case(tree: Any, way: str) -> Iterator[jobs.Case]:
    steps = tuple(int(step) if step.isdigit() else step for step in way.split("."))
    return (case for case in jobs.cases(tree) if case.way == steps)


@SEEDS
def test_a_job_with_one_odd_value_tells_what_it_costs_or_costs_nothing(rich: Any, seed: int) -> None:
    before, _ = jobs.sound_form(jobs.data_of(rich[0]), "sample")
    for case in jobs.some(rich[0], 150, seed):
        assert not jobs.fault_of(case, before), (case.words, seed)


@pytest.mark.parametrize(
    "way",
    ["notes_of", "notes_of.0", "views.0.cuts.0.along.0", "dimensions.0.picks.0.spot", "dimensions.0.tolerance.nominal",
     "stands.0.part", "stands.0.id", "stands.0.placement", "stands.0.material", "parts.0.origin.kind", "machine.process"],
)  # fmt: skip
def test_what_fell_once_stands(way: str, rich: Any) -> None:
    before, _ = jobs.sound_form(jobs.data_of(rich[0]), "sample")
    found = list(_case(rich[0], way))
    assert len(found) >= 20
    for case in found:
        assert not jobs.fault_of(case, before), case.words


@SEEDS
def test_machines_limits_and_settings_are_used_or_refused_in_a_sentence(rich: Any, seed: int, tmp_path: Path) -> None:
    machine = {key: value for key, value in rich[0]["machine"].items() if value is not None}
    files = list(tables.machine_files(machine, rich[0]["limits"]))
    for kind, data in tables.some_of(files, 100, seed):
        assert not tables.table_fault(kind, data, tmp_path), (kind, data[:100], seed)
    for data in tables.some_of(list(tables.settings_files()), 50, seed):
        assert not tables.settings_fault(data, tmp_path), (data[:100], seed)


def test_what_is_no_ordinary_file_is_refused_at_once(tmp_path: Path) -> None:
    for place in tables.odd_places(tmp_path):
        with pytest.raises(MachineError) as caught:
            read_machine(place)
        assert "cannot be opened" in str(caught.value) and str(caught.value).isprintable()


@SEEDS
def test_whatever_a_reader_answers_costs_that_file_alone(rich: Any, seed: int) -> None:
    path = rich[2] / "lug-1.stl"
    for data, stays in answers.answers(answers.sound_answer(path), 120, seed):
        assert not answers.answer_fault(data, stays, path), (seed, data[:100])


@pytest.mark.slow
def test_the_window_opens_odd_jobs_and_goes_on(window: Any, rich: Any, tmp_path: Path) -> None:
    tree, store, _ = rich
    before, _ = jobs.sound_form(jobs.data_of(tree), "sample")
    made = window()
    cases = [next(_case(tree, way)) for way in ("machine.process", "stands.0.material", "parts")]
    odd = next(case for case in _case(tree, "stands.0.material") if case.value == "unheard of")
    for case in [*cases, odd, *jobs.some(tree, 3, FRESH)]:
        fault = windows.opened_fault(made, case, before, store, tmp_path)
        assert not fault, (case.words, fault)


@pytest.mark.slow
def test_the_window_goes_on_whatever_fails_in_it(window: Any, rich: Any, tmp_path: Path) -> None:
    made, chance = window(), random.Random(FRESH)
    fell_once = [one for one in windows.methods() if one[1:] in (("BearingDial", "_draw_marks"), ("JobFile", "_missing"))]
    for which in [*fell_once, *windows.some_methods(3, FRESH)]:
        fault = windows.broken_fault(made, which, str(rich[2] / "lug-1.stl"), chance, tmp_path)
        assert not fault, fault
    made.mishaps.met.clear()
    # A picture that was made to fail is told as one.
    made.notifications.sentences.clear()
