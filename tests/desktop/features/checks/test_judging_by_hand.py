"""Verdicts worked with by hand in the real window: the limit dragged, findings stepped through and accepted, pairs, set-ups,
balls."""

from __future__ import annotations

import os
import signal
import time
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from manifold3d import Manifold
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton

import zoo
from gullyrise.core import number_words
from gullyrise.core.geometry import Box, Transform
from gullyrise.core.writing.meshes import write_stl
from gullyrise.core.writing.threemf import write_3mf
from gullyrise.demo import FILES
from gullyrise.desktop.scene.scene_builder import SHARED


def settle(window: Any) -> None:
    assert window.wait_until_idle(240)


def press(window: Any, *keys: Qt.Key) -> None:
    for key in keys:
        QTest.keyClick(window.bench, key)
    settle(window)


@pytest.fixture
def plate(window: Any, tmp_path: Path) -> Any:
    """A plate with two slots that leave 0.3 and 1.2 mm under them."""
    solid = zoo.block((0, 0, 0), (80, 60, 6)) - zoo.block((20, -1, 0.3), (22, 61, 7)) - zoo.block((55, -1, 1.2), (57, 61, 7))
    path = tmp_path / "plate.stl"
    write_stl(zoo.part(zoo.mesh_of(solid), "plate"), path)
    made = window(str(path))
    made.settings.set("view.glide", 0)
    settle(made)
    return made


def test_findings_are_those_of_the_checks_of_the_machine(plate: Any) -> None:
    press(plate, Qt.Key.Key_K, Qt.Key.Key_W)
    printed = {one.row.id for one in plate.findings.all}
    assert "walls" in printed and "access" not in printed
    plate.model.document.set_machine(next(one for one in plate.model.job.library if one.id == "alder-mill"))
    settle(plate)
    assert {one.row.id for one in plate.findings.all} - {"access"} <= printed and not plate.model.flag.held
    plate.model.document.set_limit("setups", ("+x",))
    settle(plate)
    press(plate, Qt.Key.Key_K, Qt.Key.Key_T)
    press(plate, Qt.Key.Key_N)
    assert [one.row.id for one in plate.findings.all].count("access") > 0
    assert plate.model.flag.held is not None and plate.findings.all[plate.findings.flagged].row.id == "access"


def drag(histogram: Any, values: list[float]) -> None:
    """The limit's line taken and moved over some values, with time for each to be told."""
    left, y = Qt.MouseButton.LeftButton, histogram.height() // 2
    places = [QPoint(round(histogram._x(value)), y) for value in values]
    QTest.mousePress(histogram, left, pos=places[0])
    for place in places[1:]:
        QTest.mouseMove(histogram, place)
        QTest.qWait(60)
    QTest.mouseRelease(histogram, left, pos=places[-1])


def walls(window: Any) -> Any:
    return window.traveller.rows["walls"].view


def test_the_limit_is_dragged_on_the_histogram_without_measuring_again(plate: Any) -> None:
    made = plate
    press(made, Qt.Key.Key_K, Qt.Key.Key_W)
    row = made.traveller.rows["walls"]
    assert row.histogram.isVisible() and walls(made).verdict == "fail" and len(walls(made).findings) == 1
    sent: list[str] = []
    made.tasks.changed.connect(lambda: sent.extend(task.work.title for task in made.tasks.under_way))
    steps = made.model.document.history.can_undo
    drag(row.histogram, [0.8, 0.7, 0.6, 0.5])
    settle(made)
    limit = made.model.job.limits.min_wall
    assert limit == pytest.approx(0.5, abs=0.03) and row.limit.value() == limit
    assert not [title for title in sent if title.startswith("walls")], "what was measured before is enough"
    assert made.model.document.history.can_undo == steps + 1, "one stroke is one edit"
    (item,) = made.bench.scene.items
    assert item.scale is not None and item.scale.limit == limit
    made.do("job.undo")
    settle(made)
    assert made.model.job.limits.min_wall == 0.8 and walls(made).verdict == "fail"
    row.histogram.setFocus()
    QTest.keyClick(row.histogram, Qt.Key.Key_Right)
    settle(made)
    assert made.model.job.limits.min_wall > 0.8


