"""Receiving in the real window: questions of unit, the report, repairs, files that change, hundreds at once, what goes out."""

from __future__ import annotations

import json
import time
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QComboBox, QLabel, QWidget
from waiting import until, workers

import zoo
from gullyrise.core.job import PlacedPart
from gullyrise.core.job.recent import RecentJobs
from gullyrise.core.reading import read
from gullyrise.demo import FILES, JOBS

pytestmark = pytest.mark.usefixtures("unwalled")


def click(inside: QWidget, name: str) -> None:
    """A real click on a button by its name."""
    button = inside.findChild(QAbstractButton, name)
    assert button is not None, name
    button.ensurePolished()
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def settle(window: Any) -> None:
    assert window.wait_until_idle(240)


def part(window: Any, name: str) -> PlacedPart:
    return next(one for one in window.model.job.parts if one.part.name == name)


def fact(window: Any, name: str) -> str:
    label = window.report.findChild(QLabel, f"fact_{name}")
    assert label is not None, name
    return str(label.text())


@pytest.fixture
def made(window: Any) -> Any:
    made = window(str(FILES / "pulley.obj"), str(FILES / "silt_trap.stl"))
    settle(made)
    return made


# --- units -----------------------------------------------------------------------------------------------------------


def test_a_doubted_unit_is_asked_with_evidence_answered_by_one_click_and_undone(made: Any) -> None:
    pulley = part(made, "pulley")
    (question,) = [words for words in made.notifications.sentences if "unit looks wrong" in words]
    assert "38.1 x 38.1 x 9.525 mm" in question and made.notifications.isVisible()
    made.model.selection.select({pulley.id})
    settle(made)
    assert made.report.findChild(QWidget, "unit_question") is not None
    click(made.notifications, "notice_answer_0")
    settle(made)
    inches = part(made, "pulley")
    assert inches.figures["size"] == pytest.approx([38.1, 38.1, 9.525], rel=1e-4) and inches.figures["unit_source"] == "given"
    assert made.report.findChild(QWidget, "unit_question") is None and not made.notifications.isVisible(), "it is settled"
    assert fact(made, "unit") == "inches, given by you" and "taken for inch" in made.model.job.notes[-1]
    assert made.bench.scene.items[0].box.size.max() == pytest.approx(38.1, rel=1e-4)
    made.do("job.undo")
    settle(made)
    assert part(made, "pulley").figures["size"] == pulley.figures["size"] and not made.model.job.notes
    assert made.report.findChild(QWidget, "unit_question") is not None
    click(made.report, "unit_mm")
    settle(made)
    assert part(made, "pulley").part.unit_source == "given" and made.report.findChild(QWidget, "unit_question") is None
    made.do("parts.unit-cm")
    settle(made)
    assert part(made, "pulley").figures["size"][0] == pytest.approx(15)


# --- the report ------------------------------------------------------------------------------------------------------


def test_the_report_says_what_a_part_is_and_steps_through_its_faults(made: Any) -> None:
    trap = part(made, "silt_trap")
    made.model.selection.select({trap.id})
    settle(made)
    assert (
        fact(made, "format") == "STL"
        and fact(made, "size") == "64.00 × 40.00 × 24.00 mm"
        and fact(made, "volume") == "encloses nothing"
    )
    assert "in 4 shells" in fact(made, "triangles") and made.report.stamp.verdict == "fail"
    buttons = [b for b in made.report.findChildren(QAbstractButton) if b.objectName().startswith("fault_")]
    words = [button.text() for button in buttons]
    assert any("5 boundary edges" in text for text in words) and any("1 sealed cavity" in text for text in words)
    found = made.model.results.outcomes_of(trap, "health")[0].measured
    assert any(f"{found['self_intersections']} pairs" in text for text in words)
    for number, button in enumerate(buttons):
        before = made.bench.camera
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        settle(made)
        owner, finding = made.model.flag.held
        assert owner == trap.id and made.model.shown.measure == "health"
        assert number == 0 or made.bench.camera != before, "it flies there"
        assert (
            any(flag.chosen for flag in made.bench.evidence.shown.flags)
            or made.traveller.rows["health"].view.findings.index((trap, finding)) >= 30
        )
    doubled = next(b for b in buttons if "duplicate face" in b.text())
    places = set()
    for _ in range(3):
        QTest.mouseClick(doubled, Qt.MouseButton.LeftButton)
        places.add(made.model.flag.held[1].at)
    assert len(places) == 3, "a click more is the next one"


