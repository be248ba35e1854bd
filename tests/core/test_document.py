"""The job document, machines and limits."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

import zoo
from gullyrise.core.checks.registry import checks, outcome_digest, part_digest
from gullyrise.core.errors import LimitsError, MachineError, ReadError, Truncated
from gullyrise.core.geometry import Transform
from gullyrise.core.job import Document, Job, PlacedPart
from gullyrise.core.machines.library import default_machine, library, machine_named
from gullyrise.core.machines.limits import read_limits
from gullyrise.core.machines.machine import read_machine
from gullyrise.demo import FAULTY, JOBS, PLANTED

SMALL = 'id = "s"\nname = "S"\nprocess = "print"\n[envelope]\nshape = "box"\nsize = [10, 10, 10]\n'


def placed(number: int) -> PlacedPart:
    part = zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (10.0 + number, 20, 5))), f"p{number}")
    return PlacedPart(number, part, part.box, {}, part_digest(part), Transform.identity())


def state(job: Job) -> tuple[object, ...]:
    stands = tuple((s.id, s.placement.matrix.tobytes()) for s in job.parts)
    return stands, job.machine.id, job.limits


@settings(max_examples=30, deadline=None)
@given(st.lists(st.integers(0, 6), min_size=1, max_size=40))
def test_everything_undone_gives_the_first_job_and_redone_the_last(steps: list[int]) -> None:
    document = Document(Job(default_machine(), tuple(library())))
    first, added = state(document.job), 0
    for step in steps:
        if step <= 2:
            added += 1
            document.edit("Open", lambda job, number=added: job.with_parts([placed(number)]))
        elif step == 3 and document.job.parts:
            document.edit("Remove", lambda job: job.without({job.parts[0].id}))
        elif step == 4:
            document.edit("Limit", lambda job, value=0.5 + len(steps) * 0.01: job.with_limit("min_wall", value))
        elif step == 5:
            document.edit("Machine", lambda job: job.on(machine_named("dipper-260")))
        else:
            document.edit("Nothing", lambda job: job)
    last = state(document.job)
    while document.undo():
        pass
    assert state(document.job) == first
    while document.redo():
        pass
    assert state(document.job) == last


def test_outcomes_depend_on_just_what_they_say() -> None:
    job = Job(default_machine(), tuple(library())).with_parts([placed(1)])
    one = job.parts[0]

    def digests(of: Job) -> dict[str, str]:
        return {name: outcome_digest(name, one.digest, of.snapshot(of.parts[0]), of.limits) for name in checks()}

    before = digests(job)
    thinner = digests(job.with_limit("min_wall", 0.3))
    assert {name for name in before if before[name] != thinner[name]} == {"walls"}
    moved = digests(job.with_parts([placed(2)]))
    assert {name for name in before if before[name] != moved[name]} == {"fit"}
    turned = digests(job.moved([1], Transform.turned(np.array([0.0, 1, 0]), 90)))
    assert {name for name in before if before[name] != turned[name]} == {"fit", "overhangs", "access"}
    assert digests(job.with_limit("min_gap", 1.0))["clearances"] != before["clearances"]


def test_a_wrong_limit_is_refused() -> None:
    job = Job(default_machine(), tuple(library()))
    with pytest.raises(ValidationError):
        job.with_limit("min_wall", -1)


@pytest.mark.parametrize(
    ("words", "said"),
    [("min_wal = 1", "min_wal"), ("min_wall = 'thick'", "min_wall"), ("setups = ['up']", "'up'"), ("min_wall = = 2", "not TOML")],
)
def test_a_wrong_limits_file_gets_a_sentence(words: str, said: str, tmp_path: Path) -> None:
    path = tmp_path / "l.toml"
    path.write_text(words)
    with pytest.raises(LimitsError, match=said):
        read_limits(path)


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (SMALL + "colour = 1\n", "colour"), (SMALL.replace('"box"', '"cone"'), "shape"), (SMALL.replace("size", "# "), "size"),
        (SMALL + "[[keep_out]]\nmin = [0, 0, 0]\n", "keep-out"), ("id = 3", "id"),
    ],
)  # fmt: skip
def test_a_wrong_machine_file_gets_a_sentence(words: str, said: str, tmp_path: Path) -> None:
    path = tmp_path / "m.toml"
    path.write_text(words)
    with pytest.raises(MachineError) as caught:
        read_machine(path)
    assert said in str(caught.value) and "m.toml" in str(caught.value)


def test_own_machines_join_the_library_and_a_broken_one_does_not_stop_it(tmp_path: Path) -> None:
    own = tmp_path / "home" / "gullyrise" / "machines"
    own.mkdir(parents=True)
    (own / "s.toml").write_text(SMALL)
    (own / "broken.toml").write_text("id = ")
    assert "s" in {machine.id for machine in library()} and len(library()) == 5
    with pytest.raises(MachineError, match="not TOML"):
        machine_named("broken")
    with pytest.raises(MachineError, match="choose one of"):
        machine_named("nowhere")


def test_errors_cross_processes_as_their_sentence() -> None:
    import pickle

    error = pickle.loads(pickle.dumps(Truncated("a.stl", "9 triangles", "3")))
    assert isinstance(error, ReadError) and str(error) == str(Truncated("a.stl", "9 triangles", "3"))


# --- lots, replaced parts, the record ----------------------------------------------------------------------------------


def test_what_comes_in_one_lot_is_undone_together_and_an_edit_between_parts_it() -> None:
    document = Document(Job(default_machine(), tuple(library())))
    first = document.job
    for number in range(1, 4):
        document.edit(f"Open {number}", lambda job, number=number: job.with_parts([placed(number)]), ("lot", 1))
    assert document.undo_name == "Open 3" and len(document.job.parts) == 3
    document.undo()
    assert document.job is first and document.redo_name == "Open 3"
    document.redo()
    document.edit("Limit", lambda job: job.with_limit("min_wall", 1.3))
    document.edit("Open 4", lambda job: job.with_parts([placed(4)]), ("lot", 1))
    document.undo()
    assert len(document.job.parts) == 3 and document.undo_name == "Limit", "what came later is its own"


def test_a_part_is_replaced_where_it_stands_with_a_line_in_the_record() -> None:
    job = Job(default_machine(), tuple(library())).with_parts([placed(2), placed(1)])
    assert [one.id for one in job.parts] == [1, 2], "in the order in which they were asked for"
    repaired = replace(job.parts[0], digest="other", material="steel")
    after = job.with_replaced(repaired, "p1: mended.")
    assert after.parts == (repaired, job.parts[1]) and after.notes == ("p1: mended.",) and job.notes == ()
    assert after.with_replaced(repaired).notes == after.notes
    assert after.material_of(repaired) == "steel" and after.material_of(after.parts[1]) == "pla"
    assert after.on(machine_named("alder-mill")).usual_material == "aluminium"


def test_every_demo_file_says_what_it_shows_and_is_there() -> None:
    told = {**PLANTED, **FAULTY}
    for job in JOBS:
        assert set(job.files) <= set(told) and all(Path(path).is_file() for path in job.paths())
    assert {name for job in JOBS for name in job.files} == set(told)
