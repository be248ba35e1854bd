"""The record of the job: pictures and notes come into it, are renamed, reordered, left out, pinned, and kept with the job."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from waiting import until

from gullyrise.core.job.file import open_file
from gullyrise.core.job.form import as_bytes, form_from, form_of, job_from
from gullyrise.core.job.record import Line
from gullyrise.core.job.sound import sound_form
from gullyrise.core.job.store import Store
from gullyrise.core.measuring.picks import Dimension, Pick
from gullyrise.core.report.job_report import ReportWish, report_of
from gullyrise.demo import FILES
from gullyrise.desktop.features.record.report_maker import dimensions_of

Windows = Callable[..., Any]
WELL = str(FILES / "float_well.stl")
pytestmark = pytest.mark.usefixtures("unwalled")


def answer(made: Any, words: str) -> None:
    """Types into the question that is open."""
    from PyQt6.QtWidgets import QInputDialog

    (dialog,) = [one for one in made.findChildren(QInputDialog) if one.isVisible()]
    dialog.setTextValue(words)
    dialog.accept()


def test_pictures_and_notes_come_in_order_and_are_changed_with_undo(window: Windows, tmp_path: Path) -> None:
    made = window(WELL)
    made.settings.set("record.folder", str(tmp_path))
    made.do("record.panel")
    made.do("cut.z")
    assert made.wait_until_idle(60)
    made.do("record.picture")
    until(lambda: len(made.model.job.record) == 1)
    made.do("record.note")
    answer(made, "holes  drilled\nafterwards")
    taken, note = made.model.job.record
    assert taken.kind == "picture" and taken.picture[:4] == b"\x89PNG" and "cut Z" in taken.words and taken.when
    assert note.words == "holes drilled afterwards" and note.kind == "note"
    lines = made.record_panel.lines
    assert lines.count() == 2 and not lines.item(0).icon().isNull()
    lines.setCurrentRow(1)
    QTest.mouseClick(made.record_panel.up, Qt.MouseButton.LeftButton)
    assert [one.kind for one in made.model.job.record] == ["note", "picture"]
    lines.item(0).setText("drilled by hand")
    assert made.model.job.record[0].words == "drilled by hand"
    lines.item(1).setCheckState(Qt.CheckState.Unchecked)
    assert made.model.job.record[1].left_out
    for _ in range(3):
        made.do("job.undo")
    assert made.model.job.record == (taken, note)
    lines.setCurrentRow(0)
    QTest.mouseClick(made.record_panel.remove, Qt.MouseButton.LeftButton)
    assert made.model.job.record == (note,) and lines.count() == 1


def test_a_note_is_pinned_to_the_place_under_the_pointer(window: Windows) -> None:
    made = window(WELL)
    made.do("view.front")
    until(lambda: made.bench.moves.at_rest)
    made.bench.point_at(QPoint(made.bench.width() // 2, made.bench.height() // 2).toPointF())
    before = made.bench.grab().toImage()
    made.do("record.pin")
    answer(made, "seat for the ring")
    (line,) = made.model.job.record
    (placed,) = made.model.job.parts
    assert line.of == (placed.id,) and line.at is not None
    box = placed.part.box.grown(0.1)
    assert all(low <= value <= high for low, value, high in zip(box.low, line.at, box.high, strict=True))
    until(lambda: made.bench.grab().toImage() != before)
    told = report_of(made.model.job, "", [], {}, ReportWish(), [])
    assert told.record[0].kind == "Note 1" and told.record[0].caption == "float_well"


def test_acceptances_and_dimensions_stand_in_it_and_are_kept_out_of_the_report_with_their_lines(window: Windows) -> None:
    made = window(str(FILES / "hinge_pawl.stl"))
    (placed,) = made.model.job.parts
    (gap,) = [one for one in made.findings.all if one.row.id == "clearances"]
    change = made.model.document.edit
    change("accept", lambda job: job.with_acceptance(placed, "clearances", gap.finding, "ream it"))
    kept = Dimension(
        id=1, name="pin", picks=(Pick(what="body", part=placed.id, copy_number=0),), figure="size along x", quantity="length",
        value=6.0, uncertainty=0.01, method="triangles", shape=(placed.digest,),
    )  # fmt: skip
    change("keep", lambda job: job.with_dimension(kept).noted("pin: 6 mm", [placed.id], kept.record_key))
    record = made.model.job.record
    assert [line.words for line in record] == [
        "Accepted: gap between hinge_pawl #1 and hinge_pawl #2 (hinge_pawl). ream it",
        "pin: 6 mm",
    ]
    assert all(line.when for line in record), "in the order of time, which is told"

    def told() -> tuple[list[str], list[str]]:
        report = report_of(made.model.job, "", made.reporting.maker.told(ReportWish()), {}, ReportWish(), [])
        (part,) = report.parts
        boxes = [box for check in part.checks for box in check.findings]
        return [box.accepted for box in boxes if box.accepted], [line.name for line in report.dimensions]

    assert told() == (["ream it"], ["pin"])
    (row_of_it,) = dimensions_of(made.model.job)
    assert (row_of_it["value"], row_of_it["unit"], row_of_it["uncertainty"]) == (6.0, "mm", 0.01), "a spreadsheet counts with it"
    for row, left in enumerate((([], ["pin"]), ([], []))):
        made.do("record.panel")
        made.record_panel.lines.item(row).setCheckState(Qt.CheckState.Unchecked)
        made.do("record.panel")
        assert told() == left and len(dimensions_of(made.model.job)) == len(left[1])
    again = job_from(form_from(as_bytes(form_of(made.model.job)), "job"), {}, made.model.job.library)
    assert again.record == made.model.job.record


def test_it_comes_back_from_its_file(window: Windows, tmp_path: Path) -> None:
    """Found by its times: what a line has besides its words was written, and lost without a word when the file was opened."""
    made = window(WELL)
    number = made.model.job.parts[0].id
    lines = (
        Line("seen", (number,), "picture", "2026-12-02T10:00", (1.0, 2.0, 3.0), b"\x89PNG", True),
        Line("plain"),
        Line("kept", tells="dimension 4"),
    )
    made.model.document.edit("lines", lambda job: job.with_record(lines))
    record = made.model.job.record
    path = tmp_path / "told.gullyrise"
    made.job_file.save_to(str(path))
    until(path.exists)
    until(lambda: not made.job_file.dirty)
    opened = open_file(path, Store(tmp_path / "store"))
    assert not opened.lost and opened.form.notes_more == form_of(made.model.job).notes_more
    other = window(str(path))
    assert other.wait_until_idle(60)
    assert [replace(line, of=()) for line in other.model.job.record] == [replace(line, of=()) for line in record]
    # One that is spoilt costs its own rest alone, and that is told.
    tree = json.loads(as_bytes(opened.form))
    tree["notes_more"][0]["at"] = "here"
    sound, lost = sound_form(json.dumps(tree).encode(), "spoilt")
    assert sound.notes_more[1:] == opened.form.notes_more[1:] and any("1 of its notes" in one for one in lost)


def test_the_job_keeps_all_of_it_and_a_plain_record_is_written_as_before(window: Windows) -> None:
    made = window(WELL)
    whole = Line("seen", (1,), "picture", "2026-12-02T10:00", (1.0, 2.0, 3.0), b"\x89PNG", True)
    job = made.model.job.with_record((Line("plain"), whole))
    form = form_from(as_bytes(form_of(job)), "job")
    assert job_from(form, {}, job.library).record == job.record
    plain = as_bytes(form_of(job.with_record((Line("plain", (1,)),))))
    assert b'"notes_more": []' in plain and form_of(job.with_record((Line("plain"),))).notes_more == ()
