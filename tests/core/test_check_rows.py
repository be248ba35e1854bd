"""One line of the traveller over what was judged."""

from __future__ import annotations

import pytest

import zoo
from gullyrise.core.checks.protocol import Outcome, Worst
from gullyrise.core.checks.walls import ROW
from gullyrise.core.geometry import Transform
from gullyrise.core.job import PlacedPart
from gullyrise.core.machines import Limits
from gullyrise.core.report.check_rows import row_of


@pytest.mark.parametrize(
    ("least", "words"), [(0.7996, "0.7996 mm"), (0.5, "0.500 mm"), (0.8, "0.800 mm"), (0.80004, "0.80004 mm")]
)
def test_a_worst_value_is_never_rounded_onto_its_limit(least: float, words: str) -> None:
    part = zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (20, 30, 8))), "plate")
    placed = PlacedPart(1, part, part.box, {}, "", Transform.identity())
    outcome = Outcome("walls", "plate", "fail", "", Worst(least, "mm", (0, 0, 0)), {}, (), "", 0.0)
    view = row_of(ROW, [(placed, outcome)], Limits(min_wall=0.8), [], stale=False, running=False)
    assert view.worst == words
