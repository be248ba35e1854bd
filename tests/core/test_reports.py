"""What a report, its tables and its pack say: whatever names are in them, and the same bytes for the same input."""

from __future__ import annotations

import io
import re
import zipfile
from dataclasses import replace
from pathlib import Path
from xml.etree import ElementTree

import pytest

import gullyrise.drawing
import zoo
from gullyrise.core.checks.registry import run_check
from gullyrise.core.machines import Limits
from gullyrise.core.machines.library import default_machine, machine_named
from gullyrise.core.number_words import given
from gullyrise.core.progress import silent
from gullyrise.core.report.cells import as_csv
from gullyrise.core.report.dating import date_words
from gullyrise.core.report.findings_table import FINDING_HEADS, finding_rows, workbook
from gullyrise.core.report.intake import part_figures
from gullyrise.core.report.job_report import title_of
from gullyrise.core.report.limit_lines import limit_lines
from gullyrise.core.report.pack import Packed, archive
from gullyrise.core.report.part_chapter import chapter_of
from gullyrise.core.report.report_model import LimitLine, PartChapter, Picture, Report
from gullyrise.core.report.report_page import html_of

FONTS = Path(gullyrise.drawing.__file__).parent / "fonts"
HOSTILE = "<script>alert(1)</script>&\"'‮kraP‬ " + "n" * 300
_ONE_PIXEL = bytes.fromhex(
    "89504e470d0a1a0a0000000d4948445200000001000000010802000000907753de0000000c49444154789c63f8cfc000000301010018dd8db0000000"
    "0049454e44ae426082"
)


def chapter(name: str = "shelf", accepted: str = "") -> PartChapter:
    """Of a part whose shelf is too thin."""
    part = replace(zoo.part(zoo.mesh_of(zoo.ribbed_plate(0.6)), name), file=f"{name}.stl")
    machine = default_machine()
    limits = machine.full_limits(Limits(min_wall=0.8))
    outcomes = [one for check in ("health", "walls") for one in run_check(check, zoo.snapshot(part), limits, silent)]
    shown = [[(Picture(_ONE_PIXEL, "a picture"), "")] * len(one.findings) for one in outcomes]
    return chapter_of(
        part, part_figures(part, 300.0), None, "pla", outcomes, limits, shown=shown, accepted=lambda *_: accepted,
        sha256="ab" * 32, picture=Picture(_ONE_PIXEL, "the part"),
    )  # fmt: skip


def report(*chapters: PartChapter, title: str = "A job") -> Report:
    limits = limit_lines(default_machine(), Limits(min_wall=0.8), ["walls", "fit"], "set in this job")
    return Report(
        title, "Heron", "printing", "220 mm", limits, "millimetres", date_words(), "0", "fail", chapters, prepared_by="Ada",
        missing=(("lost.stl", "It is not there."),),
    )  # fmt: skip


def test_a_report_says_what_was_found_where_against_what_and_what_to_try() -> None:
    page = html_of(report(chapter(accepted="as the customer wants it")), FONTS)
    for words in ("0.600 mm", "≥ 0.8 mm", "make it thicker by 0.200 mm", "as the customer wants it", "SHA-256", "ab" * 32, "Ada",
                  "set in this job", "the machine", "lost.stl", "Largest ball inside the solid", "PLA"):  # fmt: skip
        assert words in page, words
    assert page.count("data:image/png;base64,") == 2, "the part, and its one finding"


def test_it_refers_to_nothing_outside_itself_whatever_its_names_are() -> None:
    page = html_of(report(chapter(HOSTILE), title=HOSTILE), FONTS)
    assert not re.findall(r"""(?:src|href)\s*=\s*["'](?!data:|#)""", page) and not re.findall(r"url\((?!data:)", page)
    assert "<script" not in page and "&lt;script&gt;alert(1)" in page, "markup in a name is a name"
    assert "n" * 300 in page, "and stands as it is"
    assert f"<bdi>{HOSTILE[:1].replace('<', '&lt;')}" in page, "kept within itself, whichever way it reads"