def test_the_thinnest_places_and_the_ball_in_the_cut(plate: Any) -> None:
    made = plate
    press(made, Qt.Key.Key_K, Qt.Key.Key_B)
    assert made.sections.cuts == () and "step to a finding" in made.notifications.sentences[-1]
    press(made, Qt.Key.Key_K, Qt.Key.Key_P)
    places = walls(made).places
    assert [round(place.value, 2) for _, place in places[:1]] == [0.3]
    assert any(place.value == pytest.approx(1.2, abs=0.01) for _, place in places)
    press(made, Qt.Key.Key_N)
    press(made, Qt.Key.Key_K, Qt.Key.Key_B)
    ball = made.bench.evidence.shown.ball
    assert ball is not None and 2 * ball.radius == pytest.approx(0.3, abs=0.01) and ball.across is not None
    side = made.sections.cut.sides()[0]
    assert abs(side.heights(ball.centre[None])[0]) < 1e-9, "the cut goes through its middle"
    assert np.abs(side.heights(np.stack([ball.a, ball.b]))).max() < 0.02, "and through both of its contacts"
    made.do("cut.off")
    (placed,) = made.model.job.parts
    made.bench.moves.look_straight(placed.ground.middle, np.array([0.0, 0.0, 1.0]))
    settle(made)
    place = made.bench.to_widget(placed.placement.apply(np.array([[40.0, 30.0, 6.0]]))[0]).toPoint()
    made.model.put_flag(placed.id, walls(made).places[0][1])
    QTest.mouseMove(made.bench, place)
    settle(made)
    under = made.bench.evidence.shown.ball
    assert under is not None and under.words.startswith("≥"), "6 mm thick: only a lower bound was asked for"


def test_findings_of_all_checks_are_one_list_worst_first(window: Any) -> None:
    made = window(str(FILES / "sensor_shroud.3mf"), str(FILES / "hinge_pawl.stl"))
    made.settings.set("view.glide", 0)
    settle(made)
    listed = made.findings.all
    assert {one.row.id for one in listed} >= {"walls", "overhangs", "clearances"}
    assert [one.finding.past for one in listed] == sorted((one.finding.past for one in listed), reverse=True)
    press(made, Qt.Key.Key_N)
    assert made.findings.flagged == 0 and made.findings_list.count.text().startswith("1 of")
    press(made, Qt.Key.Key_N)
    assert made.findings.flagged == 1
    QTest.keyClick(made.bench, Qt.Key.Key_N, Qt.KeyboardModifier.ShiftModifier)
    settle(made)
    assert made.findings.flagged == 0
    third = made.findings_list.findChild(QPushButton, "listed_3")
    assert third is not None
    third.click()
    settle(made)
    one = made.findings.all[2]
    assert made.findings.flagged == 2 and made.model.shown.measure == one.row.id
    assert one.finding.remedy


def test_the_flagged_finding_is_in_the_list_however_many_kinds_stand_before_it(
    window: Any, tmp_path: Path, unwalled: None
) -> None:
    starts = np.cumsum([0.0, *(6 + 0.1 + 0.005 * n for n in range(22))])
    leaves = [zoo.mesh_of(zoo.block((start, 0, 0), (start + 6, 6, 3))) for start in starts.tolist()]
    path = tmp_path / "leaves.3mf"
    write_3mf(zoo.part(leaves[0], "leaf", *leaves[1:]), path)
    made = window(str(path))
    settle(made)
    press(made, Qt.Key.Key_K, Qt.Key.Key_C)
    count = len(made.findings.all)
    assert count >= 22
    QTest.keyClick(made.bench, Qt.Key.Key_N, Qt.KeyboardModifier.ShiftModifier)
    settle(made)
    assert made.findings.flagged == count - 1
    line = made.findings_list.findChild(QPushButton, f"listed_{count}")
    assert line is not None and line.isChecked()
    said = [label.text() for label in made.findings_list.findChildren(QLabel) if label.isVisible()]
    assert any("worse kinds before" in words for words in said), "and it is told what is left out"


