"""The report beside the window: made in workers, shown as it prints, saved, printed and packed."""

from __future__ import annotations

import csv
import json
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtPrintSupport import QPrinter
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton
from waiting import until

from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.geometry import Box, Transform
from gullyrise.core.job.views import SavedView
from gullyrise.demo import FILES
from gullyrise.desktop.features.record.report_maker import findings_of

Windows = Callable[..., Any]
PAWL, WELL = str(FILES / "hinge_pawl.stl"), str(FILES / "float_well.stl")
pytestmark = pytest.mark.usefixtures("unwalled")


def made_report(made: Any) -> Any:
    """The sheet, once its pages are there."""
    made.do("record.report")
    maker = made.reporting.maker
    until(lambda: maker.made is not None or maker.trouble)
    assert maker.made is not None, maker.trouble
    return made.reporting.sheet


def text_of(document: QPdfDocument) -> str:
    return " ".join(document.getAllText(page).text() for page in range(document.pageCount()))


def test_it_is_made_shown_saved_printed_and_packed(window: Windows, tmp_path: Path) -> None:
    made = window(PAWL, WELL)
    made.model.document.edit("note", lambda job: job.noted("pin ordered <b>twice</b>", [job.parts[0].id]))
    cut = Cut.across(2, made.model.job.parts[0].ground.middle[2])
    half = SavedView("Halved", (0.0, 0.0, 0.0), 0.0, 0.0, 100.0, True, 0.0, 30.0, (1.0, 1.0, 1.0), b"", (cut,))
    made.model.document.edit("view", lambda job: job.with_view(half))
    sheet = made_report(made)
    words = text_of(sheet.document)
    assert "0.150 mm" in words and "pin ordered <b>twice</b>" in words and "float_well" in words
    assert f"Halved: {cut.words}" in words, "a cut that was kept is drawn and measured"
    assert sheet.document.pageCount() >= 3 and sheet.state.text().endswith("pages")
    for name in ("r.pdf", "r.html"):
        made.reporting.save(str(tmp_path / name))
        until(lambda name=name: (tmp_path / name).exists())
    assert (tmp_path / "r.pdf").read_bytes()[:5] == b"%PDF-" and "pin ordered &lt;b&gt;" in (tmp_path / "r.html").read_text(
        "utf-8"
    )
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "printed.pdf"))
    made.reporting.print_on(printer)
    until(lambda: made.reporting.idle)
    printed = QPdfDocument(None)
    assert printed.load(str(tmp_path / "printed.pdf")) == QPdfDocument.Error.None_
    assert printed.pageCount() == sheet.document.pageCount()
    printed.close()
    for row in range(sheet.sent.count()):
        if sheet.sent.item(row).text() == "hinge_pawl":
            sheet.sent.item(row).setCheckState(Qt.CheckState.Checked)
    QTest.mouseClick(sheet.findChild(QPushButton, "report_pack") or sheet.pack, Qt.MouseButton.LeftButton)
    until(lambda: made.reporting.question is not None)
    listed = made.reporting.question.detailedText().splitlines()
    made.reporting.question.reject()
    made.reporting.save_pack(str(tmp_path / "p.zip"))
    until(lambda: (tmp_path / "p.zip").exists())
    with zipfile.ZipFile(tmp_path / "p.zip") as pack:
        names = pack.namelist()
        assert [one.split(" (")[0] for one in listed] == names, "what was listed is what it holds"
        assert "parts/hinge_pawl.stl" in names and not any("float_well.stl" in name for name in names)
        assert pack.read("parts/hinge_pawl.stl") == Path(PAWL).read_bytes()
        told = json.loads(pack.read("findings.json"))
        assert told["schema"] == "gullyrise.check/1" and str(FILES) not in json.dumps(told)
        assert len([name for name in names if name.startswith("pictures/")]) == sum(
            len(one["findings"]) for one in told["checks"]
        )