def test_mends_are_previewed_done_noted_and_undone(made: Any) -> None:
    trap = part(made, "silt_trap")
    made.model.selection.select({trap.id})
    until(lambda: made.report.findChild(QAbstractButton, "mend_holes") is not None)
    click(made.report, "mend_holes")
    settle(made)
    closed = part(made, "silt_trap")
    assert closed.figures["bodies"][0]["boundary_edges"] == 0 < trap.figures["bodies"][0]["boundary_edges"]
    assert closed.placement is trap.placement and len(made.model.job.notes) == 1
    assert "1 hole" in made.model.job.notes[0] and "5 to 0 boundary edges" in made.model.job.notes[0]
    until(lambda: made.report.findChild(QAbstractButton, "mend_all") is not None)
    click(made.report, "mend_all")
    settle(made)
    whole = part(made, "silt_trap")
    body = whole.figures["bodies"][0]
    assert body["watertight"] and not (body["flipped_faces"] or body["duplicate_faces"] or body["nonmanifold_edges"])
    record = made.model.job.notes[-1]
    assert "3 faces" in record and "5 faces" in record and "1 shell" in record and "mm³" in record
    assert made.model.document.history.undo_name == "All repairs, silt_trap"
    made.do("job.undo")
    made.do("job.undo")
    settle(made)
    assert part(made, "silt_trap") is trap and not made.model.job.notes
    made.do("job.redo")
    assert part(made, "silt_trap") is closed


def test_mass_follows_the_material_and_a_finer_mesh_keeps_the_exact_figures(window: Any) -> None:
    made = window(str(FILES / "clamp_saddle.step"))
    settle(made)
    before = part(made, "clamp_saddle")
    assert "plane" in fact(made, "faces") and "cylinder" in fact(made, "faces") and "exact" in fact(made, "volume")
    plastic = float(fact(made, "mass").split(" g")[0])
    choice = made.report.findChild(QComboBox, "report_material")
    choice.setCurrentIndex(choice.findData("steel"))
    choice.activated.emit(choice.currentIndex())
    settle(made)
    assert float(fact(made, "mass").split(" g")[0]) == pytest.approx(plastic * 7.85 / 1.24, rel=1e-3)
    click(made.report, "report_finer")
    settle(made)
    after = part(made, "clamp_saddle")
    assert after.part.bodies[0].chord_error == pytest.approx(before.part.bodies[0].chord_error / 2)
    assert after.figures["triangles"] > before.figures["triangles"] and after.figures["volume"] == before.figures["volume"]
    assert made.model.document.history.undo_name == "Mesh clamp_saddle finer" and after.material == "steel"
    made.do("job.undo")
    made.do("job.undo")
    settle(made)
    assert part(made, "clamp_saddle") is before and float(fact(made, "mass").split(" g")[0]) == plastic


def test_without_one_part_the_report_names_those_that_want_a_look(made: Any) -> None:
    texts = [label.text() for label in made.report.findChildren(QLabel)]
    assert "2 parts, 0 without a question." in texts
    click(made.report, f"survey_{part(made, 'pulley').id}")
    assert made.model.selection.parts == {part(made, "pulley").id}


# --- watching --------------------------------------------------------------------------------------------------------


