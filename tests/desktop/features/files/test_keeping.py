"""The job kept: saved, opened, taken up again after the program was killed."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
import zipfile
from pathlib import Path
from typing import Any

import crashes
import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLabel, QPushButton
from waiting import until

import zoo
from gullyrise.core.geometry import Transform
from gullyrise.core.job.file import open_file
from gullyrise.core.job.form import as_bytes, form_of
from gullyrise.core.job.journal import journal_home, left_behind
from gullyrise.core.job.store import Store
from gullyrise.core.writing import write
from gullyrise.demo import FILES

pytestmark = pytest.mark.usefixtures("unwalled")


def parts(folder: Path, count: int = 2) -> list[str]:
    out = []
    for number in range(count):
        path = folder / f"part{number}.stl"
        write(zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (20 + 4 * number, 15, 9))), path.stem), path)
        out.append(str(path))
    return out


def state(window: Any) -> bytes:
    return as_bytes(form_of(window.model.job, ""))


def worked_on(window: Any) -> None:
    """Something of everything that a job keeps."""
    first = window.model.job.parts[0]
    window.model.selection.select({first.id})
    window.placement.turn(0, 33)
    window.placement.drop()
    window.placement.copy(2)
    window.model.document.set_limit("min_wall", 1.7)
    window.do("view.save")
    window.model.loader.set_material(first.id, "petg")
    window.machines.use_machine("dipper-260")


def test_a_job_is_saved_opened_elsewhere_and_is_what_it_was(window: Any, tmp_path: Path) -> None:
    made = window(*parts(tmp_path))
    worked_on(made)
    digest = made.model.job.parts[1].digest
    made.model.selection.select({made.model.job.parts[1].id})
    made.placement.stretch(np.array([1.5, 1.5, 1.5]))
    until(lambda: made.model.job.parts[1].digest != digest)
    assert made.windowTitle().startswith("4 parts*") and made.job_file.dirty
    path = str(tmp_path / "gauging.gullyrise")
    made.job_file.save_to(path)
    until(lambda: Path(path).exists() and not made.job_file.dirty)
    assert made.windowTitle() == "gauging · Gullyrise" and "is saved" in made.notifications.sentences[-1]
    before = state(made)
    for file in tmp_path.glob("*.stl"):
        file.unlink()
    other = window(path)
    until(lambda: len(other.model.job.parts) == 4)
    assert other.wait_until_idle(240) and state(other) == before and not other.job_file.dirty
    assert other.family_bar.title == "gauging" and other.model.document.history.undo_name == "Open the job gauging"
    made_digests = [one.digest for one in made.model.job.parts]
    assert [one.digest for one in other.model.job.parts] == made_digests, "shapes made anew are the same to the last digit"
    assert other.model.job.views[0].picture == made.model.job.views[0].picture
    # Undo brings back what was open before; saving goes into the same file without asking.
    other.do("job.undo")
    assert not other.model.job.parts and other.job_file.path == "" and other.family_bar.title == "New job"
    other.do("job.redo")
    assert other.job_file.path == path, "done again it has its own file again"
    other.job_file.save_to(path)
    until(lambda: other.job_file.path == path)
    other.model.document.set_limit("min_gap", 0.44)
    QTest.keyClick(other.bench, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    until(lambda: not other.job_file.dirty)
    assert open_file(Path(path), Store(tmp_path / "s")).form == form_of(other.model.job, "gauging")
    assert other.opening.recent.all()[0].files == (path,)


def test_solids_mends_and_units_come_back(window: Any, tmp_path: Path) -> None:
    made = window(str(FILES / "clamp_saddle.step"), str(FILES / "tipping_tray.stl"), str(FILES / "pulley.obj"))
    made.model.cancel_all()
    ids = {one.part.name: one.id for one in made.model.job.parts}
    made.model.loader.set_unit(ids["pulley"], "inch")
    made.model.loader.repair(ids["tipping_tray"], ("join", "holes"))
    made.model.loader.refine(ids["clamp_saddle"])
    until(lambda: all(len(one.steps) == 1 for one in made.model.job.parts))
    path = str(tmp_path / "j.gullyrise")
    made.job_file.save_to(path)
    until(lambda: Path(path).exists() and not made.job_file.dirty)
    other = window(path)
    until(lambda: len(other.model.job.parts) == 3)
    assert state(other) == state(made)
    for a, b in zip(made.model.job.parts, other.model.job.parts, strict=True):
        assert b.digest == a.digest and b.part.unit == a.part.unit and b.figures["volume"] == a.figures["volume"]
        assert [body.kind for body in b.part.bodies] == [body.kind for body in a.part.bodies]


def test_a_job_that_cannot_be_opened_leaves_all_as_it_is(window: Any, tmp_path: Path) -> None:
    made = window(*parts(tmp_path, 1))
    before = made.model.job
    broken = tmp_path / "broken.gullyrise"
    broken.write_bytes(b"PK\x03\x04 nothing")
    made.model.open_files([str(broken)])
    until(lambda: any("broken.gullyrise" in sentence for sentence in made.notifications.sentences))
    assert made.model.job is before


def test_a_damaged_job_opens_with_what_is_left_and_is_not_saved_over(window: Any, tmp_path: Path) -> None:
    made = window(*parts(tmp_path, 3))
    path = tmp_path / "j.gullyrise"
    made.job_file.save_to(str(path))
    until(lambda: path.exists() and not made.job_file.dirty)
    with zipfile.ZipFile(path) as archive:
        last = archive.infolist()[-1].header_offset
    path.write_bytes(path.read_bytes()[: last + 40])
    other = window(str(path))
    until(lambda: any("breaks off" in sentence for sentence in other.notifications.sentences))
    until(lambda: len(other.model.job.parts) == 2)
    assert other.job_file.dirty and "is lost" in other.notifications.sentences[-1]


def test_what_was_only_looked_at_is_not_offered_again_and_what_was_worked_on_is(window: Any, tmp_path: Path) -> None:
    looked = window(*parts(tmp_path))
    looked.close()
    assert left_behind() == []
    worked = window(*parts(tmp_path))
    worked.model.selection.select({worked.model.job.parts[0].id})
    worked.placement.turn(2, 45)
    kept = state(worked)
    worked.close()
    (found,) = left_behind()
    found.let_go()
    assert as_bytes(found.form.model_copy(update={"name": ""})) == kept
    third = window()
    until(lambda: any("was not saved" in sentence for sentence in third.notifications.sentences))
    button = next(one for one in third.notifications.findChildren(QPushButton) if one.text() == "Restore")
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    until(lambda: len(third.model.job.parts) == 2)
    assert state(third) == kept and third.job_file.dirty
    assert "were not kept and cannot be undone" in third.notifications.sentences[-1]
    until(lambda: not found.folder.exists())
    third.close()
    (mine,) = left_behind()
    assert mine.form is not None and len(mine.form.stands) == 2, "it is with the session that took it up"
    mine.let_go()


@pytest.mark.parametrize("what", ["opening.keep_recent", "collisions.companion.close", "history.close"])
def test_work_is_kept_whatever_else_fails_as_the_window_closes(
    window: Any, tmp_path: Path, what: str, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    worked = window(*parts(tmp_path))
    worked.model.selection.select({worked.model.job.parts[0].id})
    worked.placement.turn(2, 45)
    kept = state(worked)
    *way, name = what.split(".")
    owner = worked
    for step in way:
        owner = getattr(owner, step)
    real = getattr(owner, name)

    def fails() -> None:
        real()
        raise RuntimeError(f"{what} fails on purpose")

    with monkeypatch.context() as broken:
        broken.setattr(owner, name, fails)
        worked.close()
    assert "fails on purpose" in capsys.readouterr().err
    (found,) = left_behind()
    found.let_go()
    assert as_bytes(found.form.model_copy(update={"name": ""})) == kept


def test_work_of_which_a_part_cannot_be_made_is_not_thrown_away(window: Any, tmp_path: Path) -> None:
    worked = window(*parts(tmp_path, 2))
    worked.model.selection.select({worked.model.job.parts[0].id})
    worked.placement.turn(2, 45)
    one = worked.model.job.parts[0].origin.file.digest
    worked.close()
    (found,) = left_behind()
    found.let_go()
    kept = found.store.path_of(one)
    bytes_of_it = kept.read_bytes()
    # As where its worker is killed: it cannot be made this time.
    kept.write_bytes(b"solid nothing")
    second = window()
    until(lambda: any("was not saved" in sentence for sentence in second.notifications.sentences))
    press(second, "Restore")
    until(lambda: any("offered once more" in sentence for sentence in second.notifications.sentences))
    assert len(second.model.job.parts) == 1 and any("part0 is lost" in sentence for sentence in second.notifications.sentences)
    second.wait_until_idle(30)
    second.close()
    kept.write_bytes(bytes_of_it)
    third = window()
    until(lambda: any("(2 parts) was not saved" in sentence for sentence in third.notifications.sentences))
    # What could be made is offered beside it, as that session did not save it either.
    whole, _ = (one for one in third.notifications.findChildren(QPushButton) if one.text() == "Restore")
    QTest.mouseClick(whole, Qt.MouseButton.LeftButton)
    until(lambda: len(third.model.job.parts) == 2)


def test_work_that_is_thrown_away_is_gone(window: Any, tmp_path: Path) -> None:
    worked = window(*parts(tmp_path, 1))
    worked.placement.turn(2, 45)
    worked.close()
    second = window()
    until(lambda: any("was not saved" in sentence for sentence in second.notifications.sentences))
    button = next(one for one in second.notifications.findChildren(QPushButton) if one.text() == "Discard")
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    until(lambda: not list(journal_home().glob("*/job.json")))
    assert left_behind() == []


def test_the_journal_is_never_far_behind(window: Any, tmp_path: Path) -> None:
    made = window(*parts(tmp_path, 1))
    about = made.autosave.journal.folder / "job.json"
    until(about.exists, 10)
    for _ in range(3):
        made.placement.move("Push", lambda _: Transform.moved(np.array([1.0, 0, 0])))
        # Ten seconds are the promise of what a crash may cost, not a measure of speed.
        until(lambda: about.exists() and about.read_bytes() == as_bytes(form_of(made.model.job, made.family_bar.title)), 10)
    made.job_file.save_to(str(tmp_path / "j.gullyrise"))
    until(lambda: not about.exists())


def test_a_note_goes_into_the_record(window: Any, tmp_path: Path) -> None:
    made = window(*parts(tmp_path, 1))
    made.do("record.note")
    dialog = made.findChild(object, "words_dialog")
    dialog.setTextValue("  Ask for   a thicker rib ")
    dialog.accept()
    assert made.model.job.notes == ("Ask for a thicker rib",) and made.model.document.history.undo_name == "Note"


# --- kill -9 -----------------------------------------------------------------------------------------------------------

WINDOW = """
import sys, time
import numpy as np
from gullyrise.core.geometry import Transform
from gullyrise.desktop import launch
application, window = launch([])
window.model.open_files(sys.argv[2:])
window.wait_until_idle(240)
print("ready", flush=True)
step = 0
while True:
    step += 1
    window.placement.move("Push", lambda _: Transform.moved(np.array([0.5, 0, 0])))
    if step % 12 == 1:
        window.job_file.save_to(sys.argv[1])
    if step % 9 == 5:
        window.model.open_files(sys.argv[2:3])
    for _ in range(25):
        application.processEvents()
        time.sleep(0.004)
