"""Dimensions, cuts of views and splits in the job's form: they come back as they went, and hostile ones are refused."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gullyrise.core.cutting.cuts import MOST, Cut
from gullyrise.core.errors import JobError
from gullyrise.core.geometry.pegs import Pegs
from gullyrise.core.job import Job
from gullyrise.core.job.form import as_bytes, form_from, form_of, job_from
from gullyrise.core.job.origins import Split
from gullyrise.core.job.views import SavedView
from gullyrise.core.machines.library import default_machine, library
from gullyrise.core.measuring.picks import Dimension, Pick, Tolerance

numbers = st.floats(-1e4, 1e4, allow_nan=False)
spots = st.tuples(numbers, numbers, numbers)
picks = st.builds(
    Pick, what=st.sampled_from(["body", "face", "axis", "edge", "middle", "centre", "corner", "spot"]), part=st.integers(0, 99),
    copy_number=st.integers(0, 9), index=st.integers(0, 10**6), spot=spots,
)  # fmt: skip
tolerances = st.one_of(
    st.none(),
    st.builds(Tolerance, nominal=numbers, upper=st.floats(0, 5), lower=st.floats(-5, 0)),
    st.builds(Tolerance, nominal=st.floats(1, 400), iso=st.sampled_from(["H7", "g6", "JS9"])),
)
dimensions = st.builds(
    Dimension, id=st.integers(1, 10**6), name=st.text(min_size=1, max_size=80),
    picks=st.lists(picks, min_size=1, max_size=4).map(tuple),
    figure=st.text(max_size=80), quantity=st.sampled_from(["length", "area", "volume", "angle", "mass"]), value=numbers,
    uncertainty=st.floats(0, 10), method=st.text(max_size=90), shape=st.lists(st.text(max_size=32), max_size=4).map(tuple),
    stood=st.lists(st.text(max_size=16), max_size=4).map(tuple), a=st.one_of(st.none(), spots), b=st.one_of(st.none(), spots),
    hidden=st.booleans(), tolerance=tolerances,
)  # fmt: skip
ways = spots.filter(lambda way: float(np.linalg.norm(way)) > 1e-3)
cuts = st.builds(
    Cut, along=ways, position=numbers, flipped=st.booleans(), depth=st.one_of(st.none(), st.floats(0.01, 100)),
    only=st.one_of(st.none(), st.lists(st.tuples(st.integers(0, 9), st.integers(0, 9)), max_size=5).map(tuple)),
)  # fmt: skip


def job_with(dimensions: tuple[Dimension, ...] = (), cuts: tuple[Cut, ...] = ()) -> Job:
    view = SavedView("open", (1.0, 2.0, 3.0), 10.0, 20.0, 100.0, True, 0.0, 30.0, (1.0, 1.0, 1.0), b"", cuts)
    return Job(default_machine(), library(), views=(view,), dimensions=dimensions)


@settings(max_examples=60, deadline=None)
@given(st.lists(dimensions, max_size=4).map(tuple), st.lists(cuts, max_size=4).map(tuple))
def test_what_was_measured_and_cut_comes_back_byte_for_byte(some: tuple[Dimension, ...], opened: tuple[Cut, ...]) -> None:
    written = as_bytes(form_of(job_with(some, opened)))
    form = form_from(written, "here")
    job = job_from(form, {}, library())
    assert job.dimensions == some and job.views[0].cuts == opened
    assert as_bytes(form_of(job)) == written


def damaged(change: Any) -> bytes:
    one = Dimension(
        id=1, name="1 length", picks=(Pick(what="edge", part=1, copy_number=0),), figure="length", quantity="length", value=1.0,
        uncertainty=0.0, method="exact", shape=("a",),
    )  # fmt: skip
    document = json.loads(as_bytes(form_of(job_with((one,), (Cut.across(2, 1.0),)))))
    change(document)
    return json.dumps(document).encode()


@pytest.mark.parametrize(
    "change",
    [
        lambda job: job["dimensions"][0].update(value="nan"), lambda job: job["dimensions"][0].update(picks=[]),
        lambda job: job["dimensions"][0].update(uncertainty=-1), lambda job: job["dimensions"][0].update(shape=["x"] * 51),
        lambda job: job["dimensions"][0]["picks"][0].update(index=-1), lambda job: job["dimensions"][0].update(surprise=1),
        lambda job: job["dimensions"][0].update(name="x" * 81), lambda job: job.update(dimensions=job["dimensions"] * 10_001),
        lambda job: job["dimensions"][0].update(tolerance={"nominal": 1, "upper": -1, "lower": 1}),
        lambda job: job["views"][0]["cuts"][0].update(along=[0, 0, 0]), lambda job: job["views"][0]["cuts"][0].update(depth=-2),
        lambda job: job["views"][0].update(cuts=job["views"][0]["cuts"] * (MOST + 1)),
    ],
)  # fmt: skip
def test_what_no_hand_has_made_is_refused_in_a_sentence(change: Any) -> None:
    with pytest.raises(JobError, match="is damaged at"):
        form_from(damaged(change), "workshop.job")
    assert form_from(damaged(lambda job: job.pop("dimensions")), "an older one").dimensions == (), "jobs of before have none"


def test_pegs_of_a_split_are_bounded() -> None:
    peg = Pegs(diameter=3, length=4, clearance=0.2, feet=((0, 0, 0),))
    assert (peg.hole_diameter, peg.depth) == (pytest.approx(3.4), pytest.approx(4.2))
    step = Split(point=(0, 0, 1), normal=(0, 0, 1), side="back", pegs=peg)
    assert Split.model_validate_json(step.model_dump_json()) == step
    for wrong in ({"diameter": 0}, {"length": -1}, {"clearance": 11}, {"feet": ((0, 0, 0),) * 101}, {"diameter": float("inf")}):
        with pytest.raises(ValueError, match="validation error"):
            Pegs.model_validate({**peg.model_dump(), **wrong})
