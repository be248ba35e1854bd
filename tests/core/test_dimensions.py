"""Figures in words, wanted sizes of ISO 286, dimensions that are kept, judged and stale, and their table."""

from __future__ import annotations

import csv
import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from gullyrise.core.errors import MeasureError
from gullyrise.core.geometry import Transform
from gullyrise.core.measuring.figures import Figure
from gullyrise.core.measuring.iso286 import deviations
from gullyrise.core.measuring.keeping import is_stale, judged, kept, limits_of
from gullyrise.core.measuring.picks import Dimension, Pick, Tolerance
from gullyrise.core.measuring.words import UNITS, Wording, doubt, in_unit, number, rounding, said
from gullyrise.core.report.cells import as_csv
from gullyrise.core.report.dimensions import DIMENSION_HEADS, as_json, rows_of

PLACE = Transform.turned(np.array([1.0, 2, 3]), 40).then(Transform.moved(np.array([5.0, 6, 7])))


def length(value: float, uncertainty: float = 0.0) -> Figure:
    return Figure("face to face", value, "length", uncertainty, "exact", (0.0, 0.0, 0.0), (value, 0.0, 0.0))


@pytest.mark.parametrize(
    ("unit", "digits", "words"),
    [
        ("mm", 3, "12.700 mm"), ("mm", 0, "13 mm"), ("mm", 6, "12.700000 mm"), ("inch", 3, "0.5000 in"), ("m", 3, "0.012700 m"),
        ("um", 3, "12,700 µm"), ("inch-fraction", 3, "1/2 in"),
    ],
)  # fmt: skip
def test_a_length_is_told_in_every_unit(unit: str, digits: int, words: str) -> None:
    assert said(length(12.7), Wording(unit, digits)) == words  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("inches", "words"),
    [(1.5, "1 1/2 in"), (0.0, "0 in"), (2.0, "2 in"), (0.515625, "33/64 in"), (-0.25, "-1/4 in"), (0.3, "19/64 in +0.0031")],
)
def test_fractions_of_an_inch_say_what_they_leave_out(inches: float, words: str) -> None:
    assert said(length(inches * 25.4), Wording("inch-fraction")) == words


@settings(max_examples=60, deadline=None)
@given(st.floats(-1e4, 1e4), st.sampled_from(list(UNITS)), st.integers(0, 6))
def test_what_is_written_is_the_value_to_its_last_digit(value: float, unit: str, digits: int) -> None:
    wording = Wording(unit, digits)  # type: ignore[arg-type]
    if unit == "inch-fraction":
        assert said(length(value), wording).endswith("in") or " in " in said(length(value), wording)
        return
    words = number(value, "length", wording).replace(",", "")
    after = len(words.partition(".")[2])
    assert float(words) == pytest.approx(in_unit(value, "length", wording.unit), abs=0.51 * 10**-after)
    assert not words.startswith("-0.0") or float(words) != 0


def test_areas_volumes_angles_and_masses_have_their_signs() -> None:
    wording = Wording("inch", 3)
    told = [
        said(Figure("", value, quantity, 0, ""), wording)  # type: ignore[arg-type]
        for value, quantity in ((645.16, "area"), (16387.064, "volume"), (45.0, "angle"), (3.2, "mass"))
    ]
    assert told == ["1.0000 in²", "1.0000 in³", "45.000°", "3.200 g"]
    assert doubt(length(5.0), wording) == "exact" and doubt(length(5.0, 0.0123), Wording()) == "± 0.012 mm"
    assert doubt(length(5.0, 123.0), Wording()) == "± 123 mm" and "1/64" in rounding(Wording("inch-fraction"))
    assert rounding(Wording("mm", 1)) == "Rounded to 1 digit after the point, mm."


# Micrometres: limits of size as tables of the standard print them.
@pytest.mark.parametrize(
    ("name", "nominal", "lower", "upper"),
    [
        ("H7", 25, 0, 21), ("H8", 10, 0, 22), ("h6", 25, -13, 0), ("g6", 25, -20, -7), ("f7", 50, -50, -25),
        ("e8", 30, -73, -40), ("d9", 100, -207, -120), ("k6", 40, 2, 18), ("m6", 20, 8, 21), ("n6", 20, 15, 28),
        ("p6", 30, 22, 35), ("r6", 70, 43, 62), ("s6", 60, 53, 72), ("js6", 25, -6.5, 6.5), ("JS7", 10, -7.5, 7.5),
        ("K7", 25, -15, 6), ("M7", 25, -21, 0), ("N7", 25, -28, -7), ("P7", 25, -35, -14), ("N9", 25, -52, 0),
        ("M8", 25, -29, 4), ("M6", 300, -41, -9), ("F8", 25, 20, 53), ("R7", 25, -41, -20), ("S7", 25, -48, -27),
        ("K6", 3, -6, 0), ("G7", 6, 4, 16), ("h11", 400, -360, 0), ("H13", 500, 0, 970), ("P9", 25, -74, -22),
    ],
)  # fmt: skip
def test_classes_of_fit_are_those_of_the_tables(name: str, nominal: float, lower: float, upper: float) -> None:
    found = deviations(name, nominal)
    assert (found.lower * 1000, found.upper * 1000) == pytest.approx((lower, upper), abs=1e-9)