def test_a_finding_is_accepted_with_a_note_and_kept_in_the_job(plate: Any) -> None:
    made = plate
    press(made, Qt.Key.Key_K, Qt.Key.Key_Y)
    assert "step to one first" in made.notifications.sentences[-1]
    press(made, Qt.Key.Key_K, Qt.Key.Key_W)
    press(made, Qt.Key.Key_N)
    press(made, Qt.Key.Key_K, Qt.Key.Key_Y)
    note = made.findings_list.note
    assert note.isVisible() and QApplication.focusWidget() is note
    QTest.keyClick(note, Qt.Key.Key_Return)
    assert made.model.job.accepted == () and "note that says why" in made.notifications.sentences[-1]
    QTest.keyClicks(note, "breaks away after printing")
    QTest.keyClick(note, Qt.Key.Key_Return)
    settle(made)
    assert made.findings.all[-1].acceptance is not None and "1 accepted" in made.findings_list.count.text()
    assert walls(made).verdict == "fail", "what was measured stays what it is"
    assert "breaks away" in made.model.job.notes[-1]
    made.bench.setFocus()
    press(made, Qt.Key.Key_K, Qt.Key.Key_U)
    assert made.model.job.accepted == ()
    made.do("job.undo")
    settle(made)
    assert len(made.model.job.accepted) == 1


def test_pairs_are_judged_by_what_is_wanted_of_each(window: Any, tmp_path: Path, unwalled: None) -> None:
    solids = zoo.block((0, 0, 0), (40, 30, 6)) + Manifold.cylinder(12, 4, 4, 64).translate((20, 15, 6.1))
    path = tmp_path / "pairs.stl"
    write_stl(zoo.part(zoo.mesh_of(solids), "pairs"), path)
    made = window(str(path))
    settle(made)
    press(made, Qt.Key.Key_K, Qt.Key.Key_G)
    panel = made.matrix_panel
    assert panel.isVisible() and panel.table.rowCount() == 2 and panel.table.item(0, 1).text() == "0.100"
    assert made.traveller.rows["clearances"].view.verdict == "fail"
    panel.table.setCurrentCell(0, 1)
    settle(made)
    assert panel.kind.isVisible() and "0.100 mm" in panel.words.text() and made.bench.evidence.shown.lines is not None
    panel.kind.setCurrentIndex(panel.kind.findData("moving"))
    panel.kind.activated.emit(panel.kind.currentIndex())
    settle(made)
    panel.gap.setValue(0.05)
    settle(made)
    (wish,) = made.model.job.limits.pair_gaps
    assert (wish.kind, wish.gap) == ("moving", 0.05)
    assert made.traveller.rows["clearances"].view.verdict == "pass"
    panel.kind.setCurrentIndex(panel.kind.findData("as all"))
    panel.kind.activated.emit(panel.kind.currentIndex())
    settle(made)
    assert made.model.job.limits.pair_gaps is None and made.traveller.rows["clearances"].view.verdict == "fail"
    panel.findChild(QPushButton, "matrix_close").click()
    assert panel.isHidden()


def test_several_parts_stand_in_one_matrix_and_the_gap_is_told_while_one_is_dragged(
    window: Any, tmp_path: Path, unwalled: None
) -> None:
    paths = []
    for number in range(2):
        paths.append(str(tmp_path / f"cube{number}.stl"))
        write_stl(zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (12, 12, 12))), f"cube{number}"), Path(paths[-1]))
    made = window(*paths)
    settle(made)
    first, second = made.model.job.parts
    press(made, Qt.Key.Key_K, Qt.Key.Key_G)
    gap = second.ground.low[0] - first.ground.high[0]
    assert float(made.matrix_panel.table.item(0, 1).text()) == pytest.approx(gap, abs=1e-3)
    made.matrix_panel.hide()
    move = Transform.moved(np.array([2.0 - gap, 0.0, 0.0]))
    made.model.carried.carry({second.id: second.placement.then(move)}, move)
    end = time.monotonic() + 60
    while made.bench.evidence.shown.gap is None and time.monotonic() < end:
        QTest.qWait(20)
    assert made.bench.evidence.shown.gap is not None and made.bench.evidence.shown.gap.words == "2.00 mm"
    made.model.carried.carry({})
    QTest.qWait(50)
    assert made.bench.evidence.shown.gap is None