def test_a_file_that_changes_is_offered_and_read_anew_in_its_place(window: Any, tmp_path: Path) -> None:
    path = tmp_path / "bracket.stl"
    trimesh.creation.box((10, 20, 30)).export(path)
    made = window(str(path), str(FILES / "gland_nut.stl"))
    made.model.document.set_limit("min_wall", 1.1)
    made.do("view.save")
    settle(made)
    before = part(made, "bracket")
    fresh = tmp_path / "fresh.stl"
    trimesh.creation.box((12, 20, 30)).export(fresh)
    fresh.replace(path)
    until(lambda: any("changed on the disk" in words for words in made.notifications.sentences))
    assert part(made, "bracket") is before, "nothing is read unasked"
    click(made.notifications, "notice_answer_0")
    settle(made)
    after = part(made, "bracket")
    assert after.figures["size"] == pytest.approx([12, 20, 30]) and after.placement is before.placement and after.id == before.id
    assert made.model.job.limits.min_wall == 1.1 and len(made.model.job.views) == 1
    assert made.model.results.outcomes_of(after, "health") is not None, "and it is judged anew"
    count = len(made.notifications.sentences)
    trimesh.creation.box((14, 20, 30)).export(path)
    until(lambda: len(made.notifications.sentences) > count)
    made.do("job.reload")
    settle(made)
    assert part(made, "bracket").figures["size"][0] == pytest.approx(14)
    trimesh.creation.box((15, 20, 30)).export(path)
    until(lambda: made.notifications.tells("reload"))
    path.unlink()
    until(lambda: made.notifications.tells("gone"))
    assert not made.notifications.tells("reload"), "nothing is offered that cannot be done"
    trimesh.creation.box((16, 20, 30)).export(path)
    until(lambda: made.notifications.tells("reload") and not made.notifications.tells("gone"), 20)
    number = part(made, "bracket").id
    made.model.document.edit("Remove", lambda job: job.without({number}))
    assert not made.notifications.tells("reload")
    made.do("job.undo")
    assert made.notifications.tells("reload")
    path.unlink()
    until(lambda: made.notifications.tells("gone"))
    made.model.selection.select({before.id})
    made.do("job.reload")
    settle(made)
    assert "does not exist" in made.notifications.sentences[-1] and part(made, "bracket").figures["size"][0] == pytest.approx(14)


def test_files_are_not_watched_where_that_is_not_wanted(window: Any, tmp_path: Path) -> None:
    path = tmp_path / "bracket.stl"
    trimesh.creation.box((10, 20, 30)).export(path)
    made = window()
    made.settings.set("files.watch", False)
    made.model.open_files([str(path)])
    settle(made)
    trimesh.creation.box((12, 20, 30)).export(path)
    QTest.qWait(1200)
    assert not made.notifications.sentences


def test_a_file_that_goes_after_the_window_is_told_to_nobody(window: Any, tmp_path: Path) -> None:
    path = tmp_path / "bracket.stl"
    trimesh.creation.box((10, 20, 30)).export(path)
    made = window(str(path))
    told: list[bool] = []
    made.model.loader.files.altered.connect(lambda: told.append(True))
    made.close()
    path.unlink()
    QTest.qWait(1200)
    assert not told


# --- many, and bounds ------------------------------------------------------------------------------------------------


def dropped(window: Any, paths: list[Path]) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    middle, copy = QPoint(400, 300), Qt.DropAction.CopyAction
    no = Qt.KeyboardModifier.NoModifier
    enter = QDragEnterEvent(middle, copy, data, Qt.MouseButton.LeftButton, no)
    window.dragEnterEvent(enter)
    assert enter.isAccepted()
    window.dropEvent(QDropEvent(QPointF(middle), copy, data, Qt.MouseButton.LeftButton, no))