@pytest.mark.parametrize(
    ("name", "nominal"),
    [("", 10), ("H", 10), ("H0", 10), ("H01", 10), ("h007", 10), ("H19", 10), ("b7", 10), ("H7", 0), ("H7", 501), ("K9", 10)],
)
def test_a_class_that_is_none_is_told(name: str, nominal: float) -> None:
    with pytest.raises(MeasureError):
        deviations(name, nominal)


def some(value: float = 10.0, uncertainty: float = 0.0, **more: object) -> Dimension:
    picks = (Pick(what="face", part=1, copy_number=0, index=2), Pick(what="face", part=2, copy_number=0, index=4))
    made = kept(1, picks, length(value, uncertainty), ("a", "b"), (PLACE, Transform.identity()), turned=False)
    return made.model_copy(update=more)


@pytest.mark.parametrize(
    ("value", "uncertainty", "verdict"),
    [
        (10.0, 0.0, "pass"), (10.1, 0.0, "pass"), (10.1001, 0.0, "fail"), (9.9, 0.0, "pass"), (9.8, 0.05, "fail"),
        (10.08, 0.03, "review"), (10.12, 0.03, "review"), (9.89, 0.02, "review"),
    ],
)  # fmt: skip
def test_only_what_is_certain_passes_or_fails(value: float, uncertainty: float, verdict: str) -> None:
    assert judged(some(value, uncertainty, tolerance=Tolerance(nominal=10, upper=0.1, lower=-0.1))) == verdict
    assert judged(some(value)) is None


def test_a_class_judges_a_hole() -> None:
    wanted = Tolerance(nominal=10, iso="H7")
    assert limits_of(wanted) == pytest.approx((10.0, 10.015))
    assert [judged(some(value, tolerance=wanted)) for value in (9.999, 10.0, 10.015, 10.016)] == ["fail", "pass", "pass", "fail"]
    with pytest.raises(ValidationError, match="lies above"):
        Tolerance(nominal=1, upper=-1, lower=1)


def test_a_dimension_follows_its_parts_and_goes_stale_when_they_change() -> None:
    one = some()
    both = Transform.turned(np.array([0.0, 1, 1]), 77).then(Transform.moved(np.array([100.0, 2, 3])))
    stands = (PLACE, Transform.identity())
    assert not is_stale(one, ("a", "b"), stands)
    assert not is_stale(one, ("a", "b"), tuple(place.then(both) for place in stands)), "moved together they measure the same"
    assert is_stale(one, ("a", "b"), (PLACE.then(Transform.moved(np.array([0.01, 0, 0]))), stands[1]))
    assert is_stale(one, ("a", "c"), stands) and is_stale(one, ("a", None), stands)
    at = kept(2, one.picks[:1], Figure("at-x", 3.0, "length", 0, "exact"), ("a",), (PLACE,), turned=True)
    assert not is_stale(at, ("a",), (PLACE,)) and is_stale(at, ("a",), (PLACE.then(both),)), "a coordinate hangs on the machine"
    ends = PLACE.apply(np.array([one.a, one.b]))
    assert ends == pytest.approx(np.array([[0, 0, 0], [10, 0, 0]]), abs=1e-9), "its ends are kept in its first part"


def test_the_table_of_dimensions_says_what_is_known() -> None:
    wanted = some(10.05, 0.001, tolerance=Tolerance(nominal=10, upper=0.1, lower=-0.1), name="=1+1")
    rows = rows_of([(wanted, ["gland, nut", "pulley"], False), (some(), ["pulley"], True)])
    document = json.loads(as_json(rows))
    assert document["schema"] == "gullyrise.dimensions/1"
    first, second = document["dimensions"]
    assert (first["value"], first["unit"], first["verdict"], first["from"], first["to"]) == (10.05, "mm", "pass", 9.9, 10.1)
    assert second["stale"] and second["verdict"] is None, "what is stale is not judged"
    table = list(csv.DictReader(as_csv(DIMENSION_HEADS, rows).splitlines()))
    assert table[0]["name"] == "'=1+1" and table[0]["parts"] == "gland, nut, pulley" and float(table[0]["value"]) == 10.05
    assert (table[1]["stale"], table[1]["nominal"]) == ("yes", "")
