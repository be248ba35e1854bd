"""The real window, driven with real events, as sentences about the work."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QKeyEvent, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QInputDialog, QMenu, QPushButton
from waiting import until

from conftest import as_opened
from gullyrise.core.camera.camera import NAMED
from gullyrise.demo import FILES, demo_files
from gullyrise.desktop.app import all_actions
from gullyrise.drawing.palette import LIMESTONE, SLATE, Palette


def demo(*names: str) -> list[str]:
    return [str(FILES / name) for name in names]


@pytest.fixture(scope="module")
def opened(long_lived: Any) -> Any:
    return long_lived(*demo("gland_nut.stl"))


@pytest.fixture
def nut(opened: Any) -> Any:
    """A window with one small part that the tests which only look at it share."""
    as_opened(opened)
    opened.settings.set("view.glide", 200)
    return opened


def settle(window: Any, seconds: float = 240) -> None:
    assert window.wait_until_idle(seconds)


def press(window: Any, *keys: Qt.Key) -> None:
    for key in keys:
        QTest.keyClick(window.bench, key)
    settle(window)


def test_the_empty_window_says_what_to_do(window: Any) -> None:
    made = window()
    assert made.start_page.isVisible() and made.model.job.parts == ()
    assert {row.view.verdict for row in made.traveller.rows.values()} == {"not-run"}


def test_the_demo_job_is_judged_for_the_planted_reasons(window: Any) -> None:
    made = window("--demo")
    settle(made, 200)
    verdicts = {placed.part.name: made.model.results.verdict_of(placed) for placed in made.model.job.parts}
    assert len(verdicts) == len(demo_files()) and not any(stale for _, stale in verdicts.values())
    assert verdicts["float_well"][0] == "pass" and verdicts["gland_nut"][0] == "review"
    assert {verdicts[name][0] for name in ("sensor_shroud", "tipping_tray", "hinge_pawl", "clamp_saddle")} == {"fail"}
    assert "unit looks wrong" in " ".join(made.notifications.sentences)
    assert not made.start_page.isVisible()


def test_clicking_a_row_colours_the_part_and_a_finding_is_flown_to_and_flagged(window: Any) -> None:
    made = window(*demo("sensor_shroud.3mf"))
    settle(made)
    row = made.traveller.rows["walls"]
    assert made.bench.scene.items[0].values is None
    QTest.mouseClick(row.title, Qt.MouseButton.LeftButton)
    settle(made)
    (item,) = made.bench.scene.items
    assert item.scale is not None and item.scale.limit == 0.8 and np.nanmin(item.values) == pytest.approx(0.5, abs=1e-3)
    before = made.bench.camera
    button = made.findings_list.findChild(QPushButton, "listed_1")
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    settle(made)
    flag = next(flag for flag in made.bench.evidence.shown.flags if flag.chosen)
    assert flag.words == "0.500 mm" and made.bench.camera.span < before.span
    until(lambda: made.navigation.evidence.view is not None and made.bench.moves.at_rest)
    settle(made)
    place = made.bench.to_widget(np.array(flag.place))
    assert 0.2 < place.x() / made.bench.width() < 0.8 and 0.2 < place.y() / made.bench.height() < 0.8, (
        "in the middle of the picture"
    )
    assert made.bench.aim.seen_at(place) == pytest.approx(np.array(flag.place), abs=0.1), "nothing hides it"


def test_each_overhang_can_be_seen_where_it_is_flown_to(window: Any, unwalled: None) -> None:
    made = window(*demo("clamp_saddle.step", "hinge_pawl.stl"))
    settle(made)
    made.do("check.overhangs")
    settle(made)
    open_to_sight = [pair for pair in made.traveller.rows["overhangs"].view.findings if pair[1].seen_from is not None]
    assert len(open_to_sight) >= 3
    for placed, finding in open_to_sight:
        made.navigation.fly_to(placed, finding)
        settle(made)
        (flag,) = [flag for flag in made.bench.evidence.shown.flags if flag.chosen]
        seen = made.bench.aim.seen_at(made.bench.to_widget(np.array(flag.place)))
        assert seen == pytest.approx(np.array(flag.place), abs=0.2), "neither the bed nor the part itself stands before it"


def test_parts_that_are_alike_have_one_line_and_a_flag_each(window: Any) -> None:
    made = window(*demo("sensor_shroud.3mf"), *demo("sensor_shroud.3mf"))
    settle(made)
    made.do("check.walls")
    made.do("check.next-finding")
    settle(made)
    row = made.traveller.rows["walls"]
    assert len(row.view.findings) == 2
    line = made.findings_list.findChild(QPushButton, "listed_1")
    assert line.isChecked() and "2 alike" in line.text() and made.findings_list.findChild(QPushButton, "listed_2") is None
    flags = made.bench.evidence.shown.flags
    assert [flag.number for flag in flags] == [1, 1] and sum(flag.chosen for flag in flags) == 1


def test_editing_a_limit_reruns_only_what_it_affects_and_undo_finds_the_old_outcome(window: Any) -> None:
    made = window(*demo("sensor_shroud.3mf"))
    settle(made)
    (placed,) = made.model.job.parts
    before = {name: made.model.results.outcomes_of(placed, name) for name, _ in made.model.document.active_checks()}
    field = made.traveller.rows["walls"].limit
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "0.4")
    QTest.keyClick(field, Qt.Key.Key_Return)
    settle(made)
    assert made.model.job.limits.min_wall == 0.4
    after = {name: made.model.results.outcomes_of(placed, name) for name, _ in made.model.document.active_checks()}
    assert {name for name in after if after[name] is not before[name]} == {"walls"}
    assert before["walls"][0].verdict == "fail" and after["walls"][0].verdict == "pass"
    made.bench.setFocus()
    made.do("job.undo")
    assert made.model.results.outcomes_of(placed, "walls") is before["walls"], "undo needs no second measuring"
    made.do("job.redo")
    assert made.model.results.outcomes_of(placed, "walls") is after["walls"]


@pytest.mark.usefixtures("unwalled")
def test_cutting_by_key_type_and_drag(window: Any) -> None:
    made = window(*demo("float_well.stl"))
    settle(made)
    press(made, Qt.Key.Key_C, Qt.Key.Key_Z)
    strip = made.area_strip
    assert made.sections.cut.axis == 2 and made.sections.cut.position == pytest.approx(55)
    ring = 96 / 2 * np.sin(2 * np.pi / 96) * (26**2 - 23**2)
    assert made.sections.section.area == pytest.approx(ring, rel=1e-5)
    assert f"{ring:,.1f}"[:-1] in strip.figures.text()
    strip.position.setFocus()
    strip.position.selectAll()
    QTest.keyClicks(strip.position, "2.5")
    QTest.keyClick(strip.position, Qt.Key.Key_Return)
    settle(made)
    assert made.sections.cut.position == 2.5 and made.sections.section.area > ring
    ruler = strip.ruler
    QTest.mousePress(ruler, Qt.MouseButton.LeftButton, pos=QPoint(int(ruler.x_of(80.0)), 30))
    QTest.mouseRelease(ruler, Qt.MouseButton.LeftButton)
    settle(made)
    assert made.sections.cut.position == pytest.approx(80, abs=0.5)
    side = made.sections.cut.flipped
    made.bench.setFocus()
    press(made, Qt.Key.Key_C, Qt.Key.Key_F)
    assert made.sections.cut.flipped is not side and made.bench.scene.cuts == made.sections.cuts
    press(made, Qt.Key.Key_C, Qt.Key.Key_O)
    assert made.sections.cut is None and made.bench.scene.cuts == ()


@pytest.mark.usefixtures("unwalled")
def test_a_filled_cut_shows_the_material(window: Any) -> None:
    made = window(*demo("clamp_saddle.step"))
    settle(made)
    press(made, Qt.Key.Key_C, Qt.Key.Key_Y)
    press(made, Qt.Key.Key_V, Qt.Key.Key_F)
    (placed,) = made.model.job.parts
    inside = placed.placement.apply(np.array([[0.0, 0.0, 5.0]]))[0]
    colour = made.bench.grab().toImage().pixelColor(made.bench.to_widget(inside).toPoint())
    wanted = made.appearance.palette.colour("cut")
    assert max(abs(colour.red() - wanted.red()), abs(colour.blue() - wanted.blue())) < 30


@pytest.mark.parametrize("view", NAMED)
def test_named_views_by_two_strokes(nut: Any, view: str) -> None:
    made = nut
    family, _, second = made.runner.keymap.keys_of(f"view.{view}")[0].partition(" ")
    press(made, Qt.Key[f"Key_{family}"], Qt.Key[f"Key_{second}"])
    title, heading, elevation = NAMED[view]
    assert made.bench.camera.name() == title
    assert (made.bench.camera.heading, made.bench.camera.elevation) == pytest.approx((heading, elevation))


def test_the_key_card_comes_after_a_while_and_can_be_clicked(nut: Any) -> None:
    made = nut
    QTest.keyClick(made.bench, Qt.Key.Key_V)
    assert not made.key_card.isVisible()
    until(made.key_card.isVisible)
    assert ("F", made.runner.actions["view.front"]) in made.key_card.rows
    row = [entry.id for _, entry in made.key_card.rows].index("view.front")
    QTest.mouseClick(made.key_card.list.viewport(), Qt.MouseButton.LeftButton, pos=made.key_card.place_of(row))
    settle(made)
    assert made.bench.camera.name() == "Front" and not made.key_card.isVisible()


def test_keys_never_fire_while_a_text_field_has_the_focus(nut: Any) -> None:
    made = nut
    before = made.bench.camera
    made.parts_panel.filter.setFocus()
    QTest.keyClicks(made.parts_panel.filter, "vf")
    settle(made)
    assert made.parts_panel.filter.text() == "vf" and made.bench.camera is before
    assert made.parts_panel.tree.topLevelItem(0).isHidden()
    made.parts_panel.filter.clear()


@pytest.mark.parametrize("parallel", [False, True])
def test_the_wheel_zooms_at_the_pointer_and_home_brings_all_back(nut: Any, parallel: bool) -> None:
    made = nut
    settle(made)
    if made.bench.camera.parallel is not parallel:
        made.do("view.projection")
        settle(made)
    place = made.bench.to_widget(made.bench.scene.items[0].box.middle) + QPointF(0, 20)
    under, span = made.bench.under(place.x(), place.y()).point, made.bench.camera.span
    assert under is not None
    depth = made.bench.camera.to_picture(under[None], *made.bench.view_size())[0, 2]
    # The first three are plain, however quickly they come.
    for _ in range(3):
        event = QWheelEvent(
            place, made.bench.mapToGlobal(place), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(made.bench, event)
    settle(made)
    (after,) = made.bench.camera.to_picture(under[None], *made.bench.view_size())
    if parallel:
        assert made.bench.camera.span == pytest.approx(span / 1.18**3, rel=1e-6)
    else:
        assert after[2] == pytest.approx(depth / 1.18**3, rel=5e-3), "each step takes the same share of the way"
    assert (made.bench.to_widget(under) - place).manhattanLength() < 12
    press(made, Qt.Key.Key_Home)
    corners = made.bench.camera.to_picture(made.bench.scene.parts_box.corners(), made.bench.width(), made.bench.height())
    assert (corners[:, 0] > 0).all() and (corners[:, 0] < made.bench.width()).all()
    assert (corners[:, 1] > 0).all() and (corners[:, 1] < made.bench.height()).all()


@pytest.mark.usefixtures("unwalled")
def test_clicking_a_part_selects_it_in_the_tree_and_the_dial_swings(window: Any) -> None:
    made = window(*demo("float_well.stl", "mount_plate.step"))
    settle(made)
    place = made.bench.to_widget(made.bench.scene.items[0].box.middle).toPoint()
    QTest.mouseClick(made.bench, Qt.MouseButton.LeftButton, pos=place)
    settle(made)
    first = made.model.job.parts[0]
    assert made.model.selection.parts == {first.id}
    assert [row.text(0) for row in made.parts_panel.tree.selectedItems()] == ["float_well"]
    mark = made.bench.dial.marks()["Right"].toPoint()
    QTest.mouseClick(made.bench.dial, Qt.MouseButton.LeftButton, pos=mark)
    settle(made)
    assert made.bench.camera.heading == pytest.approx(90)


@pytest.mark.usefixtures("unwalled")
def test_parts_are_dropped_removed_and_brought_back(window: Any) -> None:
    made = window()
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(name) for name in demo("gland_nut.stl", "hinge_pawl.stl")])
    entry = QDragEnterEvent(
        QPoint(50, 50), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    QApplication.sendEvent(made.bench, entry)
    assert entry.isAccepted()
    event = QDropEvent(QPointF(50, 50), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(made.bench, event)
    settle(made)
    names = [placed.part.name for placed in made.model.job.parts]
    assert names == ["gland_nut", "hinge_pawl"]
    made.model.selection.select({made.model.job.parts[0].id})
    QTest.keyClick(made.bench, Qt.Key.Key_Delete)
    settle(made)
    assert [placed.part.name for placed in made.model.job.parts] == ["hinge_pawl"]
    QTest.keyClick(made.bench, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settle(made)
    assert len(made.model.job.parts) == 2


@pytest.mark.usefixtures("unwalled")
def test_bad_files_get_a_sentence_and_the_others_still_open(window: Any, tmp_path: Path) -> None:
    (tmp_path / "empty.stl").write_bytes(b"")
    (tmp_path / "cut.stl").write_bytes(b"\0" * 80 + b"\xff\xff\xff\xee" + b"\0" * 90)
    made = window(str(tmp_path / "empty.stl"), *demo("gland_nut.stl"), str(tmp_path / "cut.stl"), str(tmp_path / "none.stl"))
    settle(made)
    assert [placed.part.name for placed in made.model.job.parts] == ["gland_nut"]
    said = made.notifications.sentences
    assert len(said) == 3 and all(sentence.endswith(".") for sentence in said) and made.notifications.isVisible()


def test_another_machine_judges_anew(window: Any) -> None:
    made = window(*demo("mount_plate.step"))
    settle(made)
    assert "access" not in made.traveller.rows
    made.plate.machines.setCurrentIndex(made.plate.machines.findData("alder-mill"))
    made.plate.machines.activated.emit(made.plate.machines.currentIndex())
    settle(made)
    assert list(made.traveller.rows) == ["health", "fit", "walls", "clearances", "access"]
    assert made.traveller.rows["access"].view.verdict == "fail"


def test_panels_fold_and_come_back(nut: Any) -> None:
    made = nut
    assert not made.area_strip.isVisible() and made.area_strip.line.isVisible(), "with nothing cut there is a line, no panel"
    made.do("cut.z")
    for key, panels in ((Qt.Key.Key_F9, [made.parts_panel, made.traveller]), (Qt.Key.Key_F10, [made.area_strip])):
        press(made, key)
        assert not any(panel.isVisible() for panel in panels)
        press(made, key)
        assert all(panel.isVisible() for panel in panels)
    press(made, Qt.Key.Key_F11)
    assert not made.parts_panel.isVisible() and made.bench.isVisible()
    press(made, Qt.Key.Key_F11)
    assert made.parts_panel.isVisible() and made.area_strip.isVisible()
    made.do("cut.off")
    assert not made.area_strip.isVisible()


def test_both_themes_are_drawn(nut: Any) -> None:
    made = nut

    def share(palette: Palette) -> float:
        """How much of the window is in the theme's own colours."""
        settle(made)
        small = made.grab().toImage().scaled(320, 200)
        own = {palette.colour(use).name() for use in ("panel", "field", "ground", "ink", "quiet", "line", "accent")}
        colours = [small.pixelColor(x, y).name() for x in range(320) for y in range(200)]
        return sum(colour in own for colour in colours) / len(colours)

    settle(made)
    before = made.grab().toImage()
    assert share(LIMESTONE) > 0.45 and share(SLATE) < 0.01
    press(made, Qt.Key.Key_D, Qt.Key.Key_T)
    assert share(SLATE) > 0.45 and share(LIMESTONE) < 0.01, "no panel is left in the other theme"
    sheet = made.sheets.open_settings()
    assert sheet.grab().toImage().pixelColor(3, 3) == SLATE.colour("panel")
    press(made, Qt.Key.Key_D, Qt.Key.Key_T)
    assert sheet.grab().toImage().pixelColor(3, 3) == LIMESTONE.colour("panel")
    sheet.close()
    settle(made)
    assert made.grab().toImage() == before, "and back"