def test_the_matrix_follows_what_is_resized_and_moved_and_measures_nothing_twice(
    window: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    two = zoo.block((0, 0, 0), (10, 10, 10)) + zoo.block((12, 0, 0), (22, 10, 10))
    for name, solid in (("pair", two), ("cube", zoo.block((0, 0, 0), (12, 12, 12)))):
        write_stl(zoo.part(zoo.mesh_of(solid), name), tmp_path / f"{name}.stl")
    made = window(str(tmp_path / "pair.stl"), str(tmp_path / "cube.stl"))
    settle(made)
    asked: list[int] = []
    aside = made.model.aside

    def counted(work: Any, done: Any) -> Any:
        asked.append(len(getattr(work, "asked", ())))
        return aside(work, done)

    monkeypatch.setattr(made.model, "aside", counted)
    press(made, Qt.Key.Key_K, Qt.Key.Key_G)
    settle(made)

    def told() -> dict[tuple[str, str], float]:
        table = made.matrix_panel.table
        names = [table.horizontalHeaderItem(at).text() for at in range(table.columnCount())]
        return {(names[a], names[b]): float(table.item(a, b).text()) for a in range(len(names)) for b in range(a)}

    def really() -> dict[tuple[str, str], float]:
        pair, cube = made.model.job.parts
        (_, _, mesh), stands = pair.part.copies()[0], pair.placement.apply(pair.part.copies()[0][2].vertices)
        left = mesh.vertices[:, 0] < 11
        boxes = [(f"{pair.name} #1", Box.of(stands[left])), (f"{pair.name} #2", Box.of(stands[~left])), (cube.name, cube.ground)]
        return {(b, a): round(float(one.gap_to(other)), 3) for at, (a, one) in enumerate(boxes) for b, other in boxes[at + 1 :]}

    assert told() == really() and asked == [3]
    made.model.document.edit("Move", lambda job: job.moved([job.parts[1].id], Transform.moved(np.array([3.0, 7.0, 0.0]))))
    settle(made)
    assert told() == really() and asked == [3, 1], "only what lies between the two is another"
    made.model.document.edit("Move", lambda job: job.moved([job.parts[0].id], Transform.moved(np.array([-1.0, 0.0, 0.0]))))
    settle(made)
    assert told() == really() and asked == [3, 1, 1]
    assert sum(asked) <= 8
    made.model.selection.select({made.model.job.parts[1].id})
    made.placement.stretch(np.full(3, 0.5))
    settle(made)
    made.model.selection.select(set())
    settle(made)
    assert told() == really(), "a part of another size is another part"
    made.do("job.undo")
    settle(made)
    assert told() == really()
    made.model.selection.select({made.model.job.parts[1].id})
    made.placement.copy(1)
    settle(made)
    made.model.selection.select(set())
    settle(made)
    assert {name for pair in told() for name in pair} == {"pair #1", "pair #2", "cube", "cube · 2"}, (
        "a copy has one name everywhere"
    )
    assert {one.name for one in made.bench.scene.items} == {one.name for one in made.model.job.parts}


def test_what_two_bodies_share_stands_on_the_bench(window: Any, tmp_path: Path, unwalled: None) -> None:
    a, b = zoo.mesh_of(zoo.block((0, 0, 0), (20, 20, 10))), zoo.mesh_of(zoo.block((5, 5, 8), (9, 9, 30)))
    path = tmp_path / "shared.3mf"
    write_3mf(zoo.part(a, "base", b), path)
    made = window(str(path))
    settle(made)
    press(made, Qt.Key.Key_K, Qt.Key.Key_C)
    press(made, Qt.Key.Key_N)
    shared = made.bench.scene.items[-1]
    assert shared.mesh.signed_volume == pytest.approx(32) and len(made.bench.scene.items) == 3
    assert all(item.opacity < 0.5 for item in made.bench.scene.items[:2]) and shared.opacity == 1
    press(made, Qt.Key.Key_K, Qt.Key.Key_N)
    assert len(made.bench.scene.items) == 2


def test_a_flag_goes_with_what_it_was_of(window: Any, tmp_path: Path, unwalled: None) -> None:
    made = cubes(window, tmp_path)

    def shift(by: float) -> None:
        second = made.model.job.parts[1]
        made.model.document.edit("Move", lambda job: job.moved([second.id], Transform.moved(np.array([by, 0.0, 0.0]))))

    first, second = made.model.job.parts
    shift(first.ground.low[0] + 17.0 - second.ground.low[0])
    settle(made)
    press(made, Qt.Key.Key_K, Qt.Key.Key_C)
    press(made, Qt.Key.Key_N)

    def shared() -> list[float]:
        return [one.mesh.signed_volume for one in made.bench.scene.items if one.key[0] == SHARED]

    assert shared() == [pytest.approx(3 * 20 * 20)] and made.model.flag.held is not None
    shift(0.25)
    made.scene.bring_in_step()
    assert shared() == [], "where the two stood before, nothing is shared any more"
    settle(made)
    assert shared() == [pytest.approx(2.75 * 20 * 20)], "measured anew it is the same finding"
    shift(40.0)
    settle(made)
    assert shared() == [] and made.model.flag.held is None and made.bench.evidence.shown.lines is None
    assert all(one.opacity == 1 for one in made.bench.scene.items)


def test_setups_are_found_typed_and_taken_from_a_face(window: Any, tmp_path: Path, unwalled: None) -> None:
    block = zoo.block((0, 0, 0), (40, 30, 30)) - Manifold.cylinder(10, 6, 6, 64).translate((20, 15, 22))
    block -= Manifold.cylinder(10, 6, 6, 64).rotate((0, 90, 0)).translate((32, 15, 15))
    path = tmp_path / "milled.stl"
    write_stl(zoo.part(zoo.mesh_of(block), "milled"), path)
    made = window(str(path), "--machine", "alder-mill")
    settle(made)
    press(made, Qt.Key.Key_K, Qt.Key.Key_T)
    row = made.traveller.rows["access"]
    assert row.view.verdict == "fail" and "set-up from +x" in row.view.findings[0][1].remedy
    press(made, Qt.Key.Key_K, Qt.Key.Key_S)
    assert set(made.model.job.limits.setups) >= {"+z", "+x"} and row.view.verdict == "pass"
    field = row.options.words["setups"]
    field.selectAll()
    QTest.keyClicks(field, "+z 0,0,0")
    QTest.keyClick(field, Qt.Key.Key_Return)
    settle(made)
    assert "not a set-up direction" in made.notifications.sentences[-1]
    field.selectAll()
    QTest.keyClicks(field, "+z")
    QTest.keyClick(field, Qt.Key.Key_Return)
    settle(made)
    assert made.model.job.limits.setups == ("+z",) and row.view.verdict == "fail"
    made.bench.setFocus()
    for answer, taken in ((1, {"+z"}), (0, {"+z", "+x"})):
        press(made, Qt.Key.Key_K, Qt.Key.Key_S)
        assert made.model.job.limits.setups == ("+z",), "what was given is not replaced unasked"
        assert "mm²" not in made.notifications.sentences[-1] and "given +z" in made.notifications.sentences[-1]
        QTest.mouseClick(made.findChild(QPushButton, f"notice_answer_{answer}"), Qt.MouseButton.LeftButton)
        settle(made)
        assert set(made.model.job.limits.setups) == taken


def test_a_check_whose_worker_is_killed_says_why_and_can_be_run_again(plate: Any) -> None:
    made = plate
    made.model.document.set_limit("max_wall", 3.0)
    end = time.monotonic() + 60
    while time.monotonic() < end:
        QApplication.processEvents()
        if made.tasks.under_way and any(task.begun for task in made.tasks.under_way):
            for pid in _workers():
                os.kill(pid, signal.SIGKILL)
            break
        time.sleep(0.002)
    settle(made)
    view = walls(made)
    assert view.verdict == "not-run" and view.failed and "signal 9" in view.whys[0][2]
    made.traveller.show_check("walls")
    settle(made)
    again = made.traveller.rows["walls"].findChild(QPushButton, "again_walls")
    assert again is not None
    again.click()
    settle(made)
    assert walls(made).verdict == "fail" and not walls(made).failed


def _children(parent: int) -> list[int]:
    out = []
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            try:
                if int((entry / "stat").read_text().rsplit(")", 1)[1].split()[1]) == parent:
                    out.append(int(entry.name))
            except (OSError, IndexError, ValueError):
                continue
    return out


def _workers() -> list[int]:
    """Processes that the fork server of this test started and that are at work."""
    return [pid for server in _children(os.getpid()) for pid in _children(server)]


def test_what_is_turned_in_the_hand_is_coloured_by_how_it_hangs(plate: Any) -> None:
    made = plate
    press(made, Qt.Key.Key_K, Qt.Key.Key_O)
    (placed,) = made.model.job.parts
    middle = placed.ground.middle
    turn = Transform.moved(-middle).then(Transform.turned(np.array([0.0, 1.0, 0.0]), 180.0)).then(Transform.moved(middle))
    made.bench.moves.look_straight(middle, np.array([0.0, 0.0, -1.0]))
    settle(made)
    place = made.bench.to_widget(middle + [0, 0, -3]) + QPointF(0, 40)
    made.model.carried.carry({placed.id: placed.placement.then(turn)}, turn)
    end = time.monotonic() + 30
    seen = None
    while time.monotonic() < end:
        QTest.qWait(50)
        seen = made.bench.grab().toImage().pixelColor(place.toPoint())
        # Its upper side lies below now and hangs over: rust, where the foot was pale before.
        if seen.red() > seen.green() + 40 and seen.red() > seen.blue() + 40:
            break
    assert seen is not None and seen.red() > seen.green() + 40, seen.name()
    made.model.carried.carry({})
    settle(made)


# --- clearances between files -------------------------------------------------------------------------------------------


def cubes(window: Any, folder: Path, count: int = 2) -> Any:
    for number in range(count):
        write_stl(
            zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (20, 20, 20))), f"cube {number + 1}"), folder / f"cube {number + 1}.stl"
        )
    made = window(*(str(folder / f"cube {number + 1}.stl") for number in range(count)))
    settle(made)
    return made