def test_the_same_input_gives_the_same_page_but_for_its_date(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("SOURCE_DATE_EPOCH", "1700000000")
    one, other = (html_of(report(chapter()), FONTS) for _ in range(2))
    assert one == other and "2023-11-14 22:13" in one
    monkeypatch.setenv("SOURCE_DATE_EPOCH", "99999999999999999999")
    assert date_words()[:2] == "20", "a date that there is not is not heeded"


def test_a_limit_says_where_it_came_from() -> None:
    mill = machine_named("alder-mill")
    lines = {
        line.name: line for line in limit_lines(mill, Limits(max_wall=9.0), ["walls", "access", "fit"], "the limits file x.toml")
    }
    assert lines["Walls: at most"] == LimitLine("Walls: at most", "9 mm", "the limits file x.toml")
    assert lines["Tool access: tool ⌀"].source == "the machine's thinnest tool"
    assert lines["Walls: at least"].value == f"{given(mill.full_limits().min_wall or 0)} mm"


def test_many_parts_have_a_short_title() -> None:
    assert title_of(["a", "b"]) == "a, b" and title_of(["a", "b", "c", "d"]) == "a and 3 more"
    assert title_of(["x" * 200, "y"]) == "x" * 200 + " and 1 more"


def _rows() -> list[dict[str, object]]:
    part = zoo.part(zoo.mesh_of(zoo.ribbed_plate(0.6)), "=cmd()")
    outcomes = run_check("walls", zoo.snapshot(part), default_machine().full_limits(Limits(min_wall=0.8)), silent)
    return [
        dict(one)
        for one in finding_rows("=cmd()", "=cmd().stl", [(one, "≥ 0.8 mm", [""] * len(one.findings)) for one in outcomes])
    ]


def test_a_table_has_a_row_a_finding_and_no_formula() -> None:
    rows = _rows()
    (row,) = rows
    assert row["value"] == pytest.approx(0.6, abs=0.01) and row["unit"] == "mm" and row["limit"] == "≥ 0.8 mm"
    lines = as_csv(FINDING_HEADS, rows).splitlines()  # type: ignore[arg-type]
    assert len(lines) == 2 and lines[0].startswith("part,file") and lines[1].startswith("'=cmd(),'=cmd().stl,walls")


def test_a_workbook_holds_numbers_as_numbers_and_words_as_words(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("SOURCE_DATE_EPOCH", "1700000000")
    sheets = (("Findings", FINDING_HEADS, _rows()), ("Dimensions", ("name",), []))
    made, again = (workbook(sheets) for _ in range(2))  # type: ignore[arg-type]
    assert made == again
    with zipfile.ZipFile(io.BytesIO(made)) as book:
        sheet = ElementTree.fromstring(book.read("xl/worksheets/sheet1.xml"))
        words = ElementTree.fromstring(book.read("xl/sharedStrings.xml"))
    space = {"s": "http://schemas.openxmlformats.org/spreadsheetml/2006/main"}
    cells = {cell.get("r"): cell for cell in sheet.iterfind(".//s:c", space)}
    assert cells["A2"].get("t") == "s" and not list(sheet.iterfind(".//s:f", space)), "no formula, whatever a name begins with"
    value = cells["G2"].find("s:v", space)
    assert cells["G2"].get("t") in (None, "n") and value is not None and float(value.text or "") == pytest.approx(0.6, abs=0.01)
    assert "=cmd()" in [one.text for one in words.iterfind(".//s:t", space)]


def test_a_pack_has_safe_names_no_two_alike_and_the_same_bytes(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("SOURCE_DATE_EPOCH", "0")
    files = [Packed("report.pdf", b"x", "a"), Packed("../../etc/passwd", b"y", "b"), Packed("parts/Tray.stl", b"1", "c"),
             Packed("parts/tray.STL", b"2", "d")]  # fmt: skip
    one, other = archive(files), archive(files)
    assert one == other
    with zipfile.ZipFile(io.BytesIO(one)) as pack:
        assert pack.testzip() is None
        assert pack.namelist() == ["report.pdf", "etc/passwd", "parts/Tray.stl", "parts/tray-2.STL"]
        assert pack.read("parts/tray-2.STL") == b"2"
