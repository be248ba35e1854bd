"""Cells that a spreadsheet opens: names from files of strangers start no formula, and numbers stay numbers."""

from __future__ import annotations

import pytest

from gullyrise.core.report.cells import tame


@pytest.mark.parametrize("words", ["=SUM(A1)", "+1+2", "-3+cmd|' /C calc'!A0", "@x", "\t=1", "-", "\r=1"])
def test_what_would_be_a_formula_is_kept_words(words: str) -> None:
    assert tame(words) == f"'{words}"


@pytest.mark.parametrize("words", ["-12.300", "+4", "", "bolt -3", "3 x 4", "-1e-05"])
def test_numbers_and_names_stay_as_they_are(words: str) -> None:
    assert tame(words) == words
