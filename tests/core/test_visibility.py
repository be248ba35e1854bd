"""Visibility as values: what is hidden, faded, seen through and peeled, by laws that hold for any choice."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gullyrise.core.job.visibility import SEEN_THROUGH, Visibility
from gullyrise.core.report.parts_list import bare

KEYS = [(1, number) for number in range(6)]
some = st.frozensets(st.sampled_from(KEYS))
steps = st.lists(
    st.one_of(
        st.tuples(st.just("hiding"), some),
        st.tuples(st.just("seeing_only"), st.one_of(st.none(), some)),
        st.tuples(st.just("seen_through"), some),
        st.tuples(st.just("faded"), st.floats(-1, 2)),
        st.tuples(st.just("peeled"), st.floats(0, 100)),
    ),
    max_size=12,
)


def after(taken: list[tuple[str, object]]) -> Visibility:
    sight = Visibility()
    for name, what in taken:
        sight = getattr(sight, name)(what)
    return sight


@given(steps)
def test_show_all_brings_back_whatever_was_done(taken: list[tuple[str, object]]) -> None:
    sight = after(taken)
    assert all(0 <= sight.opacity(key) <= 1 for key in KEYS)
    again = sight.everything()
    assert all(again.opacity(key) == 1 for key in KEYS) and again.fade == sight.fade


@given(steps, some)
def test_what_is_hidden_is_gone_and_nothing_else(taken: list[tuple[str, object]], chosen: frozenset[tuple[int, int]]) -> None:
    before = after(taken)
    hidden = before.hiding(chosen)
    for key in KEYS:
        assert hidden.opacity(key) == (0 if key in chosen else before.opacity(key))


@given(steps, some)
def test_only_these_are_solid_unless_seen_through(taken: list[tuple[str, object]], chosen: frozenset[tuple[int, int]]) -> None:
    sight = after(taken).seeing_only(chosen)
    for key in KEYS:
        if key in chosen:
            assert sight.opacity(key) == (SEEN_THROUGH if key in sight.clear else 1)
        else:
            assert sight.opacity(key) in (0, sight.fade)
    assert sight.faded(0).opacity((9, 9)) == 0, "faded to nothing is not drawn"


@given(some)
def test_seeing_through_twice_is_solid_again(chosen: frozenset[tuple[int, int]]) -> None:
    once = Visibility().seen_through(chosen)
    assert all(once.opacity(key) == (SEEN_THROUGH if key in chosen else 1) for key in KEYS)
    assert once.seen_through(chosen) == Visibility()


@given(st.lists(st.floats(0, 50), min_size=5, max_size=5), st.floats(0, 60))
def test_peeling_keeps_the_chosen_one_and_all_within(distances: list[float], within: float) -> None:
    known = dict(zip(KEYS[1:], distances, strict=True))
    sight = Visibility().around(KEYS[0], known)
    assert all(sight.opacity(key) == 1 for key in KEYS), "nothing is peeled yet"
    peeled = sight.peeled(within)
    assert peeled.opacity(KEYS[0]) == 1
    assert all(peeled.opacity(key) == (1 if far <= within else 0) for key, far in known.items())
    exact = {key: far + 1 for key, far in known.items()}
    assert peeled.measured(KEYS[0], exact).within == within


@pytest.mark.parametrize(
    ("name", "wanted"),
    [
        ("Bracket (2)", "Bracket"),
        ("bracket [14]", "bracket"),
        ("Bracket", "Bracket"),
        ("M6 (D)", "M6 (D)"),
        ("plate 2", "plate 2"),
    ],
)
def test_the_number_that_tells_copies_apart_is_no_part_of_a_name(name: str, wanted: str) -> None:
    assert bare(name) == wanted