def test_what_lies_between_two_parts_is_told_of_both_where_it_is_on_each(window: Windows, tmp_path: Path) -> None:
    """Found by reading once more: the report had passed over it, then placed it on the second part as on the first."""
    trimesh.creation.box((20, 20, 10)).export(tmp_path / "block.stl")
    trimesh.creation.cylinder(8, 30).export(tmp_path / "post.stl")
    made = window(str(tmp_path / "block.stl"), str(tmp_path / "post.stl"))

    def near(job: Any) -> Any:
        block, post = job.parts
        to = [block.ground.high[0] + 0.15 - post.ground.low[0], block.ground.middle[1] - post.ground.middle[1], 0.0]
        return job.placed([post.moved(Transform.moved(np.array(to)))])

    made.model.document.edit("near", near)
    made.wait_until_idle(60)
    made_report(made)
    told = made.reporting.maker.made.told
    for one, out in zip(told, ((10.0, 1), (-8.0, -1)), strict=True):
        ((outcome, other),) = [both for both in zip(one.outcomes, one.beside, strict=True) if both[1] is not None]
        (gap,) = outcome.findings
        nearer = min((end[0] for end in gap.ends), key=lambda x: abs(x - out[0]))
        assert (
            outcome.verdict == "fail" and gap.value == pytest.approx(0.15, abs=1e-6) and nearer == pytest.approx(out[0], abs=1e-6)
        )
        beyond = Box.of(other.placement.apply(other.part.box.corners()))
        edge = beyond.low[0] if out[1] > 0 else beyond.high[0]
        assert edge == pytest.approx(out[0] + 0.15 * out[1], abs=1e-6), "drawn where it stands to this part"
        (drawn,) = made.reporting.maker.made.albums[one.placed.id].findings[one.outcomes.index(outcome)]
        image = QImage.fromData(drawn.picture.data)
        # Cut material on both sides of the gap, at the height of its number.
        sides = [image.pixelColor(x, 300) for x in (200, 760)]
        assert not drawn.unseen and all(abs(side.red() - image.pixelColor(480, 100).red()) > 40 for side in sides)
    rows = [row for row in findings_of(told, made.model.job) if row["check"] == "clearances"]
    assert [row["part"] for row in rows] == ["block"], "a row a finding"
    (row,) = [row for row in findings_of(told[1:], made.model.job) if row["check"] == "clearances"]
    assert row["part"] == "post", "without the first it is not lost"


def test_parts_and_chapters_are_left_out_and_pictures_are_kept(window: Windows) -> None:
    made = window(PAWL, WELL)
    made.model.document.edit("note", lambda job: job.noted("a word for everybody"))
    sheet = made_report(made)
    first = made.reporting.maker.made
    for where, title in ((sheet.parts, "float_well"), (sheet.chapters, "Record")):
        for row in range(where.count()):
            if where.item(row).text() == title:
                where.item(row).setCheckState(Qt.CheckState.Unchecked)
    until(lambda: made.reporting.maker.made not in (None, first))
    again = made.reporting.maker.made
    words = text_of(sheet.document)
    assert "float_well" not in words and "a word for everybody" not in words and "hinge_pawl" in words
    kept = {id(album) for album in first.albums.values()}
    assert all(id(album) in kept for album in again.albums.values()), "no picture is drawn twice"


def test_who_it_is_by_and_for_is_remembered(window: Windows) -> None:
    made = window(WELL)
    sheet = made_report(made)
    first = made.reporting.maker.made
    sheet.by.setText("The workshop")
    sheet.on_behalf.setText("River office")
    sheet.by.editingFinished.emit()
    until(lambda: made.reporting.maker.made not in (None, first))
    assert "The workshop" in text_of(sheet.document) and made.settings["report.by"] == "The workshop"
    assert "River office" in text_of(sheet.document) and made.settings["report.for"] == "River office"
    assert sheet.document.pagePointSize(0).height() == pytest.approx(842, abs=1), "A4"
    first = made.reporting.maker.made
    sheet.paper.setCurrentText("Letter")
    until(lambda: made.reporting.maker.made not in (None, first))
    assert sheet.document.pagePointSize(0).height() == pytest.approx(792, abs=1) and made.settings["report.paper"] == "Letter"


def test_it_can_be_given_up(window: Windows) -> None:
    made = window(PAWL, WELL)
    made.do("record.report")
    made.reporting.maker.cancel()
    assert made.wait_until_idle(60) and made.reporting.maker.made is None and not made.reporting.maker.busy
    made.reporting.save("nowhere.pdf")
    assert "still being made" in made.notifications.sentences[-1] and not Path("nowhere.pdf").exists()


def test_with_nothing_to_tell_it_says_so(window: Windows) -> None:
    made = window()
    assert made.reporting.open() is None and made.reporting.sheet is None
    assert "open a part first" in made.notifications.sentences[-1]


def test_findings_go_into_a_table(window: Windows, tmp_path: Path) -> None:
    made = window(PAWL)
    for name in ("f.csv", "f.xlsx"):
        made.reporting.save_table(str(tmp_path / name))
        until(lambda name=name: (tmp_path / name).exists())
    rows = list(csv.DictReader((tmp_path / "f.csv").read_text(encoding="utf-8-sig").splitlines()))
    (gap,) = [row for row in rows if row["check"] == "clearances"]
    assert float(gap["value"]) == pytest.approx(0.15, abs=1e-3) and gap["unit"] == "mm" and gap["file"] == "hinge_pawl.stl"
    assert zipfile.is_zipfile(tmp_path / "f.xlsx")