def clearances(made: Any) -> Any:
    settle(made)
    return made.traveller.rows["clearances"]


def put(made: Any, x: float) -> None:
    """The second cube's left side x mm right of the first one's right side."""
    first, second = made.model.job.parts[:2]
    made.model.selection.select({second.id})
    by = np.array([first.ground.high[0] + x - second.ground.low[0], first.ground.low[1] - second.ground.low[1], 0.0])
    made.placement.move("Push", lambda _: Transform.moved(by))
    made.model.selection.select(set())


def test_nothing_to_compare_is_no_pass(window: Any, tmp_path: Path, unwalled: None) -> None:
    made = cubes(window, tmp_path, 1)
    row = clearances(made)
    assert row.view.verdict == "not-run" and row.state.text() == "nothing to compare" and row.view.whys[0][1] == "not-run"
    assert made.model.results.verdict_of(made.model.job.parts[0])[0] == "pass", "it holds nothing up"


@pytest.mark.parametrize(
    ("apart", "verdict", "said"),
    [
        (5.0, "pass", "stands more than 0.3 mm apart"), (0.35, "pass", ""), (0.1, "fail", "0.100 mm apart"),
        (-0.338, "fail", "run into each other"),
    ],
)  # fmt: skip
def test_row_matrix_flags_and_fit_tell_one_truth_of_two_files(
    window: Any, tmp_path: Path, unwalled: None, apart: float, verdict: str, said: str
) -> None:
    made = cubes(window, tmp_path)
    put(made, apart)
    row = clearances(made)
    assert row.view.verdict == verdict and any(said in why for _, _, why in row.view.whys), row.view.whys
    made.model.shown.show_measure("clearances")
    press(made, Qt.Key.Key_K, Qt.Key.Key_G)
    settle(made)
    text = made.matrix_panel.table.item(0, 1).text()
    assert text == ("into 0.338" if apart < 0 else number_words.number(apart))
    if verdict == "fail":
        made.scene.bring_in_step()
        (flag,) = made.bench.evidence.shown.flags
        (placed, finding) = row.view.findings[0]
        where = placed.placement.apply(np.array(finding.at)[None])[0]
        assert abs(where[0] - (made.model.job.parts[0].ground.high[0] + apart / 2)) < abs(apart) + 0.01
        assert flag.place[0] == pytest.approx(where[0])
        made.findings.step(1)
        assert made.model.is_flagged(placed, finding)
    for placed in made.model.job.parts:
        (fit,) = made.model.results.outcomes_of(placed, "fit")
        assert bool(fit.measured["collisions"]) == (apart < 0)
        assert made.model.results.verdict_of(placed)[0] == ("fail" if verdict == "fail" else "pass"), "of either part"
    made.model.selection.select({made.model.job.parts[1].id})
    assert clearances(made).view.verdict == verdict, "and of either that is chosen"