"""


def test_a_window_that_is_killed_loses_nothing(tmp_path: Path) -> None:
    """Twice, at moments that differ: while it saves, keeps its journal and receives. `tests/files/crashes.py` does the
    same as often as wanted."""
    files, job = parts(tmp_path, 2), tmp_path / "j.gullyrise"
    for round_ in range(2):
        words = [sys.executable, "-c", WINDOW, str(job), *files[1:], files[0]]
        process = subprocess.Popen(words, stdout=subprocess.PIPE, env=dict(os.environ), text=True)
        assert process.stdout is not None and process.stdout.readline() == "ready\n"
        time.sleep(2.2 + 0.37 * round_)
        process.send_signal(signal.SIGKILL)
        process.wait()
        process.stdout.close()
        opened = open_file(job, Store(tmp_path / f"s{round_}"))
        assert opened.form is not None and not opened.lost and len(opened.form.stands) >= 2
        assert crashes.newest(job, once=False) < 10
    assert not list(tmp_path.glob("*.part")), "nothing half written stands where people look"


@pytest.mark.parametrize("what", ["file", "journal", "store"])
def test_killed_in_the_middle_of_writing_the_file_is_the_old_or_the_new_one(what: str, tmp_path: Path) -> None:
    """The process is killed at fifty moments between the first byte and the last."""
    form, store = crashes.prepare(tmp_path)
    for share in range(50):
        crashes.kill_while(what, tmp_path, form, store, share / 50)
    crashes.check(tmp_path)


# --- the record, and a new job -----------------------------------------------------------------------------------------


def texts(widget: Any) -> list[str]:
    return [label.text() for label in widget.findChildren(QLabel)]


def test_an_emptied_bench_is_a_new_job_and_lines_go_with_their_parts(window: Any, tmp_path: Path, unwalled: None) -> None:
    made = window(*parts(tmp_path, 2))
    first, second = made.model.job.parts
    made.model.loader.set_unit(first.id, "inch")
    assert made.wait_until_idle(60)
    made.model.selection.select({second.id})
    made.model.document.edit("Note", lambda job: job.noted("Ask the shop about this one.", [second.id]))
    made.model.document.edit("Note", lambda job: job.noted("For the gauging station."))
    made.report.refresh()
    for words in ("Ask the shop", "For the gauging"):
        assert any(words in text for text in texts(made.report)), words
    assert not any("taken for inch" in words for words in texts(made.report)), "that is the other one's"
    path = tmp_path / "kept.gullyrise"
    made.job_file.save_to(str(path))
    until(lambda: made.job_file.path == str(path))
    kept = path.read_bytes()
    made.model.selection.select({first.id})
    made.do("bodies.remove")
    assert not any("inch" in words for words in made.model.job.notes) and any("Ask" in words for words in made.model.job.notes)
    made.do("bodies.select-all")
    made.do("bodies.remove")
    job = made.model.job
    assert not job.parts and job.notes == () and job.dimensions == () and made.family_bar.title == "New job"
    assert made.job_file.path == "", "and is never saved over the old one"
    made.model.open_files(parts(tmp_path, 1))
    assert made.wait_until_idle(60) and made.model.job.notes == () and path.read_bytes() == kept
    for _ in range(3):
        made.do("job.undo")
    assert len(made.model.job.parts) == 2 and made.job_file.path == str(path) and made.family_bar.title == "kept"
    other = window(str(path))
    assert other.wait_until_idle(120)
    assert [line.of for line in other.model.job.record] == [line.of for line in made.model.job.record]


def test_a_new_job_asks_where_work_is_unsaved(window: Any, tmp_path: Path, unwalled: None) -> None:
    made = window(*parts(tmp_path, 1))
    made.do("job.new")
    assert not made.model.job.parts, "what was only looked at is not asked about"
    made.do("job.undo")
    made.placement.move("Push", lambda _: Transform.moved(np.array([1.0, 0, 0])))
    made.do("job.new")
    assert len(made.model.job.parts) == 1 and "is not saved" in made.notifications.sentences[-1]
    button = next(one for one in made.notifications.findChildren(QPushButton) if one.text() == "Begin a new job")
    until(button.isVisible)
    made.wait_until_idle(30)
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    assert not made.model.job.parts
    made.do("job.undo")
    assert len(made.model.job.parts) == 1


# --- never saved over, never lost --------------------------------------------------------------------------------------


def press(made: Any, words: str) -> None:
    """The button of a notice."""
    button = [one for one in made.notifications.findChildren(QPushButton) if one.text() == words and one.isVisibleTo(made)][-1]
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def test_two_windows_on_one_job_do_not_overwrite_each_other(window: Any, tmp_path: Path, unwalled: None) -> None:
    path = str(tmp_path / "shared.gullyrise")
    mine = window(*parts(tmp_path, 2))
    mine.job_file.save_to(path)
    until(lambda: not mine.job_file.dirty, 60)
    theirs = window(path)
    until(lambda: len(theirs.model.job.parts) == 2, 60)
    theirs.model.document.set_limit("min_gap", 0.44)
    theirs.job_file.save()
    until(lambda: not theirs.job_file.dirty, 60)
    saved = Path(path).read_bytes()
    mine.model.document.remove({mine.model.job.parts[0].id})
    mine.job_file.save()
    until(lambda: any("changed by somebody else" in sentence for sentence in mine.notifications.sentences), 60)
    assert Path(path).read_bytes() == saved and mine.job_file.dirty
    press(mine, "Compare")
    until(lambda: "limits differ" in mine.notifications.sentences[-1], 60)
    assert "It holds part0" in mine.notifications.sentences[-1], mine.notifications.sentences[-1]
    press(mine, "Take theirs")
    until(lambda: len(mine.model.job.parts) == 2 and not mine.job_file.dirty, 60)
    assert mine.model.job.given.min_gap == 0.44
    # What was taken is known now: it is saved without a question.
    mine.model.document.set_limit("min_gap", 0.5)
    mine.job_file.save()
    until(lambda: not mine.job_file.dirty, 60)
    assert Path(path).read_bytes() != saved


def test_a_job_that_gave_less_than_it_holds_is_saved_over_only_when_told_to(window: Any, tmp_path: Path, unwalled: None) -> None:
    path = tmp_path / "odd.gullyrise"
    made = window(*parts(tmp_path, 2))
    made.job_file.save_to(str(path))
    until(lambda: not made.job_file.dirty, 60)
    with zipfile.ZipFile(path) as archive:
        members = {name: archive.read(name) for name in archive.namelist()}
    tree = json.loads(members["job.json"])
    tree["stands"][0]["part"] = 77
    tree["machine"] |= {"process": "weave", "shuttles": 3}
    tree["stands"][1]["material"] = "moon-dust"
    members["job.json"] = json.dumps(tree).encode()
    with zipfile.ZipFile(path, "w") as archive:
        for name, data in members.items():
            archive.writestr(name, data)
    odd = path.read_bytes()
    other = window(str(path))
    until(lambda: len(other.model.job.parts) == 1, 60)
    said = " ".join(other.notifications.sentences)
    assert "number 78 of 2 parts" in said and "nothing is judged until another machine is chosen" in said
    # What is unknown is shown as such, and nothing is judged by what stands in for it.
    assert other.plate.machines.currentText().startswith("Unknown: ")
    placed = other.model.job.parts[0]
    assert other.model.results.verdict_of(placed)[0] == "not-run"
    assert "not known to this version" in other.model.results.outcomes_of(placed, "fit")[0].why
    other.do("job.save")
    until(lambda: any("lost for good" in sentence for sentence in other.notifications.sentences), 60)
    assert path.read_bytes() == odd
    press(other, "Save over it")
    until(lambda: path.read_bytes() != odd, 60)
    with zipfile.ZipFile(path) as archive:
        written = json.loads(archive.read("job.json"))
    assert written["machine"]["process"] == "weave" and written["machine"]["shuttles"] == 3
    assert written["stands"][0]["material"] == "moon-dust"
    other.machines.use_machine("heron-220")
    assert other.wait_until_idle(60) and other.model.results.verdict_of(other.model.job.parts[0])[0] != "not-run"


def test_without_a_place_for_the_journal_parts_open_are_told_of_and_saved_elsewhere(
    window: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, unwalled: None
) -> None:
    (tmp_path / "no home").write_bytes(b"a file where the folder would be")
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "no home" / "data"))
    monkeypatch.setenv("TMPDIR", str(tmp_path / "no home"))
    monkeypatch.setattr("tempfile.tempdir", None)
    made = window()
    assert any("cannot be kept safe" in sentence for sentence in made.notifications.sentences)
    made.model.open_files(parts(tmp_path, 2))
    until(lambda: len(made.model.job.parts) == 2, 60)
    path = tmp_path / "elsewhere.gullyrise"
    made.job_file.save_to(str(path))
    until(lambda: path.exists() and made.job_file.path == str(path), 60)
    assert not open_file(path, Store(tmp_path / "s")).lost
    made.model.document.set_limit("min_gap", 0.5)
    QTest.qWait(2500)
    assert not any("kept safe again" in sentence for sentence in made.notifications.sentences), "nobody will find it there"


def test_what_is_still_being_read_is_not_said_to_be_saved(window: Any, tmp_path: Path, unwalled: None) -> None:
    made = window(*parts(tmp_path, 1))
    made.model.loader.reading.add(-99)
    path = tmp_path / "early.gullyrise"
    made.job_file.save_to(str(path))
    until(lambda: any("is saved" in sentence for sentence in made.notifications.sentences), 60)
    assert "1 file is still being read and not in it" in made.notifications.sentences[-1]
    made.model.loader.reading.discard(-99)


def test_a_save_that_was_cancelled_does_not_stop_the_next(window: Any, tmp_path: Path, unwalled: None) -> None:
    made = window(*parts(tmp_path, 1))
    made.job_file.save_to(str(tmp_path / "never.gullyrise"))
    made.model.cancel_all()
    path = tmp_path / "then.gullyrise"
    made.job_file.save_to(str(path))
    until(path.exists, 60)


def test_what_undo_brings_back_lies_on_disk_and_is_the_same(window: Any, tmp_path: Path, unwalled: None) -> None:
    from gullyrise.core.job.aside import arrays_in, is_mapped

    mesh = zoo.mesh_of(zoo.sphere_shell(20, 17, 80))
    write(zoo.part(mesh, "ball"), tmp_path / "ball.stl")
    made = window(str(tmp_path / "ball.stl"))
    part, digest = made.model.job.parts[0].part, made.model.job.parts[0].digest
    made.model.document.remove({made.model.job.parts[0].id})
    until(lambda: is_mapped(part.bodies[0].mesh.vertices), 30)
    assert all(is_mapped(array) for _, _, array in arrays_in(made.model.ready.prepared[digest]))
    made.do("job.undo")
    assert made.model.job.parts[0].part is part
    until(lambda: not is_mapped(part.bodies[0].mesh.vertices), 30)
    assert made.wait_until_idle(120) and made.model.results.verdict_of(made.model.job.parts[0])[0] != "not-run"


def test_the_history_has_its_bounds(window: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, unwalled: None) -> None:
    monkeypatch.setattr("gullyrise.desktop.features.files.history.MOST_STEPS", 5)
    made = window(*parts(tmp_path, 1))
    for number in range(9):
        made.model.document.set_limit("min_wall", 1.0 + number / 10)
    made.history.tidy()
    assert made.model.document.history.can_undo == 5 and "cannot be undone any more" in made.notifications.sentences[-1]


# --- several jobs, one after another in one window ---------------------------------------------------------------------


def saved_job(made: Any, folder: Path, name: str, files: list[str]) -> Path:
    """A job of these files, saved, on an emptied bench."""
    if made.model.job.parts:
        made.do("bodies.select-all")
        made.do("bodies.remove")
    made.model.open_files(files)
    until(lambda: len(made.model.job.parts) == len(files), 60)
    path = folder / f"{name}.gullyrise"
    made.job_file.save_to(str(path))
    until(lambda: made.job_file.path == str(path), 60)
    return path


def held(path: Path, folder: Path) -> list[str]:
    form = open_file(path, Store(folder / "looked")).form
    assert form is not None
    return [form.parts[stand.part].name for stand in form.stands]


def test_undone_and_done_again_a_job_keeps_its_own_file(window: Any, tmp_path: Path, unwalled: None) -> None:
    first, second = parts(tmp_path, 2)
    made = window()
    one, two = saved_job(made, tmp_path, "one", [first]), saved_job(made, tmp_path, "two", [second])
    made.job_file.open(str(one))
    until(lambda: made.job_file.path == str(one), 60)
    walk = [("job.undo", two, "two"), ("job.redo", one, "one"), ("job.undo", two, "two"), ("job.redo", one, "one")]
    for action, path, name in walk:
        made.do(action)
        assert (made.job_file.path, made.family_bar.title, made.job_file.dirty) == (str(path), name, False)
    made.model.document.set_limit("min_gap", 0.5)
    made.do("job.save")
    until(lambda: not made.job_file.dirty, 60)
    assert held(one, tmp_path) == ["part0"] and held(two, tmp_path) == ["part1"]
    # Back to before anything was opened, and on with something else: no file is that one's.
    while made.model.document.history.undo_name:
        made.do("job.undo")
    assert made.job_file.path == ""
    made.model.open_files([second])
    until(lambda: len(made.model.job.parts) == 1, 60)
    assert made.job_file.path == "" and made.job_file.dirty


def test_what_is_saved_is_what_was_open_when_it_was_asked_for(window: Any, tmp_path: Path, unwalled: None) -> None:
    first, second = parts(tmp_path, 2)
    made = window()
    one, two = saved_job(made, tmp_path, "one", [first]), saved_job(made, tmp_path, "two", [second])
    extra = tmp_path / "extra.gullyrise"
    made.model.document.set_limit("min_gap", 0.5)
    # Three at once, and another job comes in place of theirs while they are written.
    for path in (two, extra, two):
        made.job_file.save_to(str(path))
    made.job_file.open(str(one))
    until(lambda: made.job_file.path == str(one), 60)
    until(lambda: extra.exists() and sum("is saved" in sentence for sentence in made.notifications.sentences) >= 5, 60)
    assert (made.job_file.path, made.family_bar.title, made.job_file.dirty) == (str(one), "one", False)
    assert held(two, tmp_path) == held(extra, tmp_path) == ["part1"] and held(one, tmp_path) == ["part0"]
    made.do("job.undo")
    assert made.model.job.given.min_gap == 0.5 and not made.job_file.dirty and made.job_file.path in (str(two), str(extra))
    made.model.document.set_limit("min_gap", 0.6)
    made.do("job.save")
    until(lambda: not made.job_file.dirty, 60)
    assert held(one, tmp_path) == ["part0"]


def test_a_question_about_saving_goes_with_the_job_that_it_was_about(window: Any, tmp_path: Path, unwalled: None) -> None:
    first, second = parts(tmp_path, 2)
    made = window()
    one, two = saved_job(made, tmp_path, "one", [first]), saved_job(made, tmp_path, "two", [second])
    two.write_bytes(two.read_bytes() + b" ")
    changed = two.read_bytes()
    made.model.document.set_limit("min_gap", 0.5)
    made.do("job.save")
    until(lambda: made.notifications.tells("saving over"), 60)
    made.job_file.open(str(one))
    until(lambda: made.job_file.path == str(one), 60)
    assert not made.notifications.tells("saving over"), "“Save over it” would write this job into that one's file"
    assert two.read_bytes() == changed


def test_in_another_job_nothing_is_left_of_what_was_pointed_at(window: Any, tmp_path: Path, unwalled: None) -> None:
    """Both jobs have a part with the number 1 or 2: what was hidden, chosen, measured in one is not in the other."""
    first, second = parts(tmp_path, 2)
    made = window()
    one, two = saved_job(made, tmp_path, "one", [first]), saved_job(made, tmp_path, "two", [second])
    trees = {}
    for path in (one, two):
        with zipfile.ZipFile(path) as archive:
            members = {name: archive.read(name) for name in archive.namelist()}
        trees[path] = json.loads(members["job.json"]) | {"stands": [json.loads(members["job.json"])["stands"][0] | {"id": 1}]}
        members["job.json"] = json.dumps(trees[path]).encode()
        with zipfile.ZipFile(path, "w") as archive:
            for name, data in members.items():
                archive.writestr(name, data)
    made.job_file.open(str(one))
    until(lambda: made.job_file.path == str(one), 60)
    made.wait_until_idle(60)
    made.model.selection.select({1})
    made.do("bodies.hide")
    assert made.model.shown.visibility.opacity((1, 0)) == 0
    made.job_file.open(str(two))
    until(lambda: made.job_file.path == str(two), 60)
    assert made.model.job.parts[0].id == 1 and made.model.job.parts[0].part.name == "part1"
    assert made.model.shown.visibility.opacity((1, 0)) == 1 and not made.model.selection.parts and not made.measure.picks
    made.do("job.undo")
    assert made.model.job.parts[0].part.name == "part0" and made.model.shown.visibility.opacity((1, 0)) == 1


def test_an_answer_about_how_parts_stood_is_left_once_they_stand_otherwise(window: Any, tmp_path: Path, unwalled: None) -> None:
    made = window(*parts(tmp_path, 1))
    placed = made.model.job.parts[0]
    made.machines.use_machine("alder-mill")
    made.wait_until_idle(60)
    made.model.selection.select({placed.id})
    made.placement.arrange()
    made.setups.find()
    made.placement.move("Push", lambda _: Transform.moved(np.array([1.0, 0, 0])))
    moved = made.model.job.parts
    for words in ("find them again", "arrange again"):
        until(lambda words=words: any(words in sentence for sentence in made.notifications.sentences), 60)
    assert made.model.job.given.setups is None and made.model.job.parts is moved
    # Asked for again, both are done.
    made.setups.find()
    until(lambda: any(" takes " in sentence for sentence in made.notifications.sentences), 60)


def test_a_part_is_not_made_whole_in_another_job(window: Any, tmp_path: Path, unwalled: None) -> None:
    made = window(*parts(tmp_path, 1))
    made.wait_until_idle(60)
    whole = made.model.job.parts[0]
    made.model.selection.select({whole.id})
    made.do("cut.z")
    until(lambda: made.sections.cut is not None, 60)
    made.split.split(None)
    until(lambda: len(made.model.job.parts) == 2, 60)
    made.wait_until_idle(60)
    made.split.make_whole()
    made.do("job.undo")
    until(lambda: any("was left; ask again" in sentence for sentence in made.notifications.sentences), 60)
    assert made.model.job.parts == (whole,)
