"""`check --pictures` and `check --report`: pictures of each finding and one report, as the contract says them."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
import zlib
from contextlib import suppress
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from gullyrise.command_line.app import run
from gullyrise.core.reading import ReadOptions
from gullyrise.core.reading.registry import read
from gullyrise.demo import FILES
from gullyrise.pictures.findings import stems_of

TRAP, PAWL = str(FILES / "silt_trap.stl"), str(FILES / "hinge_pawl.stl")


@pytest.fixture(scope="module")
def drawn(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, dict]:
    """Two files' pictures and what is told of them; with no display at all."""
    folder = tmp_path_factory.mktemp("pictures")
    words = [
        "check",
        TRAP,
        PAWL,
        "--only",
        "health,overhangs,clearances",
        "--pictures",
        str(folder),
        "--json",
        str(folder / "c.json"),
    ]
    words += ["--report", str(folder / "r.html")]
    done = by_itself(words, folder)
    assert done.returncode == 1 and "Pictures written" in done.stderr, done.stderr
    return folder, json.loads((folder / "c.json").read_text(encoding="utf-8"))


def by_itself(words: list[str], home: Path) -> subprocess.CompletedProcess[str]:
    """In a process of its own, with neither a display nor a word on how to do without."""
    kept = {name: os.environ[name] for name in ("PATH", "LANG", "LC_ALL", "PYTHONPATH") if name in os.environ}
    bare = {**kept, "HOME": str(home), "SOURCE_DATE_EPOCH": "1700000000"}
    command = [sys.executable, "-m", "gullyrise", *words]
    return subprocess.run(command, env=bare, capture_output=True, encoding="utf-8", check=False)


def test_each_finding_has_a_picture_and_no_other_is_there(drawn: tuple[Path, dict]) -> None:
    folder, document = drawn
    told = [one["picture"] for check in document["checks"] for one in check["findings"]]
    assert len(told) > 10 and all(told)
    names = [one["file"] for one in told]
    assert len(set(names)) == len(names) and sorted(names) == sorted(path.name for path in folder.glob("*.png"))
    assert {name.split("-")[0] for name in names} == {"silt_trap", "hinge_pawl"}
    for name in names[:3]:
        with Image.open(folder / name) as image:
            assert image.size == (960, 720)
    for one in told:
        assert set(one) == {"file", "camera", "cuts", "faded", "marks"}
        assert set(one["camera"]) == {"eye", "target", "up", "height", "parallel"} and one["camera"]["parallel"] is True


def test_the_marks_are_drawn_where_the_camera_says(drawn: tuple[Path, dict]) -> None:
    """By pixels: at each mark there is its dot, and its colour is nowhere in a picture that marks nothing."""
    folder, document = drawn
    for check in document["checks"]:
        for finding in check["findings"]:
            form = finding["picture"]
            camera, marks = form["camera"], np.array(form["marks"])
            eye, target, up = (np.array(camera[name]) for name in ("eye", "target", "up"))
            toward = (eye - target) / np.linalg.norm(eye - target)
            right = np.cross(up, toward)
            with Image.open(folder / form["file"]) as image:
                pixels = np.asarray(image.convert("RGB")).astype(int)
            for mark in marks:
                x = 480 + (mark - target) @ right * 720 / camera["height"]
                y = 360 - (mark - target) @ up * 720 / camera["height"]
                near = pixels[int(y) - 2 : int(y) + 3, int(x) - 2 : int(x) + 3].reshape(-1, 3)
                assert (np.abs(near - [163, 59, 46]).max(axis=1) < 40).any(), f"{form['file']}: no mark at {x:.0f}, {y:.0f}"


def test_places_are_the_files_own(drawn: tuple[Path, dict]) -> None:
    _, document = drawn
    box = read(Path(TRAP), ReadOptions()).box.grown(1e-6)
    for check in document["checks"][:1]:
        for finding in check["findings"]:
            marks = np.array(finding["picture"]["marks"])
            assert ((marks >= box.low) & (marks <= box.high)).all()
            assert np.abs(marks - finding["at"]).max() < 1e-6


def test_the_report_holds_each_picture_and_nothing_from_outside(drawn: tuple[Path, dict]) -> None:
    folder, document = drawn
    page = (folder / "r.html").read_text(encoding="utf-8")
    findings = sum(len(check["findings"]) for check in document["checks"])
    assert page.count("data:image/png;base64,") == findings + 2, "and the two parts"
    assert not re.findall(r"""(?:src|href)\s*=\s*["'](?!data:|#)""", page) and not re.findall(r"url\((?!data:)", page)
    assert "2023-11-14" in page and "silt_trap.stl" in page and TRAP not in page, "no path of this machine"


def test_a_pdf_is_searchable_titled_bookmarked_and_the_same_twice(tmp_path: Path) -> None:
    made = []
    for number in range(2):
        path = tmp_path / f"{number}.pdf"
        words = ["check", PAWL, "--only", "clearances", "--report", str(path)]
        done = by_itself(words, tmp_path)
        assert done.returncode == 1, done.stderr
        made.append(path.read_bytes())
    assert made[0] == made[1] and made[0].startswith(b"%PDF-")
    from PyQt6.QtPdf import QPdfBookmarkModel, QPdfDocument

    document = QPdfDocument(None)
    assert document.load(str(tmp_path / "0.pdf")) == QPdfDocument.Error.None_
    assert document.metaData(QPdfDocument.MetaDataField.Title) == "hinge_pawl"
    words = " ".join(document.getAllText(page).text() for page in range(document.pageCount()))
    assert "0.150 mm" in words and "Method and sampling" in words
    marks = QPdfBookmarkModel(document)
    marks.setDocument(document)
    top = marks.index(-1, -1)
    titles = [marks.data(marks.index(row, 0), int(QPdfBookmarkModel.Role.Title.value)) for row in range(marks.rowCount(top))]
    assert titles == ["hinge_pawl"] and marks.rowCount(marks.index(0, 0)) >= 3, "chapters are found below the title"
    assert b"/Lang (en)" in unfolded(made[0])
    document.close()


def unfolded(pdf: bytes) -> bytes:
    """All that a PDF's streams hold."""
    out = b""
    for packed in re.findall(rb"stream\r?\n(.*?)endstream", pdf, re.DOTALL):
        with suppress(zlib.error):
            out += zlib.decompress(packed)
    return out


def test_what_cannot_be_written_or_used_is_said(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    (tmp_path / "file").write_text("x")
    assert run(["check", PAWL, "--only", "health", "--pictures", str(tmp_path / "file" / "in")]) == 2
    assert "cannot be made" in capsys.readouterr().err
    assert run(["check", PAWL, "--only", "health", "--report", str(tmp_path / "r.docx")]) == 2
    broken = tmp_path / "broken.stl"
    broken.write_bytes(b"solid\nnothing")
    assert run(["check", PAWL, str(broken), "--only", "health", "--report", str(tmp_path / "r.html")]) == 2
    page = (tmp_path / "r.html").read_text(encoding="utf-8")
    assert "broken.stl" in page and "Not judged" in page


def test_names_of_pictures_are_safe_and_their_own() -> None:
    names = ["a/Tray.stl", "b/tray.STL", "c/../../x y?.obj", "d/...", "e/" + "n" * 300 + ".stl"]
    stems = stems_of(names)
    assert len({one.casefold() for one in stems}) == len(names)
    assert all(re.fullmatch(r"[\w-]{1,62}", one) for one in stems)