def test_a_limit_of_gaps_is_asked_between_files_too_and_what_is_cancelled_runs_again(
    window: Any, tmp_path: Path, unwalled: None
) -> None:
    made = cubes(window, tmp_path, 3)
    put(made, 2.0)
    assert clearances(made).view.verdict == "pass"
    made.model.document.set_limit("min_gap", 3.0)
    assert clearances(made).view.verdict == "fail"
    made.do("job.undo")
    assert clearances(made).view.verdict == "pass"
    put(made, 0.05)
    made.do("work.cancel")
    assert clearances(made).view.verdict in ("not-run", "fail")
    made.do("check.again")
    assert clearances(made).view.verdict == "fail"


def test_the_stamp_of_the_machine_is_that_of_all_parts(window: Any, tmp_path: Path, unwalled: None) -> None:
    made = cubes(window, tmp_path)
    made.model.selection.select({made.model.job.parts[1].id})
    made.placement.move("Push", lambda _: Transform.moved(np.array([0.0, 600.0, 0.0])))
    made.model.selection.select({made.model.job.parts[0].id})
    settle(made)
    assert made.traveller.rows["fit"].view.verdict == "pass" and made.plate.stamp.verdict == "fail"


# --- worst first --------------------------------------------------------------------------------------------------------


def test_what_runs_into_something_comes_first_and_copies_are_one_line(window: Any, tmp_path: Path, unwalled: None) -> None:
    shelf = zoo.block((0, 0, 0), (10, 30, 40)) + zoo.block((0, 0, 30), (45, 30, 40))
    small = zoo.block((0, 0, 0), (10, 12, 40)) + zoo.block((0, 0, 30), (35, 12, 40))
    for name, solid in (("shelf", shelf), ("small", small), ("a", zoo.block((0, 0, 0), (20, 20, 20)))):
        write_stl(zoo.part(zoo.mesh_of(solid), name), tmp_path / f"{name}.stl")
    write_stl(zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (20, 20, 20))), "b"), tmp_path / "b.stl")
    made = window(*(str(tmp_path / f"{name}.stl") for name in ("small", "shelf", "a", "b")))
    first, second = (next(one for one in made.model.job.parts if one.part.name == name) for name in ("a", "b"))
    made.model.selection.select({second.id})
    by = first.ground.middle - second.ground.middle + [17.0, 0, 0]
    made.placement.move("Push", lambda _: Transform.moved(by))
    made.model.selection.select({next(one.id for one in made.model.job.parts if one.part.name == "shelf")})
    made.placement.copy(3)
    made.model.selection.select(set())
    settle(made)
    listed = made.findings.all
    collisions = [one.finding.collides for one in listed]
    assert collisions == sorted(collisions, reverse=True) and any(collisions), "runs into each other before all else"
    hanging = [one for one in listed if one.row.id == "overhangs"]
    assert [one.finding.area for one in hanging] == sorted((one.finding.area for one in hanging), reverse=True)
    assert hanging[0].placed.part.name == "shelf" and len(hanging[0].copies) == 3 and len(hanging) == 2
    made.traveller.show_check("overhangs")
    settle(made)
    lines = [one.text() for one in made.findings_list.findChildren(QPushButton) if one.isVisible() and "alike" in one.text()]
    assert len(lines) == 1 and "4 alike" in lines[0]
    made.scene.bring_in_step()
    assert sorted(flag.number for flag in made.bench.evidence.shown.flags) == [1, 1, 1, 1, 2], (
        "every copy wears the number of its line"
    )
    made.findings.step(1)
    assert made.findings.flagged is not None


def test_what_facets_hide_is_asked_between_files_too(window: Any, tmp_path: Path, unwalled: None) -> None:
    bar = Manifold.cylinder(40, 40, 40, 24).rotate((0, 0, 7.5))
    for name in ("left", "right"):
        write_stl(zoo.part(zoo.mesh_of(bar), name), tmp_path / f"{name}.stl")
    made = window(str(tmp_path / "left.stl"), str(tmp_path / "right.stl"))
    put(made, 0.4)
    # Flats 0.4 mm apart, where 0.3 is wanted: the round bars that they stand for run into each other.
    row = clearances(made)
    assert row.view.verdict in ("review", "fail"), row.view.whys