def test_many_files_in_a_dropped_folder_are_read_in_turn_and_the_window_lives(window: Any, tmp_path: Path) -> None:
    folder = tmp_path / "lot"
    folder.mkdir()
    for number in range(80):
        trimesh.creation.box((5 + number / 10, 6, 7)).export(folder / f"piece-{number:03}.{('stl', 'obj', 'ply')[number % 3]}")
    (folder / "readme.txt").write_text("not a part")
    (folder / "piece-080.stl").write_bytes(b"cut")
    made = window()
    dropped(made, [folder])
    seen: set[str] = set()
    came: list[int] = []
    end = time.monotonic() + 240
    while made.model.loader.reading or len(made.model.job.parts) < 80:
        assert time.monotonic() < end
        QTest.qWait(1)
        came.append(len(made.model.job.parts))
        seen.add(made.status.work.text())
    made.do("work.cancel")
    settle(made)
    assert len(made.model.job.parts) == 80 and "piece-080.stl" in made.notifications.sentences[0]
    assert [s.part.name for s in made.model.job.parts][:3] == ["piece-000", "piece-001", "piece-002"]
    assert any("of 81 files" in words for words in seen) and any("left" in words for words in seen), "how far, and how long"
    assert len(made.parts_panel.tree.tops()) == 80
    made.do("job.undo")
    assert not made.model.job.parts, "what came together goes together"
    assert len(came) > 40 and len(set(came)) > 5, "the loop turned meanwhile, and they came a few at a time"


def test_of_files_that_wait_to_be_sent_none_comes_once_they_are_not_wanted(window: Any, tmp_path: Path) -> None:
    paths = [tmp_path / f"piece-{number:03}.stl" for number in range(120)]
    for path in paths:
        trimesh.creation.box((5, 6, 7)).export(path)
    made = window()
    made.model.open_files([str(path) for path in paths])
    assert len(made.model.loader.reading) == 120 and not made.model.idle
    assert 0 < len(made.tasks.under_way) < 120, "some a turn of the loop"
    made.do("work.cancel")
    assert made.model.idle and not made.model.loader.reading
    QTest.qWait(300)
    assert made.model.idle and not made.model.job.parts
    made.model.open_files([str(paths[0])])
    settle(made)
    assert [one.part.name for one in made.model.job.parts] == ["piece-000"]


def test_a_window_closed_over_waiting_files_sends_none_of_them(window: Any, tmp_path: Path) -> None:
    paths = [tmp_path / f"piece-{number:03}.stl" for number in range(120)]
    for path in paths:
        trimesh.creation.box((5, 6, 7)).export(path)
    made = window()
    made.model.open_files([str(path) for path in paths])
    made.close()
    QTest.qWait(500)
    assert not made.tasks.under_way and not made.model.job.parts


def test_work_is_cancelled_at_once_and_a_reader_keeps_to_its_bounds(window: Any, tmp_path: Path) -> None:
    made = window()
    made.settings.set("files.seconds", 5.0)
    made.settings.set("files.memory", 0.5)
    assert (made.model.loader.bounds.seconds, made.model.loader.bounds.memory) == (5.0, 1 << 29)
    made.settings.set("files.seconds", 100.0)
    path = tmp_path / "large.off"
    trimesh.creation.icosphere(7, 60).export(path)
    made.model.open_files([str(path)])
    until(lambda: any(task.stage != "waiting" for task in made.tasks.under_way))
    (task,) = made.tasks.under_way
    assert task.bounds.memory == 1 << 29

    assert workers()
    made.do("work.cancel")
    until(lambda: not workers())
    assert made.model.idle and not made.model.job.parts
    made.settings.set("files.memory", 0.5)
    huge = tmp_path / "huge.ply"
    huge.write_bytes(
        b"ply\nformat binary_little_endian 1.0\nelement vertex 90000000\nproperty float x\nproperty float y\nproperty float z\n"
        b"element face 1\nproperty list uchar int vertex_indices\nend_header\n"
    )
    with huge.open("r+b") as stream:
        stream.truncate(90_000_000 * 12 + 1000)
    made.model.open_files([str(huge)])
    settle(made)
    assert "huge.ply" in made.notifications.sentences[-1] and made.notifications.sentences[-1].endswith(".")


