"""Numbers as they are typed, against what a person would read in them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gullyrise.core.errors import MeasureError
from gullyrise.core.measuring.typed import typed


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("0,5", 0.5), ("0.5", 0.5), ("30,5", 30.5), ("30.5", 30.5), ("12.700", 12.7), ("0,500", 0.5), ("0,125", 0.125),
        (",5", 0.5), (".5", 0.5), ("5.", 5.0), ("5,", 5.0), ("1.234,5", 1234.5), ("1,234.5", 1234.5), ("1,234,567", 1234567),
        ("1.234.567", 1234567), ("1 234,5", 1234.5), ("1\u202f234", 1234), ("1'234.5", 1234.5), ("1’234’567,25", 1234567.25),
        ("-3,25", -3.25), ("−3.25", -3.25), ("+7", 7), (" 42 ", 42), ("1e-3", 0.001), ("2.5E2", 250), ("12,7mm", 12.7),
        ("12.7 MM", 12.7), ("0.5 in", 12.7), ("0,5in", 12.7), ('1/4"', 6.35), ('1 1/2"', 38.1), ("1 1/2 in", 38.1),
        ("3/4", 0.75), ("-1/2 inch", -12.7), ('2"', 50.8), ("2''", 50.8), ("1ft", 304.8), ("2'", 609.6), ("1.5 cm", 15),
        ("250 µm", 0.25), ("250um", 0.25), ("1,2 m", 1200), ("12,3456", 12.3456),
    ],
)  # fmt: skip
def test_what_has_one_reading_is_taken(text: str, value: float) -> None:
    assert typed(text) == pytest.approx(value, rel=1e-12)


@pytest.mark.parametrize(
    "text",
    [
        "", "-", ",", "abc", "1,234", "12,345", "999,000", "1,23,4", "1.2.3", "1,2.3,4", "12,34.5", "1..2", "1/0", "1 2",
        "nan", "inf", "1e999", "5 kg", "5°", "0x10", "1_000", "½", "3--4", "1 23,4", "1.234,567.8", "5 mm mm", "=5", "5;6",
        "0." + "0" * 70 + "1 in",
        "1,2 3",
    ],
)  # fmt: skip
def test_what_has_two_or_none_is_refused_in_a_sentence(text: str) -> None:
    with pytest.raises(MeasureError) as told:
        typed(text)
    assert str(told.value).endswith(".") and "type" in str(told.value)


def test_angles_shares_and_further_units() -> None:
    assert typed("30,5°", "angle") == 30.5 and typed("30'", "angle") == pytest.approx(0.5)
    assert typed("99,5 %", "share") == 99.5 and typed("7", "plain") == 7
    assert typed("10 mm/s", "plain", {"mm/s": 1.0}) == 10
    for text, quantity in (("5 mm", "angle"), ("5 mm", "plain"), ("5 in", "share")):
        with pytest.raises(MeasureError, match="no unit"):
            typed(text, quantity)  # type: ignore[arg-type]


@given(st.floats(-1e6, 1e6), st.integers(0, 6))
def test_what_is_shown_can_be_typed_again(value: float, digits: int) -> None:
    shown = f"{value:.{digits}f}"
    assert typed(shown) == pytest.approx(float(shown), rel=1e-12, abs=1e-12)
    if digits and digits != 3:
        assert typed(shown.replace(".", ",")) == pytest.approx(float(shown), rel=1e-12, abs=1e-12)
    if digits:
        assert typed(f"{value:,.{digits}f}") == pytest.approx(float(shown), rel=1e-12, abs=1e-12), "and as it is read in a table"