@pytest.mark.usefixtures("unwalled")
def test_every_action_can_be_run(window: Any) -> None:
    made = window(*demo("gland_nut.stl"))
    asked = []
    for id, entry in all_actions().items():
        assert entry.label
        if id == "measure.keep":
            # What is chosen is measured beside the window.
            settle(made)
        if id not in ("job.demo", "job.undo", "job.new", "bodies.remove"):
            made.do(id)
        for open_menu in made.findChildren(QMenu):
            open_menu.close()
        for dialog in [*made.findChildren(QFileDialog), *made.findChildren(QInputDialog)]:
            asked.append(dialog.windowTitle())
            dialog.close()
            dialog.deleteLater()
            QTest.qWait(1)
    settle(made)
    assert len(set(asked)) == 10, "each dialog is asked and lets the window go on"
    made.do("bodies.select-all")
    made.do("bodies.remove")
    made.do("job.undo")
    made.do("job.new")
    settle(made)


def test_controls_have_names(nut: Any) -> None:
    made = nut
    from PyQt6.QtWidgets import QAbstractSpinBox, QComboBox, QLineEdit

    for kind in (QComboBox, QAbstractSpinBox):
        for control in made.findChildren(kind):
            assert control.objectName(), control
            assert control.accessibleName(), control.objectName()
    assert all(edit.objectName() for edit in made.findChildren(QLineEdit))


def test_nothing_is_left_behind(window: Any) -> None:
    import multiprocessing

    made = window()
    made.opening.open_demo()
    made.wait_until_idle(0.5)
    made.model.cancel_all()
    assert made.wait_until_idle(240)
    made.close()
    time.sleep(0.2)
    assert multiprocessing.active_children() == []


def test_key_strokes_of_a_text_field_with_control_still_open_files() -> None:
    from PyQt6.QtCore import QObject

    from gullyrise.desktop.commands.keymap import KeyMap
    from gullyrise.desktop.commands.keys import KeyReader

    parent = QObject()
    reader = KeyReader(all_actions(), lambda: KeyMap(all_actions()), parent)
    chosen: list[str] = []
    reader.chosen.connect(chosen.append)
    plain = QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_N, Qt.KeyboardModifier.NoModifier, "n")
    assert reader.read(plain, typing=True) is False
    assert reader.read(plain, typing=False) is True and chosen == ["check.next-finding"]