# --- the start page ----------------------------------------------------------------------------------------------


def test_the_receiving_page_has_demo_jobs_and_what_was_open_lately(window: Any, tmp_path: Path) -> None:
    path = tmp_path / "bracket.stl"
    trimesh.creation.box((10, 20, 30)).export(path)
    first = window(str(path), str(FILES / "gland_nut.stl"))
    settle(first)
    assert not first.start_page.isVisible()
    first.close()
    jobs = RecentJobs().all()
    assert [len(job.files) for job in jobs] == [2] and RecentJobs().picture(jobs[0]).stat().st_size > 500
    path.unlink()
    made = window()
    assert made.start_page.isVisible() and made.start_page.width() <= made.bench.width()
    assert made.model.job.machine.name in made.start_page.machine.text()
    click(made.start_page, "recent_0")
    settle(made)
    assert [one.part.name for one in made.model.job.parts] == [
        "gland_nut"
    ] and "bracket.stl is not there" in made.notifications.sentences[0]
    made.do("bodies.select-all")
    made.do("bodies.remove")
    assert made.start_page.isVisible()
    click(made.start_page, f"demo_{JOBS[2].id}")
    settle(made)
    assert [one.part.name for one in made.model.job.parts] == ["winch_box", "screw_set"] and made.family_bar.title == JOBS[
        2
    ].title


def test_recent_jobs_are_kept_only_where_wanted_and_a_spoiled_list_costs_nothing(window: Any, tmp_path: Path) -> None:
    made = window(str(FILES / "gland_nut.stl"))
    made.settings.set("files.recent", False)
    made.close()
    assert RecentJobs().all() == []
    recent = RecentJobs(tmp_path / "recent")
    for broken in ("{", "[1]", '[{"name": 3}]', "[" * 100_000):
        (tmp_path / "recent").mkdir(exist_ok=True)
        (tmp_path / "recent" / "jobs.json").write_text(broken)
        assert recent.all() == []
    outside = [
        {"name": "x", "files": [str(FILES / "gland_nut.stl")], "machine": "m", "when": "now", "picture": "../../etc/x.png"}
    ]
    (tmp_path / "recent" / "jobs.json").write_text(json.dumps(outside))
    (job,) = recent.all()
    assert recent.picture(job) == tmp_path / "recent" / "x.png"


# --- out -------------------------------------------------------------------------------------------------------------


def test_placed_parts_are_written_where_they_stand_and_losses_are_said(made: Any, tmp_path: Path) -> None:
    made.opening.write_parts(str(tmp_path / "bed.3mf"))
    settle(made)
    assert (
        made.notifications.sentences[-1].startswith("bed.3mf is written.")
        and "single precision" in made.notifications.sentences[-1]
    )
    back = read(tmp_path / "bed.3mf")
    boxes = [item.box for item in made.bench.scene.items]
    low, high = np.min([box.low for box in boxes], axis=0), np.max([box.high for box in boxes], axis=0)
    assert back.box.low == pytest.approx(low, abs=1e-3) and back.box.high == pytest.approx(high, abs=1e-3)
    assert {body.name for body in back.bodies} == {"pulley", "silt_trap"}
    made.model.selection.select({part(made, "pulley").id})
    made.opening.write_parts(str(tmp_path / "pulley.step"))
    settle(made)
    assert "triangles only" in made.notifications.sentences[-1] and not (tmp_path / "pulley.step").exists()


