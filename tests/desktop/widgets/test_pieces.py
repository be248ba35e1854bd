"""Words in as many lines as they need."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtGui import QFontMetrics
from PyQt6.QtWidgets import QApplication

from gullyrise.desktop.widgets.pieces import broken
from gullyrise.drawing.typeface import load_typeface, type_of


@pytest.fixture(scope="module")
def metrics(qapp: QApplication) -> QFontMetrics:
    load_typeface()
    return QFontMetrics(type_of(13))


@given(names=st.lists(st.text("abcdef_ij", min_size=1, max_size=12), min_size=1, max_size=9))
def test_no_line_is_too_wide_and_no_word_is_lost(metrics: QFontMetrics, names: list[str]) -> None:
    lines = broken(" ".join(names), metrics, 120).split("\n")
    assert all(metrics.horizontalAdvance(line) <= 120 for line in lines)
    assert " ".join(lines).split(" ") == names
    # None could have stood in the line above.
    for above, line in pairwise(lines):
        assert metrics.horizontalAdvance(f"{above} {line.split(' ')[0]}") > 120


def test_it_breaks_where_it_may_and_what_is_too_long_loses_its_middle(metrics: QFontMetrics) -> None:
    assert broken("0.500 mm · 404 mm² · 2 alike", metrics, 140, " · ") == "0.500 mm · 404 mm²\n2 alike"
    long = "bracket_" * 9 + "left"
    short = broken(f"the {long}", metrics, 120).split("\n")
    assert short[0] == "the" and short[1].startswith("brack") and short[1].endswith("left") and "…" in short[1]
