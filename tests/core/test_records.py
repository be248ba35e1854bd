"""Answers as data: what comes back is what was sent, and nothing else can come."""

from __future__ import annotations

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import zoo
from gullyrise.core.errors import ReadError, Truncated
from gullyrise.core.geometry import Transform
from gullyrise.core.job.origins import FileOrigin, KeptFile
from gullyrise.core.part import Part
from gullyrise.workers.records import NotData, packed, unpacked
from gullyrise.workers.schema import fits_of


def crossed(value: object) -> object:
    words, beside = packed(value)
    return unpacked(words, [memoryview(bytes(one)) for one in beside])


PLAIN = st.recursive(
    st.none() | st.booleans() | st.integers(-(2**80), 2**80) | st.floats(allow_nan=False) | st.text() | st.binary(max_size=20),
    lambda inner: (
        st.lists(inner, max_size=4)
        | st.lists(inner, max_size=4).map(tuple)
        | st.dictionaries(st.text(max_size=5) | st.tuples(st.integers(), st.text()), inner, max_size=4)
        | st.frozensets(st.integers(), max_size=4)
    ),
    max_leaves=20,
)


@given(PLAIN)
def test_plain_values_come_back_as_they_were(value: object) -> None:
    back = crossed(value)
    assert back == value and type(back) is type(value)


def test_records_arrays_and_what_they_share_come_back() -> None:
    mesh = zoo.mesh_of(zoo.block((0, 0, 0), (1, 2, 3)))
    part = zoo.part(mesh, "a", mesh)
    back = crossed(
        (part, part, np.arange(6.0)[::2], np.float32(0.5), np.bool_(True), (np.zeros((0, 3)), np.array([True, False])))
    )
    assert isinstance(back, tuple) and isinstance(back[0], Part) and back[0] is back[1], "what is one stays one"
    assert back[0].bodies[0].mesh is back[0].bodies[1].mesh
    assert (back[0].bodies[0].mesh.vertices == mesh.vertices).all() and not back[0].bodies[0].mesh.vertices.flags.writeable
    assert back[2].tolist() == [0, 2, 4] and back[3] == 0.5 and back[4] is True and back[5][0].shape == (0, 3)
    place = crossed(Transform.turned(np.array([0, 0, 1.0]), 30))
    assert isinstance(place, Transform) and (place.matrix == Transform.turned(np.array([0, 0, 1.0]), 30).matrix).all()
    origin = FileOrigin(file=KeptFile(name="a.stl", digest="0" * 32), unit="mm")
    assert crossed(origin) == origin
    error = crossed(Truncated("a.stl", "9 triangles", "3"))
    assert isinstance(error, ReadError) and str(error) == str(Truncated("a.stl", "9 triangles", "3"))
    assert error.code == "truncated" and error.fields == {"file": "a.stl", "needed": "9 triangles", "present": "3"}


@pytest.mark.parametrize("value", [object(), lambda: 1, np.array(["a"]), np.array([object()]), 1j, type, iter([])])
def test_what_is_no_data_is_not_sent(value: object) -> None:
    with pytest.raises(NotData):
        packed(value)


@pytest.mark.parametrize(
    ("hint", "good", "bad"),
    [
        (float, 1, "1"), (int, 1, True), (int | None, None, 1.0), (tuple[int, ...], (1, 2), [1, 2]),
        (tuple[int, str], (1, "a"), (1, "a", 2)), (dict[str, float], {"a": 1.0}, {1: 1.0}), (list[Part], [], (1,)),
        (np.ndarray, np.zeros(2), [0, 0]), (set[int], {1}, {"a"}),
    ],
)  # fmt: skip
def test_annotations_are_held(hint: object, good: object, bad: object) -> None:
    assert fits_of(hint)(good) and not fits_of(hint)(bad)


@pytest.mark.parametrize(
    "fields", [["file"], [1, "a"], ["file", None], ["file", ["t"]], ["a b", "c"], ["f", "g"] * 11, ["sentence", "x"]]
)
def test_an_error_with_odd_fields_is_none(fields: list[object]) -> None:
    words = json.dumps([[], ["e", "Truncated", "It ends too early.", *fields]]).encode()
    with pytest.raises(NotData):
        unpacked(words, [])
    assert str(unpacked(json.dumps([[], ["e", "Truncated", "Too early."]]).encode(), [])) == "Too early."
