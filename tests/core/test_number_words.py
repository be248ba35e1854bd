"""Numbers as everybody reads them: as many digits as there is sense in, and never two that look alike and are not."""

from __future__ import annotations

import math

import pytest
from hypothesis import given as given_any
from hypothesis import strategies as st

from gullyrise.core.number_words import given, number, of_doubt, with_doubt


@pytest.mark.parametrize(
    ("value", "words"),
    [
        (0.0828, "0.0828"), (0.5, "0.500"), (1.6, "1.60"), (3.8, "3.80"), (3.85, "3.85"), (26.75, "26.8"), (90.0, "90.0"),
        (336.0, "336"), (999.6, "1,000"), (1679.534, "1,680"), (20968.18, "20,968"), (0.0, "0"), (-2.5, "-2.50"),
        (9.9996, "10.0"), (1e-15, "0.000000000"),
    ],
)  # fmt: skip
def test_three_digits_count_and_all_whole_ones(value: float, words: str) -> None:
    assert number(value) == words or (value == 1e-15 and float(number(value)) == 0)


@pytest.mark.parametrize(
    ("value", "doubt", "words"),
    [
        (26.0012, 0.52, "26.0 g ± 0.5"), (0.004750, 9.5e-5, "0.00475 g ± 0.00010"), (1234.5, 20.0, "1,234 g ± 20"),
        (12.7, 0.0, "12.7 g"), (12.7, 0.14, "12.70 g ± 0.14"), (5.0, 0.03, "5.00 g ± 0.03"),
    ],
)  # fmt: skip
def test_an_uncertainty_says_how_many_digits_there_are(value: float, doubt: float, words: str) -> None:
    assert with_doubt(value, doubt, "g") == words


def test_a_value_that_fails_its_limit_does_not_read_as_the_limit() -> None:
    assert number(0.7996, apart_from=0.8) == "0.7996" and number(0.79999, apart_from=0.8) == "0.79999"
    assert number(0.8, apart_from=0.8) == "0.800" and number(0.75, apart_from=0.8) == "0.750"


@pytest.mark.parametrize(("value", "words"), [(0.8, "0.8"), (45.0, "45"), (1200.0, "1,200"), (0.0005, "0.0005"), (2.25, "2.25")])
def test_what_somebody_set_is_written_as_short_as_it_may_be(value: float, words: str) -> None:
    assert given(value) == words


@given_any(st.floats(-1e9, 1e9, allow_nan=False))
def test_what_is_read_is_what_was_meant(value: float) -> None:
    words = number(value)
    assert math.isclose(float(words.replace(",", "")), value, rel_tol=6e-3, abs_tol=1e-9)
    assert not words.startswith("-0") or float(words.replace(",", "")) != 0
    assert math.isclose(float(given(value).replace(",", "")), value, rel_tol=1e-6, abs_tol=1e-6)


@given_any(st.floats(1e-6, 1e6), st.floats(1e-6, 1e3))
def test_no_digit_is_shown_that_the_doubt_swallows(value: float, doubt: float) -> None:
    words = number(value, doubt)
    shown = len(words.partition(".")[2])
    assert abs(float(words.replace(",", "")) - value) <= max(doubt, 0.5 + 1e-9) if not shown else 10.0**-shown >= doubt / 20
    assert float(of_doubt(doubt).replace(",", "")) == pytest.approx(doubt, rel=0.5, abs=0.5)


def test_what_is_no_number_is_said_so() -> None:
    assert number(math.inf) == "unbounded" and number(math.nan) == "unknown" and given(math.inf) == "unbounded"
