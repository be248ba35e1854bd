"""Names that programs write where nobody named a thing, and sentences that are said again and again."""

from __future__ import annotations

from pathlib import Path

import pytest

from gullyrise.core.name_words import said_name, told_once
from gullyrise.core.reading.registry import read

NOBODYS = (
    "", " ", "product name", "the product name", "Product Name", "unnamed", "UNTITLED", "No name", "none", "'none'",
    "Open CASCADE STEP translator 7.8 1",
)  # fmt: skip


@pytest.mark.parametrize("name", NOBODYS)
def test_a_placeholder_gives_way_to_the_name_of_the_file(name: str) -> None:
    assert said_name(name, "bracket") == "bracket"


@pytest.mark.parametrize("name", ["gland", "product name plate", "Body 1", "Nonesuch", "untitled bracket", "solid"])
def test_what_somebody_wrote_stays(name: str) -> None:
    assert said_name(name, "bracket") == name


def test_each_sentence_is_told_once_with_how_often_it_was_said() -> None:
    assert told_once(["a.", "b.", "a.", "a."]) == ("a. (3 times)", "b.") and told_once([]) == ()


def test_a_mesh_that_nobody_named_is_called_as_its_file_is(tmp_path: Path) -> None:
    path = tmp_path / "weir board.obj"
    corners = "v 0 0 0\nv 9 0 0\nv 0 9 0\nv 0 0 9\n"
    faces = "f 1 3 2\nf 1 2 4\nf 2 3 4\nf 3 1 4\n"
    path.write_text(f"o unnamed\n{corners}{faces}o pin\n{corners.replace('9', '5')}" + "f 5 7 6\nf 5 6 8\nf 6 7 8\nf 7 5 8\n")
    assert [body.name for body in read(path).bodies] == ["weir board", "pin"]