# --- units that a file declares ---------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("size", "doubted"), [(38_000.0, True), (0.1, True), (2_000.0, False), (0.8, False), (60.0, False)], ids=str
)
def test_a_declared_unit_is_doubted_where_no_machine_can_be_meant(
    window: Any, tmp_path: Path, unwalled: None, size: float, doubted: bool
) -> None:
    from gullyrise.core.writing.threemf import write_3mf

    path = tmp_path / "mast.3mf"
    write_3mf(zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (size / 4, size / 4, size))), "mast"), path)
    made = window(str(path))
    asked = [words for words in made.notifications.sentences if "the unit looks wrong" in words]
    assert bool(asked) == doubted, made.notifications.sentences
    if doubted:
        assert "the file says mm" in asked[0]
        words = [one.text() for one in made.notifications.findChildren(QAbstractButton)]
        assert "Keep mm" in words and any(one.startswith("Read as") for one in words)
        button = next(one for one in made.notifications.findChildren(QAbstractButton) if one.text() == "Keep mm")
        until(button.isVisible)
        settle(made)
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        settle(made)
        assert made.model.loader.doubt_of(made.model.job.parts[0]) is None, "what was kept is not asked again"
        assert made.model.job.parts[0].part.box.size[2] == pytest.approx(size)


# --- refusals and questions ------------------------------------------------------------------------------------------


def visible_notices(made: Any) -> list[str]:
    return [
        label.text()
        for label in made.notifications.findChildren(QLabel)
        if label.isVisible() and label.objectName() != "notices_more"
    ]


def test_refused_files_stand_in_the_report_and_like_questions_are_one(window: Any, tmp_path: Path, unwalled: None) -> None:
    folder = tmp_path / "lot"
    folder.mkdir()
    for number in range(5):
        trimesh.creation.box((0.5 + number / 10, 0.5, 0.25)).export(folder / f"tiny-{number}.stl")
    for number in range(2):
        trimesh.creation.box((20, 30, 40)).export(folder / f"sound-{number}.stl")
    for number in range(3):
        (folder / f"empty-{number}.stl").write_bytes(b"")
    made = window()
    dropped(made, [folder])
    settle(made)
    until(lambda: len(made.model.job.parts) == 7)
    settle(made)
    assert made.family_bar.title == "7 parts"
    report = [label.text() for label in made.report.findChildren(QLabel)]
    for number in range(3):
        assert any(f"empty-{number}.stl" in words for words in report), report
    asked = [words for words in visible_notices(made) if "the unit looks wrong" in words]
    assert len(asked) == 1 and all(f"tiny-{number}" in asked[0] for number in range(5)), asked
    words = [one.text() for one in made.notifications.findChildren(QAbstractButton) if one.isVisible()]
    assert "Read all as inches" in words and "Keep mm for all" in words
    steps = made.model.document.history.can_undo
    button = next(one for one in made.notifications.findChildren(QAbstractButton) if one.text() == "Read all as inches")
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    settle(made)
    tiny = [one for one in made.model.job.parts if one.part.name.startswith("tiny")]
    assert all(one.part.unit == "inch" for one in tiny) and made.model.document.history.can_undo == steps + 1
    assert not [words for words in visible_notices(made) if "the unit looks wrong" in words]
    made.do("job.undo")
    settle(made)
    assert all(one.part.unit == "mm" for one in made.model.job.parts), "one answer is one step"
    click(made.report, "report_dismiss_refused")
    settle(made)
    assert not any("empty-" in label.text() for label in made.report.findChildren(QLabel))


def test_many_sentences_stand_until_they_are_read_and_it_is_said_how_many_more_there_are(window: Any) -> None:
    made = window()
    for number in range(9):
        made.notifications.say(f"Grave {number}.", True)
    made.notifications.say("In passing.", False)
    QTest.qWait(20)
    assert visible_notices(made) == ["Grave 7.", "Grave 8."], "what passes makes room for what is grave"
    assert made.notifications.more.isVisible() and "7 more, older" in made.notifications.more.text()
    for left in range(8, -1, -1):
        seen = [one for one in made.notifications.findChildren(QAbstractButton) if one.isVisible() and one.toolTip() == "Dismiss"]
        assert len(seen) == min(left + 1, 2)
        QTest.mouseClick(seen[-1], Qt.MouseButton.LeftButton)
        QTest.qWait(10)
    assert visible_notices(made) == [] and not made.notifications.isVisible()
