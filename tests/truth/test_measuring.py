"""Measured figures against designed ones: on solids to a millionth, on their triangles within what is stated."""

from __future__ import annotations

import numpy as np
import pytest

import gauge
from gullyrise.core.geometry import Transform
from gullyrise.core.measuring.figures import Figure
from gullyrise.core.measuring.taking import Taken, take
from gullyrise.core.part import Body

PI = np.pi
# (picks: what and a place near by, figure, its designed value)
SINGLE = [
    (("edge", (30, 0, 0)), "length", 73.0),
    (("edge", (0, 25, 20)), "length", 50.0),
    (("edge", (26, 25, 0)), "diameter", 12.0),
    (("edge", (26, 25, 0)), "around", 12 * PI),
    (("edge", (78, 2, 20)), "radius", 7.0),
    (("edge", (78, 2, 20)), "arc length", 7 * PI / 2),
    (("edge", (78, 2, 20)), "angle of the arc", 90.0),
    (("face", (26, 25, 10)), "diameter", 12.0),
    (("face", (26, 25, 10)), "length along the axis", 20.0),
    (("face", (26, 25, 10)), "area", 12 * PI * 20),
    (("face", (42.5, 10, 8)), "radius", 2.5),
    (("face", (45, 40, 23)), "diameter", 10.0),
    (("face", (45, 40, 23)), "area", 10 * PI * 6),
    (("face", (66, 42, 15)), "diameter", 10.0),
    (("face", (66, 42, 15)), "area", 2 * PI * 25),
    (("face", (78, 2, 10)), "radius", 7.0),
    (("face", (0, 25, 10)), "area", 50 * 20.0),
    (("face", (5, 5, 0)), "area", 80 * 50 - 36 * PI - 9 * PI - (49 - 49 * PI / 4)),
    (("face", (5, 5, 20)), "thickness here, straight through", 20.0),
    (("face", (0, 45, 3)), "thickness here, straight through", 80.0),
    (("corner", (0, 0, 0)), "at X", 0.0),
    (("corner", (0, 50, 20)), "at Y", 50.0),
    (("middle", (0, 25, 20)), "at Y", 25.0),
    (("centre", (26, 25, 0)), "at X", 20.0),
]
DOUBLE = [
    (("corner", (0, 0, 0)), ("corner", (80, 50, 20)), "corner to corner", np.sqrt(80**2 + 50**2 + 20**2)),
    (("corner", (0, 0, 0)), ("edge", (30, 50, 20)), "corner to edge", np.hypot(50, 20)),
    (("corner", (0, 0, 0)), ("face", (5, 5, 20)), "corner to face", 20.0),
    (("centre", (26, 25, 0)), ("centre", (63, 25, 0)), "centre to centre", 40.0),
    (("edge", (0, 25, 20)), ("edge", (0, 25, 0)), "edge to edge", 20.0),
    (("edge", (0, 25, 20)), ("edge", (30, 0, 20)), "edge to edge, angle", 90.0),
    (("edge", (0, 25, 20)), ("edge", (30, 0, 0)), "edge to edge, where they pass", 20.0),
    (("face", (5, 5, 0)), ("face", (5, 5, 20)), "face to face", 20.0),
    (("face", (0, 25, 10)), ("face", (80, 25, 10)), "face to face", 80.0),
    (("face", (0, 25, 10)), ("face", (5, 5, 20)), "face to face, angle", 90.0),
    (("face", (26, 25, 10)), ("face", (63, 25, 10)), "axis to axis", 40.0),
    (("face", (26, 25, 10)), ("face", (45, 40, 23)), "axis to axis", 25.0),
    (("axis", (26, 25, 10)), ("face", (42.5, 10, 8)), "axis to axis, where they pass", 20.0),
    (("axis", (26, 25, 10)), ("face", (42.5, 10, 8)), "axis to axis, angle", 90.0),
    (("face", (26, 25, 10)), ("face", (0, 25, 10)), "axis to face", 20.0),
    (("face", (42.5, 10, 8)), ("face", (5, 5, 0)), "axis to face", 8.0),
    (("face", (66, 42, 15)), ("face", (0, 25, 10)), "centre to face", 66.0),
    (("corner", (0, 0, 0)), ("axis", (26, 25, 10)), "corner to axis", np.hypot(20, 25)),
    (("face", (26, 25, 10)), ("face", (63, 25, 10)), "smallest gap", 40 - 6 - 3.0),
    (("edge", (30, 50, 20)), ("face", (45, 40, 23)), "smallest gap", 5.0),
    (("edge", (0, 25, 20)), ("face", (26, 25, 10)), "smallest gap", 14.0),
    (("spot", (5, 5, 20)), ("spot", (5, 5, 0)), "place to place", 20.0),
]  # fmt: skip


def figure(taken: Taken, name: str) -> Figure:
    return next(one for one in taken.figures if one.name == name)


def random_place(seed: int) -> Transform:
    random = np.random.default_rng(seed)
    turn = Transform.turned(random.normal(size=3), float(random.uniform(0, 360)))
    return turn.then(Transform.moved(random.uniform(-150, 150, size=3)))


def measured(body: Body, picks: list[tuple[str, gauge.Row]], name: str, place: Transform) -> Figure:
    found = take(tuple(gauge.pick(body, *one) for one in picks), (gauge.subject(body, place),) * len(picks))
    return figure(found, name)


@pytest.mark.parametrize("case", range(len(SINGLE) + len(DOUBLE)))
def test_solids_give_the_designed_value(case: int) -> None:
    *picks, name, designed = [*SINGLE, *DOUBLE][case]
    moved = Transform.identity() if name.startswith("at ") else random_place(case)
    found = measured(gauge.solid(), picks, name, moved)
    assert found.value == pytest.approx(designed, abs=1e-6) and found.uncertainty == 0 and found.method == "exact"


@pytest.mark.parametrize("factor", [1.0, 25.4])
@pytest.mark.parametrize("case", range(len(SINGLE) + len(DOUBLE)))
def test_triangles_give_it_within_the_stated_uncertainty(case: int, factor: float) -> None:
    *picks, name, designed = [*SINGLE, *DOUBLE][case]
    moved = Transform.identity() if name.startswith("at ") else random_place(case + 100)
    found = measured(gauge.as_file(gauge.solid(), factor), picks, name, moved)
    assert abs(found.value - designed) <= found.uncertainty, found
    assert 0 < found.uncertainty <= 0.04 * max(designed, 10.0), "an uncertainty that is stated is of use"
