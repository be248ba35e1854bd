"""A few hundred of the soak's actions and strokes; `make soak` does twenty thousand."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh

from gullyrise.core.geometry import Transform
from soak.campaign import run
from soak.truth import Truth


@pytest.mark.slow
@pytest.mark.timeout(900)
@pytest.mark.parametrize("seed", [7, 8, 9])
def test_whatever_is_done_the_window_tells_the_truth(window: Any, tmp_path: Path, few_checks: None, seed: int) -> None:
    made = window()
    made.settings.set("view.glide", 0)
    folder = tmp_path / "parts"
    folder.mkdir()
    assert run(made, 100, seed, folder) == []


def test_the_oracle_itself_sees_what_is_wrong(window: Any, tmp_path: Path, few_checks: None, monkeypatch: Any) -> None:
    trimesh.creation.box((20, 20, 20)).export(tmp_path / "cube.stl")
    made = window(str(tmp_path / "cube.stl"), str(tmp_path / "cube.stl"))
    truth = Truth(made)
    a, b = made.model.job.parts
    assert truth.all() == [] and truth.oracle.between(a, b)[0] == "apart"
    shift = Transform.moved(np.array([5.0, 0, 0]) + a.ground.middle - b.ground.middle)
    made.model.document.edit("Into each other", lambda job: job.moved([b.id], shift))
    a, b = made.model.job.parts
    how, much = truth.oracle.between(a, b)
    assert (how, much) == ("meet", pytest.approx(15 * 20 * 20)) and truth.all() == []
    outcomes, lied = made.model.results.outcomes_of, {}
    for one in (a, b):
        (fit,) = outcomes(one, "fit")
        lied[one.id] = (replace(fit, verdict="pass", headline="", measured={**fit.measured, "collisions": []}),)
    monkeypatch.setattr(
        made.model.results, "outcomes_of", lambda one, check: lied[one.id] if check == "fit" else outcomes(one, check)
    )
    assert sum("meets" in words for words in truth.meeting()) == 2
    made.model.document.edit("Away", lambda job: job.moved([a.id], Transform.moved(np.array([-900.0, 0, 0]))))
    assert any("on no bed" in words for words in truth.beds())
