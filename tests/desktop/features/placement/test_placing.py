"""Placing with real events: the tray, the slip, what is laid on what; all of it undone and redone."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import strokes
import trimesh
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from waiting import until

import zoo
from conftest import as_opened
from gullyrise.core.errors import MeasureError
from gullyrise.core.geometry import Box, Transform
from gullyrise.core.job.form import as_bytes, form_of
from gullyrise.core.picking.feature import Feature
from gullyrise.core.placing.fixture_shapes import FixtureShape
from gullyrise.core.placing.gizmo import GRIPS, Hold, amount_from
from gullyrise.core.reading import read
from gullyrise.core.writing import write
from gullyrise.desktop.preferences.rows import BY_ID

pytestmark = pytest.mark.usefixtures("unwalled")

BLOCK, BAR = (40.0, 30.0, 20.0), (300.0, 8.0, 8.0)


def block_file(path: Path, sides: tuple[float, float, float]) -> str:
    write(zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), sides)), path.stem), path)
    return str(path)


@pytest.fixture(scope="module")
def opened(long_lived: Any, tmp_path_factory: pytest.TempPathFactory) -> Any:
    folder = tmp_path_factory.mktemp("parts")
    return long_lived(block_file(folder / "block.stl", BLOCK), block_file(folder / "slab.stl", (50, 50, 6)))


@pytest.fixture
def made(opened: Any) -> Any:
    """The block chosen, with the tray under it; every edit of the test is undone afterwards."""
    as_opened(opened)
    opened.settings.reset("Placing")
    depth = opened.model.document.history.can_undo
    first = as_bytes(form_of(opened.model.job))
    opened.panels.show_slot("placing")
    choose(opened, "block")
    yield opened
    opened.bench.drop_tool()
    last = as_bytes(form_of(opened.model.job))
    steps = opened.model.document.history.can_undo - depth
    for _ in range(steps):
        opened.do("job.undo")
    assert as_bytes(form_of(opened.model.job)) == first, "undone byte for byte"
    for _ in range(steps):
        opened.do("job.redo")
    assert as_bytes(form_of(opened.model.job)) == last, "redone byte for byte"
    for _ in range(steps):
        opened.do("job.undo")
    opened.panels.reset()


def part(window: Any, name: str = "block") -> Any:
    return next(one for one in window.model.job.parts if one.part.name == name)


def choose(window: Any, *names: str) -> None:
    window.model.selection.select({part(window, name).id for name in names})
    window.scene.bring_in_step()
    window.placement.settle()


def grip(window: Any, name: str) -> QPointF:
    place = next(place for one, place in window.gizmo.seen().places() if one == name)
    return window.bench.to_widget(place)


def moved(before: Any, after: Any) -> np.ndarray:
    return np.asarray(after.ground.middle - before.ground.middle)


# --- the tray ----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", list(GRIPS))
@pytest.mark.parametrize("view", ["view.isometric", "view.top", "view.projection"])
def test_every_grip_does_what_it_says_and_nothing_else(made: Any, name: str, view: str) -> None:
    made.do(view)
    made.scene.bring_in_step()
    before, camera = part(made), made.bench.camera
    # The peg that turns stands at the front left: across its arm is another way than along it.
    strokes.drag(made.bench, {"left"}, grip(made, name), QPointF(24, 18 if name == "spin" else -18))
    after = part(made)
    way = moved(before, after)
    turn = after.placement.matrix[:3, :3] @ np.linalg.inv(before.placement.matrix[:3, :3])
    if name == "lift" and view == "view.top":
        assert 1 < way[2] < 10, "seen from its end, the way up is the pointer's way up"
    if GRIPS[name][1] == "mm":  # type: ignore[index]
        assert turn == pytest.approx(np.eye(3)) and np.linalg.norm(way) > 0.5
        free = {"carry": (0, 1), "x": (0,), "y": (1,), "lift": (2,)}[name]
        assert all(abs(way[axis]) < 1e-9 for axis in range(3) if axis not in free)
        assert way == pytest.approx(np.round(way, 1), abs=1e-6), "to a tenth of a millimetre"
    else:
        axis = np.eye(3)[{"spin": 2, "tilt-x": 0, "tilt-y": 1}[name]]
        assert turn @ axis == pytest.approx(axis) and not np.allclose(turn, np.eye(3))
        degrees = np.degrees(np.arccos((np.trace(turn) - 1) / 2))
        assert degrees == pytest.approx(round(degrees), abs=1e-6)
    assert made.bench.camera is camera, "the view stays"
    assert made.model.document.history.undo_name.endswith("block")


def test_what_is_carried_stays_under_the_pointer(made: Any) -> None:
    before = part(made)
    corner = before.ground.high * [1, 1, 1]
    start = made.bench.to_widget(corner)
    strokes.drag(made.bench, {"left"}, start + QPointF(-3, 6), QPointF(60, -10))
    way = moved(before, part(made))
    assert way[2] == 0 and np.hypot(*way[:2]) > 5
    landed = made.bench.to_widget(corner + way)
    assert (landed - start).x() == pytest.approx(60, abs=3) and (landed - start).y() == pytest.approx(-10, abs=3)


def test_while_something_is_carried_the_picture_follows_and_the_job_does_not(made: Any) -> None:
    before = made.model.job
    ground = part(made).ground
    at = grip(made, "x")
    strokes.hold(made.bench, "left", at, QPointF(40, 10))
    assert made.model.job is before and made.model.carried.placements
    carry = made.bench.scene.carry
    assert carry is not None and carry.owners == {part(made).id} and abs(carry.move[0, 3]) > 1
    assert made.placement_panel.fields["place_at"][0].text() == f"{ground.middle[0] + carry.move[0, 3]:g}"
    (item,) = (item for item in made.bench.scene.items if item.selected)
    assert made.bench.scene.matrix_of(item)[:3, 3] == pytest.approx(item.matrix[:3, 3] + carry.move[:3, 3])
    QTest.keyClick(made.bench, Qt.Key.Key_Escape)
    assert made.model.job is before and not made.model.carried.placements
    strokes.let_go(made.bench, "left", at + QPointF(40, 10))
    assert made.model.job is before, "Escape puts it back"


@pytest.mark.parametrize(("keys", "step"), [((), 0.1), (("ctrl",), 0.01), (("alt",), 2.5)])
def test_fine_and_snapped_moves(made: Any, keys: tuple[str, ...], step: float) -> None:
    made.settings.set("place.step", 2.5)
    before = part(made)
    strokes.drag(made.bench, {"left"}, grip(made, "x"), QPointF(31, 9), late=keys)
    way = float(moved(before, part(made))[0])
    assert way != 0 and way / step == pytest.approx(round(way / step), abs=1e-6)
    if keys == ("ctrl",):
        strokes.drag(made.bench, {"left"}, grip(made, "x"), QPointF(31, 9))
        usual = float(moved(before, part(made))[0]) - way
        assert abs(way) == pytest.approx(abs(usual) / 10, rel=0.2)


def test_a_snapped_turn_and_a_carry_along_one_axis(made: Any) -> None:
    made.settings.set("place.turn_step", 30)
    before = part(made)
    strokes.drag(made.bench, {"left"}, grip(made, "spin"), QPointF(60, 40), late=("alt",))
    turn = part(made).placement.matrix[:3, :3] @ before.placement.matrix[:3, :3].T
    degrees = float(np.degrees(np.arctan2(turn[1, 0], turn[0, 0])))
    assert degrees % 30 == pytest.approx(0, abs=1e-6) or degrees % 30 == pytest.approx(30, abs=1e-6)
    before = part(made)
    strokes.drag(made.bench, {"left"}, grip(made, "carry"), QPointF(50, 4), late=("shift",))
    way = moved(before, part(made))
    assert np.count_nonzero(np.abs(way) > 1e-9) == 1


def test_what_is_dragged_above_the_horizon_stays_before_the_eye(made: Any) -> None:
    bench = made.bench
    before = part(made)
    bench.moves.glide_to(replace(bench.camera.looking(0.0, 6.0), parallel=False))
    made.wait_until_idle(30)
    for name in ("carry", "y"):
        strokes.drag(bench, {"left"}, grip(made, name), QPointF(0, -0.9 * grip(made, name).y()))
        assert moved(before, part(made))[1] >= 0, name
        made.do("job.undo")
    # The eye above the slab, looking out over one corner of the tray, which is turned round to behind the eye.
    choose(made, "slab")
    before = part(made, "slab")
    corner = made.gizmo.seen().places()[2][1]
    out = (corner - before.ground.middle)[:2] / np.linalg.norm((corner - before.ground.middle)[:2])
    wide = replace(bench.camera.looking(float(np.degrees(np.arctan2(-out[0], out[1]))), 35.0), field=90.0, span=60.0)
    bench.moves.glide_to(replace(wide, target=before.ground.middle + np.array([*(out * 20), 0.0])))
    made.wait_until_idle(30)
    start, to = grip_near(made, corner), bench.to_widget(before.ground.middle - np.array([*out, 0.0]))
    strokes.drag(bench, {"left"}, start, to - start)
    assert np.isnan(bench.to_widget(2 * before.ground.middle - corner).x()), "or the test is none"
    assert made.gizmo.field.isVisible() and bench.rect().contains(made.gizmo.field.geometry())
    made.gizmo.close_field()


def grip_near(window: Any, place: np.ndarray) -> QPointF:
    return window.bench.to_widget(
        min((one for _, one in window.gizmo.seen().places()), key=lambda one: np.linalg.norm(one - place))
    )


def test_a_number_typed_at_the_grip(made: Any) -> None:
    before = part(made)
    strokes.click(made.bench, grip(made, "lift"))
    assert made.gizmo.field.isVisible() and made.model.job.parts and part(made) is before
    QTest.keyClick(made.bench, Qt.Key.Key_1)
    assert made.gizmo.field.hasFocus() and made.gizmo.field.text() == "1"
    QTest.keyClicks(made.gizmo.field, "2.5")
    QTest.keyClick(made.gizmo.field, Qt.Key.Key_Return)
    assert moved(before, part(made)) == pytest.approx([0, 0, 12.5]) and not made.gizmo.field.isVisible()
    # After a drag the number stands there and is replaced, not added to; one step undoes it.
    before, depth = part(made), made.model.document.history.can_undo
    strokes.drag(made.bench, {"left"}, grip(made, "x"), QPointF(30, 8))
    QTest.keyClicks(made.bench, "7")
    QTest.keyClick(made.gizmo.field, Qt.Key.Key_Return)
    assert moved(before, part(made)) == pytest.approx([7, 0, 0]) and made.model.document.history.can_undo == depth + 1
    # What was undone meanwhile is not undone once more by a number that comes late.
    first = part(made)
    strokes.drag(made.bench, {"left"}, grip(made, "x"), QPointF(30, 8))
    made.do("job.undo")
    made.gizmo.field.setText("2")
    made.gizmo.field.setFocus()
    QTest.keyClick(made.gizmo.field, Qt.Key.Key_Return)
    assert moved(first, part(made)) == pytest.approx([2, 0, 0])
    made.do("job.undo")
    strokes.click(made.bench, grip(made, "carry"))
    QTest.keyClicks(made.bench, "-4")
    made.gizmo.field.setText("-4 9")
    QTest.keyClick(made.gizmo.field, Qt.Key.Key_Return)
    assert moved(before, part(made)) == pytest.approx([3, 9, 0])
    strokes.click(made.bench, grip(made, "spin"))
    made.gizmo.field.setText("far")
    QTest.keyClick(made.gizmo.field, Qt.Key.Key_Return)
    assert "is no number" in made.notifications.sentences[-1]


def test_what_is_taken_at_the_height_of_the_eye_does_not_jump() -> None:
    held = Hold("carry", Box(np.zeros(3), np.full(3, 20.0)), np.array([100.0, 100.0, 10.0]))

    eye = np.array([100.0, -100.0, 14.0])

    def to(down: float) -> np.ndarray:
        ray = np.array([0.0, 1.0, -down])
        return held.drag(eye, ray / np.linalg.norm(ray), (0.0, 0.0), frozenset(), 1, 1)

    assert [np.abs(to(down)).max() for down in (0.0, 0.02)] == [0, 0]


@pytest.mark.parametrize("words", ["", "a", "1 2 3", "nan", "1e9"])
def test_amounts_that_are_none_get_a_sentence(words: str) -> None:
    with pytest.raises(MeasureError, match=r"[Tt]ype|number"):
        amount_from("lift", words)


def test_the_pen_carries_by_its_tip_and_navigation_stays_what_it_is(made: Any) -> None:
    made.settings.set("pointer.scheme", "pen")
    before, camera = part(made), made.bench.camera
    strokes.drag(made.bench, {"left"}, grip(made, "carry"), QPointF(30, 10), pen=True)
    assert np.hypot(*moved(before, part(made))[:2]) > 1 and made.bench.camera is camera
    strokes.drag(made.bench, {"left"}, made.bench.to_widget(part(made).ground.middle), QPointF(30, 10), pen=True)
    assert made.bench.camera is not camera, "beside a grip the tip turns the view"
    made.settings.set("pointer.scheme", "left-turns")
    before, camera = part(made), made.bench.camera
    strokes.drag(made.bench, {"left"}, made.bench.to_widget(before.ground.middle), QPointF(30, 10))
    assert part(made) is before and made.bench.camera is not camera, "a left drag that turns turns over a part too"


def test_a_click_on_the_chosen_thing_still_picks(made: Any) -> None:
    before = part(made)
    made.do("bodies.pick-faces")
    strokes.click(made.bench, made.bench.to_widget(before.ground.high - [10, 10, 0]))
    assert part(made) is before and len(made.model.selection.features) == 1


def test_several_move_as_one_and_keep_their_distance(made: Any) -> None:
    choose(made, "block", "slab")
    before = part(made), part(made, "slab")
    strokes.drag(made.bench, {"left"}, grip(made, "spin"), QPointF(40, 25))
    strokes.drag(made.bench, {"left"}, grip(made, "carry"), QPointF(-20, 15))
    after = part(made), part(made, "slab")
    inner = [np.linalg.inv(a.placement.matrix) @ b.placement.matrix for a, b in (before, after)]
    assert inner[0] == pytest.approx(inner[1], abs=1e-9) and not np.allclose(
        before[0].placement.matrix, after[0].placement.matrix
    )


def test_slack_lines_end_at_the_margins_and_say_what_is_left(made: Any) -> None:
    ground, lines = part(made).ground, made.gizmo.slacks
    assert len(lines) == 5
    left, right, front, back, top = [mm for _, _, mm in lines]
    assert left == pytest.approx(ground.low[0] - 4) and right == pytest.approx(216 - ground.high[0])
    assert front == pytest.approx(ground.low[1] - 4) and back == pytest.approx(216 - ground.high[1]) and top == pytest.approx(228)
    made.machines.use_machine("dipper-260")
    (far, end, slack), _ = made.gizmo.slacks
    assert np.hypot(*end[:2]) == pytest.approx(125) and slack == pytest.approx(125 - np.hypot(*far[:2]))


# --- keys and the slip -------------------------------------------------------------------------------------------------


def press(window: Any, *keys: Qt.Key) -> None:
    window.bench.setFocus()
    for key in keys:
        QTest.keyClick(window.bench, key)


def test_the_keys_of_placing(made: Any) -> None:
    press(made, Qt.Key.Key_P, Qt.Key.Key_PageUp)
    press(made, Qt.Key.Key_P, Qt.Key.Key_PageUp)
    press(made, Qt.Key.Key_P, Qt.Key.Key_Right)
    assert part(made).ground.low[2] == pytest.approx(2) and made.model.document.history.undo_name.startswith("Nudge along X")
    made.do("job.undo")
    made.do("job.undo")
    assert part(made).ground.low[2] == pytest.approx(0), "nudges in a row are undone together"
    press(made, Qt.Key.Key_P, Qt.Key.Key_X)
    assert part(made).ground.size == pytest.approx([40, 20, 30])
    assert part(made).ground.low[2] == pytest.approx(0, abs=1e-9), "what stood on the bed stands on it"
    made.placement.move("Sink", lambda _: Transform.moved(np.array([0, 0, -5.0])))
    press(made, Qt.Key.Key_P, Qt.Key.Key_D)
    assert part(made).ground.low[2] == pytest.approx(0, abs=1e-9)
    press(made, Qt.Key.Key_P, Qt.Key.Key_M)
    assert part(made).ground.middle[:2] == pytest.approx([110, 110])
    press(made, Qt.Key.Key_P, Qt.Key.Key_7)
    assert part(made).placement.mirrors
    press(made, Qt.Key.Key_P, Qt.Key.Key_R)
    assert not part(made).placement.mirrors and part(made).ground.size == pytest.approx(BLOCK)


def type_in(field: Any, words: str) -> None:
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, words)
    QTest.keyClick(field, Qt.Key.Key_Return)


def test_numbers_typed_on_the_slip(made: Any) -> None:
    slip = made.placement_panel
    for axis, words in enumerate(("71.5", "60", "3")):
        type_in(slip.fields["place_at"][axis], words)
    ground = part(made).ground
    assert [*ground.middle[:2], ground.low[2]] == pytest.approx([71.5, 60, 3])
    type_in(slip.fields["place_turn"][2], "30")
    turn = part(made).placement.matrix[:3, :3]
    assert np.degrees(np.arctan2(turn[1, 0], turn[0, 0])) == pytest.approx(30) and slip.fields["place_turn"][2].text() == "0"
    type_in(slip.fields["place_turn"][2], "-30")
    type_in(slip.fields["place_at"][0], "far")
    assert "is no number" in slip.fields["place_at"][0].accessibleDescription(), "told where it stands"
    assert part(made).ground.middle[0] == pytest.approx(71.5)


def test_sizes_typed_in_mm_and_percent_change_the_part_itself(made: Any) -> None:
    slip, before = made.placement_panel, part(made)
    type_in(slip.fields["place_size"][0], "80")
    until(lambda: part(made).digest != before.digest)
    assert part(made).ground.size == pytest.approx([80, 60, 40]) and part(made).figures["volume"] == pytest.approx(8 * 24000)
    assert part(made).ground.middle[:2] == pytest.approx(before.ground.middle[:2]) and part(made).ground.low[2] == pytest.approx(
        0
    )
    before = part(made)
    slip.together.setChecked(False)
    slip.unit.setCurrentText("%")
    type_in(slip.fields["place_size"][2], "50")
    until(lambda: part(made).digest != before.digest)
    assert part(made).ground.size == pytest.approx([80, 60, 20]) and len(part(made).steps) == 2
    slip.together.setChecked(True)
    slip.unit.setCurrentText("mm")
    type_in(slip.fields["place_size"][0], "-3")
    assert "more than nothing" in made.notifications.sentences[-1]


def test_lay_on_the_face_under_the_pointer(made: Any) -> None:
    made.do("view.front")
    made.scene.bring_in_step()
    ground = part(made).ground
    strokes.hover(made.bench, made.bench.to_widget(np.array([ground.middle[0], ground.low[1], ground.middle[2]])))
    press(made, Qt.Key.Key_P, Qt.Key.Key_F)
    assert part(made).ground.size == pytest.approx([40, 20, 30]) and part(made).ground.low[2] == pytest.approx(0, abs=1e-9)
    strokes.hover(made.bench, QPointF(5, made.bench.height() - 60))
    press(made, Qt.Key.Key_P, Qt.Key.Key_F)
    assert "no face under the pointer" in made.notifications.sentences[-1]


def face_of(window: Any, name: str, normal: tuple[float, float, float]) -> Feature:
    placed = part(window, name)
    (ready,) = window.model.ready.of(placed)
    mesh = placed.part.bodies[0].mesh.placed(placed.placement)
    triangle = int(np.argmax(mesh.normals() @ normal))
    return Feature("face", (placed.id, 0), int(ready.anatomy.face_of[triangle]))


def test_faces_are_laid_against_each_other_by_keys(made: Any) -> None:
    first, second = face_of(made, "block", (0, 0, -1)), face_of(made, "slab", (0, 0, 1))
    made.model.selection.select_bodies({first.key, second.key}, (first, second))
    press(made, Qt.Key.Key_P, Qt.Key.Key_L)
    assert part(made).ground.low[2] == pytest.approx(6)
    made.model.selection.select_bodies({first.key}, (first,))
    press(made, Qt.Key.Key_P, Qt.Key.Key_L)
    assert "two flat faces of different parts" in made.notifications.sentences[-1]


def test_what_is_in_the_hand_wears_no_verdict_of_where_it_stood(made: Any) -> None:
    made.model.run_again()
    made.placement.show_handles(True)
    made.do("view.top")
    assert made.wait_until_idle(60)
    row = made.traveller.rows["fit"]
    assert not row.view.stale
    at = grip(made, "carry")
    strokes.hold(made.bench, "left", at, QPointF(40, 12))
    made.scene.bring_in_step()
    assert made.model.carried.placements and row.view.stale and "out of date" in row.state.text()
    assert made.plate.stamp.stale and made.plate.words.text() == "Fit: pass, out of date"
    strokes.let_go(made.bench, "left", at + QPointF(40, 12))
    assert made.wait_until_idle(60) and not made.model.carried.placements
    assert not row.view.stale and "out of date" not in row.state.text() and not made.plate.stamp.stale


def test_what_comes_while_copies_are_made_has_a_number_of_its_own(made: Any, tmp_path: Path) -> None:
    trimesh.creation.box((9, 9, 9)).export(tmp_path / "late.stl")
    made.model.selection.select({made.model.job.parts[0].id})
    made.placement.add_fixture(FixtureShape(shape="block", size=(30.0, 20.0, 10.0)))
    made.model.open_files([str(tmp_path / "late.stl")])
    made.placement.copy(3)
    made.do("job.undo")
    made.placement.copy(2)
    assert made.wait_until_idle(60)
    ids = [one.id for one in made.model.job.parts]
    assert len(set(ids)) == len(ids) and {"late", "block 30 × 20 × 10"} <= {one.name for one in made.model.job.parts}


def test_stand_ins_are_added_aligned_and_not_judged(made: Any) -> None:
    slip = made.placement_panel
    for shape, sizes in (("cylinder", ("10", "40")), ("cone", ("20", "8", "15"))):
        slip.shape.setCurrentIndex(slip.shape.findData(shape))
        for field, words in zip(slip.sizes, sizes, strict=False):
            field.setText(words)
        count = len(made.model.job.parts)
        QTest.mouseClick(slip.findChild(object, "stand_in_add"), Qt.MouseButton.LeftButton)
        until(lambda count=count: len(made.model.job.parts) == count + 1)
    shaft = part(made, "cylinder 10 × 40")
    assert (
        shaft.is_fixture
        and made.model.results.outcomes_of(shaft, "walls") == ()
        and "not judged" in made.placement_panel.why.text()
    )
    until(lambda: made.model.ready.of(shaft) is not None and made.model.ready.of(part(made, "cone 20 × 8 × 15")) is not None)
    sides = [face_of(made, name, (1, 0, 0)) for name in ("cylinder 10 × 40", "cone 20 × 8 × 15")]
    made.placement.turn(0, 25)
    choose(made, "cone 20 × 8 × 15")
    made.placement.turn(1, 35)
    made.model.selection.select_bodies({one.key for one in sides}, tuple(sides))
    press(made, Qt.Key.Key_P, Qt.Key.Key_O)
    shaft, cone = part(made, "cylinder 10 × 40"), part(made, "cone 20 × 8 × 15")
    way = shaft.placement.matrix[:3, 2]
    assert abs(way @ cone.placement.matrix[:3, 2]) == pytest.approx(1)
    away = shaft.placement.matrix[:3, 3] - cone.placement.matrix[:3, 3]
    assert np.linalg.norm(np.cross(away, way)) == pytest.approx(0, abs=1e-9)
    slip.sizes[0].setText("0")
    QTest.mouseClick(slip.findChild(object, "stand_in_add"), Qt.MouseButton.LeftButton)
    assert "0.001" in made.notifications.sentences[-1]


def test_a_part_is_judged_against_a_fixture_that_was_added_by_hand(made: Any) -> None:
    made.placement.add_fixture(FixtureShape(shape="block", size=(30.0, 20.0, 10.0)))
    until(lambda: len(made.model.job.parts) == 3)
    fixture, block = made.model.job.parts[-1], part(made)
    made.model.run_again()
    assert made.wait_until_idle(60)
    choose(made, "block")
    row = made.traveller.rows["clearances"]
    for into, verdict in ((3.0, "fail"), (-0.1, "fail"), (-9.0, "pass")):
        ground, middle = part(made).ground, made.model.job.part(fixture.id).ground.middle
        made.placement.put_at(middle[0] + 15 + ground.size[0] / 2 - into, middle[1], 0)
        assert made.wait_until_idle(240)
        made.scene.bring_in_step()
        fit = made.model.results.outcomes_of(part(made), "fit")[0]
        assert fit.measured["collisions"] == ([fixture.name] if into > 0 else [])
        assert row.view.verdict == verdict and part(made).id == block.id
        told = [finding for one, finding in row.view.findings if one.id == block.id]
        assert bool(told) == (verdict == "fail") and all(finding.collides == (into > 0) for finding in told)
    made.model.selection.select({fixture.id})
    assert made.model.results.outcomes_of(made.model.job.part(fixture.id), "fit") == ()


# --- copies, beds, suggestions -----------------------------------------------------------------------------------------


def test_copies_are_named_numbered_and_arranged_on_two_beds(made: Any, tmp_path: Path) -> None:
    made.placement_panel.count.setValue(49)
    type_in(made.placement_panel.gap, "2")
    QTest.mouseClick(made.placement_panel.findChild(object, "copy_make"), Qt.MouseButton.LeftButton)
    assert len(made.model.job.parts) == 51 and part(made).part is made.model.job.parts[-1].part
    assert made.model.job.parts[-1].name == "block · 50" and len({one.name for one in made.model.job.parts}) == 51
    made.do("place.arrange")
    until(lambda: made.model.job.beds == 2)
    job = made.model.job
    assert "2 beds" in made.notifications.sentences[-1]
    on = [job.bed_of(one) for one in job.parts]
    assert set(on) == {0, 1} and made.collisions.pairs == []
    made.opening.write_beds(str(tmp_path / "bed.3mf"))
    until(lambda: (tmp_path / "bed-2.3mf").exists() and not made.tasks.busy)
    back = [read(tmp_path / f"bed-{number}.3mf") for number in (1, 2)]
    assert sum(body.count for one in back for body in one.bodies) == 51
    assert {body.name for one in back for body in one.bodies} == {"block", "slab"}
    for number, one in enumerate(back):
        wanted = np.array([placed.ground.low for placed in job.parts if job.bed_of(placed) == number]).min(axis=0)
        assert one.box.low == pytest.approx(wanted - [number * 280, 0, 0], abs=1e-4)


def test_a_copy_pushed_into_another_is_told_at_once(made: Any) -> None:
    made.placement.copy(1)
    until(lambda: not made.collisions.busy)
    assert made.collisions.pairs == []
    at = grip(made, "x")
    strokes.hold(
        made.bench,
        "left",
        at,
        made.bench.to_widget(part(made).ground.middle + [30, 0, 0]) - made.bench.to_widget(part(made).ground.middle),
    )
    until(lambda: len(made.collisions.pairs) == 1)
    assert len(made.bench.evidence.shown.collisions) == 2
    QTest.keyClick(made.bench, Qt.Key.Key_Escape)
    until(lambda: made.collisions.pairs == [])


def test_suggestions_are_ranked_shown_applied_compared_and_undone(made: Any) -> None:
    before = part(made)
    made.placement.turn(0, 40)
    turned = part(made)
    press(made, Qt.Key.Key_P, Qt.Key.Key_G)
    table = made.suggestions.table
    until(lambda: table.rowCount() > 3)
    ways = made.suggestions.ways
    assert ways[0].support == pytest.approx(0, abs=1e-6) and ways[0].fits and ways[0].stands and ways[0].base > 500
    assert table.item(0, 3).text() == f"{ways[0].height:.1f}" and not table.item(0, 0).icon().isNull()
    made.suggestions.table.selectRow(1)
    QTest.mouseClick(made.suggestions.findChild(object, "suggestion_apply"), Qt.MouseButton.LeftButton)
    applied = part(made)
    assert applied.ground.size[2] == pytest.approx(ways[1].height) and applied.ground.low[2] == pytest.approx(0, abs=1e-6)
    made.suggestions.compared.emit(True)
    assert made.model.carried.placement_of(part(made)) is turned.placement
    made.suggestions.compared.emit(False)
    assert made.model.carried.placement_of(part(made)) is applied.placement
    press(made, Qt.Key.Key_P, Qt.Key.Key_B)
    until(lambda: (made.model.document.history.undo_name or "").startswith("Stand on the best face"))
    assert sorted(part(made).ground.size) == pytest.approx(sorted(before.ground.size), abs=1e-6)


def test_a_bar_is_turned_to_where_it_fits_by_a_click(made: Any, tmp_path: Path) -> None:
    made.model.open_files([block_file(tmp_path / "bar.stl", (270, 8, 8))])
    until(lambda: any(one.part.name == "bar" for one in made.model.job.parts))
    choose(made, "bar")
    until(lambda: made.placement_panel.about_z.isVisible(), 60)
    QTest.mouseClick(made.placement_panel.about_z, Qt.MouseButton.LeftButton)
    until(lambda: "to spare" in made.placement_panel.why.text() or "meets" in made.placement_panel.why.text(), 60)
    assert not made.placement_panel.about_z.isVisible()


def test_what_stands_in_front_of_fit_is_what_it_failed_for(made: Any) -> None:
    row = made.traveller.rows["fit"]
    slab = part(made, "slab").ground.middle
    for ask, words in (
        (lambda: made.placement.put_at(None, None, 0.5), "0.500 mm above the bed"),
        (lambda: made.placement.put_at(None, None, -0.25), "0.250 mm into the bed"),
        (lambda: made.placement.put_at(slab[0], slab[1], 0), "meets 1 other"),
    ):  # fmt: skip
        ask()
        assert made.wait_until_idle(120)
        made.scene.bring_in_step()
        assert words in row.worst.text()
        assert row.view.verdict != "fail" or "to spare" not in row.worst.text()


def test_the_settings_of_placing_hold(made: Any) -> None:
    assert {id for id, row in BY_ID.items() if row.page == "Placing"} == {
        "place.step", "place.turn_step", "place.gap", "place.outline", "place.turning",
    }  # fmt: skip
    made.settings.set("place.step", 4)
    press(made, Qt.Key.Key_P, Qt.Key.Key_PageUp)
    assert part(made).ground.low[2] == pytest.approx(4)
    made.settings.set("place.gap", 11)
    made.settings.set("place.turning", False)
    made.settings.set("place.outline", "rectangle")
    made.placement.copy(1)
    low, high = sorted((one.ground for one in made.model.job.parts if one.part.name == "block"), key=lambda box: box.low[0])
    assert high.low[0] - low.high[0] == pytest.approx(11)
    depth = made.model.document.history.can_undo
    made.do("place.arrange")
    until(lambda: made.model.document.history.can_undo > depth)
    assert all(np.allclose(one.placement.matrix[:3, :3], np.eye(3)) for one in made.model.job.parts)


def test_a_part_turned_out_of_its_machine_is_placed_on_another_and_keeps_its_place(made: Any) -> None:
    made.placement.move("Push", lambda _: Transform.moved(np.array([13.0, -7, 0])))
    before = part(made).ground.middle - [110, 110, 0]
    made.machines.use_machine("dipper-260")
    assert part(made).ground.middle == pytest.approx(before), "as far from the middle of the round bed"
    until(lambda: made.placement_panel.stamp.toolTip() == "Pass", 60)


# --- steps ---------------------------------------------------------------------------------------------------------------


def test_one_command_on_several_parts_is_one_step_and_what_changes_nothing_is_none(made: Any) -> None:
    made.do("bodies.select-all")
    before, steps = made.model.job, made.model.document.history.can_undo
    made.placement.stretch(np.array([2.0, 2.0, 2.0]))
    until(lambda: all(one.digest != old.digest for one, old in zip(made.model.job.parts, before.parts, strict=True)))
    assert made.model.document.history.can_undo == steps + 1 and len(made.model.job.parts) > 1
    made.do("job.undo")
    assert made.model.job is before
    made.do("place.drop")
    made.do("place.drop")
    depth = made.model.document.history.can_undo
    job = made.model.job
    made.model.document.set_limit("min_wall", job.limits.min_wall)
    given = made.model.document.history.can_undo
    made.model.document.set_limit("min_wall", job.limits.min_wall)
    made.placement.put_at(*(None,) * 3)
    made.placement.move("Push", lambda _: Transform.identity())
    made.placement.to_middle()
    made.placement.to_middle()
    assert given <= depth + 1 and made.model.document.history.can_undo <= given + 1, made.model.document.history.undo_name


def test_what_stood_on_the_bed_stands_on_it_after_a_typed_turn(made: Any) -> None:
    assert part(made).ground.low[2] == pytest.approx(0)
    for axis, degrees in ((0, "30"), (1, "45,5"), (0, "-12")):
        type_in(made.placement_panel.fields["place_turn"][axis], degrees)
        assert part(made).ground.low[2] == pytest.approx(0, abs=1e-6)
    made.placement.move("Lift", lambda _: Transform.moved(np.array([0, 0, 5.0])))
    middle = part(made).ground.middle
    type_in(made.placement_panel.fields["place_turn"][0], "90")
    assert part(made).ground.middle[2] == pytest.approx(middle[2], abs=1e-6), "what was lifted stays lifted"
